"""The rules that judge a compaction curve."""

from collections.abc import Iterator

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import Judge
from vadum.soil.contract.verdicts import possible, ruling
from vadum.soil.methods.compaction.facts import Facts
from vadum.soil.methods.compaction.peak import Peak, peak_of
from vadum.soil.methods.compaction.points import Made, estimates_percent, points
from vadum.soil.methods.compaction.record import Record
from vadum.soil.methods.compaction.school import CompactionSchool
from vadum.soil.shared.phases import zero_air_mg_m3
from vadum.soil.shared.water_by_tin import balance_in_date, masses_possible, measured_percent

ZERO_AIR_SLACK = 1.002  # the mould's volume is known to about two parts in a thousand; laboratory setting


def masses_obey_physics(facts: Facts, school: CompactionSchool) -> Iterator[Verdict]:
    """No impossible mass in the mould or in a tin of a point that is not left out."""
    record = facts.record
    fields = type(record).model_fields
    for name in ("mould_mass_g", "mould_volume_cm3", "mass_portion_g"):
        yield from possible([(name, str(fields[name].title), getattr(record, name))], strictly=True)
    for name, high in (("portion_water_percent", 200.0), ("oversize_percent", 99.0), ("oversize_water_percent", 60.0)):
        yield from possible([(name, str(fields[name].title), getattr(record, name))], high=high, unit="%")
    for name in ("specific_gravity_ratio", "oversize_gravity_ratio"):
        yield from possible([(name, str(fields[name].title), getattr(record, name))], low=1.0, high=6.0)
    for i, row in enumerate(record.points):
        if row.excluded_because:
            continue
        at, name = f"points[{i}].", f"point {i + 1}"
        yield from masses_possible(row.mass_tin_g, row.mass_wet_g, row.mass_dry_g, at, name)
        water = (f"{at}water_added_ml", f"{name}: water added", row.water_added_ml)
        yield from possible([water], low=-2000, high=20_000, unit="mL")
        full, empty = row.mass_with_soil_g, record.mould_mass_g
        yield from possible([(f"{at}mass_with_soil_g", f"{name}: mould + wet soil", full)], strictly=True, unit="g")
        if known(full) and known(empty) and 0 < full <= empty:
            yield Verdict(
                rule="the mould with soil weighs more than the mould",
                level="stop",
                found=f"{name}: {plain(full, 6)} ≤ {plain(empty, 6)} g",
                limit="mould < mould + soil",
                source="physics",
                remedy="Look at the digits; strike the wrong one.",
                at=(f"{at}mass_with_soil_g",),
            )


def _counting(record: Record, school: CompactionSchool) -> list[Made]:
    return [m for m in points(record, school) if m.counts]


def _peak(record: Record, school: CompactionSchool) -> Peak | None:
    made = _counting(record, school)
    try:
        return peak_of(made, school) if len(made) >= 3 else None
    except ReductionError:
        return None


def curve_has_a_top(facts: Facts, school: CompactionSchool) -> Iterator[Verdict]:
    """A parabola that opens upward has no peak."""
    record = facts.record
    made = _counting(record, school)
    if len(made) < max(3, school.least_points - 1):
        return
    yield ruling(
        "the curve has a top",
        _peak(record, school) is not None,
        f"{school.fit} through {len(made)} points",
        "a maximum",
        "geometry",
        "Look for a wrong tin or mass; compact points drier and wetter.",
        ("points",),
    )


def points_on_both_sides(facts: Facts, school: CompactionSchool) -> Iterator[Verdict]:
    """Two points drier and two wetter than the peak."""
    record = facts.record
    peak, made = _peak(record, school), _counting(record, school)
    if peak is None or len(made) < school.least_points - 1:
        return
    drier = sum(m.water_percent < peak.water_percent for m in made)
    wetter = sum(m.water_percent > peak.water_percent for m in made)
    side = "drier" if drier < wetter else "wetter"
    yield ruling(
        "points on both sides of the peak",
        min(drier, wetter) >= school.least_each_side,
        f"{drier} drier, {wetter} wetter",
        f"{school.least_each_side} each",
        school.standard,
        f"Compact another point {side} than the peak.",
        ("points",),
    )


def peak_within_the_points(facts: Facts, school: CompactionSchool) -> Iterator[Verdict]:
    """An optimum outside the tested water contents is a guess."""
    record = facts.record
    peak, made = _peak(record, school), _counting(record, school)
    if peak is None or len(made) < 3:
        return
    low, high = min(m.water_percent for m in made), max(m.water_percent for m in made)
    yield ruling(
        "peak within the tested range",
        low <= peak.water_percent <= high,
        f"{plain(peak.water_percent, 3)} %",
        f"{plain(low, 3)} to {plain(high, 3)} %",
        school.standard,
        "The peak was not reached: compact points on its other side.",
        ("points",),
        otherwise="stop",
    )


def left_of_zero_air(facts: Facts, school: CompactionSchool) -> Iterator[Verdict]:
    """A point right of the zero-air line holds less than no air: its water, its mass or Gs is wrong."""
    record = facts.record
    gravity = record.specific_gravity_ratio
    if not known(gravity) or gravity <= 1:
        return
    made = _counting(record, school)
    beyond = [m for m in made if m.dry_mg_m3 > zero_air_mg_m3(m.water_percent, gravity) * ZERO_AIR_SLACK]
    if made and not beyond:
        nearest = max(made, key=lambda m: m.dry_mg_m3 / zero_air_mg_m3(m.water_percent, gravity))
        found = f"nearest point {nearest.row + 1}: {plain(nearest.dry_mg_m3)} Mg/m³"
        limit = f"{plain(zero_air_mg_m3(nearest.water_percent, gravity))} Mg/m³ without air"
        yield ruling("left of the zero-air line", True, found, limit, "physics", "")
    assumed = record.specific_gravity_from != "measured"
    remedy = "Weigh mould and tin again." + (" Gs is assumed: measure it." if assumed else "")
    for m in beyond:
        yield ruling(
            "left of the zero-air line",
            False,
            f"point {m.row + 1}: {plain(m.dry_mg_m3)} Mg/m³ at {plain(m.water_percent, 3)} %",
            f"{plain(zero_air_mg_m3(m.water_percent, gravity))} Mg/m³ without air",
            "physics",
            remedy if not m.about else f"{remedy} The water content is still told from the water added.",
            (f"points[{m.row}].mass_with_soil_g",),
            otherwise="watch" if m.about else "stop",
        )


def gravity_measured(facts: Facts, school: CompactionSchool) -> Iterator[Verdict]:
    """The air lines stand or fall with the specific gravity."""
    record = facts.record
    if record.specific_gravity_ratio is None or record.specific_gravity_from is None:
        return
    yield ruling(
        "specific gravity measured",
        record.specific_gravity_from == "measured",
        f"{plain(record.specific_gravity_ratio)}, {record.specific_gravity_from}",
        "measured on this soil",
        "laboratory setting",
        "The air lines and the saturation are only as good as the assumed figure.",
        ("specific_gravity_from",),
        otherwise="watch",
        affects=("saturation_at_optimum_percent",),
    )


def mould_is_the_schools(facts: Facts, school: CompactionSchool) -> Iterator[Verdict]:
    """The mould's volume is the one the effort is meant for."""
    record = facts.record
    if known(record.mould_volume_cm3) and record.mould_volume_cm3 > 0:
        away = 100 * abs(record.mould_volume_cm3 / school.mould_cm3 - 1)
        yield ruling(
            "mould as the school has it",
            away <= school.mould_tolerance_percent,
            f"{plain(record.mould_volume_cm3)} cm³",
            f"{plain(school.mould_cm3)} cm³ ± {plain(school.mould_tolerance_percent)} %",
            school.standard,
            "Another mould means another effort: choose its school, or calibrate the mould.",
            ("mould_volume_cm3",),
            otherwise="watch",
        )


def few_enough_stones(facts: Facts, school: CompactionSchool) -> Iterator[Verdict]:
    """The stones' correction holds for few stones."""
    record = facts.record
    if known(record.oversize_percent) and 0 <= record.oversize_percent < 100:
        yield ruling(
            "stones few enough for the correction",
            record.oversize_percent <= school.most_oversize_percent,
            f"{plain(record.oversize_percent, 3)} %",
            f"{plain(school.most_oversize_percent)} %",
            "ASTM D4718",
            "Use a larger mould, or compare with a test fill.",
            ("oversize_percent",),
            otherwise="watch",
        )


def estimates_agree(facts: Facts, school: CompactionSchool) -> Iterator[Verdict]:
    """The tin and the water added tell the same water content."""
    record = facts.record
    estimates = estimates_percent(record, school)
    limit = f"{plain(school.most_estimate_gap_percent)} points"
    good = 0
    for i, (row, estimate) in enumerate(zip(record.points, estimates, strict=True)):
        measured = measured_percent(row)
        if measured is None or estimate is None or row.excluded_because:
            continue
        apart = abs(measured - estimate)
        if apart <= school.most_estimate_gap_percent:
            good += 1
            continue
        yield ruling(
            "tin agrees with the water added",
            False,
            f"point {i + 1}: {plain(apart, 2)} points apart",
            limit,
            "laboratory setting",
            "A wrong tin, water not noted, or soil that dried: find which.",
            (f"points[{i}].mass_dry_g",),
            otherwise="watch",
        )
    if good:
        yield ruling("tin agrees with the water added", True, f"{good} points", limit, "laboratory setting", "")


RULES: tuple[Judge, ...] = (
    masses_obey_physics,
    curve_has_a_top,
    points_on_both_sides,
    peak_within_the_points,
    left_of_zero_air,
    gravity_measured,
    mould_is_the_schools,
    few_enough_stones,
    estimates_agree,
    balance_in_date,
)
