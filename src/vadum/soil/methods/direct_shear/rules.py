"""The rules that judge a direct shear."""

import math
from collections.abc import Iterator
from itertools import pairwise

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Forecast, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.contract.times import span
from vadum.soil.methods.direct_shear.box import BACK_MM, direct_kg
from vadum.soil.methods.direct_shear.facts import Facts, Sheared, dry_sand, stands_still_from
from vadum.soil.methods.direct_shear.record import ENVELOPES
from vadum.soil.methods.direct_shear.school import ShearSchool
from vadum.soil.shared.consolidation import consolidated_percent, late_share_percent
from vadum.soil.shared.envelope import by_stresses
from vadum.soil.shared.force_reading import range_of, readers_in_date
from vadum.soil.shared.phases import full_at_most
from vadum.soil.shared.series_of_readings import runs_backwards, within_range
from vadum.soil.shared.water_by_tin import balance_in_date, tins_possible, tins_told_apart

LEAST_ERROR_KPA = 1e-6  # below it a fit has no scatter: its points lie on one line, or are two


def passed_mm(stage: Sheared, s: ShearSchool) -> float | None:
    """The travel since the stress fell below its share of the peak for good, mm; None while it has not."""
    if stage.peak is None or stage.peak.shear_kpa <= 0:
        return None
    limit, since = (1 - s.past_peak_percent / 100) * stage.peak.force_n, None
    for p in reversed(stage.points):
        if p.travel_mm <= stage.peak.travel_mm or p.force_n > limit:
            break
        since = p.travel_mm
    return None if since is None else stage.points[-1].travel_mm - since


def may_stop(stage: Sheared, s: ShearSchool) -> bool:
    """Whether the force has stayed below its share of the peak for the set travel."""
    past = passed_mm(stage, s)
    return past is not None and compare.at_least(past, s.past_peak_mm)


def past_peak_words(stage: Sheared, s: ShearSchool) -> str:
    """What the series may do now that its peak is behind it; empty before."""
    past = passed_mm(stage, s)
    if past is None:
        return ""
    if may_stop(stage, s):
        return "peak passed, it may stop"
    return f"peak passed: {plain(s.past_peak_mm - past, 2)} mm more"


def _each(f: Facts) -> Iterator[Sheared]:
    return (st for st in f.stages if not st.stage.excluded_because)


def _goes_on(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """The carriage only goes forward: a travel that runs backwards is a slip, or a gauge that was moved."""
    for st in _each(f):
        yield from runs_backwards(st.stage.shear, st.path("shear"), "travel_mm", BACK_MM, st.words)


def _carried(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        if len(st.points) > 2 and st.over:
            most = max(p.force_n for p in st.points)
            words = f"{st.words}: greatest net force {plain(most)} N"
            yield Seen(most > 0, words, "above 0 N", (st.path("shear"),))


def _loaded(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        if st.normal_kpa is not None:
            words = f"{st.words}: {plain(st.normal_kpa)} kPa"
            yield Seen(st.normal_kpa > 0, words, "above 0 kPa", (st.path("hanger_kg"),))


def _sensible(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """A forgotten lever ratio makes a normal stress of a tenth, and an angle that no soil has."""
    for st in _each(f):
        secant = st.secant_degrees
        if secant is not None and st.over:
            words = f"{st.words}: {plain(secant, 3)}° alone"
            at = ("lever_ratio", st.path("hanger_kg"))
            yield Seen(compare.at_most(secant, s.most_phi_degrees), words, f"at most {plain(s.most_phi_degrees)}°", at)


def _enough(f: Facts, s: ShearSchool) -> Seen | None:
    if f.hand is not None or not f.stages:
        return None
    n = len(f.counting)
    return said(n >= s.least_stages, f"{n} stages count", f"{s.least_stages} or more")


def _screws(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        peak = st.peak
        if peak is None or len(st.points) < s.screw_readings + 2 or not st.over:
            continue
        place = next(i for i, p in enumerate(st.points) if p.row == peak.row)
        behind = st.points[place + 1 : place + 3]
        sudden = bool(behind) and min(p.shear_kpa for p in behind) < (1 - s.screw_fall_percent / 100) * peak.shear_kpa
        early = place < s.screw_readings and sudden
        words = f"{st.words}: peak at {plain(peak.travel_mm, 3)} mm"
        found = (
            f"{words}, then at once {plain(100 * (1 - behind[0].shear_kpa / peak.shear_kpa), 2)} % less"
            if early
            else words
        )
        yield Seen(not early, found, "a peak that is reached step by step", (st.path("screws_out"),))


def _screws_first(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        if st.stage.shear:
            out = st.stage.screws_out == "yes"
            words = f"{st.words}: screws {'out' if out else 'not said to be out'}"
            yield Seen(out, words, "out before the shear", (st.path("screws_out"),))


def _run_out(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """It fell off, or it stands on a plateau, or failure is at a displacement: else its strength was not reached."""
    for st in _each(f):
        if not st.over or st.peak is None or len(st.points) < 3:
            continue
        last = st.points[-1]
        before = next(
            (p for p in reversed(st.points) if p.travel_mm <= last.travel_mm - s.plateau_share * f.box.width_mm), None
        )
        flat = before is not None and abs(last.force_n - before.force_n) <= s.plateau_percent / 100 * st.peak.force_n
        fell = plain(max(st.fell_percent, 0.0), 2)
        ends = f"{st.words}: ends at {plain(last.travel_mm, 3)} mm, {fell} % below its greatest"
        limit, at = f"a fall of {plain(s.past_peak_percent)} %, or a plateau", (st.path("stopped"),)
        passed = compare.at_least(st.fell_percent, s.past_peak_percent)
        if st.at_displacement:
            words = f"{st.words}: no peak up to {plain(last.travel_mm, 3)} mm"
            do = (
                f"Report the stress at {plain(st.peak.travel_mm, 3)} mm, {plain(100 * s.failure_share)} % of the width."
            )
            yield Seen(flat, words, limit, at, do, "watch")
        elif not passed and not flat and compare.at_least(last.travel_mm + 0.01, s.most_travel_share * f.box.width_mm):
            do = "Report it as the greatest stress reached, with its displacement: the box has no further travel."
            yield Seen(False, ends, limit, at, do, "watch")
        else:
            yield Seen(passed or flat, ends, limit, at)


def _slow_enough(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        if st.peak_min is None or st.needed_min is None or not st.over or not f.drained:
            continue
        if dry_sand(f.record) and not st.needed_measured:
            continue
        held = compare.at_least(st.peak_min, st.needed_min)
        how = "by its own consolidation" if st.needed_measured else "by its kind alone"
        level: Level = "redo" if st.needed_measured else "watch"
        do = (
            "It did not drain: shear another specimen at the rate that its consolidation gives."
            if st.needed_measured
            else "Measure the consolidation of the next specimen; say so on the sheet."
        )
        words = f"{st.words}: {span(st.peak_min)} to the peak"
        yield Seen(held, words, f"{span(st.needed_min)}, {how}", (st.path("rate_mm_min"),), do, level)


def _quick(f: Facts, s: ShearSchool) -> Seen | None:
    if f.record.drainage is None:
        return None
    return said(f.drained, f"sheared {f.record.drainage}", "drained")


def _grain_width(f: Facts, s: ShearSchool) -> Seen | None:
    grain = f.record.largest_particle_mm
    if not known(grain):
        return None
    least = s.width_to_grain_ratio * grain
    return at_least(f.box.width_mm, least, "mm", limit_words=f"{{}}: {plain(s.width_to_grain_ratio)} grains", digits=3)


def _height(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    grain = f.record.largest_particle_mm
    for st in _each(f):
        if not known(st.stage.height_mm):
            continue
        least = max(s.least_height_mm, s.height_to_grain_ratio * grain if known(grain) else 0.0)
        h = st.stage.height_mm
        at = (st.path("height_mm"),)
        yield Seen(compare.at_least(h, least), f"{st.words}: {plain(h)} mm high", f"at least {plain(least, 3)} mm", at)
        flat = f.box.width_mm / h if h > 0 else 0.0
        words = f"{st.words}: {plain(flat, 3)} times as wide as high"
        limit = f"at least {plain(s.least_width_to_height_ratio)} times"
        yield Seen(compare.at_least(flat, s.least_width_to_height_ratio), words, limit, at)


def _consolidated(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        root, read = st.settled.root, st.settled.readings
        if st.stage.consolidated is None or root is None:
            continue
        share = consolidated_percent(read, root)
        t100 = st.settled.t100_min or root.t100_min
        held = compare.at_least(read[-1].minutes, t100)
        words = f"{st.words}: ended after {span(read[-1].minutes)}, {plain(share, 3)} %"
        yield Seen(held, words, f"t100, {span(t100)}", (st.path("consolidated"),))


def _still_settling(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        late = late_share_percent(st.settled.readings)
        if st.stage.consolidated is not None and late is not None:
            words = f"{st.words}: {plain(late, 2)} % of the whole per log cycle"
            limit = f"{plain(s.most_late_percent)} %"
            yield Seen(compare.at_most(late, s.most_late_percent), words, limit, (st.path("settlement"),))


def _apart(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    loads = sorted((st.normal_kpa, st.words) for st in f.counting if st.normal_kpa)
    good = len(loads) > 1
    for (a, _), (b, name) in pairwise(loads):
        if a > 0 and not compare.at_least(b / a, s.least_load_ratio):
            good = False
            words = f"{name}: {plain(b / a, 3)} times the one below"
            yield Seen(False, words, f"{plain(s.least_load_ratio)} times or more", ("stages",))
    if good:
        yield Seen(True, f"{len(loads)} loads", f"{plain(s.least_load_ratio)} times or more")


def _negative(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for envelope, words in ((f.peak, "peak"), (f.residual, "residual")):
        if envelope is None or len(envelope.rows) < s.least_stages:
            continue
        free = by_stresses(envelope.free or envelope.line)
        error = free.c_error_kpa or 0.0
        seen = error > LEAST_ERROR_KPA
        limit = f"0 or more, within two errors of {plain(error, 2)} kPa" if seen else "0 or more"
        held = free.c_kpa >= -2 * error if seen else free.c_kpa >= -LEAST_ERROR_KPA
        yield Seen(held, f"{words}: c' {plain(free.c_kpa, 2)} kPa by the free fit", limit, ("stages",))


def _traverses_agree(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        if st.residual is not None and st.over:
            apart = plain(st.residual.apart_percent, 2)
            words = f"{st.words}: the last two of {st.residual.traverses} traverses {apart} % apart"
            yield Seen(st.traverses_agree, words, f"{plain(s.residual_within_percent)} %", (st.path("reversals"),))


def _sand_cohesion(f: Facts, s: ShearSchool) -> Seen | None:
    if f.peak is None or f.record.soil != "clean sand" or len(f.counting) < s.least_stages:
        return None
    return at_most(f.peak.strength.c_kpa, s.most_sand_cohesion_kpa, "kPa", "clean sand with c' of {}", digits=2)


def _densities(f: Facts, s: ShearSchool) -> Seen | None:
    dry = [(st.state.dry_mg_m3, st.words) for st in _each(f) if st.state.dry_mg_m3 is not None]
    if len(dry) < 2:
        return None
    low, high = min(dry), max(dry)
    apart = 100 * (high[0] / low[0] - 1)
    return at_most(apart, s.most_density_apart_percent, "%", f"{{}} from {low[1]} to {high[1]}", digits=2)


def _gauge_moves(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        still = stands_still_from(st.points)
        if st.over and len(st.points) > 5 and any(p.vertical_mm is not None for p in st.points):
            words = (
                f"{st.words}: one figure from {plain(still, 3)} mm on" if still is not None else f"{st.words}: it moves"
            )
            yield Seen(still is None, words, "moves with the shear", (st.path("shear"),))


def _level_cap(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        both = [
            abs(r.vertical_mm - r.second_vertical_mm)
            for r in st.stage.shear
            if known(r.vertical_mm) and known(r.second_vertical_mm)
        ]
        if both:
            words = f"{st.words}: the two gauges {plain(max(both), 3)} mm apart"
            limit = f"{plain(s.most_rotation_mm)} mm"
            yield Seen(compare.at_most(max(both), s.most_rotation_mm), words, limit, (st.path("shear"),))


def _area_left(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        if st.over and st.points:
            left = 100 * f.box.area_at_mm2(st.points[-1].travel_mm) / f.box.area_mm2
            words, limit = f"{st.words}: {plain(left, 3)} % at the end", f"{plain(s.least_area_percent)} %"
            yield Seen(compare.at_least(left, s.least_area_percent), words, limit, (st.path("shear"),))


def _dried(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """A clay that was not flooded dries while it is sheared for hours."""
    before = f.record.water_before_percent
    if f.record.soil in (None, "clean sand", "silty sand") or not known(before):
        return
    for st in _each(f):
        tin, wet, dry = st.stage.mass_tin_g, st.stage.mass_wet_g, st.stage.mass_dry_g
        if st.stage.flooded == "no" and known(tin) and known(wet) and known(dry) and dry > tin:
            after = 100 * (wet - dry) / (dry - tin)
            words = f"{st.words}: {plain(after, 3)} % after, {plain(before, 3)} % before"
            yield Seen(
                compare.at_least(after, before - s.most_dried_percent),
                words,
                f"within {plain(s.most_dried_percent)} points",
                (st.path("flooded"),),
            )


def _curved(f: Facts, s: ShearSchool) -> Seen | None:
    secants = [(st.peak.normal_kpa, st.secant_degrees) for st in f.counting if st.peak and st.secant_degrees]
    if len(secants) < 3:
        return None
    low, high = min(secants), max(secants)
    fall = (low[1] or 0.0) - (high[1] or 0.0)
    if f.peak and f.record.soil not in ("clean sand", "silty sand"):
        # A cohesion alone lets the angle of a single stage fall along a straight line: that much is no curve.
        line = f.peak.line
        fall -= math.degrees(math.atan2(line.at(low[0]), low[0]) - math.atan2(line.at(high[0]), high[0]))
    words = f"{plain(low[1] or 0.0, 3)}° at the least load, {plain(high[1] or 0.0, 3)}° at the greatest"
    return said(
        compare.at_most(fall, s.most_secant_fall_degrees),
        words,
        f"falls by {plain(s.most_secant_fall_degrees)}° at most",
    )


def _gap(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        if st.over:
            gap = st.stage.gap_mm
            words = f"{st.words}: {'not written down' if not known(gap) else f'{plain(gap)} mm'}"
            held = known(gap) and compare.at_least(gap, s.least_gap_mm)
            yield Seen(held, words, f"{plain(s.least_gap_mm)} mm, about the largest grain", (st.path("gap_mm"),))


def _lever(f: Facts, s: ShearSchool) -> Seen | None:
    balanced, lever = f.record.lever_balanced, f.record.lever_kg
    if balanced is None or not f.stages:
        return None
    words = (
        "balanced"
        if balanced == "yes"
        else f"{plain(lever)} kg of its own"
        if known(lever)
        else "its weight is not known (#)"
    )
    return said(balanced == "yes" or known(lever), words, "balanced, or its weight counted")


def _cap(f: Facts, s: ShearSchool) -> Seen | None:
    if not f.stages:
        return None
    kg = direct_kg(f.record)
    return said(
        known(f.record.cap_kg),
        f"{plain(kg)} kg on the plane" if known(f.record.cap_kg) else "not weighed (#)",
        "weighed",
    )


def _density_from(f: Facts, s: ShearSchool) -> Seen | None:
    value, source = f.record.particle_density_mg_m3, f.record.particle_density_from
    if value is None:
        return None
    words = f"{plain(value)} Mg/m³, {source or 'not said from where'}"
    return said(source == "measured", words, "measured on this soil")


def _box_said(f: Facts, s: ShearSchool) -> Seen | None:
    if not f.stages:
        return None
    words = f"{plain(f.box.width_mm)} mm" + ("" if f.box.said else ", the school's (#)")
    return said(f.box.said, words, "entered, or by the box's number")


def _ridges(f: Facts, s: ShearSchool) -> Seen | None:
    across = f.record.ridges_across
    return None if across is None else said(across == "yes", f"across: {across}", "across the travel")


def _range(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    field, most, unit = range_of(f.record)
    for st in _each(f):
        yield from within_range(st.stage.shear, st.path("shear"), field, most, unit, st.words)


def _full(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in _each(f):
        seen = full_at_most(st.state.saturation_percent, "Recheck mass, height, water content and particle density.")
        if seen:
            yield seen._replace(found=f"{st.words}: {seen.found}", at=(st.path("mass_g"),))


def _foreseen(f: Facts, s: ShearSchool) -> str:
    st = f.in_hand
    if st is None or st.over or st.peak is None or not may_stop(st, s):
        return ""
    return f"{st.words}: peak of {st.peak.shear_kpa:.1f} kPa passed, it may stop."


RULES: tuple[Judge, ...] = (
    Rule(
        "the carriage only goes forward",
        _goes_on,
        source=PHYSICS,
        level="stop",
        do="Strike the wrong one, or leave the reading out with a reason.",
        affects=ENVELOPES,
    ),
    Rule(
        "the specimen carried shear",
        _carried,
        source=PHYSICS,
        level="stop",
        do="Look at the zero and the sign of what reads the force, and at the empty run.",
        affects=ENVELOPES,
    ),
    Rule(
        "a normal load lies on it",
        _loaded,
        source=PHYSICS,
        level="stop",
        do="Enter what hangs, with the hanger itself, and the lever's ratio.",
        affects=ENVELOPES,
    ),
    Rule(
        "an angle that soil can have",
        _sensible,
        source=PHYSICS,
        level="stop",
        do="Look at the lever's ratio and at what hangs: a forgotten lever makes a tenth of the load.",
        affects=ENVELOPES,
    ),
    tins_possible("stages", "stage"),
    *tins_told_apart("stages", "stage"),
    Rule(
        "force within the range of what reads it",
        _range,
        source="its calibration",
        level="stop",
        do="Stop: a stiffer ring or a larger cell; strike the reading if it is a slip.",
        affects=ENVELOPES,
        at_once=True,
    ),
    Rule(
        "screws out before the shear",
        _screws_first,
        do="With the screws in it is they that were sheared: shear another specimen.",
        affects=ENVELOPES,
    ),
    Rule(
        "peak reached step by step",
        _screws,
        source=PHYSICS,
        do="Very stiff, then a sudden fall: a screw was left in. Shear another specimen.",
        affects=ENVELOPES,
    ),
    Rule("stages for an envelope", _enough, at=("stages",), do="Shear another specimen.", affects=ENVELOPES),
    Rule(
        "sheared past its peak",
        _run_out,
        do="The greatest stress was not reached: shear another specimen further.",
        affects=ENVELOPES,
    ),
    Rule(
        "successive traverses agree",
        _traverses_agree,
        level="watch",
        source="BS 1377-7, a laboratory setting of what agrees",
        do="Traverse again until two agree: until then there is no residual strength, only one at large displacement.",
    ),
    Rule("slow enough to drain", _slow_enough, affects=ENVELOPES),
    Rule(
        "sheared drained",
        _quick,
        at=("drainage",),
        level="watch",
        do="Report them as undrained, of total stress: they are no drained strength.",
    ),
    Rule(
        "box wide enough",
        lambda f, s: at_least(f.box.width_mm if f.box.said else None, s.least_width_mm, "mm"),
        at=("box_width_mm",),
        do="Take a larger box.",
        affects=ENVELOPES,
    ),
    Rule(
        "box wide enough for its grains",
        _grain_width,
        at=("largest_particle_mm",),
        do="Take the large box, or sieve the coarse off and say so.",
        affects=ENVELOPES,
    ),
    Rule("specimen high enough, and flat", _height, do="Make it as high as the school has it.", affects=ENVELOPES),
    Rule(
        "consolidated before the shear",
        _consolidated,
        do="It was still draining into the shear: repeat this stage.",
        affects=ENVELOPES,
    ),
    Rule(
        "settlement at rest",
        _still_settling,
        level="watch",
        source="laboratory setting, not confirmed by the standard",
        do="Creep alone can do it: say so, or leave the load on longer.",
    ),
    Rule("loads far enough apart", _apart, level="watch", do="Choose loads that double: close ones make no line."),
    Rule(
        "cohesion not below nothing",
        _negative,
        source=PHYSICS,
        level="watch",
        do="It is held at zero: look at friction, zero of the force, and at the least load.",
    ),
    Rule(
        # Friction of the box, screws left in or a scale that was not zeroed add the same to every stage.
        "clean sand without cohesion",
        _sand_cohesion,
        at=("stages",),
        source=LABORATORY,
        level="watch",
        do="Friction, a screw left in, or a zero that was off: run the box empty and look.",
    ),
    Rule(
        "specimens alike",
        _densities,
        at=("stages",),
        level="watch",
        do="Their peaks are of different densities: make the next one as dense as the others, or say so.",
    ),
    Rule(
        "vertical gauge moves",
        _gauge_moves,
        level="watch",
        do="It stuck: dilation and void ratio of that stage say nothing. Free it before the next.",
    ),
    Rule(
        "cap stays level",
        _level_cap,
        level="watch",
        do="The cap turned: set ball and yoke over the middle before the next stage.",
    ),
    Rule(
        "area left at the end", _area_left, level="watch", do="The tail is of a small plane: count it from earlier on."
    ),
    Rule(
        "clay kept its water",
        _dried,
        level="watch",
        do="It dried, and suction added strength: flood the next one, and say so.",
    ),
    Rule(
        "straight envelope",
        _curved,
        at=("stages",),
        level="watch",
        do="The envelope is curved: use the part that spans the stresses of the work.",
    ),
    Rule("gap recorded", _gap, level="watch", do="Enter it from the feeler, or the sheet will say so."),
    Rule(
        "lever balanced or counted",
        _lever,
        at=("lever_kg",),
        level="watch",
        do="Weigh the lever at its knife edge, or balance it.",
    ),
    Rule(
        "cap weighed", _cap, at=("cap_kg",), level="watch", do="Weigh cap, ball and yoke: small loads feel them most."
    ),
    Rule("size of the box known", _box_said, at=("box_width_mm",), level="watch", do="Measure it once, and enter it."),
    Rule(
        "ridges across the travel",
        _ridges,
        at=("ridges_across",),
        do="Turn the plates: the soil slid on them.",
        affects=ENVELOPES,
    ),
    Rule(
        "particle density measured",
        _density_from,
        at=("particle_density_from",),
        source=LABORATORY,
        level="watch",
        do="Measure it on this soil: void ratios and saturation stand on an assumed figure until then.",
    ),
    Rule("no fuller than full", _full, source=PHYSICS),
    Rule(
        "what reads the force is in date",
        lambda f, s: readers_in_date(f.record),
        level="watch",
        do="Say so on the sheet; calibrate it.",
    ),
    balance_in_date,
    Forecast("peak passed", _foreseen),
)
