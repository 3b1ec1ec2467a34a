"""A virtual clay under the palm: threads that crumble near its plastic limit, with the hand's scatter."""

import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Trial
from vadum.soil.methods.plastic_limit.record import Determination, Record
from vadum.soil.methods.plastic_limit.school import PlasticLimitSchool

MISTAKES = {
    "thick": "one tin gathered while the threads still rolled",
    "scant": "two grams of threads in a tin",
    "swapped_limits": "liquid limit typed below the plastic limit",
}
START = datetime(2026, 1, 5, 11, 0, tzinfo=UTC)


def virtual(seed: int, school: PlasticLimitSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual clay whose true plastic limit and index are returned beside it."""
    dice = random.Random(seed)
    limit = dice.uniform(14, 60)
    liquid = limit + dice.uniform(6, 0.85 * limit)
    rows = []
    for number in range(school.least_determinations):
        content = limit + dice.gauss(0, 0.08) + (4.5 if mistake == "thick" and number == 0 else 0)
        tin = round(dice.uniform(18, 25), 2)
        dry = 1.6 if mistake == "scant" else dice.uniform(6, 8)
        wet = round(tin + dry * (1 + content / 100), 2)
        rows.append(
            Determination(
                tin=f"{number + 1}{dice.randint(10, 99)}",
                mass_tin_g=tin,
                mass_wet_g=wet,
                mass_dry_g=round(tin + dry, 2),
            )
        )
    record = Record(
        determinations=tuple(rows),
        in_oven_at=START + timedelta(hours=1),
        liquid_limit_percent=round(limit - 3 if mistake == "swapped_limits" else liquid, 2),
        natural_water_content_percent=round(dice.uniform(limit, liquid), 1),
        soil_state="as received",
        finer_than_425um_percent=100.0,
        finer_than_2um_percent=round(dice.uniform(15, 50), 1),
    )
    truth = {"plastic_limit_percent": limit, "plasticity_index_percent": liquid - limit}
    return Trial(record, truth, {"plastic_limit_percent": 0.6, "plasticity_index_percent": 0.7}, mistake)
