"""Virtual solids of a known specific gravity, seen through pycnometers and a balance."""

import random
from datetime import UTC, datetime

from vadum.soil.contract.method import Trial
from vadum.soil.methods.specific_gravity.pycnometer import full_at_test_g
from vadum.soil.methods.specific_gravity.record import Determination, Record
from vadum.soil.methods.specific_gravity.school import SpecificGravitySchool
from vadum.soil.shared.physics import water_density_mg_m3

MISTAKES = {
    "air": "air left in one pycnometer",
    "swapped": "masses with water and with soil typed in each other's place",
    "hurried": "vacuum for ten minutes only",
}
START = datetime(2026, 1, 5, 15, 0, tzinfo=UTC)


def in_gas(dice: random.Random, truth: float, number: int, mistake: str | None) -> Determination:
    """One specimen of these solids in a gas pycnometer whose chamber takes the gas of its cell."""
    soil, cell, chamber = dice.uniform(80, 120), 135.0, 85.0
    solids = soil / (truth * water_density_mg_m3(20)) + (0.9 if mistake == "air" and number == 0 else 0.0)
    first = round(dice.uniform(118, 122), 2)
    second = first / ((cell - solids) / chamber + 1)
    return Determination(
        pycnometer="G1",
        mass_dry_soil_g=round(soil, 2),
        cell_cm3=cell,
        expansion_cm3=chamber,
        gas_first_kpa=second if mistake == "swapped" and number == 0 else first,
        gas_second_kpa=first if mistake == "swapped" and number == 0 else round(second + dice.gauss(0, 0.005), 2),
    )


def virtual(seed: int, school: SpecificGravitySchool, mistake: str | None = None) -> Trial:
    """A full record of virtual solids whose true specific gravity is returned beside it."""
    dice = random.Random(seed)
    truth = dice.uniform(2.6, 2.78)
    rows = []
    for i in range(school.least_determinations):
        if school.by == "gas":
            rows.append(in_gas(dice, truth, i, mistake))
            continue
        empty, volume, soil = dice.uniform(165, 185), dice.uniform(498, 501), dice.uniform(48, 62)
        then_c, now_c = 21.3, round(dice.uniform(20, 24), 1)
        then, now = water_density_mg_m3(then_c), water_density_mg_m3(now_c)
        full = empty + volume * then
        at_test = full_at_test_g(empty, full, then, now)
        solids_cm3 = soil / (truth * water_density_mg_m3(20))
        air = 0.9 if mistake == "air" and i == 0 else 0.0
        with_soil = at_test + soil - (solids_cm3 + air) * now
        if mistake == "swapped" and i == 0:
            full, with_soil = with_soil, full
        rows.append(
            Determination(
                pycnometer=f"P{i + 1}",
                mass_pycnometer_g=round(empty + dice.gauss(0, 0.004), 2),
                mass_full_g=round(full + dice.gauss(0, 0.004), 2),
                full_at_c=then_c,
                mass_with_soil_g=round(with_soil + dice.gauss(0, 0.004), 2),
                temperature_c=now_c,
                mass_dry_soil_g=round(soil + dice.gauss(0, 0.004), 2),
            )
        )
    record = Record(
        came_through_mm=4.75,
        deaired_by=None if school.by == "gas" else "vacuum",
        deaired_min=None if school.by == "gas" else 10 if mistake == "hurried" else school.vacuum_min + 10,
        determinations=tuple(rows),
        in_oven_at=None if school.by == "gas" else START,
    )
    return Trial(record, {"specific_gravity_ratio": truth}, {"specific_gravity_ratio": 0.004}, mistake)
