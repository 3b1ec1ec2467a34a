"""A ring driven into a virtual profile of known density and water content."""

import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Trial
from vadum.soil.methods.ring_density.record import Headspace, Record
from vadum.soil.methods.ring_density.school import RingDensitySchool
from vadum.soil.shared.phases import cylinder_cm3, void_ratio
from vadum.soil.shared.physics import WATER_20_MG_M3

MISTAKES = {
    "askew": "ring driven askew",
    "pressed": "core pressed together by heavy blows",
    "light": "bag and soil typed in each other's place",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)


def virtual(seed: int, school: RingDensitySchool, mistake: str | None = None) -> Trial:
    """A full record of a ring whose true dry density and water content are returned beside it."""
    dice = random.Random(seed)
    # From peat to dense gravelly sand, up to full.
    peat = seed % 8 == 5
    particle = 1.6 if peat else 2.68
    dry = dice.uniform(0.3, 0.45) if peat else dice.uniform(1.15, 2.1)
    full_w = 100 * void_ratio(dry, particle) * WATER_20_MG_M3 / particle
    water = dice.uniform(0.55, 1.0) * full_w
    diameter, height = 76.0, 60.1
    head = 0.0 if school.full_ring else dice.uniform(4, 9)
    tilt = 7.0 if mistake == "askew" else 1.5
    offsets = (0.0, 0.5, 1.0, 0.5)
    heads = [round(head + (o - 0.5) * tilt + dice.gauss(0, 0.1), 1) for o in offsets]
    soil = cylinder_cm3(diameter, height - head) * dry * (1 + water / 100)
    bag = 18.4
    with_soil = round(bag + soil + dice.gauss(0, 0.05), 1)
    tin, part = round(dice.uniform(18, 25), 2), 70.0
    record = Record(
        ring="R1",
        ring_diameter_mm=diameter,
        ring_height_mm=height,
        headspaces=() if school.full_ring else tuple(Headspace(headspace_mm=h, end="top") for h in heads),
        outside_headspace_mm=None if school.full_ring else round(head - (6 if mistake == "pressed" else 0.5), 1),
        sampled_at=START,
        sealed="yes",
        mass_container_g=with_soil if mistake == "light" else bag,
        mass_with_soil_g=bag if mistake == "light" else with_soil,
        weighed_at=START + timedelta(hours=3),
        tin=str(dice.randint(1, 99)),
        mass_tin_g=tin,
        mass_wet_g=round(tin + part + dice.gauss(0, 0.004), 2),
        mass_dry_g=round(tin + part / (1 + water / 100) + dice.gauss(0, 0.004), 2),
        in_oven_at=START + timedelta(hours=3),
        particle_density_mg_m3=particle,
        organic_by_eye="peat" if peat else "no",
        particle_density_from="measured",
    )
    truth = {"dry_density_mg_m3": dry, "water_content_percent": water}
    return Trial(record, truth, {"dry_density_mg_m3": 0.012, "water_content_percent": 0.1}, mistake)
