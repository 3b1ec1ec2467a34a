"""A virtual soil with a known compaction curve, seen through a mould, tins and a balance."""

import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Trial
from vadum.soil.methods.compaction.points import estimates_percent
from vadum.soil.methods.compaction.record import Point, Record
from vadum.soil.methods.compaction.school import CompactionSchool
from vadum.soil.shared.phases import zero_air_mg_m3
from vadum.soil.shared.physics import WATER_20_MG_M3

MISTAKES = {
    "one_sided": "every point drier than the optimum",
    "swapped": "wet and dry masses of a tin typed in each other's place",
    "gravity": "a specific gravity far too low",
}
GRAVITY = 2.68
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)


def drawn(dice: random.Random) -> tuple[float, float, float]:
    """A soil's optimum in percent, its densest state in Mg/m3, and how fast it loses density beside it."""
    optimum = dice.uniform(10, 17)
    # The peak lies at 82 to 89 % saturation, the middle of what most soils have.
    full = 0.82 + 0.07 * (optimum - 10) / 7
    peak = GRAVITY * WATER_20_MG_M3 / (1 + optimum / 100 * GRAVITY / full)
    return optimum, peak, dice.uniform(0.005, 0.0065)


def answers(seed: int, school: CompactionSchool, record: Record, path: str) -> float | str | None:
    """What this soil weighs in the mould at the water content that the person gave it, and its tin."""
    name, _, rest = path.partition("[")
    index = int(rest.partition("]")[0]) if name == "points" else -1
    if not 0 <= index < len(record.points) or not record.mould_mass_g or not record.mould_volume_cm3:
        return None
    water = estimates_percent(record, school)[index]
    if water is None or water < 0:
        return None
    optimum, peak, bend = drawn(random.Random(seed))
    dice = random.Random(1000 * seed + index)
    fullest = 0.98 * zero_air_mg_m3(water, GRAVITY)
    density = min(peak - bend * (water - optimum) ** 2 + dice.gauss(0, 0.0012), fullest)
    tin, part = round(dice.uniform(18, 25), 2), dice.uniform(90, 120)
    shown: dict[str, float | str] = {
        "mass_with_soil_g": round(record.mould_mass_g + density * (1 + water / 100) * record.mould_volume_cm3),
        "tin": f"{index + 1}{dice.randint(10, 99)}",
        "mass_tin_g": tin,
        "mass_wet_g": round(tin + part * (1 + water / 100), 2),
        "mass_dry_g": round(tin + part, 2),
    }
    return shown.get(path.rpartition(".")[2])


def virtual(seed: int, school: CompactionSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual soil whose true peak is returned beside it."""
    dice = random.Random(seed)
    optimum, peak, bend = drawn(dice)
    portion, air_dry = 2500.0, 3.0
    dry = portion / (1 + air_dry / 100)
    before = 0.0
    rows = []
    for n in range(5):
        shift = -7.0 if mistake == "one_sided" else 0.0
        w = optimum + (n - 2) * 1.6 + shift + dice.uniform(-0.25, 0.25)
        added = dry * (w - air_dry) / 100
        density = peak - bend * (w - optimum) ** 2 + dice.gauss(0, 0.0012)
        soil = density * (1 + w / 100) * school.mould_cm3
        tin, part = round(dice.uniform(18, 25), 2), dice.uniform(90, 120)
        row = Point(
            water_added_ml=round(added if school.fresh_portions else added - before, 0),
            mass_with_soil_g=round(4200 + soil, 0),
            tin=f"{n + 1}{dice.randint(10, 99)}",
            mass_tin_g=tin,
            mass_wet_g=round(tin + part * (1 + w / 100), 2),
            mass_dry_g=round(tin + part, 2),
        )
        before = added
        rows.append(row)
    if mistake == "swapped":
        rows[1] = rows[1].model_copy(update={"mass_wet_g": rows[1].mass_dry_g, "mass_dry_g": rows[1].mass_wet_g})
    record = Record(
        mould="M1",
        mould_mass_g=4200,
        mould_volume_cm3=school.mould_cm3,
        mass_portion_g=portion,
        portion_water_percent=air_dry,
        specific_gravity_ratio=2.2 if mistake == "gravity" else GRAVITY,
        specific_gravity_from="measured",
        oversize_percent=12.0,
        oversize_gravity_ratio=2.65,
        points=tuple(rows),
        in_oven_at=START + timedelta(hours=3),
    )
    truth = {"optimum_water_percent": optimum, "maximum_dry_density_mg_m3": peak}
    return Trial(record, truth, {"optimum_water_percent": 0.5, "maximum_dry_density_mg_m3": 0.006}, mistake)
