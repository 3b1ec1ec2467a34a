"""A virtual suspension in a cooling room: a known grading read through a hydrometer with scatter."""

import math
import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.method import Trial
from vadum.soil.methods.hydrometer import stokes
from vadum.soil.methods.hydrometer.record import Blank, HydrometerType, Reading, Record
from vadum.soil.methods.hydrometer.school import HydrometerSchool
from vadum.soil.methods.hydrometer.suspension import depth_of
from vadum.soil.methods.hydrometer.timing import schedule_min
from vadum.soil.shared.grading import log_normal_percent

MISTAKES = {
    "late": "a reading taken two minutes late",
    "stirred": "the cylinder stirred before a late reading",
    "mass": "the dry mass typed a third too small",
    "cold": "a room that cools by five degrees",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
KINDS: tuple[HydrometerType, ...] = ("152H", "151H", "calibrated, g/L", "calibrated, sg")


def correction_g_l(temperature_c: float) -> float:
    """The virtual composite correction, g/L: dispersant and meniscus, less in warmer water."""
    return 4.2 - 0.22 * (temperature_c - 20)


def reading_at(
    minutes: float, temperature_c: float, record: Record, school: HydrometerSchool, soil: tuple[float, float]
) -> float:
    """The reading in g/L that this soil gives at that time: solved, because the depth depends on the reading."""
    gravity, mass = record.specific_gravity_ratio or 2.65, record.mass_dry_g or 50.0
    reading = 25.0
    sg = record.hydrometer_type in ("151H", "calibrated, sg")
    a = stokes.gravity_correction(gravity)
    for _ in range(60):
        # A stem in specific gravity is read at the same suspended mass: R_sg - 1 = R_g/L (G - 1) / G / 1000 * a.
        stem = 1 + reading * 0.62264 / 1000 if sg else reading
        depth = depth_of(record, school, stem, minutes).cm
        size = stokes.diameter_mm(stokes.settling_constant(temperature_c, gravity), depth, minutes)
        wanted = log_normal_percent(size, *soil) / 100 * mass / a + correction_g_l(temperature_c)
        reading += 0.5 * (wanted - reading)
    return reading


DISPERSANT_G_ML, CONTAINER_G = 0.004, 18.0


def sampled(
    record: Record,
    school: HydrometerSchool,
    soil: tuple[float, float],
    dice: random.Random,
    warm: float,
    mistake: str | None,
) -> Trial:
    """The same cylinder sampled by a pipette: each sample dried, with the scatter of its volume and of the balance."""
    gravity, mass, rows = record.specific_gravity_ratio or 2.65, record.mass_dry_g or 25.0, []
    fall = 5.0 if mistake == "cold" else 0.5
    times = schedule_min(record, school)
    for n, minutes in enumerate(times):
        temperature = round(warm - fall * n / (len(times) - 1), 1)
        taken = minutes + (2.0 if mistake == "late" and n == 0 else 0.0)
        constant = stokes.settling_constant(temperature, gravity)
        size = stokes.diameter_mm(constant, school.pipette_depth_mm / 10, taken)
        share = log_normal_percent(size, *soil) + (9.0 if mistake == "stirred" and n == len(times) - 1 else 0.0)
        volume = school.pipette_ml * (1 + dice.gauss(0, 0.001))
        solids = share / 100 * mass * volume / 1000 + DISPERSANT_G_ML * volume + dice.gauss(0, 0.0002)
        container = round(CONTAINER_G + dice.random(), 4)
        at = START + timedelta(minutes=taken)
        rows.append(
            Reading(
                inserted_at=at - timedelta(seconds=20),
                read_at=at,
                temperature_c=temperature,
                drawn_ml=school.pipette_ml,
                container=f"{n + 1}",
                mass_container_g=container,
                mass_dried_g=round(container + solids, 4),
            )
        )
    left = DISPERSANT_G_ML * school.pipette_ml
    blank = Blank(drawn_ml=school.pipette_ml, mass_container_g=CONTAINER_G, mass_dried_g=round(CONTAINER_G + left, 4))
    changed: dict[str, object] = {
        "readings": tuple(rows),
        "blanks": (blank,),
        "in_oven_at": START + timedelta(hours=9),
        "mass_dry_g": round(mass * (0.67 if mistake == "mass" else 1.0), 2),
    }
    truth = {"finer_than_2um_percent": log_normal_percent(0.002, *soil)}
    return Trial(record.model_copy(update=changed), truth, dict.fromkeys(truth, 2.0), mistake)


def virtual(seed: int, school: HydrometerSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual soil whose true clay content is returned beside it."""
    dice = random.Random(seed)
    soil = (dice.uniform(0.004, 0.012), dice.uniform(1.6, 2.2))
    kind: HydrometerType = "pipette" if school.by == "pipette" else KINDS[seed % len(KINDS)]
    sg = kind in ("151H", "calibrated, sg")
    warm = dice.uniform(20.0, 21.5)
    mass = dice.uniform(49, 55)
    record = Record(
        hydrometer=None if kind == "pipette" else "H1",
        hydrometer_type=kind,
        bulb_length_cm=stokes.BULB_LENGTH_CM,
        bulb_volume_cm3=stokes.BULB_VOLUME_CM3,
        stem_zero_cm=stokes.STEM_ZERO_CM,
        stem_step_cm=stokes.STEM_PER_SG_CM / 1000 if sg else stokes.STEM_PER_G_L_CM,
        meniscus_g_l=None if sg else 0.6,
        meniscus_sg=0.0004 if sg else None,
        cylinder="A",
        mass_dry_g=round(mass / 2 if kind == "pipette" else mass, 2),
        bath_temperature_c=round(warm, 1) if kind == "pipette" else None,
        came_through_mm=2.0,
        passing_percent=100.0,
        specific_gravity_ratio=2.68,
        specific_gravity_from="measured",
        dispersant_made_on=START.date() - timedelta(days=3),
        tested_on=START.date(),
        soaked_from_at=START - timedelta(hours=17),
        mixed_min=10.0,
        started_at=START,
    )

    # G/L and specific gravity are two scales on one stem; 0.62264 is the step of 151H that equals one g/L of 152H.
    def stem(reading_g_l: float) -> dict[str, float]:
        if sg:
            return {"reading_sg": round(1 + reading_g_l * 0.62264 / 1000, 4)}
        return {"reading_g_l": round(4 * reading_g_l) / 4}

    if kind == "pipette":
        return sampled(record, school, soil, dice, warm, mistake)
    fall = 5.0 if mistake == "cold" else 0.8
    rows = []
    for n, minutes in enumerate(school.schedule_min):
        share = math.log1p(minutes) / math.log1p(school.schedule_min[-1])
        temperature = round(warm - fall * share, 1)
        taken = minutes + (2.0 if mistake == "late" and n == 2 else 0.0)
        reading = reading_at(taken, temperature, record, school, soil)
        if mistake == "stirred" and n == len(school.schedule_min) - 2:
            reading += 9.0
        at = START + timedelta(minutes=taken)
        rows.append(
            Reading(
                inserted_at=at - timedelta(seconds=30) if minutes > school.left_in_min else None,
                read_at=at,
                temperature_c=temperature,
                **stem(reading + dice.gauss(0, 0.05)),
            )
        )
    blanks = tuple(
        Blank(temperature_c=t, **stem(correction_g_l(t))) for t in (round(warm + 0.5, 1), round(warm - 1.5, 1))
    )
    shown = record.mass_dry_g or 50.0
    record = record.model_copy(
        update={
            "readings": tuple(rows),
            "blanks": blanks,
            "mass_dry_g": round(shown * 0.67, 2) if mistake == "mass" else shown,
        }
    )
    truth: dict[str, float] = {}
    if school.schedule_min[-1] >= 1000:
        truth["finer_than_2um_percent"] = log_normal_percent(0.002, *soil)
    else:
        truth["finer_than_20um_percent"] = log_normal_percent(0.02, *soil)
    return Trial(record, truth, dict.fromkeys(truth, 2.0), mistake)
