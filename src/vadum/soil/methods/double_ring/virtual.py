"""A virtual ground under two rings: fast at first, then steady; the annulus a little faster."""

import math
import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Practice, Trial
from vadum.soil.methods.double_ring.record import Interval, Record
from vadum.soil.methods.double_ring.school import RingSchool

MISTAKES = {
    "early": "stopped while the rate still fell",
    "apart": "heads that were not kept alike",
    "leak": "water that ran from the annulus under the inner ring's edge",
}
START = datetime(2026, 1, 5, 8, 0, tzinfo=UTC)
INNER_MM, OUTSIDE_MM, OUTER_MM = 300.0, 306.0, 600.0


def virtual(seed: int, school: RingSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual ground, its steady rate beside it."""
    dice = random.Random(seed * 29 + 11)
    steady = dice.uniform(12, 40)
    inner_cm2 = math.pi / 4 * INNER_MM**2 / 100
    annulus_cm2 = math.pi / 4 * (OUTER_MM**2 - OUTSIDE_MM**2) / 100
    times = [*school.calls_min]
    while times[-1] < 60 * school.least_h:
        times.append(times[-1] + school.then_every_min)
    if mistake == "early":
        times = times[:5]
    rows, before = [], 0.0

    def water_mm(minutes: float) -> float:
        """Depth of water taken up to a moment, mm."""
        return steady * minutes / 60 + 2.2 * steady * 40 / 60 * (1 - math.exp(-minutes / 40))

    for at in times:
        deep = water_mm(at) - water_mm(before)
        faster = 2.6 if mistake == "leak" else 1.2
        rows.append(
            Interval(
                inner_ml=round(deep / 10 * inner_cm2 * (1 + dice.gauss(0, 0.006)), 0),
                annulus_ml=round(deep / 10 * annulus_cm2 * faster * (1 + dice.gauss(0, 0.006)), 0),
                read_at=START + timedelta(minutes=at),
                elapsed_min=at,
                head_inner_mm=100.0,
                head_annulus_mm=109.0 if mistake == "apart" else 101.0,
                temperature_c=15.0 + dice.uniform(-0.3, 0.3),
            )
        )
        before = at
    record = Record(
        place="meadow, by the ditch",
        soil_state="as received",
        rings="R1",
        inner_diameter_mm=INNER_MM,
        inner_outside_diameter_mm=OUTSIDE_MM,
        outer_diameter_mm=OUTER_MM,
        inner_driven_mm=80.0,
        outer_driven_mm=150.0,
        rings_state="tight",
        water_added="measured by hand",
        head_mm=100.0,
        evaporation="covered",
        water_below_m=2.5,
        layer_below_m=2.5,
        started_at=START,
        readings=tuple(rows),
        ended="steady",
    )
    return Trial(record, {"mean_mm_h": steady}, {"mean_mm_h": 0.06 * steady}, mistake)


PRACTICE = Practice(decides=("rings_state", "water_added", "evaporation", "ended", "rings"))
