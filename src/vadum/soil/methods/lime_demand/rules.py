"""The rules that judge a lime demand."""

from collections.abc import Iterator
from itertools import pairwise

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, STANDARD, Judge, Rule, Seen, at_least, at_most, said, within
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.lime_demand.facts import Facts, One, in_order
from vadum.soil.methods.lime_demand.flow import sulphate_too_high
from vadum.soil.methods.lime_demand.reduce import rule_words
from vadum.soil.methods.lime_demand.school import LimeSchool

ANEW = "Set the meter anew with fresh buffers, take fresh lime, and repeat the lime-only bottle before any other."


def _sulphate(f: Facts, s: LimeSchool) -> Seen | None:
    value, reason = f.record.sulphate_mg_kg, f.record.sulphate_reason
    if not known(value):
        return None
    words = "{} of soluble sulphate" + (f"; goes on: {reason}" if reason and sulphate_too_high(f, s) else "")
    return at_most(
        value,
        s.most_sulphate_mg_kg,
        "mg/kg",
        words,
        at=("sulphate_mg_kg",),
        level="watch" if reason else "stop",
        do="Lime and sulphate swell: decide with the engineer before lime goes near this ground."
        if reason
        else "Stop and ask: say why the test goes on all the same.",
    )


def _only(f: Facts, s: LimeSchool) -> Seen | None:
    if f.only_ph is None or f.only is None:
        return None
    low, high = s.only_ph
    at = (f"bottles[{f.only.row}].read_ph",)
    if f.only_word == "redo":
        do = "Above a saturated solution: the meter is off. " + ANEW
        return at_most(f.only_ph, high, "", "lime-only bottle pH {}", at=at, digits=5, do=do, level="redo")
    stop = f.only_word == "stop"
    do = ANEW if stop else "Saturated lime reads low: suitable by this school, but soil may never reach the limit."
    limit = s.only_stop_ph if stop else low
    return at_least(
        f.only_ph, limit, "", "lime-only bottle pH {}", at=at, digits=5, do=do, level="stop" if stop else "watch"
    )


def _gate(f: Facts, s: LimeSchool) -> Iterator[Seen]:
    opens, closes = s.stands_min, s.stands_min + s.gate_min
    for one in f.bottles:
        if one.minutes is None or not one.counts:
            continue
        seen = within(
            one.minutes,
            (opens, closes),
            "min",
            f"the {one.words} bottle read at {{}} after the water",
            digits=3,
            at=(f"bottles[{one.row}].read_at",),
        )
        assert seen is not None
        yield seen


def _warm(f: Facts, s: LimeSchool) -> Iterator[Seen]:
    read = [(one.words, one.bottle.temperature_c, f"bottles[{one.row}].temperature_c") for one in f.bottles]
    for words, value, path in [("bath", f.record.bath_c, "bath_c"), *read]:
        if not known(value):
            continue
        off = abs(value - s.bath_c)
        far = off > s.bath_far_c + 1e-9
        limit = s.bath_far_c if far else s.bath_near_c
        do = (
            "Repeat with the bath at 25 °C: so far off no correction holds."
            if far
            else "Corrected by 0.03 a degree; bring the bath to 25 °C."
        )
        seen = at_most(
            off,
            limit,
            "°C",
            f"{words} {{}} off {plain(s.bath_c)} °C",
            at=(path,),
            do=do,
            level="redo" if far else "watch",
        )
        assert seen is not None
        yield seen


def _falls(f: Facts, s: LimeSchool) -> Iterator[Seen]:
    for low, high in pairwise(f.points):
        words = f"pH falls by {{}} from {plain(low.lime_percent)} to {plain(high.lime_percent)} %"
        fall = max(0.0, round(low.ph - high.ph, 9))
        seen = at_most(fall, s.most_fall_ph, "", words, digits=3, at=(f"bottles[{high.row}].read_ph",))
        assert seen is not None
        yield seen


def _decided(f: Facts, s: LimeSchool) -> Seen | None:
    if f.decision is None or not f.all_read:
        return None
    held = f.decision.lime_percent is not None
    more = ", ".join(plain(x) for x in s.more_limes_percent)
    return said(held, rule_words(f, s), "a lime that the rule gives", do=f"Bottles with {more} % as well, and repeat.")


def _flips(f: Facts, s: LimeSchool) -> Seen | None:
    if f.flip is None or f.decision is None or f.decision.lime_percent is None:
        return None
    change = round(abs(f.flip.change_ph), 9)
    held = change > s.meter_ph + 1e-9
    then = "none" if f.flip.lime_percent is None else f"{plain(f.flip.lime_percent)} %"
    return Seen(
        held,
        f"{change:.2f} pH from {then}",
        f"more than {plain(s.meter_ph)}: what the meter tells apart",
        do="Read that bottle again once it stands still for 30 s; name both limes in the report.",
    )


def _lime_mass(one: One, f: Facts, s: LimeSchool) -> str:
    """What a wrong mass does, in percent of lime."""
    if one.percent is None or not known(one.bottle.lime_percent):
        return ""
    return f", {plain(one.percent, 3)} % in it"


def _masses(f: Facts, s: LimeSchool) -> Iterator[Seen]:
    for one in f.bottles:
        if not one.counts:
            continue
        for told, value, name in (
            (one.told_lime_g, one.bottle.lime_g, "lime"),
            (one.told_soil_g, one.bottle.soil_g, "soil"),
        ):
            if told is None or not known(value) or (name == "soil" and _is_dry_mass(one, f, s)):
                continue
            off = round(abs(value - told), 9)
            words = f"{name} in the {one.words} bottle {{}} off what was told{_lime_mass(one, f, s)}"
            most = s.most_mass_g if name == "lime" else max(s.most_mass_g, 0.005 * told)
            seen = at_most(off, most, "g", words, at=(f"bottles[{one.row}].{name}_g",))
            assert seen is not None
            yield seen


def _is_dry_mass(one: One, f: Facts, s: LimeSchool) -> bool:
    """Whether the soil was weighed as if it were dry."""
    told, value = one.told_soil_g, one.bottle.soil_g
    if told is None or not known(value) or told - s.dry_g < 4 * s.most_mass_g:
        return False
    return abs(value - s.dry_g) < 0.5 * (told - s.dry_g)


def _with_water(f: Facts, s: LimeSchool) -> Seen | None:
    weighed = [b for b in f.bottles if b.counts and b.told_soil_g is not None and known(b.bottle.soil_g)]
    if not weighed:
        return None
    dry = [b for b in weighed if _is_dry_mass(b, f, s)]
    told = weighed[0].told_soil_g or 0.0
    found = (
        f"{plain(dry[0].bottle.soil_g or 0)} g of soil in the {dry[0].words} bottle"
        if dry
        else "weighed with its water"
    )
    at = (f"bottles[{dry[0].row}].soil_g",) if dry else ()
    return said(not dry, found, f"{told:.2f} g: the dry mass and its water", at)


def _purity(f: Facts, s: LimeSchool) -> Seen | None:
    has, label = f.record.available_cao_percent, f.record.label_cao_percent
    if not known(has) or not known(label) or label <= 0:
        return None
    words = f"available CaO {plain(has)} %, {{}} of its label"
    return at_least(100 * has / label, s.least_purity_percent, "%", words, at=("available_cao_percent",))


def _lime_date(f: Facts, s: LimeSchool) -> Seen | None:
    if f.record.lime_kind is None:
        return None
    lapsed = f.record.lime_in_date == "no"
    unknown = f.record.lime_opened_on is None
    found = "lime past its shelf life" if lapsed else "no date of opening" if unknown else "opened, in date"
    return said(not lapsed and not unknown, found, "opened within its shelf life", ("lime_opened_on",))


def _organic(f: Facts, s: LimeSchool) -> Seen | None:
    return at_most(f.record.organic_percent, s.most_organic_percent, "%", "{} organic", at=("organic_percent",))


def _plastic(f: Facts, s: LimeSchool) -> Seen | None:
    value = f.record.plasticity_index_percent
    return at_least(value, s.least_pi_percent, "%", "plasticity index {}", at=("plasticity_index_percent",))


def _untreated(f: Facts, s: LimeSchool) -> Seen | None:
    return within(f.record.untreated_ph, s.untreated_band_ph, "", "pH {} without lime", at=("untreated_ph",))


def _not_known(f: Facts, s: LimeSchool) -> Seen | None:
    if not f.points:
        return None
    lacks = [
        words
        for words, there in (
            ("soluble sulphate", known(f.record.sulphate_mg_kg)),
            ("share below 0.425 mm", known(f.record.finer_0425_percent)),
        )
        if not there
    ]
    return said(not lacks, f"{' and '.join(lacks)} not known" if lacks else "both known", "sulphate and share known")


def _buffers(f: Facts, s: LimeSchool) -> Iterator[Seen]:
    if not f.points and f.only_ph is None:
        return
    set_to = [b for b in f.record.buffers if b.part == "set to it"]
    enough = len(set_to) >= len(s.buffers_ph)
    named = ", ".join(f"{b:.2f}" for b in s.buffers_ph)
    yield Seen(enough, f"set to {len(set_to)} of {len(s.buffers_ph)} buffers", f"set to {named}", ("buffers",))
    for i, b in enumerate(f.record.buffers):
        at = (f"buffers[{i}].buffer_opened_on",)
        words = f"buffer {plain(b.buffer_ph)}" if known(b.buffer_ph) else f"buffer {i + 1}"
        lapsed = b.buffer_in_date == "no"
        found = "past its date" if lapsed else "without a date of opening" if b.buffer_opened_on is None else "in date"
        yield Seen(found == "in date", f"{words} {found}", "opened within its shelf life", at)


def _check(f: Facts, s: LimeSchool) -> Iterator[Seen]:
    for i, b in enumerate(f.record.buffers):
        if b.part == "check" and known(b.buffer_ph) and known(b.buffer_read_ph):
            off = round(abs(b.buffer_read_ph - b.buffer_ph), 9)
            words = f"check buffer {plain(b.buffer_ph)} read {{}} off"
            seen = at_most(off, s.most_check_ph, "", words, digits=3, at=(f"buffers[{i}].buffer_read_ph",))
            assert seen is not None
            yield seen


def _slope(f: Facts, s: LimeSchool) -> Seen | None:
    return within(
        f.record.ph_slope_percent, s.slope_band_percent, "%", "slope of the meter {}", at=("ph_slope_percent",)
    )


def _meter_date(f: Facts, s: LimeSchool) -> Seen | None:
    state = f.record.ph_meter_in_date
    return said(None if state is None else state == "yes", f"pH meter in date: {state}", "in date", ("ph_meter",))


def _shaken(f: Facts, s: LimeSchool) -> Seen | None:
    if f.record.water_in_at is None or not any(b.ph25 is not None for b in f.bottles):
        return None
    its = f.shaking
    window = s.shake_window_s / 60
    on_time = sum(any(t.at is not None and abs(t.at - at) <= window + 1e-9 for t in its.taken) for at in its.at)
    return said(
        on_time == len(its.at), f"{on_time} of {len(its.at)} rounds of shaking in time", "each of them", ("shakes",)
    )


def _order(f: Facts, s: LimeSchool) -> Seen | None:
    read = [b for b in in_order(f.bottles) if b.bottle.read_at is not None]
    if len(read) < 2:
        return None
    late = [
        (a, b)
        for a, b in pairwise(read)
        if a.bottle.read_at and b.bottle.read_at and minutes_between(a.bottle.read_at, b.bottle.read_at) < 0
    ]
    found = f"{late[0][1].words} read before {late[0][0].words}" if late else "lime-only first, then the lowest lime"
    at = (f"bottles[{late[0][1].row}].read_at",) if late else ()
    return said(not late, found, "lime-only, then rising lime", at)


def _prepared(f: Facts, s: LimeSchool) -> Seen | None:
    return at_least(f.record.prepared_g, s.least_prepared_g, "g", "{} of soil made ready", at=("prepared_g",))


RULES: tuple[Judge, ...] = (
    Rule("soluble sulphate", _sulphate, source=LABORATORY, level="stop", do="Stop and ask.", at_once=True),
    Rule("lime-only bottle", _only, source=STANDARD, level="stop", do=ANEW, at_once=True),
    Rule(
        "read within a quarter of an hour",
        _gate,
        do="Repeat: the bottles go on reacting, and take up air, behind the hour.",
    ),
    Rule("temperature", _warm, source=LABORATORY, level="watch", do="Bring the bath to 25 °C."),
    Rule(
        "pH rises with lime",
        _falls,
        source=LABORATORY,
        do="Two bottles changed places, or the probe was not still: read both again.",
    ),
    Rule("a lime is found", _decided, do="More lime, and repeat."),
    Rule("far from another decision", _flips, source=LABORATORY, level="watch", do="Read that bottle again."),
    Rule("masses as told", _masses, level="watch", do="Weigh it anew, or report the lime that is truly in it."),
    Rule(
        "soil with its water",
        _with_water,
        source=LABORATORY,
        level="redo",
        do="Weigh the bottles anew: the dry mass was weighed of moist soil, which is too little soil.",
    ),
    Rule(
        "purity of the lime",
        _purity,
        source=LABORATORY,
        level="watch",
        do="Take a fresh bag; lime that has taken up air asks for more of itself.",
    ),
    Rule(
        "lime in date", _lime_date, source=LABORATORY, level="watch", do="Say when the bag was opened; fresh is best."
    ),
    Rule(
        "little organic matter",
        _organic,
        source=LABORATORY,
        level="watch",
        do="Organic matter eats lime: a strength design on this soil before anything is promised.",
    ),
    Rule(
        "plastic enough for lime",
        _plastic,
        source=LABORATORY,
        level="watch",
        do="Lime is rarely the right agent for so little clay: ask for cement or a blend.",
    ),
    Rule("pH without lime", _untreated, source=LABORATORY, level="watch", do="Look what else is in this soil."),
    Rule(
        "sulphate and share known",
        _not_known,
        source=LABORATORY,
        level="watch",
        do="Ask for both: one decides whether lime may be used, the other how much of it the whole soil needs.",
    ),
    Rule("meter set to its buffers", _buffers, level="watch", do="Fresh buffers: they take up carbon dioxide."),
    Rule("check buffer comes back", _check, source=LABORATORY, do="Set the meter anew, and read the bottles again."),
    Rule("slope of the meter", _slope, source=LABORATORY, level="watch", do="Clean the probe, or take a new one."),
    Rule("meter in date", _meter_date, source=LABORATORY, level="watch", do="Have it checked; say so on the report."),
    Rule("shaken in time", _shaken, level="watch", do="Said on the report; shake every ten minutes next time."),
    Rule(
        "lowest lime first",
        _order,
        source=LABORATORY,
        level="watch",
        do="Rinse the probe when it goes down in lime; read upwards next time.",
    ),
    Rule("soil enough", _prepared, level="watch", do="Prepare more next time: a small part is not the whole."),
)
