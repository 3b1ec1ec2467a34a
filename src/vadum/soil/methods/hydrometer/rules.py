"""The rules that judge a hydrometer analysis."""

import itertools
from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_least, at_most, said, within
from vadum.soil.contract.times import span
from vadum.soil.contract.timetable import minutes_words
from vadum.soil.methods.hydrometer.facts import Facts
from vadum.soil.methods.hydrometer.school import HydrometerSchool
from vadum.soil.methods.hydrometer.suspension import Settled, elapsed_min, meniscus, of_specimen, stem_field
from vadum.soil.shared.water_by_tin import balance_in_date

# Slack for the stem's division, of about half a point each; laboratory settings.
MOST_FINER_PERCENT, MOST_RISE_POINTS = 100.5, 0.75
SLACK_S = 0.5  # a reading is noted to the second
LEFT_IN_SLACK_MIN = 0.05
BEYOND_C = 0.05  # a thermometer reads to a tenth


def _temperatures(f: Facts) -> list[float]:
    return [r.temperature_c for r in f.record.readings if known(r.temperature_c)]


def _counting(f: Facts) -> list[Settled]:
    return [s for s in f.settled if s.counts]


def _after_zero(f: Facts, s: HydrometerSchool) -> Iterator[Seen]:
    for i, row in enumerate(f.record.readings):
        minutes = elapsed_min(f.record, row)
        if minutes is not None and (not known(minutes) or minutes <= 0):
            at = (f"readings[{i}].{stem_field(f.record)}",)
            yield Seen(False, f"reading {i + 1}: {plain(minutes)} min", "more than 0 min", at)


def _all_in_suspension(f: Facts, s: HydrometerSchool) -> Seen | None:
    rows = _counting(f)
    if not rows:
        return None
    top = max(rows, key=lambda r: r.finer_percent)
    held = compare.at_most(top.finer_percent, MOST_FINER_PERCENT)
    found = f"{plain(top.finer_percent, 4)} % at {minutes_words(round(top.elapsed_min, 1))}"
    return said(held, found, "100 %", (f"readings[{top.row}].{stem_field(f.record)}",))


def _less_with_time(f: Facts, s: HydrometerSchool) -> Iterator[Seen]:
    rows = _counting(f)
    rising = [(a, b) for a, b in itertools.pairwise(rows) if b.finer_percent > a.finer_percent + MOST_RISE_POINTS]
    for a, b in rising:
        words = f"{plain(a.finer_percent, 3)} % then {plain(b.finer_percent, 3)} %"
        yield Seen(False, words, "falling", (f"readings[{b.row}].{stem_field(f.record)}",))
    if len(rows) > 1 and not rising:
        yield Seen(True, f"{len(rows)} readings", "falling")


def _on_time(f: Facts, s: HydrometerSchool) -> Iterator[Seen]:
    off = 0
    for t, (row, minutes) in f.taken.items():
        seconds = (minutes - t) * 60
        if abs(seconds) > s.window_s(t) + SLACK_S:
            off += 1
            words = f"{minutes_words(t)}: {span(abs(seconds) / 60)} {'late' if seconds > 0 else 'early'}"
            yield Seen(False, words, f"± {span(s.window_s(t) / 60)}", (f"readings[{row}].read_at",))
    if f.taken and not off:
        yield Seen(True, f"{len(f.taken)} readings", "within their windows")


def _passed_over(f: Facts, s: HydrometerSchool) -> Seen | None:
    if not f.taken:
        return None
    newest = max(f.taken)
    gone = [t for t in f.timetable.at if t < newest and t not in f.taken]
    words = f"missing at {', '.join(map(minutes_words, gone))}" if gone else f"{len(f.taken)} of {len(f.taken)} so far"
    return said(not gone, words, "every scheduled time")


def _put_in(f: Facts, s: HydrometerSchool) -> Iterator[Seen]:
    """Too short and it still bobs; too long and grains settle on it."""
    limit, good = f"{s.least_lead_s} to {s.most_lead_s} s before", 0
    for i, row in enumerate(f.record.readings):
        minutes = elapsed_min(f.record, row)
        left_in = minutes is not None and minutes <= s.left_in_min + LEFT_IN_SLACK_MIN
        if row.inserted_at is None or row.read_at is None or left_in:
            continue
        seconds = (row.read_at - row.inserted_at).total_seconds()
        if s.least_lead_s <= seconds <= s.most_lead_s:
            good += 1
        else:
            yield Seen(False, f"reading {i + 1}: {seconds:.0f} s before", limit, (f"readings[{i}].inserted_at",))
    if good:
        yield Seen(True, f"{good} readings", limit)


def _steady(f: Facts, s: HydrometerSchool) -> Seen | None:
    read = _temperatures(f)
    if len(read) < 2:
        return None
    # Two readings of a thermometer scatter by its own error: that much is no drift of the room.
    drift = max(max(read) - min(read) - 2 * s.thermometer_error_c, 0.0)
    limit = f"{plain(s.watch_drift_c)} °C; repeat above {plain(s.most_drift_c)} °C"
    level: Level = "watch" if compare.at_most(drift, s.most_drift_c) else "redo"
    held = compare.at_most(drift, s.watch_drift_c)
    return said(held, f"{plain(drift, 2)} °C between readings", limit, level=level)


def _spanned(f: Facts, s: HydrometerSchool) -> Seen | None:
    read = _temperatures(f)
    if not f.corrections or not read:
        return None
    low, high = f.corrections[0][0], f.corrections[-1][0]
    beyond = max(low - min(read), max(read) - high, 0.0)
    found = f"readings {plain(min(read), 3)} to {plain(max(read), 3)} °C, blanks {plain(low, 3)} to {plain(high, 3)} °C"
    limit = f"within; repeat beyond {plain(s.most_beyond_blank_c)} °C"
    level: Level = "watch" if compare.at_most(beyond, s.most_beyond_blank_c) else "redo"
    return said(beyond <= BEYOND_C, found, limit, level=level)


def _measured(f: Facts, s: HydrometerSchool) -> Seen | None:
    value, source = f.record.specific_gravity_ratio, f.record.specific_gravity_from
    if value is None or source is None:
        return None
    return said(source == "measured", f"{plain(value)}, {source}", "measured on this soil")


def _solution(f: Facts, s: HydrometerSchool) -> Seen | None:
    made, tested = f.record.dispersant_made_on, f.record.tested_on
    if made is None or tested is None:
        return None
    days = (tested - made).days
    return said(0 <= days <= s.most_solution_days, f"{days} days old", f"{s.most_solution_days} days")


def _mass(f: Facts, s: HydrometerSchool) -> Seen | None:
    seen = within(f.mass_g, s.mass_band_g, "g", "{} dry")
    return seen._replace(limit=f"{seen.limit} in a litre") if seen else None


def _some_in_suspension(f: Facts, s: HydrometerSchool) -> Iterator[Seen]:
    low = [r for r in _counting(f) if r.finer_percent < -MOST_RISE_POINTS]
    for r in low:
        at = (f"readings[{r.row}].{stem_field(f.record)}",)
        yield Seen(
            False, f"{plain(r.finer_percent, 3)} % at {minutes_words(round(r.elapsed_min, 1))}", "0 % or more", at
        )
    if _counting(f) and not low:
        yield Seen(True, f"{len(_counting(f))} readings", "0 % or more")


def _blank_sign(f: Facts, s: HydrometerSchool) -> Seen | None:
    """Dispersant is heavier than water and the meniscus is read at its top: the correction is taken off, never put
    on."""
    if not f.corrections:
        return None
    temperature, least = min(f.corrections, key=lambda c: c[1])
    unit = "sg" if stem_field(f.record) == "reading_sg" else "g/L"
    return said(least >= 0, f"correction {plain(least, 3)} {unit} at {plain(temperature)} °C", "0 or more")


def _clocks_agree(f: Facts, s: HydrometerSchool) -> Iterator[Seen]:
    """Where the time since set down was typed and the moment was kept too, the two say the same."""
    good = 0
    for i, row in enumerate(f.record.readings):
        if not known(row.elapsed_min) or row.read_at is None or f.record.started_at is None or row.elapsed_min <= 0:
            continue
        kept = (row.read_at - f.record.started_at).total_seconds() / 60
        apart = abs(row.elapsed_min - kept)
        allowed = max(s.window_early_s / 60, row.elapsed_min * s.most_clock_apart_percent / 100)
        if compare.at_most(apart, allowed):
            good += 1
            continue
        typed, read = (minutes_words(round(m, 1)) for m in (row.elapsed_min, kept))
        words = f"reading {i + 1}: typed {typed}, read at {read}"
        yield Seen(False, words, f"within {span(allowed)}", (f"readings[{i}].elapsed_min",))
    if good:
        yield Seen(True, f"{good} readings", "typed and kept times agree")


def _meniscus(f: Facts, s: HydrometerSchool) -> Seen | None:
    if not s.adds_meniscus or not f.settled:
        return None
    found = meniscus(f.record)
    words = "not known: the depth is by the reading alone (#)" if found is None else f"{plain(found)}"
    return said(found is not None, words, "in the hydrometer's register")


def _share(f: Facts, s: HydrometerSchool) -> Seen | None:
    if not f.settled:
        return None
    if known(f.record.passing_percent):
        return said(True, f"{plain(f.record.passing_percent, 4)} % of the whole soil", "the share is known")
    words = of_specimen(f.record).strip() or "all of the soil taken for the specimen (#)"
    return said(False, words, "the share is known")


def _usual_gravity(f: Facts, s: HydrometerSchool) -> Seen | None:
    return within(f.gravity, s.usual_gravity, "", "{}")


def _soaked(f: Facts, s: HydrometerSchool) -> Seen | None:
    since, until = f.record.soaked_from_at, f.record.started_at
    if since is None or until is None:
        return None
    hours = (until - since).total_seconds() / 3600
    return at_least(hours, s.soak_min / 60, "h", "{}", digits=3)


def _mass_after(f: Facts, s: HydrometerSchool) -> Seen | None:
    after = f.record.mass_after_g
    if f.mass_g is None or not known(after):
        return None
    off = 100 * abs(after - f.mass_g) / f.mass_g
    return at_most(
        off, s.most_after_percent, "%", f"{plain(after)} g after, {plain(f.mass_g)} g before: {{}}", digits=2
    )


def _pretreated(f: Facts, s: HydrometerSchool) -> Seen | None:
    what = f.record.pretreated_for
    if what is None or what == "nothing":
        return None
    loss = f.record.pretreatment_loss_percent
    return said(known(loss), f"{what}, loss {f'{plain(loss)} %' if known(loss) else 'not weighed'}", "loss weighed")


RULES: tuple[Judge, ...] = (
    Rule(
        # A stem of another kind read into this one, or a blank of another hydrometer, goes below nothing.
        "something is in suspension",
        _some_in_suspension,
        source=PHYSICS,
        level="stop",
        do="Look at the hydrometer's kind (151H reads 1.0…, 152H in g/L), at this reading and at the blank.",
    ),
    Rule(
        "the blank is taken off",
        _blank_sign,
        at=("blanks",),
        source=PHYSICS,
        do="Read the blank again, at the top of the meniscus, in dispersant and water.",
    ),
    Rule(
        "typed and kept times agree",
        _clocks_agree,
        source=LABORATORY,
        do="One of the two is wrong: strike the typed time, or correct it.",
    ),
    Rule(
        # Half to one per cent in diameter.
        "meniscus correction known",
        _meniscus,
        at=("meniscus_g_l",),
        level="watch",
        do="Read it in clear water at the meniscus' top and at the surface; enter the difference in the kit.",
    ),
    Rule(
        "share of the whole soil known",
        _share,
        at=("passing_percent",),
        source=LABORATORY,
        level="watch",
        do="Enter what share passed that sieve, or sieve the sample: its card then joins both.",
    ),
    Rule(
        "specific gravity is that of a soil",
        _usual_gravity,
        at=("specific_gravity_ratio",),
        source=LABORATORY,
        level="watch",
        do="Organic or heavy minerals, or a slip of the digits: look at its run.",
    ),
    Rule(
        "soaked long enough",
        _soaked,
        at=("soaked_from_at",),
        level="watch",
        do="Look for flocs; dry crumbs that the dispersant did not reach count as silt.",
    ),
    Rule(
        "mass after the test",
        _mass_after,
        at=("mass_after_g",),
        source=LABORATORY,
        level="watch",
        do="Soil was lost, or a mass was read wrong: say which is used.",
    ),
    Rule(
        "loss by pre-treatment weighed",
        _pretreated,
        at=("pretreatment_loss_percent",),
        source=LABORATORY,
        level="watch",
        do="The percentages are of the soil that was left: weigh what the treatment took.",
    ),
    Rule(
        "a reading comes after the cylinder is set down",
        _after_zero,
        source=PHYSICS,
        level="stop",
        do="Look at time zero and at this reading's time; strike the wrong one.",
    ),
    Rule(
        "no more than all in suspension",
        _all_in_suspension,
        source=PHYSICS,
        do="Recheck the dry mass, the blank and the specific gravity.",
    ),
    Rule(
        "less in suspension with time",
        _less_with_time,
        source=PHYSICS,
        do="A reading or a temperature is wrong, or the cylinder was stirred.",
    ),
    Rule(
        # The diameter is worked out from the true time: only the spacing of the points suffers.
        "readings on time",
        _on_time,
        level="watch",
        do="Kept with its true time, which the diameter uses.",
    ),
    Rule(
        "no reading passed over",
        _passed_over,
        at=("readings",),
        level="watch",
        do="The curve is drawn without it; start again if its size matters.",
    ),
    Rule(
        "hydrometer in for the right time",
        _put_in,
        level="watch",
        do="Next time about half a minute before, gently; then out with a slight spin.",
    ),
    Rule(
        # A drifting room stirs the cylinder by convection, and thins the water.
        "temperature steady",
        _steady,
        at=("readings",),
        do="Stand the cylinders in a water bath, away from sun and draught.",
    ),
    Rule(
        "blanks span the test's temperatures",
        _spanned,
        at=("blanks",),
        do="Take another blank at the missing temperature.",
    ),
    Rule(
        # Diameter and percentage both lean on it.
        "specific gravity measured",
        _measured,
        at=("specific_gravity_from",),
        level="watch",
        do="0.05 more makes the percentages about 1 % less: measure it where that matters.",
    ),
    Rule(
        # Hexametaphosphate turns back to plain phosphate within weeks, and disperses no longer.
        "dispersant solution fresh",
        _solution,
        at=("dispersant_made_on",),
        level="watch",
        do="Make a new solution; look for flocs in the cylinder.",
    ),
    Rule(
        # Too little reads badly, too much hinders its own settling.
        "soil in the cylinder",
        _mass,
        at=("mass_dry_g",),
        level="watch",
        do="Say so on the sheet, or begin again with the school's mass.",
    ),
    balance_in_date,
)
