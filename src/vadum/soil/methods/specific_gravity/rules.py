"""The rules that judge a specific gravity."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_most, said, within
from vadum.soil.contract.times import span
from vadum.soil.methods.specific_gravity.facts import Facts, full_now_g
from vadum.soil.methods.specific_gravity.school import SpecificGravitySchool
from vadum.soil.shared.water_by_tin import balance_in_date


def _order(f: Facts, s: SpecificGravitySchool) -> Iterator[Seen]:
    """Empty below full of water, full below with soil, with soil below water + soil: soil displaces water."""
    for i, row in enumerate(f.record.determinations):
        if row.excluded_because:
            continue
        empty, full, soil, with_soil = row.mass_pycnometer_g, row.mass_full_g, row.mass_dry_soil_g, row.mass_with_soil_g
        now = full_now_g(row)
        pairs: list[tuple[str, float, str, float, str]] = []
        if known(empty) and known(full):
            pairs.append(("empty", empty, "full of water", full, "mass_full_g"))
        if now is not None and known(with_soil):
            pairs.append(("full of water", now, "with soil", with_soil, "mass_with_soil_g"))
            if known(soil):
                pairs.append(("with soil", with_soil, "water + soil", now + soil, "mass_with_soil_g"))
        for lighter, low, heavier, high, field in pairs:
            if low >= high:
                words = f"pycnometer {i + 1}: {lighter} {plain(low, 6)} ≥ {heavier} {plain(high, 6)} g"
                yield Seen(False, words, f"{lighter} < {heavier}", (f"determinations[{i}].{field}",))


def _gas(f: Facts, s: SpecificGravitySchool) -> Iterator[Seen]:
    """Gas that expands falls in pressure, and what is left of the cell's volume lies within the cell."""
    for i, row in enumerate(f.record.determinations):
        first, second, cell, chamber = row.gas_first_kpa, row.gas_second_kpa, row.cell_cm3, row.expansion_cm3
        if row.excluded_because or not (known(first) and known(second) and first > 0 and second > 0):
            continue
        at = (f"determinations[{i}].gas_second_kpa",)
        if second >= first:
            yield Seen(False, f"cell {i + 1}: {plain(first)} then {plain(second)} kPa", "falling", at)
        elif known(cell) and known(chamber):
            volume = cell - chamber * (first / second - 1)
            yield Seen(0 < volume < cell, f"cell {i + 1}: solids {plain(volume, 4)} cm³", f"0 to {plain(cell)} cm³", at)


def _air(f: Facts, s: SpecificGravitySchool) -> Seen | None:
    by, minutes = f.record.deaired_by, f.record.deaired_min
    if by is None or not known(minutes):
        return None
    least = s.vacuum_min if by == "vacuum" else s.boiling_min
    return said(minutes >= least, f"{by}, {span(minutes)}", f"{span(least)} or more")


def _calibration(f: Facts, s: SpecificGravitySchool) -> Iterator[Seen]:
    for i, row in enumerate(f.record.determinations):
        if not row.excluded_because and known(row.full_at_c) and known(row.temperature_c):
            away, at = abs(row.temperature_c - row.full_at_c), (f"determinations[{i}].temperature_c",)
            words = f"pycnometer {i + 1}: {{}} away"
            seen = at_most(away, s.most_from_calibration_c, "°C", words, digits=2, at=at)
            if seen:
                yield seen


RULES: tuple[Judge, ...] = (
    Rule(
        "masses in their order",
        _order,
        source=PHYSICS,
        level="stop",
        do="Look at the digits and the pycnometer's number; strike the wrong one.",
    ),
    Rule(
        "the gas expands",
        _gas,
        source=PHYSICS,
        level="stop",
        do="Look at both pressures and at the cell's volumes; strike the wrong one.",
    ),
    Rule(
        "determinations agree",
        lambda f, s: (
            at_most(f.gravity.apart, s.most_apart, "", "{} apart", digits=2) if f.gravity and len(f.found) > 1 else None
        ),
        at=("determinations",),
        do="Repeat with another pycnometer; air left in the soil reads low.",
    ),
    Rule(
        "specific gravity as soils have it",
        lambda f, s: within(f.gravity.mean, s.usual) if f.gravity else None,
        at=("determinations",),
        source=LABORATORY,
        level="watch",
        do="Low: air or organic matter; high: heavy minerals. Say which, or repeat.",
    ),
    Rule(
        # Air left between the grains counts as volume of solids: the gravity reads low.
        "air drawn long enough",
        _air,
        at=("deaired_min",),
        level="watch",
        do="Draw the air again until no bubble rises, fill, and weigh again.",
    ),
    Rule(
        # The glass grows with heat: its calibration holds near its own temperature.
        "near the calibration's temperature",
        _calibration,
        level="watch",
        do="Let it come to the calibration's temperature, or calibrate it near this one.",
    ),
    balance_in_date,
)
