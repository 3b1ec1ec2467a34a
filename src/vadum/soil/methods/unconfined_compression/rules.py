"""The rules that judge an unconfined compression."""

from collections.abc import Iterator
from datetime import datetime

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level, Verdict
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Forecast, Judge, Rule, Seen, at_least, at_most, said, within
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.unconfined_compression.core import BACK_MM
from vadum.soil.methods.unconfined_compression.facts import Facts
from vadum.soil.methods.unconfined_compression.record import STIFFNESS, STRENGTH
from vadum.soil.methods.unconfined_compression.school import UnconfinedSchool
from vadum.soil.shared.force_reading import range_of, readers_in_date
from vadum.soil.shared.phases import full_at_most
from vadum.soil.shared.series_of_readings import runs_backwards, within_range
from vadum.soil.shared.slenderness import slender
from vadum.soil.shared.water_by_tin import balance_in_date, tin_possible, tin_registered

CURVE = (*STRENGTH, *STIFFNESS)


def _loaded(f: Facts, s: UnconfinedSchool) -> Seen | None:
    if len(f.points) < 3 or not f.over:
        return None
    most = max(p.force_n for p in f.points)
    return said(most > 0, f"greatest net force {plain(most)} N", "above 0 N", ("readings",))


def _grain(f: Facts, s: UnconfinedSchool) -> Seen | None:
    grain = f.record.largest_particle_mm
    if f.core is None or not known(grain):
        return None
    d = f.core.diameter_mm
    share = s.grain_share_large_ratio if compare.at_least(d, s.large_from_mm) else s.grain_share_ratio
    return at_most(grain, d / share, "mm", limit_words=f"{{}}: the diameter over {plain(share)}", digits=3)


def _rate(f: Facts, s: UnconfinedSchool) -> Seen | None:
    rate = f.rate_percent_min
    low, high = s.least_rate_percent_min, s.most_rate_percent_min
    if rate is None:
        return None
    far = rate > (1 + s.rate_beyond_ratio) * high or rate < (1 - s.rate_beyond_ratio) * low
    level: Level = "redo" if far else "watch"
    do = "Repeat at the right rate." if far else "A quick core reads high, a slow one creeps: say so on the sheet."
    return within(rate, (low, high), "% a minute", digits=3, do=do, level=level)


def _stopped_early(f: Facts, s: UnconfinedSchool) -> Seen | None:
    if not f.over or f.peak is None:
        return None
    at_stop = compare.at_least(100 * f.last_strain, 0.999 * s.stop_strain_percent)
    fell = f.fell_percent >= s.least_fall_percent
    words = f"ends at {plain(100 * f.last_strain, 3)} % strain, {plain(f.fell_percent, 2)} % below its peak"
    return said(at_stop or fell, words, f"past the peak, or {plain(s.stop_strain_percent)} % strain", ("readings",))


def _still_rising(f: Facts, s: UnconfinedSchool) -> Seen | None:
    if f.peak is None or not f.over or not compare.at_least(100 * f.last_strain, 0.999 * s.stop_strain_percent):
        return None
    found = f"greatest at {plain(100 * f.peak.strain, 3)} % strain"
    return said(not f.peak.rising, found, f"a peak before {plain(s.stop_strain_percent)} %")


def time_to_failure(facts: Facts, school: UnconfinedSchool) -> Iterator[Verdict]:
    """The core failed within the school's own time; one that sets no least time has none."""
    minutes, low, high = facts.failure_min, school.least_failure_min, school.most_failure_min
    if minutes is None or not facts.over:
        return
    limit = f"at most {plain(high)} min" if low is None else f"{plain(low)} to {plain(high)} min"
    held = compare.at_most(minutes, high) and (low is None or compare.at_least(minutes, low))
    do = "A slow core drains and creeps: say so on the sheet." if minutes > high else "Too quick: say so on the sheet."
    seen = said(held, f"{plain(minutes, 3)} min", limit, ("readings",), do)
    yield from Rule("time to failure", lambda f, s: seen, level="watch")(facts, school)


def _square(f: Facts, s: UnconfinedSchool) -> Seen | None:
    ends = f.record.ends_square
    return None if ends is None else said(ends == "yes", f"ends square: {ends}", "parallel and square")


def _density_from(f: Facts, s: UnconfinedSchool) -> Seen | None:
    value, source = f.record.particle_density_mg_m3, f.record.particle_density_from
    if value is None:
        return None
    return said(
        source == "measured", f"{plain(value)} Mg/m³, {source or 'not said from where'}", "measured on this soil"
    )


def _water_from(f: Facts, s: UnconfinedSchool) -> Seen | None:
    source = f.record.water_from
    return (
        None if source is None or f.tin is None else said(source == "specimen", f"of the {source}", "of the specimen")
    )


def _natural(f: Facts, s: UnconfinedSchool) -> Seen | None:
    natural, water = f.record.natural_water_percent, f.state.water_percent
    if not known(natural) or water is None:
        return None
    return at_most(abs(water - natural), s.most_water_gap_percent, "points", "{} from the natural one", digits=2)


def _discontinuities(f: Facts, s: UnconfinedSchool) -> Seen | None:
    seen = [word for word in ("fissures", "stones") if getattr(f.record, word) == "yes"]
    asked = f.record.fissures is not None or f.record.stones is not None
    return said(not seen, " and ".join(seen) or "none seen", "none") if asked else None


def _range(f: Facts, s: UnconfinedSchool) -> Seen | None:
    """The failure force against the range of what reads it."""
    if f.peak is None or not f.over:
        return None
    most = f.record.load_cell_most_n
    if f.record.load_by == "proving ring" or not known(most) or most <= 0:
        return None
    share = 100 * f.peak.force_n / most
    return at_least(share, s.lowest_of_range_percent, "%", "{} of the cell's range", digits=2)


def _beyond_range(f: Facts, s: UnconfinedSchool) -> Iterator[Seen]:
    return within_range(f.record.readings, "readings", *range_of(f.record))


def _same_state(f: Facts, s: UnconfinedSchool) -> Seen | None:
    """Sensitivity compares like with like: the remoulded core at the same water and density."""
    r = f.record
    if not known(r.remoulded_strength_kpa):
        return None
    gaps, held = [], True
    if known(r.remoulded_water_percent) and f.state.water_percent is not None:
        gap = abs(r.remoulded_water_percent - f.state.water_percent)
        gaps.append(f"{plain(gap, 2)} points of water")
        held = held and compare.at_most(gap, s.remoulded_water_percent)
    if known(r.remoulded_density_mg_m3) and f.state.density_mg_m3:
        gap = 100 * abs(r.remoulded_density_mg_m3 / f.state.density_mg_m3 - 1)
        gaps.append(f"{plain(gap, 2)} % of density")
        held = held and compare.at_most(gap, s.remoulded_density_percent)
    limit = f"{plain(s.remoulded_water_percent)} point and {plain(s.remoulded_density_percent)} %"
    return said(held and len(gaps) == 2, " and ".join(gaps) or "its state is not known", limit)


def _above_remoulded(f: Facts, s: UnconfinedSchool) -> Seen | None:
    remoulded = f.record.remoulded_strength_kpa
    if not known(remoulded) or f.peak is None or not f.over:
        return None
    words = f"{plain(f.peak.stress_kpa, 3)} kPa, remoulded {plain(remoulded, 3)} kPa"
    return said(f.peak.stress_kpa >= remoulded, words, "at least the remoulded one")


def _noted(f: Facts, s: UnconfinedSchool) -> Seen | None:
    notes = [(i, r.noted) for i, r in enumerate(f.record.readings) if r.noted]
    if not f.record.readings:
        return None
    i, words = notes[0] if notes else (0, "nothing noted")
    return said(not notes, f"{words} at reading {i + 1}" if notes else words, "nothing", (f"readings[{i}].noted",))


def past_peak_percent(f: Facts, s: UnconfinedSchool) -> float | None:
    """How much strain lies behind the peak, percent; None while the stress has not truly fallen."""
    if f.peak is None or f.peak.stress_kpa <= 0 or compare.below(f.fell_percent, s.least_fall_percent):
        return None
    return 100 * (f.last_strain - f.peak.strain)


def may_stop(f: Facts, s: UnconfinedSchool) -> bool:
    """Whether the series has gone far enough past its peak."""
    past = past_peak_percent(f, s)
    return past is not None and compare.at_least(past, s.past_peak_percent)


def past_peak_words(f: Facts, s: UnconfinedSchool) -> str:
    """What the series may do now that its peak is behind it; empty before."""
    past = past_peak_percent(f, s)
    if past is None:
        return ""
    return "it may stop" if may_stop(f, s) else f"past the peak: {plain(s.past_peak_percent - past, 2)} % more"


def left_min(f: Facts, s: UnconfinedSchool, now: datetime) -> float | None:
    """Minutes that are left until failure must have come, below 0 when it is late; None before the first reading."""
    began = next((r.read_at for r in f.record.readings if r.read_at is not None), None)
    return None if began is None else s.most_failure_min - minutes_between(began, now)


def _foreseen(f: Facts, s: UnconfinedSchool) -> str:
    """The peak has passed and lies far enough behind."""
    if f.over or f.peak is None or not may_stop(f, s):
        return ""
    return f"{plain(s.past_peak_percent)} % past the peak of {f.peak.stress_kpa:.0f} kPa: it may stop."


RULES: tuple[Judge, ...] = (
    tin_registered("tin"),
    tin_possible("tin"),
    Rule(
        "the platen only comes down",
        lambda f, s: runs_backwards(f.record.readings, "readings", "deformation_mm", BACK_MM),
        source=PHYSICS,
        level="stop",
        do="Strike the wrong one, or leave the reading out with a reason.",
        affects=CURVE,
    ),
    Rule(
        "the core carried load",
        _loaded,
        source=PHYSICS,
        level="stop",
        do="Look at the cell's zero and its sign; the series gives no strength.",
        affects=CURVE,
    ),
    Rule(
        "force within the range of what reads it",
        _beyond_range,
        source="its calibration",
        level="stop",
        do="Stop: a stiffer ring or a larger cell; strike the reading if it is a slip.",
        affects=CURVE,
        at_once=True,
    ),
    Rule(
        # A short core is held by the friction of its ends and reads strong; a long one buckles and reads weak.
        "height to diameter",
        lambda f, s: slender(
            f.core.slenderness_ratio if f.core else None,
            s.least_slenderness_ratio,
            s.most_slenderness_ratio,
            s.shape_decimals,
        ),
        at=("height_1_mm",),
        do="Trim another core: short ones read too strong, long ones buckle.",
        affects=CURVE,
    ),
    Rule(
        "core wide enough",
        lambda f, s: at_least(f.core.diameter_mm if f.core else None, s.least_diameter_mm, "mm"),
        at=("diameter_middle_mm",),
        do="Take a wider core.",
        affects=CURVE,
    ),
    Rule(
        "core wide enough for its largest grain",
        _grain,
        at=("largest_particle_mm",),
        do="A wider core, or say that the grain decided: its strength is not the soil's.",
        affects=CURVE,
    ),
    Rule("rate of strain", _rate, at=("rate_mm_min",), affects=CURVE),
    Rule(
        "run past the peak",
        _stopped_early,
        do="The greatest stress was not reached: test another core.",
        affects=CURVE,
    ),
    Rule(
        "a peak before the stop strain",
        _still_rising,
        at=("readings",),
        level="watch",
        do="The value at the stop strain is reported, and that it was still rising.",
    ),
    time_to_failure,
    Rule(
        # Half of the strength is the undrained one of a saturated core alone: air lets it take up friction.
        "core saturated",
        lambda f, s: at_least(f.state.saturation_percent, s.least_saturation_percent, "%", digits=3),
        at=("particle_density_mg_m3",),
        source=LABORATORY,
        level="watch",
        do="Half of the strength is a weak measure of the undrained strength here: say so beside it.",
    ),
    Rule(
        "saturation at most 100 %",
        lambda f, s: full_at_most(f.state.saturation_percent, "Recheck mass, sizes, tin and particle density."),
        at=("particle_density_mg_m3",),
        source=PHYSICS,
        affects=("saturation_percent", "void_ratio", "dry_density_mg_m3", "density_mg_m3"),
    ),
    Rule(
        "particle density measured",
        _density_from,
        at=("particle_density_from",),
        source=LABORATORY,
        level="watch",
        do="The saturation stands on an assumed particle density and is marked so.",
    ),
    Rule(
        "ends parallel and square",
        _square,
        at=("ends_square",),
        level="watch",
        do="Askew ends load one side first: trim them in the mould next time.",
    ),
    Rule(
        "diameter even along the core",
        lambda f, s: at_most(f.core.taper_percent if f.core else None, s.most_taper_percent, "%", digits=2),
        at=("diameter_top_mm", "diameter_bottom_mm"),
        source=LABORATORY,
        level="watch",
        do="The thin end carries more stress: say so, or trim another.",
    ),
    Rule(
        "water content of the specimen itself",
        _water_from,
        at=("water_from",),
        level="watch",
        do="Trimmings dry while the core is set up: weigh the whole core after the test.",
    ),
    Rule(
        "water content as in the ground",
        _natural,
        at=("natural_water_percent",),
        source=LABORATORY,
        level="watch",
        do="The core dried or took up water: drying adds strength.",
    ),
    Rule(
        "no fissures or stones",
        _discontinuities,
        at=("fissures", "stones"),
        level="watch",
        do="The core failed where it was weakest, or where a stone stood: say so beside the strength.",
    ),
    Rule(
        "failure force well inside the range",
        _range,
        at=("load_cell_most_n",),
        source=LABORATORY,
        level="watch",
        do="A smaller cell reads this core better.",
    ),
    Rule(
        "remoulded core in the same state",
        _same_state,
        at=("remoulded_strength_kpa",),
        source=LABORATORY,
        level="watch",
        do="The sensitivity compares cores of another water content or density: say so.",
    ),
    Rule(
        "stronger than remoulded",
        _above_remoulded,
        at=("remoulded_strength_kpa",),
        source=PHYSICS,
        do="Remoulding adds no strength: look which of the two is wrong.",
        affects=("sensitivity_ratio", "sensitivity_class"),
    ),
    Rule(
        "nothing happened while it sheared",
        _noted,
        level="watch",
        do="Look at the curve around it; leave readings out with a reason where they are spoilt.",
    ),
    Rule(
        "load cell or ring in date",
        lambda f, s: readers_in_date(f.record),
        source=LABORATORY,
        level="watch",
        do="Have it calibrated; say on the sheet that it had lapsed.",
    ),
    balance_in_date,
    Forecast("past the peak", _foreseen),
)
