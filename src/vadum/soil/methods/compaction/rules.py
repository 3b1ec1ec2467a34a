"""The rules that judge a compaction curve."""

from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_most, said
from vadum.soil.methods.compaction.facts import Facts
from vadum.soil.methods.compaction.school import CompactionSchool
from vadum.soil.shared.phases import zero_air_mg_m3
from vadum.soil.shared.water_by_tin import balance_in_date, measured_percent, tins_possible, tins_told_apart

ZERO_AIR_SLACK = 1.002  # the mould's volume is known to about two parts in a thousand; laboratory setting


def _full(f: Facts, s: CompactionSchool) -> Iterator[Seen]:
    empty = f.record.mould_mass_g
    for i, row in enumerate(f.record.points):
        full = row.mass_with_soil_g
        if not row.excluded_because and known(full) and known(empty) and 0 < full <= empty:
            words = f"point {i + 1}: {plain(full, 6)} ≤ {plain(empty, 6)} g"
            yield Seen(False, words, "mould < mould + soil", (f"points[{i}].mass_with_soil_g",))


def _top(f: Facts, s: CompactionSchool) -> Seen | None:
    if len(f.counting) < max(3, s.least_points - 1):
        return None
    return said(f.peak is not None, f"{s.fit} through {len(f.counting)} points", "a maximum")


def _sides(f: Facts, s: CompactionSchool) -> Seen | None:
    if f.peak is None or len(f.counting) < s.least_points - 1:
        return None
    drier = sum(m.water_percent < f.peak.water_percent for m in f.counting)
    wetter = sum(m.water_percent > f.peak.water_percent for m in f.counting)
    do = f"Compact another point {'drier' if drier < wetter else 'wetter'} than the peak."
    held = min(drier, wetter) >= s.least_each_side
    return said(held, f"{drier} drier, {wetter} wetter", f"{s.least_each_side} each", do=do)


def _tested(f: Facts, s: CompactionSchool) -> Seen | None:
    if f.peak is None or len(f.counting) < 3:
        return None
    low, high = min(m.water_percent for m in f.counting), max(m.water_percent for m in f.counting)
    held = compare.within(f.peak.water_percent, low, high)
    return said(held, f"{plain(f.peak.water_percent, 3)} %", f"{plain(low, 3)} to {plain(high, 3)} %")


def _zero_air(f: Facts, s: CompactionSchool) -> Iterator[Seen]:
    gravity = f.record.specific_gravity_ratio
    if not known(gravity) or gravity <= 1:
        return
    lines = {m.row: zero_air_mg_m3(m.water_percent, gravity) for m in f.counting}
    beyond = [m for m in f.counting if m.dry_mg_m3 > lines[m.row] * ZERO_AIR_SLACK]
    if f.counting and not beyond:
        nearest = max(f.counting, key=lambda m: m.dry_mg_m3 / lines[m.row])
        found = f"nearest point {nearest.row + 1}: {plain(nearest.dry_mg_m3)} Mg/m³"
        yield Seen(True, found, f"{plain(lines[nearest.row])} Mg/m³ without air")
    assumed = f.record.specific_gravity_from != "measured"
    do = "Weigh mould and tin again." + (" Gs is assumed: measure it." if assumed else "")
    for m in beyond:
        words = f"point {m.row + 1}: {plain(m.dry_mg_m3)} Mg/m³ at {plain(m.water_percent, 3)} %"
        limit, at = f"{plain(lines[m.row])} Mg/m³ without air", (f"points[{m.row}].mass_with_soil_g",)
        told = f"{do} The water content is still told from the water added."
        yield Seen(False, words, limit, at, told if m.about else do, "watch" if m.about else "stop")


def _measured(f: Facts, s: CompactionSchool) -> Seen | None:
    value, source = f.record.specific_gravity_ratio, f.record.specific_gravity_from
    if value is None or source is None:
        return None
    return said(source == "measured", f"{plain(value)}, {source}", "measured on this soil")


def _mould(f: Facts, s: CompactionSchool) -> Seen | None:
    volume = f.record.mould_volume_cm3
    if not known(volume) or volume <= 0:
        return None
    held = compare.at_most(100 * abs(volume / s.mould_cm3 - 1), s.mould_tolerance_percent)
    return said(held, f"{plain(volume)} cm³", f"{plain(s.mould_cm3)} cm³ ± {plain(s.mould_tolerance_percent)} %")


def _stones(f: Facts, s: CompactionSchool) -> Seen | None:
    share = f.record.oversize_percent
    good = known(share) and 0 <= share < 100
    return at_most(share, s.most_oversize_percent, "%", digits=3) if good else None


def _estimates(f: Facts, s: CompactionSchool) -> Iterator[Seen]:
    limit, good = f"{plain(s.most_estimate_gap_percent)} points", 0
    for i, (row, estimate) in enumerate(zip(f.record.points, f.estimates, strict=True)):
        measured = measured_percent(row)
        if measured is None or estimate is None or row.excluded_because:
            continue
        apart = abs(measured - estimate)
        if compare.at_most(apart, s.most_estimate_gap_percent):
            good += 1
        else:
            yield Seen(False, f"point {i + 1}: {plain(apart, 2)} points apart", limit, (f"points[{i}].mass_dry_g",))
    if good:
        yield Seen(True, f"{good} points", limit)


RULES: tuple[Judge, ...] = (
    *tins_told_apart("points", "point"),
    tins_possible("points", "point"),
    Rule(
        "the mould with soil weighs more than the mould",
        _full,
        source=PHYSICS,
        level="stop",
        do="Look at the digits; strike the wrong one.",
    ),
    Rule(
        # A parabola that opens upward has no peak: some point is wrong, or the wet side was never reached.
        "the curve has a top",
        _top,
        at=("points",),
        source="geometry",
        do="Look for a wrong tin or mass; compact points drier and wetter.",
    ),
    Rule("points on both sides of the peak", _sides, at=("points",)),
    Rule(
        "peak within the tested range",
        _tested,
        at=("points",),
        level="stop",
        do="The peak was not reached: compact points on its other side.",
    ),
    Rule(
        # Right of the line a soil would hold less than no air: its water, its mass or Gs is wrong.
        "left of the zero-air line",
        _zero_air,
        source=PHYSICS,
    ),
    Rule(
        "specific gravity measured",
        _measured,
        at=("specific_gravity_from",),
        source=LABORATORY,
        level="watch",
        do="The air lines and the saturation are only as good as the assumed figure.",
        affects=("saturation_at_optimum_percent",),
    ),
    Rule(
        "mould as the school has it",
        _mould,
        at=("mould_volume_cm3",),
        level="watch",
        do="Another mould means another effort: choose its school, or calibrate the mould.",
    ),
    Rule(
        "stones few enough for the correction",
        _stones,
        at=("oversize_percent",),
        source="ASTM D4718",
        level="watch",
        do="Use a larger mould, or compare with a test fill.",
    ),
    Rule(
        "tin agrees with the water added",
        _estimates,
        source=LABORATORY,
        level="watch",
        do="A wrong tin, water not noted, or soil that dried: find which.",
    ),
    balance_in_date,
)
