"""A virtual clay: a known liquid limit and flow slope, a cup (or cone) with scatter, water lost while stirring."""

import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Trial as VirtualTrial
from vadum.soil.methods.liquid_limit.dish import followed
from vadum.soil.methods.liquid_limit.points import aim
from vadum.soil.methods.liquid_limit.record import Record, Trial
from vadum.soil.methods.liquid_limit.school import LiquidLimitSchool

MISTAKES = {
    "one_sided": "every trial drier than 25 drops",
    "torn": "one groove torn and counted",
    "upside_down": "a dry mass typed above its wet mass",
    "lapsed": "a device whose inspection had lapsed",
}
DISH_G = 152.0  # the empty dish
GIVEN_UP_BLOWS = 150
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)


def closure(w_percent: float, limit_percent: float, school: LiquidLimitSchool, noise: float = 0.0) -> float:
    """Drops (or mm) at which soil of that water content closes: `target (w/LL)^(-1/exponent)`, times `1 + noise`."""
    return float(school.target * (w_percent / limit_percent) ** (-1 / school.exponent)) * (1 + noise)


def _tin(dice: random.Random, w_percent: float, number: int) -> tuple[str, float, float, float]:
    tin = round(dice.uniform(18, 25), 2)
    dry = dice.uniform(8, 11)
    wet = tin + dry * (1 + w_percent / 100)
    return (
        f"{number + 1}{dice.randint(10, 99)}",
        tin,
        round(wet + dice.gauss(0, 0.003), 2),
        round(tin + dry + dice.gauss(0, 0.003), 2),
    )


def virtual(seed: int, school: LiquidLimitSchool, mistake: str | None = None) -> VirtualTrial:
    """A full record of a virtual clay whose true liquid limit is returned beside it."""
    dice = random.Random(seed)
    truth = dice.uniform(20, 120)
    soil_g, air_dry = 110.0, 2.5
    dry = soil_g / (1 + air_dry / 100)
    water = soil_g - dry
    rows: list[Trial] = []
    bands = sorted(school.bands, key=lambda b: b[0] * b[1], reverse=school.apparatus == "cup")
    for number, (low, high) in enumerate(bands):
        wanted = aim((low, high), school)
        if school.kind == "one_point":
            wanted = school.target
        if mistake == "one_sided":
            wanted = 29.5 + 1.2 * number if school.apparatus == "cup" else school.accepted[0] + 0.5 + number * 0.3
        w = truth * (school.target / wanted) ** school.exponent
        added = max(0.0, dry * w / 100 - water)
        water = dry * w / 100
        x = closure(w, truth, school, dice.gauss(0, 0.012))
        tin, tin_g, wet_g, dry_g = _tin(dice, w, number)
        if mistake == "torn" and number == len(bands) - 1:
            wet_g = round(wet_g + 0.06 * (dry_g - tin_g), 2)
        drops = round(x) if mistake == "one_sided" else round(min(max(x, low), high))
        at = START + timedelta(minutes=12 * number)
        cup = school.apparatus == "cup"
        fall = 0.0 if cup else dice.uniform(-0.2, 0.2)  # two falls into one paste differ by a little
        rows.append(
            Trial(
                tin=tin,
                mass_tin_g=tin_g,
                mass_wet_g=wet_g,
                mass_dry_g=dry_g,
                water_added_ml=round(added, 1),
                verification_blows=drops if school.verified else None,
                blows=drops if cup else None,
                penetration_mm=None if cup else round(x - fall, 1),
                second_penetration_mm=None if cup else round(x + fall, 1),
                closed_at=at,
            )
        )
        share = (wet_g - tin_g) / (dry + water)
        dry, water = dry * (1 - share), water * (1 - share)
    if mistake == "upside_down":
        rows[0] = rows[0].model_copy(update={"mass_dry_g": rows[0].mass_wet_g, "mass_wet_g": rows[0].mass_dry_g})
    lapsed = mistake == "lapsed"
    record = Record(
        device="cup 1",
        device_inspected_on=(START - timedelta(days=400 if lapsed else 20)).date(),
        device_due_on=(START - timedelta(days=35) if lapsed else START + timedelta(days=345)).date(),
        device_drop_mm=10.0,
        soil_state="as received",
        finer_than_425um_percent=96.0,
        tested_on=START.date(),
        dry_soil_g=soil_g,
        air_dry_water_percent=air_dry,
        seasoned_from_at=START - timedelta(minutes=school.season_min),
        trials=tuple(rows),
        in_oven_at=START + timedelta(hours=2),
    )
    return VirtualTrial(record, {"liquid_limit_percent": truth}, {"liquid_limit_percent": 0.012 * truth + 0.3}, mistake)


def answers(seed: int, school: LiquidLimitSchool, record: Record, path: str) -> float | int | str | None:
    """What this clay shows for a trial, at the water content that the person gave it.

    It follows the water that was added and taken out, never a dry tin: what was shown once is shown again.
    """
    name, _, rest = path.partition("[")
    index = int(rest.partition("]")[0]) if name == "trials" else -1
    if not 0 <= index <= len(record.trials):
        return None
    row = record.trials[index] if index < len(record.trials) else Trial()
    earlier = tuple(t.model_copy(update={"mass_dry_g": None}) for t in record.trials[:index])
    now = (*earlier, Trial(water_added_ml=row.water_added_ml))
    _, dish = followed(record.model_copy(update={"trials": now}))
    if dish is None:
        return None
    limit = random.Random(seed).uniform(20, 120)
    dice = random.Random(1000 * seed + index)
    read = closure(dish.water_percent, limit, school, dice.gauss(0, 0.012))
    tin, tin_g, wet_g, dry_g = _tin(dice, dish.water_percent, index)
    shown: dict[str, float | int | str] = {
        "mass_dish_g": round(DISH_G + dish.dry_g + dish.water_g, 1),
        # A groove that will not close is given up at some count.
        "blows": max(1, min(round(read), GIVEN_UP_BLOWS)),
        "verification_blows": max(1, min(round(read), GIVEN_UP_BLOWS)),
        "penetration_mm": round(read, 1),
        "second_penetration_mm": round(read + dice.uniform(-0.2, 0.2), 1),
        "third_penetration_mm": round(read, 1),
        "tin": tin,
        "mass_tin_g": tin_g,
        "mass_wet_g": wet_g,
        "mass_dry_g": dry_g,
    }
    return shown.get(path.rpartition(".")[2])
