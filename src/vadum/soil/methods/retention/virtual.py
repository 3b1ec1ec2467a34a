"""A virtual loam in six rings: its curve hidden, each step settling over days."""

import math
import random
from datetime import UTC, datetime, timedelta

from vadum.soil.contract.compare import at_most
from vadum.soil.contract.method import Practice, Trial
from vadum.soil.methods.retention.curve import van_genuchten
from vadum.soil.methods.retention.record import Cell, Point, Record, Step, Weighing
from vadum.soil.methods.retention.school import RetentionSchool
from vadum.soil.shared.pressure_units import in_cm

MISTAKES = {
    "unit": "a pressure typed in bar that was kPa",
    "hasty": "cells that went on while they still lost water",
    "washers": "washers that were missing in the tare",
    "lid": "a lid that let water evaporate",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
ACROSS_MM, HIGH_MM, OUTLET_MM = 55.0, 42.1, 0.0
APPARATUS_G = 412.35
MOST_DAYS = 7
DRY_KPA = 1500.0


def curve_of(seed: int) -> tuple[float, float, float, float]:
    """The hidden soil: residual and saturated water as shares, alpha in 1/cm, n."""
    dice = random.Random(seed * 31 + 13)
    return 0.06, dice.uniform(0.42, 0.47), dice.uniform(0.018, 0.03), dice.uniform(1.35, 1.5)


def mass_g(seed: int, cell: int, suction_cm: float, school: RetentionSchool) -> float:
    """What a cell of the hidden soil weighs once it has settled at a suction."""
    volume = math.pi / 4 * ACROSS_MM**2 * HIGH_MM / 1000
    spread = random.Random(seed * 101 + cell).gauss(0, 0.003)
    water = (van_genuchten(suction_cm, *curve_of(seed)) + spread) * volume * school.water_mg_m3
    return APPARATUS_G + dry_g(seed) + water


def dry_g(seed: int) -> float:
    """Dry mass of a ring: pores are a little more than its saturated water."""
    volume = math.pi / 4 * ACROSS_MM**2 * HIGH_MM / 1000
    porosity = curve_of(seed)[1] / 0.95
    return round((1 - porosity) * 2.65 * volume, 2)


def virtual(seed: int, school: RetentionSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual loam in three rings, the truth of its curve beside it."""
    dice = random.Random(seed * 37 + 1)
    middle = HIGH_MM / 20 + OUTLET_MM / 10
    cells = []
    for n in range(3):
        before = mass_g(seed, n, middle, school)
        saturated = round(before, 2)
        weighings: list[Weighing] = []
        day = 0
        for k, kpa in enumerate(school.steps_kpa):
            settled = mass_g(seed, n, in_cm(kpa) + middle, school)
            hasty = mistake == "hasty" and n == 0 and k == 2
            leaky = mistake == "lid" and n == 1 and k == 3
            quiet, last, d = 0, None, 0
            while True:
                day, d = day + 1, d + 1
                left = (before - settled) * (0.5 / d if hasty else math.exp(-1.6 * d))
                mass = round(settled + left - (0.6 * d if leaky else 0.0) + dice.gauss(0, 0.01), 2)
                quiet = quiet + 1 if last is not None and at_most(abs(mass - last), school.settled_g) else 0
                last = mass
                ends = d == 2 if hasty else quiet >= school.settled_days or d == MOST_DAYS
                at = START + timedelta(days=day, minutes=2 * n)
                goes = "goes on" if ends else None
                weighings.append(Weighing(mass_g=mass, weighed_at=at, then=goes, temperature_c=20.5))
                if ends:
                    break
            before = settled
        tare = APPARATUS_G - (14.0 if mistake == "washers" and n == 2 else 0.0)
        dry = dry_g(seed)
        last = mass_g(seed, n, in_cm(school.steps_kpa[-1]) + middle, school)
        cells.append(
            Cell(
                pressure_cell=str(n + 1),
                plate_entry_kpa=100.0,
                ring_diameter_mm=ACROSS_MM,
                core_height_mm=HIGH_MM,
                outlet_below_mm=OUTLET_MM,
                saturated_g=saturated,
                saturated_at=START + timedelta(minutes=2 * n),
                weighings=tuple(weighings),
                wet_out_g=round(last - APPARATUS_G, 2),
                dry_g=dry,
                apparatus_g=tare,
            )
        )
    steps = [Step(pressure_as_read=p, pressure_unit="kPa") for p in school.steps_kpa]
    if mistake == "unit":
        steps[3] = Step(pressure_as_read=school.steps_kpa[3], pressure_unit="bar")
    volume = math.pi / 4 * ACROSS_MM**2 * HIGH_MM / 1000
    dried = 100 * van_genuchten(in_cm(DRY_KPA), *curve_of(seed)) * volume * school.water_mg_m3 / dry_g(seed)
    dewpoint = [
        Point(by="dewpoint", suction_as_read=1.5, suction_unit="MPa", water_percent=round(dried + off, 2))
        for off in (-0.05, 0.05)
    ]
    record = Record(
        soil_state="as received",
        soaked_in="0.01 M calcium chloride",
        texture="loam",
        particle_density_mg_m3=2.65,
        cells_count=3,
        steps=tuple(steps),
        cells=tuple(cells),
        points=tuple(dewpoint),
        lids="on",
        algae="none",
    )
    truth = {f"theta_{kpa:g}_percent": 100 * van_genuchten(in_cm(kpa), *curve_of(seed)) for kpa in (6.0, 33.0)}
    return Trial(record, truth, dict.fromkeys(truth, 0.8), mistake)


PRACTICE = Practice(decides=("then", "lids", "algae", "pressure_unit", "soaked_in", "texture", "by", "suction_unit"))
