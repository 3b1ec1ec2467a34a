"""A virtual ground that drains three cylinders: conductivity and suction hidden, the level with a sensor's noise."""

import math
import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Practice, Trial
from vadum.soil.methods.falling_head.record import Level, Record, Standing
from vadum.soil.methods.falling_head.school import InfiltrationSchool
from vadum.soil.shared.conductivity import MM_H
from vadum.soil.shared.infiltration import Curve, Cylinder

MISTAKES = {
    "leak": "water that runs out round the base at first",
    "wet": "ground that was already full of water",
    "shallow": "cylinders driven too little",
    "bumped": "a cylinder that was bumped",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
RADIUS_CM, START_CM = 5.0, 40.0
TEXTURE = "sandy loam"
POROSITY = 45.0
READINGS = 40


def fall_cm(cylinder: Cylinder, k_cm_s: float, suction_cm: float, seconds: float) -> float:
    """The level above the soil after so many seconds, 0 once it is empty."""
    import numpy as np

    curve = Curve(cylinder, 0.0)
    one = curve.times_of_one(suction_cm) / k_cm_s
    return float(np.interp(seconds, one, curve.levels))


def virtual(seed: int, school: InfiltrationSchool, mistake: str | None = None) -> Trial:
    """A full record of three cylinders in a virtual ground, the truth of its conductivity beside it."""
    import numpy as np

    dice = random.Random(seed * 23 + 7)
    suction = next(row[1] for row in school.textures if row[0] == TEXTURE)
    middle = dice.uniform(1.5e-3, 4e-3)
    before = 10.0 if mistake == "wet" else float(dice.choice((3, 4, 5)))
    depth = 3.0 if mistake == "shallow" else 5.0
    gain = max((1 - before / 10) * POROSITY / 100, 0.005)
    cylinders, ks = [], []
    for n in range(3):
        k = middle * math.exp(dice.gauss(0, 0.15))
        ks.append(k)
        its = Cylinder(RADIUS_CM, depth, gain, START_CM)
        curve = Curve(its, 0.0)
        times = curve.times_of_one(suction) / k
        every = max(10.0, math.ceil(float(times[-1]) / READINGS / 10) * 10.0)
        began = START + timedelta(minutes=2 * n)
        rows = []
        for i in range(400):
            t = every * i
            level = float(np.interp(t, times, curve.levels))
            if mistake == "leak" and n == 0:
                level -= 9.0 * (1 - math.exp(-t / 90))
            if mistake == "bumped" and n == 1 and i >= 6:
                level -= 1.5
            noise = dice.gauss(0, 0.4) if i else 0.0
            rows.append(
                Level(
                    level_mm=round(max(10 * level, 0.0) + noise, 1), elapsed_s=t, read_at=began + timedelta(seconds=t)
                )
            )
            if 10 * level < 5:
                break  # empty
        cylinders.append(
            Standing(
                infiltrometer=f"M{n + 1}",
                cylinder_radius_mm=10 * RADIUS_CM,
                insertion_mm=10 * depth,
                zero_above_soil_mm=0.0,
                seal="tight",
                before_index=before,
                started_at=began,
                readings=tuple(rows),
                after_index=10.0,
                temperature_c=20.0,
            )
        )
    record = Record(
        place="meadow",
        soil_state="as received",
        texture=TEXTURE,
        frozen="no",
        cracks="none seen",
        water_below_m=2.4,
        rain="dry for two days",
        moisture_by="scale of 0 to 10",
        porosity_percent=POROSITY,
        cylinders_count=3,
        cylinders=tuple(cylinders),
    )
    truth = MM_H * math.exp(math.fsum(map(math.log, ks)) / 3)
    wide = 0.35 if school.suction == "free" or school.site != "geometric" else 0.08
    return Trial(record, {"kfs_mm_h": truth}, {"kfs_mm_h": wide * truth}, mistake)


PRACTICE = Practice(decides=("texture", "moisture_by", "seal", "frozen", "cracks", "ended", "position_by", "rain"))
