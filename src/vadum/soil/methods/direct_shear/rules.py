"""The rules that judge a direct shear."""

import math
from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Forecast, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.contract.times import span
from vadum.soil.methods.direct_shear import before_shear
from vadum.soil.methods.direct_shear.box import BACK_MM
from vadum.soil.methods.direct_shear.facts import Facts, Sheared, dry_sand, stands_still_from
from vadum.soil.methods.direct_shear.record import ENVELOPES
from vadum.soil.methods.direct_shear.school import ShearSchool
from vadum.soil.shared.envelope import by_stresses
from vadum.soil.shared.force_reading import range_of, readers_in_date
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


def _goes_on(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """The carriage only goes forward: a travel that runs backwards is a slip, or a gauge that was moved."""
    for st in f.kept:
        yield from runs_backwards(st.stage.shear, st.path("shear"), "travel_mm", BACK_MM, st.words)


def _carried(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in f.kept:
        if len(st.points) > 2 and st.over:
            most = max(p.force_n for p in st.points)
            words = f"{st.words}: greatest net force {plain(most)} N"
            yield Seen(most > 0, words, "above 0 N", (st.path("shear"),))


def _sensible(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """A forgotten lever ratio makes a normal stress of a tenth, and an angle that no soil has."""
    for st in f.kept:
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
    for st in f.kept:
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


def _run_out(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    """A fall or a plateau shows that the peak was passed; soil without a peak fails at a set displacement."""
    for st in f.kept:
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
            do = "Report the greatest stress reached and its displacement; the box has no more travel."
            yield Seen(False, ends, limit, at, do, "watch")
        else:
            yield Seen(passed or flat, ends, limit, at)


def _slow_enough(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in f.kept:
        if st.peak_min is None or st.needed_min is None or not st.over or not f.drained:
            continue
        if dry_sand(f.record) and not st.needed_measured:
            continue
        held = compare.at_least(st.peak_min, st.needed_min)
        how = "by its own consolidation" if st.needed_measured else "by its kind alone"
        level: Level = "redo" if st.needed_measured else "watch"
        do = (
            "The specimen did not drain. Shear another at the rate from its consolidation."
            if st.needed_measured
            else "Record consolidation of the next specimen; report that this rate rests on the soil type."
        )
        words = f"{st.words}: {span(st.peak_min)} to {'failure' if st.at_displacement else 'the peak'}"
        yield Seen(held, words, f"{span(st.needed_min)}, {how}", (st.path("rate_mm_min"),), do, level)


def _quick(f: Facts, s: ShearSchool) -> Seen | None:
    if f.record.drainage is None:
        return None
    return said(f.drained, f"sheared {f.record.drainage}", "drained")


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
    for st in f.kept:
        if st.residual is not None and st.over:
            apart = plain(st.residual.apart_percent, 2)
            words = f"{st.words}: the last two of {st.residual.traverses} traverses {apart} % apart"
            yield Seen(st.traverses_agree, words, f"{plain(s.residual_within_percent)} %", (st.path("reversals"),))


def _sand_cohesion(f: Facts, s: ShearSchool) -> Seen | None:
    if f.peak is None or f.record.soil != "clean sand" or len(f.counting) < s.least_stages:
        return None
    return at_most(f.peak.strength.c_kpa, s.most_sand_cohesion_kpa, "kPa", "clean sand with c' of {}", digits=2)


def _gauge_moves(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in f.kept:
        still = stands_still_from(st.points)
        if st.over and len(st.points) > 5 and any(p.vertical_mm is not None for p in st.points):
            words = (
                f"{st.words}: one figure from {plain(still, 3)} mm on" if still is not None else f"{st.words}: it moves"
            )
            yield Seen(still is None, words, "moves with the shear", (st.path("shear"),))


def _level_cap(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    for st in f.kept:
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
    for st in f.kept:
        if st.over and st.points:
            left = 100 * f.box.area_at_mm2(st.points[-1].travel_mm) / f.box.area_mm2
            words, limit = f"{st.words}: {plain(left, 3)} % at the end", f"{plain(s.least_area_percent)} %"
            yield Seen(compare.at_least(left, s.least_area_percent), words, limit, (st.path("shear"),))


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


def _range(f: Facts, s: ShearSchool) -> Iterator[Seen]:
    field, most, unit = range_of(f.record)
    for st in f.kept:
        yield from within_range(st.stage.shear, st.path("shear"), field, most, unit, st.words)


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
        do="Strike out the wrong reading, or exclude it with a reason.",
        affects=ENVELOPES,
    ),
    Rule(
        "the specimen carried shear",
        _carried,
        source=PHYSICS,
        level="stop",
        do="Check zero and sign of the load cell or ring, and the empty run.",
        affects=ENVELOPES,
    ),
    Rule(
        "a normal load lies on it",
        before_shear.loaded,
        source=PHYSICS,
        level="stop",
        do="Enter the total mass including the hanger, and the lever ratio.",
        affects=ENVELOPES,
    ),
    Rule(
        "an angle that soil can have",
        _sensible,
        source=PHYSICS,
        level="stop",
        do="Check lever ratio and hanger mass; leaving out the 10:1 lever gives a tenth of the load.",
        affects=ENVELOPES,
    ),
    tins_possible("stages", "stage"),
    *tins_told_apart("stages", "stage"),
    Rule(
        "force within the range of what reads it",
        _range,
        source="its calibration",
        level="stop",
        do="Stop and fit a stiffer ring or a larger load cell. If the figure is a slip, strike out the reading.",
        affects=ENVELOPES,
        at_once=True,
    ),
    Rule(
        "screws out before the shear",
        before_shear.screws_first,
        do="The screws carried the load. Shear another specimen with the screws out.",
        affects=ENVELOPES,
    ),
    Rule(
        "peak reached step by step",
        _screws,
        source=PHYSICS,
        do="A stiff start and a sudden drop point to a screw left in. Shear another specimen.",
        affects=ENVELOPES,
    ),
    Rule("stages for an envelope", _enough, at=("stages",), do="Shear another specimen.", affects=ENVELOPES),
    Rule(
        "sheared past its peak",
        _run_out,
        do="The peak was not reached. Shear another specimen further.",
        affects=ENVELOPES,
    ),
    Rule(
        "successive traverses agree",
        _traverses_agree,
        level="watch",
        source="BS 1377-7, a laboratory setting of what agrees",
        do="Traverse again until two agree. Until then report strength at large displacement only.",
    ),
    Rule("slow enough to drain", _slow_enough, affects=ENVELOPES),
    Rule(
        "sheared drained",
        _quick,
        at=("drainage",),
        level="watch",
        do="Report the values as undrained, in total stress.",
    ),
    Rule(
        "box wide enough",
        lambda f, s: at_least(f.box.width_mm if f.box.said else None, s.least_width_mm, "mm"),
        at=("box_width_mm",),
        do="Use a larger box.",
        affects=ENVELOPES,
    ),
    Rule(
        "box wide enough for its grains",
        before_shear.grain_width,
        at=("largest_particle_mm",),
        do="Use the large box, or remove the coarse grains and report it.",
        affects=ENVELOPES,
    ),
    Rule(
        "specimen high enough, and flat",
        before_shear.height,
        do="Make the specimen the height that the procedure requires.",
        affects=ENVELOPES,
    ),
    Rule(
        "consolidated before the shear",
        before_shear.consolidated,
        do="Consolidation was not complete when shearing began. Repeat this stage.",
        affects=ENVELOPES,
    ),
    Rule(
        "settlement at rest",
        before_shear.still_settling,
        level="watch",
        source="laboratory setting, not confirmed by the standard",
        do="This may be creep. Leave the load on longer, or report it.",
    ),
    Rule(
        "loads far enough apart",
        before_shear.apart,
        level="watch",
        do="Double the load from stage to stage; close loads do not define a line.",
    ),
    Rule(
        "cohesion not below nothing",
        _negative,
        source=PHYSICS,
        level="watch",
        do="Reported: zero, and the angle through zero. Check box friction, force zero and lowest load.",
    ),
    Rule(
        # Friction of the box, screws left in or a scale that was not zeroed add the same to every stage.
        "clean sand without cohesion",
        _sand_cohesion,
        at=("stages",),
        source=LABORATORY,
        level="watch",
        do="Run the box empty: friction, a screw left in or a wrong zero adds the same force to every stage.",
    ),
    Rule(
        "specimens alike",
        before_shear.densities,
        at=("stages",),
        level="watch",
        do="Prepare the next specimen at the density of the others, or report the difference.",
    ),
    Rule(
        "vertical gauge moves",
        _gauge_moves,
        level="watch",
        do="Do not use dilation or void ratio of this stage. Free the gauge before the next.",
    ),
    Rule(
        "cap stays level",
        _level_cap,
        level="watch",
        do="The cap tilted. Centre ball and yoke before the next stage.",
    ),
    Rule(
        "area left at the end",
        _area_left,
        level="watch",
        do="The shear plane has become small. Take the large-displacement strength at a shorter travel.",
    ),
    Rule(
        "clay kept its water",
        before_shear.dried,
        level="watch",
        do="The specimen dried and suction added strength. Flood the next specimen, and report this one.",
    ),
    Rule(
        "straight envelope",
        _curved,
        at=("stages",),
        level="watch",
        do="The envelope is curved. Use the part that covers the stresses of the project.",
    ),
    Rule("gap recorded", before_shear.gap, level="watch", do="Measure the gap with a feeler gauge and enter it."),
    Rule(
        "lever balanced or counted",
        before_shear.lever,
        at=("lever_kg",),
        level="watch",
        do="Weigh the lever at its knife edge, or balance it with the counterweight.",
    ),
    Rule(
        "cap weighed",
        before_shear.cap,
        at=("cap_kg",),
        level="watch",
        do="Weigh cap, ball and yoke; at small loads their mass matters.",
    ),
    Rule(
        "size of the box known",
        before_shear.box_said,
        at=("box_width_mm",),
        level="watch",
        do="Measure the box and enter its size.",
    ),
    Rule(
        "ridges across the travel",
        before_shear.ridges,
        at=("ridges_across",),
        do="Turn the plates; the soil slid along the ridges. Shear another specimen.",
        affects=ENVELOPES,
    ),
    Rule(
        "particle density measured",
        before_shear.density_from,
        at=("particle_density_from",),
        source=LABORATORY,
        level="watch",
        do="Measure the particle density of this soil; void ratio and saturation depend on it.",
    ),
    Rule("no fuller than full", before_shear.full, source=PHYSICS),
    Rule(
        "what reads the force is in date",
        lambda f, s: readers_in_date(f.record),
        level="watch",
        do="Calibrate it. Until then the report states that the calibration is out of date.",
    ),
    balance_in_date,
    Forecast("peak passed", _foreseen),
)
