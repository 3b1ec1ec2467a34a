"""A virtual ground around a well: a steady outflow by its conductivity, faster at first while it wets."""

import math
import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Practice, Trial
from vadum.soil.methods.well_permeameter import well
from vadum.soil.methods.well_permeameter.record import Head, Level, Record
from vadum.soil.methods.well_permeameter.school import WellSchool
from vadum.soil.shared.conductivity import MM_H

MISTAKES = {
    "early": "stopped while the rate still fell",
    "smeared": "the wall not brushed in a fine soil",
    "drifted": "the head drifted while it was held",
    "sun": "a reservoir that stood in the sun",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
RADIUS_CM, BOTH_CM2, INNER_CM2 = 3.0, 35.4, 2.16


def virtual(seed: int, school: WellSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual ground by two heads, the truth of its conductivity beside it."""
    dice = random.Random(seed * 13 + 1)
    fine = mistake == "smeared" or seed % 3 == 2
    ground = "unstructured fine soil" if fine else "structured or sandy loam"
    alpha = well.CLASSES[ground]
    kfs = dice.uniform(4e-5, 9e-5) if fine else dice.uniform(2e-4, 5e-4)
    heads: list[Head] = []
    for n, head_cm in enumerate((5.0, 10.0)):
        shape = well.shape_factor(head_cm, RADIUS_CM, alpha)
        whole = 2 * math.pi * head_cm**2 + math.pi * RADIUS_CM**2 * shape + 2 * math.pi * head_cm / alpha
        rate = 600 * kfs * whole / shape / BOTH_CM2
        began = START + timedelta(hours=n)
        wets = 1.6 if mistake == "early" else 0.8
        rows = []
        for i in range(6 if mistake == "early" else 22):
            t = i * school.read_every_min * 2
            level = 30.0 + rate * (t + wets * 6 * (1 - math.exp(-t / 6))) + (dice.gauss(0, 0.02) if i else 0.0)
            warm = 12.0 + (0.12 * i if mistake == "sun" else 0.01 * i)
            rows.append(
                Level(level_mm=round(level, 2), read_at=began + timedelta(minutes=t), temperature_c=round(warm, 1))
            )
        heads.append(
            Head(
                head_mm=10 * head_cm,
                reservoir_used="both",
                lifted_at=began,
                readings=tuple(rows),
                steady="taken as steady",
                head_after_mm=10 * head_cm + (9.0 if mistake == "drifted" and n else 0.0),
            )
        )
    record = Record(
        place="meadow, 5 m from the edge",
        soil_state="as received",
        ground=ground,
        hole_radius_mm=10 * RADIUS_CM,
        radius_by="sizing auger",
        hole_depth_m=0.5,
        wall="not brushed" if mistake == "smeared" else "brushed",
        plumb="yes",
        reservoir="W1",
        both_area_cm2=BOTH_CM2,
        inner_area_cm2=INNER_CM2,
        level_reads_to_mm=0.1,
        water_below_m=1.4,
        layer_below_m=2.0,
        bubbling="regular",
        heads=tuple(heads),
        enough="two heads",
        safety_ratio=2.5,
    )
    truth = MM_H * kfs
    return Trial(record, {"kfs_mm_h": truth}, {"kfs_mm_h": 0.25 * truth}, mistake)


PRACTICE = Practice(decides=("ground", "wall", "steady", "enough", "plumb", "bubbling", "reservoir_used", "radius_by"))
