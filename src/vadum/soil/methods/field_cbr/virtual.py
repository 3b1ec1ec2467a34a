"""A virtual spot: ground of a known ratio under a vehicle of a known weight."""

import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Trial
from vadum.soil.methods.field_cbr.record import Record
from vadum.soil.methods.field_cbr.school import SpotSchool
from vadum.soil.shared.bearing.ends import reference_kn
from vadum.soil.shared.bearing.virtual_push import called_rows
from vadum.soil.shared.load_curve import LoadCurve, load_curve_of
from vadum.soil.shared.water_by_tin import TimedTin

MISTAKES = {
    "lifted": "the vehicle lifts and the winding goes on",
    "datum": "somebody steps on the datum beam",
    "slow": "wound at half the rate",
    "springs": "the suspension still bears",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
FACTOR_N_DIV = 11.8


def under(seed: int, school: SpotSchool, end: str = "spot") -> tuple[float, LoadCurve]:
    """The hidden ratio in percent and the ground of a seed."""
    dice = random.Random(seed)
    percent = dice.uniform(7, 26) if seed % 2 else dice.uniform(34, 60)
    loose = dice.choice([0.0, dice.uniform(0.3, 0.5)])
    reference = reference_kn(school.first_mm, school, school.plunger_diameter_mm)
    return percent, load_curve_of(percent, reference, school.first_mm, dice.uniform(2.2, 3.0), loose)


def virtual(seed: int, school: SpotSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual spot whose true ratio is returned beside it."""
    percent, ground = under(seed, school)
    dice = random.Random(seed + 500)
    seating = school.seating_n(percent)
    seated = round(2 * seating / FACTOR_N_DIV) / 2
    lifts = ground.force_kn(2.0) if mistake == "lifted" else None
    rows = called_rows(
        ground,
        school,
        FACTOR_N_DIV,
        seated,
        START + timedelta(minutes=30),
        dice,
        pace=0.5 if mistake == "slow" else 1.0,
        lifts_kn=lifts,
    )
    if mistake == "datum":
        shaken = list(rows)
        shaken[len(rows) // 2] = rows[len(rows) // 2].model_copy(update={"noted": "datum jumped"})
        rows = tuple(shaken)
    if mistake == "lifted":
        rows = (*rows[:-1], rows[-1].model_copy(update={"vehicle_mm": 3.4}))
    dry, wet = 100.0, dice.uniform(8, 15)
    record = Record(
        expected_percent=round(percent),
        wanted_mm=5.0,
        vehicle="tipper, rear axle",
        axle_kn=38.0 if mistake != "lifted" else round(1.25 * (lifts or 1), 1),
        depth_m=0.3,
        springs="still bear" if mistake == "springs" else "raised clear",
        stands="bear",
        datum_legs_mm=1400,
        proving_ring="PR2",
        ring_factor_n_div=FACTOR_N_DIV,
        ring_most_div=4000.0,
        gauge="G2",
        plunger="PL1",
        plunger_diameter_mm=school.plunger_diameter_mm,
        surcharge="D2",
        surcharge_kg=4.5,
        seating_n=seating,
        seated_div=seated,
        vehicle_zero_mm=0.0,
        readings=rows,
        ring_after_div=0.0,
        stone_under_mm=8.0,
        tins=(
            TimedTin(
                tin="41",
                mass_tin_g=20.0,
                mass_wet_g=round(20 + dry * (1 + wet / 100), 2),
                mass_dry_g=20.0 + dry,
                weighed_wet_at=START + timedelta(hours=1),
            ),
        ),
    )
    truth = {"bearing_ratio_percent": percent}
    return Trial(record, truth, {"bearing_ratio_percent": 0.06 * percent}, mistake)
