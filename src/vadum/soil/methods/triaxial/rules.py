"""The rules that judge a triaxial test."""

from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Forecast, Judge, Rule, Seen, at_least, said
from vadum.soil.methods.triaxial import before_shear
from vadum.soil.methods.triaxial.cell import BACK_MM
from vadum.soil.methods.triaxial.facts import Facts, Tested
from vadum.soil.methods.triaxial.record import EFFECTIVE, ENVELOPES
from vadum.soil.methods.triaxial.school import TriaxialSchool
from vadum.soil.shared.force_reading import readers_in_date
from vadum.soil.shared.series_of_readings import runs_backwards, within_range
from vadum.soil.shared.water_by_tin import balance_in_date, tins_possible, tins_told_apart

NEAR_STOP = 0.98  # of the stop strain: a platen is stopped by hand


def passed_percent(one: Tested, s: TriaxialSchool) -> float | None:
    """How much strain lies behind the greatest deviator, percent; None while it has not truly fallen."""
    best = one.deviator
    if best is None or best.deviator_kpa == 0 or compare.below(one.fell_percent, s.least_fall_percent):
        return None
    return 100 * (abs(one.points[-1].strain) - abs(best.strain))


def may_stop(one: Tested, s: TriaxialSchool) -> bool:
    """Whether the series has gone far enough past its greatest deviator."""
    past = passed_percent(one, s)
    if past is None:
        return False
    return compare.at_least(past, s.past_peak_percent) or compare.at_least(one.fell_percent, s.stop_fall_percent)


def past_peak_words(one: Tested, s: TriaxialSchool) -> str:
    """What the series may do now that its greatest deviator is behind it; empty before."""
    past = passed_percent(one, s)
    if past is None:
        ratio = one.obliquity
        if (
            ratio is not None
            and one.points
            and abs(one.points[-1].strain) > abs(ratio.strain) + s.past_peak_percent / 100
        ):
            return "greatest obliquity passed"
        return ""
    return (
        "peak passed, it may stop"
        if may_stop(one, s)
        else f"peak passed: {plain(s.past_peak_percent - past, 2)} % more"
    )


def _positive(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    way = -1 if f.record.direction == "extension" else 1
    for t in f.kept:
        if t.deviator is not None and t.over:
            q = way * t.deviator.deviator_kpa
            words = f"{t.words}: deviator {plain(q, 3)} kPa at failure"
            yield Seen(q > 0, words, "above 0 kPa", (t.path("shear"),))


def _goes_on(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    way = -1 if f.record.direction == "extension" else 1
    for t in f.kept:
        at = t.path("shear")
        yield from runs_backwards(t.specimen.shear, at, "deformation_mm", BACK_MM, t.words, way)


def _kind(f: Facts, s: TriaxialSchool) -> Seen | None:
    kind = f.record.kind
    return None if kind is None else said(kind in s.kinds, kind, f"{', '.join(s.kinds)} by this school")


def _pore_read(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """Without a pore pressure at failure an undrained test tells of total stress alone."""
    if f.drained or f.record.kind in ("UU", None):
        return
    for t in f.kept:
        at = t.failure(s)
        # The newest reading may still wait for its pore pressure: force and pressure are entered one after the other.
        entering = bool(t.points) and t.points[-1].pore_kpa is None and any(p.pore_kpa is not None for p in t.points)
        if t.over and at is not None and (at.pore_kpa is not None or not entering):
            found = f"{t.words}: {'read' if at.pore_kpa is not None else 'no pore pressure at failure'}"
            yield Seen(at.pore_kpa is not None, found, "pore pressure read in shear", (t.path("shear"),))


def _multistage(f: Facts, s: TriaxialSchool) -> Seen | None:
    if f.record.staging != "multistage" or f.quick or len(f.tested) < 2:
        return None
    words = "a consolidated specimen sheared in stages"
    return said(False, words, "a fresh specimen for each pressure")


def _cohesion(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for env, words in ((f.effective, "effective"), (f.by_other, "by the other criterion"), (f.total, "total stress")):
        if env is None or f.quick or len(env.rows) < s.least_specimens:
            continue
        free = env.free or env.strength
        seen = f"{words}: c {plain(free.c_kpa, 2)} kPa by the free fit"
        yield Seen(free.c_kpa >= -s.report_to_kpa / 2, seen, "0 or more", ("specimens",))


def _not_too_slow(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    """A quick test that creeps drains, and a slow clay reads weaker: half of the rate, or the time that is set."""
    low, high = s.failure_between_min
    for t in f.kept:
        at, rate = t.deviator, t.rate_percent_min
        if not f.quick or not t.over or at is None or rate is None or rate <= 0:
            continue
        minutes = 100 * abs(at.strain) / rate
        if high > 0:
            words = f"{t.words}: fails after {plain(minutes, 3)} min"
            held = low <= minutes <= high or (minutes < low and compare.at_most(rate, s.fixed_percent_min))
            yield Seen(held, words, f"{plain(low)} to {plain(high)} min", (t.path("rate_mm_min"),))
            continue
        wanted = t.needed_percent_min or s.fixed_percent_min
        words = f"{t.words}: {plain(rate, 3)} %/min"
        yield Seen(
            compare.at_least(rate, wanted / 2),
            words,
            f"at least {plain(wanted / 2, 3)} %/min",
            (t.path("rate_mm_min"),),
        )


def _slow(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in f.kept:
        rate, most = t.rate_percent_min, t.needed_percent_min
        if rate is None or most is None or not t.points:
            continue
        limit = most * (1 + s.rate_over_percent / 100)
        do = (
            "The specimen could not drain at this rate. Repeat at the permitted rate."
            if f.drained
            else "Pore pressure could not equalise at this rate. Repeat at the permitted rate."
        )
        if f.quick:
            do = "Repeat at the rate of the procedure; faster shearing reads stronger."
        words = f"{t.words}: {plain(rate, 3)} %/min"
        yield Seen(compare.at_most(rate, limit), words, f"{plain(most, 3)} %/min", (t.path("rate_mm_min"),), do)


def _enough(f: Facts, s: TriaxialSchool) -> Seen | None:
    if f.hand is not None or not f.tested:
        return None
    n, least = len(f.counting), s.least_quick_specimens if f.quick else s.least_specimens
    return said(n >= least, f"{n} specimen{'' if n == 1 else 's'} count{'s' if n == 1 else ''}", f"{least} or more")


def _drift(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in f.kept:
        cells = [r.cell_kpa for r in t.specimen.shear if known(r.cell_kpa)]
        if len(cells) < 2 or not known(t.specimen.cell_kpa):
            continue
        moved = max(abs(c - t.specimen.cell_kpa) for c in cells)
        most = max(s.drift_kpa, s.drift_percent / 100 * t.specimen.cell_kpa)
        words = f"{t.words}: the cell moved by {plain(moved, 2)} kPa"
        yield Seen(compare.at_most(moved, most), words, f"{plain(most, 3)} kPa", (t.path("shear"),))


def _still_rising(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in f.kept:
        if t.over and t.deviator is not None and len(t.points) > 3:
            stop = s.stop_strain_percent / 100
            reach = min(abs(t.points[-1].strain), stop)
            rising = abs(t.deviator.strain) >= reach - 1e-9
            words = f"{t.words}: greatest at {plain(100 * abs(t.deviator.strain), 3)} % strain"
            yield Seen(not rising, words, "before the end", (t.path("shear"),))


def _stopped_early(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in f.kept:
        if not t.over or t.deviator is None or f.record.staging == "multistage":
            continue
        at_stop = compare.at_least(abs(t.points[-1].strain), NEAR_STOP * s.stop_strain_percent / 100)
        fell = compare.at_least(t.fell_percent, s.least_fall_percent)
        words = f"{t.words}: ends at {plain(100 * abs(t.points[-1].strain), 3)} %, {plain(t.fell_percent, 2)} % below"
        limit = (
            f"{plain(s.past_peak_percent)} % strain past its greatest, {plain(s.stop_fall_percent)} % below it, "
            f"or {plain(s.stop_strain_percent)} % strain"
        )
        if fell and not at_stop and not may_stop(t, s):
            do = "The peak was passed. Report it, and run the next specimen further."
            yield Seen(False, words, limit, (t.path("stopped"),), do, "watch")
        else:
            yield Seen(at_stop or fell, words, limit, (t.path("stopped"),))


def _late_stage(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    if f.record.staging != "multistage":
        return
    for t in f.counting[:-1]:
        if t.obliquity is not None:
            past = 100 * (abs(t.points[-1].strain) - abs(t.obliquity.strain))
            words = f"{t.words}: {plain(past, 2)} % past its greatest obliquity"
            held = compare.at_most(past, s.late_stage_percent)
            yield Seen(held, words, f"{plain(s.late_stage_percent)} %", (t.path("stopped"),))


def _voids(f: Facts, s: TriaxialSchool) -> Seen | None:
    e = [(t.state.void_ratio, t.words) for t in f.kept if t.state.void_ratio is not None]
    if len(e) < 2:
        return None
    low, high = min(e), max(e)
    words = f"void ratio {plain(low[0], 3)} to {plain(high[0], 3)}"
    return said(compare.at_most(high[0] - low[0], s.voids_apart_ratio), words, f"{plain(s.voids_apart_ratio)} apart")


def _misses(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    line = f.effective or (f.total if f.quick is False else None)
    if line is None or len(line.points) < 3:
        return
    for row, (x, t) in zip(line.rows, line.points, strict=True):
        off = 100 * abs(t - line.line.at(x)) / max(abs(line.line.at(x)), 1e-9)
        words = f"{f.tested[row].words}: {plain(off, 2)} % off the line"
        held = compare.at_most(off, s.misses_percent)
        yield Seen(held, words, f"{plain(s.misses_percent)} %", (f.tested[row].path("shear"),))


def _spread(f: Facts, s: TriaxialSchool) -> Seen | None:
    pressures = [t.effective_kpa for t in f.counting if t.effective_kpa and t.effective_kpa > 0]
    if len(pressures) < 2:
        return None
    ratio = max(pressures) / min(pressures)
    return at_least(ratio, s.least_pressure_ratio, "", "greatest over least {}", digits=3)


def _range(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in f.kept:
        yield from within_range(t.specimen.shear, t.path("shear"), "force_n", f.record.load_cell_most_n, "N", t.words)


def _fails_late(f: Facts, s: TriaxialSchool) -> Iterator[Seen]:
    for t in f.kept:
        if t.over and t.deviator is not None:
            strain = 100 * abs(t.deviator.strain)
            words = f"{t.words}: fails at {plain(strain, 3)} % strain"
            yield Seen(
                compare.at_most(strain, s.late_failure_percent),
                words,
                f"{plain(s.late_failure_percent)} %",
                (t.path("shear"),),
            )


def _friction_check(f: Facts, s: TriaxialSchool) -> Seen | None:
    if not f.quick or f.total is None or len(f.counting) < s.least_specimens:
        return None
    phi, error = f.total.strength.phi_degrees, f.total.strength.phi_error_degrees or 0.0
    held = abs(phi) <= max(s.quick_friction_degrees, 2 * error)
    return said(held, f"{plain(phi, 2)}° fitted to the circles", "about 0° of a saturated clay")


def _foreseen(f: Facts, s: TriaxialSchool) -> str:
    one = f.in_hand
    if one is None or one.over or not may_stop(one, s) or one.deviator is None:
        return ""
    return f"{one.words}: greatest deviator of {abs(one.deviator.deviator_kpa):.0f} kPa passed, it may stop."


RULES: tuple[Judge, ...] = (
    Rule(
        "water pressure below the cell's",
        before_shear.under_cell,
        source=PHYSICS,
        level="stop",
        do="Check both pressures; water pressure above the cell pressure lifts the membrane off.",
        affects=ENVELOPES,
        at_once=True,
    ),
    Rule(
        "cell within its rating",
        before_shear.rated,
        source="the cell's rating",
        level="stop",
        do="Reduce the pressure now, from behind the shield. Have the cell inspected before it is used again.",
        affects=ENVELOPES,
        at_once=True,
    ),
    Rule(
        "deviator above nothing at failure",
        _positive,
        source=PHYSICS,
        level="stop",
        do="Check the load's zero and sign, and the piston uplift.",
        affects=ENVELOPES,
    ),
    Rule(
        "the platen goes one way",
        _goes_on,
        source=PHYSICS,
        level="stop",
        do="Strike out the wrong reading, or exclude it with a reason.",
        affects=ENVELOPES,
    ),
    tins_possible("specimens", "specimen"),
    *tins_told_apart("specimens", "specimen"),
    Rule(
        "load within the range of its cell",
        _range,
        source="its calibration",
        level="stop",
        do="Stop and fit a larger load cell. If the figure is a slip, strike out the reading.",
        affects=ENVELOPES,
        at_once=True,
    ),
    Rule(
        "kind of test of this school",
        _kind,
        at=("kind",),
        do="Choose the procedure for this kind of test.",
        affects=ENVELOPES,
    ),
    Rule(
        "stages of a consolidated specimen",
        _multistage,
        at=("staging",),
        source=LABORATORY,
        level="stop",
        do="Multistage tests on consolidated specimens are not computed. Shear a fresh specimen at each pressure.",
        affects=ENVELOPES,
    ),
    Rule(
        "pore pressure measured",
        _pore_read,
        level="stop",
        do="Report total stress only; effective strength needs pore pressures.",
        affects=EFFECTIVE,
    ),
    Rule("B measured", before_shear.tried, affects=EFFECTIVE),
    Rule("saturated", before_shear.saturated, affects=ENVELOPES),
    Rule("slow enough", _slow, affects=ENVELOPES),
    Rule(
        "quick enough",
        _not_too_slow,
        level="watch",
        do="Report the rate and the time to failure. Run the next specimen at the rate of the standard.",
    ),
    Rule("consolidation read", before_shear.consolidation_read, level="watch"),
    Rule(
        "cohesion not below nothing",
        _cohesion,
        source=PHYSICS,
        level="watch",
        do="Reported: zero, and the angle through zero. Check transducer zeros, membrane and lowest pressure.",
    ),
    Rule("consolidated to the end", before_shear.consolidated, affects=ENVELOPES),
    Rule(
        "water out comes to an end",
        before_shear.leaks,
        source=LABORATORY,
        do="Membrane or fitting may leak. Look for water and repeat the specimen.",
        affects=ENVELOPES,
    ),
    Rule(
        "height to diameter",
        before_shear.slender,
        do="Trim another: short specimens read strong, long ones buckle.",
        affects=ENVELOPES,
    ),
    Rule("wide enough, also for its grains", before_shear.wide, do="Use a wider specimen.", affects=ENVELOPES),
    Rule(
        "specimens for an envelope",
        _enough,
        at=("specimens",),
        do="Test another specimen.",
        affects=ENVELOPES,
    ),
    Rule(
        "gently saturated",
        before_shear.never_above,
        do="Saturation consolidated the specimen beyond its lowest stage. Repeat with smaller effective steps.",
        affects=ENVELOPES,
    ),
    Rule(
        "membrane thin enough",
        before_shear.membrane,
        do="Use a thinner membrane or a wider specimen.",
        affects=ENVELOPES,
    ),
    Rule(
        "run past its greatest deviator",
        _stopped_early,
        do="The peak deviator was not reached. Test another specimen further.",
        affects=ENVELOPES,
    ),
    Rule(
        "membrane soaked overnight",
        before_shear.soaked,
        level="watch",
        do="Look for a leak, and soak the next membrane overnight.",
    ),
    Rule("cell pressure steady", _drift, level="watch", do="Check the fittings for leaks, and the regulator."),
    Rule(
        "greatest deviator before the end",
        _still_rising,
        level="watch",
        do="Report the deviator at the limiting strain, still rising.",
    ),
    Rule("fails at no great strain", _fails_late, level="watch", do="Report the strain with the strength."),
    Rule(
        "a stage stopped in time",
        _late_stage,
        level="watch",
        do="Stop each stage at its peak stress ratio. Exclude the stages after this one, with a reason.",
    ),
    Rule(
        "specimens alike",
        _voids,
        at=("specimens",),
        level="watch",
        do="Void ratios differ. Trim the next specimen next to the others, or report the difference.",
    ),
    Rule(
        "every circle meets the line",
        _misses,
        source=LABORATORY,
        level="watch",
        do="Check that specimen. If it is faulty, exclude it with a reason; the result shows how the line moves.",
    ),
    Rule(
        "pressures far enough apart",
        _spread,
        at=("specimens",),
        level="watch",
        do="Double the pressure from specimen to specimen.",
    ),
    Rule(
        "no friction in a quick test",
        _friction_check,
        level="watch",
        do="A saturated clay shows none. Check saturation.",
    ),
    Rule("rested under its pressure", before_shear.rested, level="watch", do="Report it."),
    Rule(
        "nothing assumed",
        before_shear.assumed,
        source=LABORATORY,
        level="watch",
        do="Measure it; results that depend on an assumed value are marked #.",
    ),
    Rule(
        "membrane's thickness known",
        before_shear.thickness,
        level="watch",
        do="Measure the thickness, or enter the maker's figure.",
    ),
    Rule(
        "load zeroed under pressure",
        before_shear.zeroed,
        at=("piston_zeroed",),
        level="watch",
        do="Enter the piston's area.",
    ),
    Rule("no fuller than full", before_shear.full, source=PHYSICS),
    Rule(
        "load cell in date",
        lambda f, s: readers_in_date(f.record, (("load_cell", "load cell"),)),
        level="watch",
        do="Calibrate it. Until then the report states that the calibration is out of date.",
    ),
    balance_in_date,
    Forecast("peak passed", _foreseen),
)
