"""A virtual specimen: a known ratio at each end, soaked, read through a ring."""

import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Trial
from vadum.soil.methods.cbr.record import Record, Swell
from vadum.soil.methods.cbr.school import MouldSchool
from vadum.soil.shared.bearing.ends import reference_kn
from vadum.soil.shared.bearing.virtual_push import called_rows
from vadum.soil.shared.load_curve import LoadCurve, load_curve_of
from vadum.soil.shared.water_by_tin import TimedTin

MISTAKES = {
    "fast": "the plunger driven half as fast again",
    "seating": "five times the seating load",
    "missed": "four calls missed in a row at the read-off",
    "ring": "a ring read far beyond its calibration",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
FACTOR_N_DIV = 12.5


def ground(percent: float, school: MouldSchool, bend_mm: float, loose_mm: float) -> LoadCurve:
    """LoadCurve of a known first ratio by this school's reference."""
    reference = reference_kn(school.first_mm, school, school.plunger_diameter_mm)
    return load_curve_of(percent, reference, school.first_mm, bend_mm, loose_mm)


BOTTOM_STIFFER = 1.04  # the bottom of a mould is a little stiffer, as compacted layers are


def under(seed: int, school: MouldSchool, end: str) -> tuple[float, LoadCurve]:
    """The hidden ratio in percent and the ground of a seed, under its top or its bottom end."""
    percent, soil = _top(seed, school)
    if end != "bottom":
        return percent, soil
    return BOTTOM_STIFFER * percent, soil._replace(a_kn_mm=BOTTOM_STIFFER * soil.a_kn_mm)


def _top(seed: int, school: MouldSchool) -> tuple[float, LoadCurve]:
    dice = random.Random(seed)
    percent = dice.uniform(8, 25) if seed % 2 else dice.uniform(36, 75)
    loose = dice.choice([0.0, 0.0, dice.uniform(0.3, 0.5)])
    return percent, ground(percent, school, dice.uniform(2.2, 3.0), loose)


def _tin(dice: random.Random, percent: float, at: datetime, number: int) -> TimedTin:
    tin, dry = round(dice.uniform(18, 25), 2), dice.uniform(100, 140)
    return TimedTin(
        tin=f"{number}{dice.randint(10, 99)}",
        mass_tin_g=tin,
        mass_wet_g=round(tin + dry * (1 + percent / 100), 2),
        mass_dry_g=round(tin + dry, 2),
        weighed_wet_at=at,
    )


def virtual(seed: int, school: MouldSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual specimen whose true ratio is returned beside it."""
    percent, top = under(seed, school, "top")
    percent_below, bottom = under(seed, school, "bottom")
    dice = random.Random(seed + 1000)
    soaked = seed % 3 != 1
    optimum = dice.uniform(9, 14)
    densest = dice.uniform(1.85, 2.05)
    tested = START + timedelta(days=4, hours=1) if soaked else START + timedelta(hours=2)
    seating = school.seating_n(percent) * (5 if mistake == "seating" else 1)
    seated = round(2 * seating / FACTOR_N_DIV) / 2
    pace = 1.5 if mistake == "fast" else 1.0
    reads = [i for i, p in enumerate(school.called_mm) if p >= school.first_mm - 0.6][:4]
    gone = tuple(reads) if mistake == "missed" else ()
    later = tested + timedelta(minutes=25)
    ends = {
        "top": called_rows(top, school, FACTOR_N_DIV, seated, tested, dice, pace=pace, missed=gone),
        "bottom": called_rows(bottom, school, FACTOR_N_DIV, seated, later, dice, pace=pace, missed=gone),
    }
    swell = dice.uniform(0.1, 0.6)
    rows = tuple(
        Swell(gauge_mm=round(1.0 + swell * share, 2), read_at=START + timedelta(days=n + 1, minutes=20))
        for n, share in enumerate((0.6, 0.85, 0.95, 1.0))
    )
    dry = 0.95 * densest
    air_dry, portion = 4.0, 6000.0
    record = Record(
        mould="C1",
        mould_mass_g=8120,
        mould_volume_cm3=school.mould_cm3,
        specimen_height_mm=school.height_mm,
        maximum_dry_density_mg_m3=round(densest, 3),
        optimum_water_percent=round(optimum, 1),
        target_percent=95.0,
        oversize_percent=6.0,
        oversize_replaced="replaced" if school.replaces_oversize else "left out",
        mass_portion_g=portion,
        portion_water_percent=air_dry,
        water_added_ml=round(portion / (1 + air_dry / 100) * (optimum - air_dry) / 100),
        mass_with_soil_g=round(8120 + dry * (1 + optimum / 100) * school.mould_cm3),
        tins=(
            _tin(dice, optimum, START + timedelta(minutes=40), 1),
            _tin(dice, optimum + 1.5, tested + timedelta(minutes=50), 2),
            *([_tin(dice, optimum + 1.2, tested + timedelta(minutes=55), 3)] if school.both_ends else []),
        ),
        condition="soaked" if soaked else "unsoaked",
        surcharge="D1",
        surcharge_kg=4.6,
        soak_started_at=START + timedelta(hours=1) if soaked else None,
        swell_zero_mm=1.0 if soaked else None,
        swell=rows if soaked else (),
        soak_ended_at=tested - timedelta(minutes=15) + timedelta(minutes=20) if soaked else None,
        proving_ring="PR1",
        ring_factor_n_div=FACTOR_N_DIV,
        ring_most_div=500.0 if mistake == "ring" else 4000.0,
        gauge="G1",
        plunger="PL1",
        plunger_diameter_mm=school.plunger_diameter_mm,
        expected_percent=round(percent),
        top_seating_n=seating,
        top_seated_div=seated,
        top=ends["top"],
        bottom_seating_n=seating if school.both_ends else None,
        bottom_seated_div=seated if school.both_ends else None,
        bottom=ends["bottom"] if school.both_ends else (),
    )
    if mistake == "ring":
        record = record.model_copy(update={"ring_most_div": max(1.0, 0.6 * max(r.ring_div or 0 for r in record.top))})
    ratio = (percent + percent_below) / 2 if school.both_ends else percent
    truth = {"bearing_ratio_percent": ratio}
    return Trial(record, truth, {"bearing_ratio_percent": 0.06 * ratio}, mistake)
