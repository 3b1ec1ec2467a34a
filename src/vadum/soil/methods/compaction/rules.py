"""The rules that judge a compaction curve."""

from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_most, said, within
from vadum.soil.methods.compaction.facts import LEAST_TO_JUDGE, Facts
from vadum.soil.methods.compaction.school import CompactionSchool
from vadum.soil.shared.phases import saturation_percent, zero_air_mg_m3
from vadum.soil.shared.physics import WATER_20_MG_M3
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


def _saturated(f: Facts, s: CompactionSchool) -> Seen | None:
    gravity = f.record.specific_gravity_ratio
    if f.peak is None or f.flat or not known(gravity) or gravity * WATER_20_MG_M3 <= f.peak.dry_mg_m3:
        return None
    found = saturation_percent(f.peak.water_percent, f.peak.dry_mg_m3, gravity * WATER_20_MG_M3)
    return within(found, s.saturation_band_percent, "%", "{}", digits=3)


def _energy(f: Facts, s: CompactionSchool) -> Iterator[Seen]:
    wanted, good = s.energy_kj_m3, 0
    if wanted is None:
        return
    volume = f.record.mould_volume_cm3
    # Of this mould: its volume is judged by its own rule.
    own = wanted * s.mould_cm3 / volume if known(volume) and volume > 0 else wanted
    limit = f"{plain(own, 4)} kJ/m³ ± {plain(s.energy_within_percent)} %"
    for m in f.counting:
        if m.energy_kj_m3 is None:
            continue
        if compare.at_most(100 * abs(m.energy_kj_m3 / own - 1), s.energy_within_percent):
            good += 1
        else:
            at = (f"points[{m.row}].blows",)
            yield Seen(False, f"point {m.row + 1}: {plain(m.energy_kj_m3, 4)} kJ/m³", limit, at)
    if good:
        yield Seen(True, f"{good} points", limit)


def _drains(f: Facts, s: CompactionSchool) -> Seen | None:
    if len(f.counting) < LEAST_TO_JUDGE:
        return None
    ran = f.record.free_draining == "yes"
    held = not (ran or f.flat or f.tops > 1)
    words = "water ran from the mould" if ran else "the curve is flat" if f.flat else "the curve has two tops"
    return said(held, "one top" if held else words, "one top, and the water stays")


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
    if known(share) and 0 < share < s.least_oversize_percent:
        limit = f"below {plain(s.least_oversize_percent)} %: no correction is needed"
        return said(True, f"{plain(share, 3)} %", limit)
    words = f"{{}} over {plain(s.oversize_over_mm)} mm"
    return at_most(share, s.most_oversize_percent, "%", words, digits=3) if good else None


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
        "saturation at the optimum",
        _saturated,
        at=("specific_gravity_ratio",),
        source=LABORATORY,
        level="watch",
        do="Most soils are 75 to 95 % full there: look at Gs and at the tins.",
    ),
    Rule(
        "every point with the school's effort",
        _energy,
        source=LABORATORY,
        level="watch",
        do="The point belongs to another curve: leave it out with a reason, or say so.",
    ),
    Rule(
        # Clean sand holds no water to be pressed out: it bulks when damp, and its optimum means nothing.
        "the soil holds its water",
        _drains,
        at=("free_draining",),
        source=LABORATORY,
        level="watch",
        do="It drains freely: take a vibrating method (hammer, table), and say by which effort the maximum was found.",
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
