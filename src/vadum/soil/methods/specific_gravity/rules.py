"""The rules that judge a specific gravity."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean, plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import Judge
from vadum.soil.contract.times import span
from vadum.soil.contract.verdicts import possible, ruling
from vadum.soil.methods.specific_gravity.facts import Facts
from vadum.soil.methods.specific_gravity.pycnometer import counting, full_at_test_g
from vadum.soil.methods.specific_gravity.school import SpecificGravitySchool
from vadum.soil.shared.physics import WATER_RANGE_C, water_density_mg_m3
from vadum.soil.shared.water_by_tin import balance_in_date

MASSES = ("mass_pycnometer_g", "mass_full_g", "mass_with_soil_g", "mass_dry_soil_g")


def masses_obey_physics(facts: Facts, school: SpecificGravitySchool) -> Iterator[Verdict]:
    """Masses in their order: empty below full of water, full of water below with soil, soil displacing water."""
    record = facts.record
    fields = type(record.determinations[0]).model_fields if record.determinations else {}
    for i, row in enumerate(record.determinations):
        if row.excluded_because:
            continue
        at = f"determinations[{i}]."
        yield from possible(
            [(f"{at}{m}", f"pycnometer {i + 1}: {fields[m].title}", getattr(row, m)) for m in MASSES],
            strictly=True,
            unit="g",
        )
        low, high = WATER_RANGE_C
        temperatures = (("full_at_c", "filled at"), ("temperature_c", "temperature"))
        yield from possible(
            [(f"{at}{f}", f"pycnometer {i + 1}: {words}", getattr(row, f)) for f, words in temperatures],
            low=low,
            high=high,
            unit="°C",
        )
        empty, full, soil = row.mass_pycnometer_g, row.mass_full_g, row.mass_dry_soil_g
        with_soil = row.mass_with_soil_g
        orders = []
        if known(empty) and known(full):
            orders.append((empty < full, "empty", empty, "full of water", full, "mass_full_g"))
        at_test = full
        then_c, now_c = row.full_at_c, row.temperature_c
        warm = [t for t in (then_c, now_c) if known(t) and low <= t <= high]
        if known(empty) and known(full) and len(warm) == 2:
            at_test = full_at_test_g(empty, full, *(water_density_mg_m3(t) for t in warm))
        if known(at_test) and known(with_soil):
            orders.append((at_test < with_soil, "full of water", at_test, "with soil", with_soil, "mass_with_soil_g"))
        if known(at_test) and known(with_soil) and known(soil):
            most = at_test + soil
            orders.append((with_soil < most, "with soil", with_soil, "water + soil", most, "mass_with_soil_g"))
        for held, lighter, low_g, heavier, high_g, field in orders:
            if not held:
                yield Verdict(
                    rule="masses in their order",
                    level="stop",
                    found=f"pycnometer {i + 1}: {lighter} {plain(low_g, 6)} ≥ {heavier} {plain(high_g, 6)} g",
                    limit=f"{lighter} < {heavier}",
                    source="physics",
                    remedy="Look at the digits and the pycnometer's number; strike the wrong one.",
                    at=(f"{at}{field}",),
                )


def determinations_agree(facts: Facts, school: SpecificGravitySchool) -> Iterator[Verdict]:
    """The determinations lie within the school's limit."""
    record = facts.record
    gravities = [f.gravity for f in counting(record)]
    if len(gravities) > 1:
        apart = max(gravities) - min(gravities)
        yield ruling(
            "determinations agree",
            apart <= school.most_apart + 1e-9,
            f"{plain(apart, 2)} apart",
            f"{plain(school.most_apart)}",
            school.standard,
            "Repeat with another pycnometer; air left in the soil reads low.",
            ("determinations",),
        )


def gravity_usual(facts: Facts, school: SpecificGravitySchool) -> Iterator[Verdict]:
    """Most soils lie between 2.5 and 2.9."""
    record = facts.record
    gravities = [f.gravity for f in counting(record)]
    if gravities:
        low, high = school.usual
        value = mean(gravities)
        yield ruling(
            "specific gravity as soils have it",
            low <= value <= high,
            plain(value),
            f"{plain(low)} to {plain(high)}",
            "laboratory setting",
            "Low: air or organic matter; high: heavy minerals. Say which, or repeat.",
            ("determinations",),
            otherwise="watch",
        )


def air_drawn_long_enough(facts: Facts, school: SpecificGravitySchool) -> Iterator[Verdict]:
    """Air left in the soil reads as volume of solids."""
    record = facts.record
    if record.deaired_by is None or not known(record.deaired_min):
        return
    least = school.vacuum_min if record.deaired_by == "vacuum" else school.boiling_min
    yield ruling(
        "air drawn long enough",
        record.deaired_min >= least,
        f"{record.deaired_by}, {span(record.deaired_min)}",
        f"{span(least)} or more",
        school.standard,
        "Draw the air again until no bubble rises, fill, and weigh again.",
        ("deaired_min",),
        otherwise="watch",
    )


def near_the_calibration(facts: Facts, school: SpecificGravitySchool) -> Iterator[Verdict]:
    """The glass grows with heat: the calibration holds near its own temperature."""
    record = facts.record
    for i, row in enumerate(record.determinations):
        if row.excluded_because or not known(row.full_at_c) or not known(row.temperature_c):
            continue
        away = abs(row.temperature_c - row.full_at_c)
        yield ruling(
            "near the calibration's temperature",
            away <= school.most_from_calibration_c + 1e-9,
            f"pycnometer {i + 1}: {plain(away, 2)} °C away",
            f"{plain(school.most_from_calibration_c)} °C",
            school.standard,
            "Let it come to the calibration's temperature, or calibrate it near this one.",
            (f"determinations[{i}].temperature_c",),
            otherwise="watch",
        )


RULES: tuple[Judge, ...] = (
    masses_obey_physics,
    determinations_agree,
    gravity_usual,
    air_drawn_long_enough,
    near_the_calibration,
    balance_in_date,
)
