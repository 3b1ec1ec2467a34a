"""A virtual specimen: loses its water along a first-order curve with a tail, seen through a balance."""

import math
import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Trial
from vadum.soil.methods.water_content.drying import is_dry, next_weighing_at
from vadum.soil.methods.water_content.record import Record, Weighing
from vadum.soil.methods.water_content.school import WaterContentSchool

MISTAKES = {
    "early": "weighed after a quarter of the least time",
    "small": "far too little soil for its grains",
    "swapped": "dry and wet masses typed in each other's place",
}
START = datetime(2026, 1, 5, 15, 0, tzinfo=UTC)


def _water_left(minutes: float, school: WaterContentSchool) -> float:
    """Share of the water still in the soil: a fast part and a slow tail."""
    pace = school.first_min / 9
    return 0.93 * math.exp(-minutes / pace) + 0.07 * math.exp(-minutes / (1.6 * pace))


def virtual(seed: int, school: WaterContentSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual specimen whose true water content is returned beside it."""
    dice = random.Random(seed)
    truth = dice.uniform(3, 150)
    tin = round(dice.uniform(18, 25), 2)
    # 2 mm grains: what the school's own table asks for at that size.
    wanted = next((least for size, least, _ in school.sizes if size >= 2.0), 0.0)
    dry = 4.0 if mistake == "small" else max(dice.uniform(60, 120), school.least_mass_g, wanted)
    water = dry * truth / 100

    def weighed(mass_g: float) -> float:
        return round(mass_g + dice.gauss(0, 0.006), 2)

    wet = weighed(tin + dry + water)
    record = Record(
        tin=str(dice.randint(1, 99)),
        mass_tin_g=tin,
        mass_wet_g=wet,
        largest_particle_mm=2.0,
        report_to_percent=0.1,
        balance_readability_g=0.01,
        in_oven_at=START,
        oven_temperature_c=None if school.temperature_c is None else sum(school.temperature_c) / 2,
        cooled_min=10,
    )
    minutes = school.first_min * (0.25 if mistake == "early" else 1.05)
    for _ in range(12):
        at = START + timedelta(minutes=minutes)
        mass = weighed(tin + dry + water * _water_left(minutes, school))
        mirror = "clear" if school.dried_by == "direct heat" else None
        row = Weighing(mass_dry_g=mass, weighed_at=at, mirror=mirror)
        record = record.model_copy(update={"weighings": (*record.weighings, row)})
        if mistake == "early" or is_dry(record, school):
            break
        ready = next_weighing_at(record, school)
        minutes = (ready - START) / timedelta(minutes=1) if ready else minutes + school.again_min
    if mistake == "swapped":
        last = record.weighings[-1]
        row = last.model_copy(update={"mass_dry_g": record.mass_wet_g})
        record = record.model_copy(update={"mass_wet_g": last.mass_dry_g, "weighings": (*record.weighings[:-1], row)})
    return Trial(record, {"water_content_percent": truth}, {"water_content_percent": 0.01 * truth + 0.2}, mistake)
