"""A virtual core between two platens: a hyperbolic rise, a peak, and a fall behind it."""

import random
from datetime import UTC, datetime, timedelta
from typing import Any, NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.contract.method import Dial, Practice, Seen, Trial
from vadum.soil.contract.outcome import Table
from vadum.soil.methods.unconfined_compression.core import called_mm, stress_kpa
from vadum.soil.methods.unconfined_compression.facts import Facts
from vadum.soil.methods.unconfined_compression.record import Reading, Record
from vadum.soil.methods.unconfined_compression.school import UnconfinedSchool
from vadum.soil.shared.load_curve import LoadCurve
from vadum.soil.shared.phases import void_ratio
from vadum.soil.shared.physics import WATER_20_MG_M3

MISTAKES = {
    "early": "stopped before the peak",
    "fast": "the platen driven three times too fast",
    "short": "a core cut too short",
    "dried": "left to dry for an afternoon before the test",
    "askew": "ends left askew",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
AREA_MM2 = 1140.0918
HEIGHT_MM = 76.2
FAR_APART_RATIO = 0.06  # of the true strength: from there on practice names it


class Clay(NamedTuple):
    """A hidden core: how its force rises with the shortening, its diameter and height in mm."""

    curve: LoadCurve
    diameter_mm: float
    height_mm: float

    @property
    def area_mm2(self) -> float:
        """Area of its section."""
        return AREA_MM2 * (self.diameter_mm / 38.1) ** 2

    def stress_kpa(self, travel_mm: float) -> float:
        """Its true stress at a shortening."""
        return stress_kpa(1000 * self.curve.force_kn(travel_mm), self.area_mm2, travel_mm / self.height_mm)


def clay_of(seed: int) -> Clay:
    """The hidden core of a seed: 25 to 200 kPa, failing at 3 to 9 % strain."""
    dice = random.Random(seed)
    strength, strain = dice.uniform(25, 200), dice.uniform(0.03, 0.09)
    diameter, height = 38.1, HEIGHT_MM
    peak_mm = strain * height
    force_kn = strength * AREA_MM2 / 1e6 / (1 - strain)
    bend, power = 0.7 * peak_mm, 2.2
    slope = force_kn / (peak_mm / (1 + (peak_mm / bend) ** power) ** (1 / power))
    return Clay(LoadCurve(slope, bend, power, 0.0, peak_mm, dice.uniform(0.55, 0.8)), diameter, height)


def truth_of(clay: Clay, stop_strain: float) -> tuple[float, float]:
    """The true strength in kPa and its strain, a ratio, up to the stop strain: on a fine grid of the law itself."""
    many = 2_000
    travels = (stop_strain * clay.height_mm * i / many for i in range(1, many + 1))
    best = max(travels, key=clay.stress_kpa)
    return clay.stress_kpa(best), best / clay.height_mm


def _series(clay: Clay, school: UnconfinedSchool, rate: float, dice: random.Random, upto: float) -> tuple[Reading, ...]:
    rows = []
    for at in called_mm(clay.height_mm, school):
        if at > upto:
            break
        seconds = 60 * at / rate
        force = 1000 * clay.curve.force_kn(at) + (dice.gauss(0, 0.08) if at else 0.0)
        rows.append(Reading(deformation_mm=at, force_n=round(max(0.0, force), 1), elapsed_s=round(seconds, 1)))
    return tuple(rows)


def virtual(seed: int, school: UnconfinedSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual core whose true strength is returned beside it."""
    clay, dice = clay_of(seed), random.Random(seed + 700)
    if mistake == "short":
        clay = clay._replace(height_mm=52.0)
    middle = (school.least_rate_percent_min + school.most_rate_percent_min) / 2 / 100 * clay.height_mm
    strength, strain = truth_of(clay, school.stop_strain_percent / 100)
    if school.least_failure_min is not None:
        middle = min(middle, 100 * strain / (1.4 * school.least_failure_min) / 100 * clay.height_mm)
        middle = max(middle, 1.02 * school.least_rate_percent_min / 100 * clay.height_mm)
    rate = 3.2 * school.most_rate_percent_min / 100 * clay.height_mm if mistake == "fast" else middle
    upto = 0.7 * strain * clay.height_mm if mistake == "early" else (strain + 0.045) * clay.height_mm
    particle, water = 2.70, dice.uniform(24, 34)
    dry = 1 / (1 / particle + water / 100 / WATER_20_MG_M3 / 0.985)
    assert void_ratio(dry, particle) > 0
    mass = dry * (1 + water / 100) * clay.area_mm2 * clay.height_mm / 1000
    dried = water - 4 if mistake == "dried" else water
    tin = 24.16
    record = Record(
        specimen="A1",
        depth_m=2.4,
        sample_type="tube",
        disturbance_class="1",
        orientation="vertical",
        preparation="trimmed",
        extruded_at=START,
        diameters_at="top, middle, bottom",
        diameter_top_mm=clay.diameter_mm,
        diameter_middle_mm=clay.diameter_mm + 0.1,
        diameter_bottom_mm=clay.diameter_mm - 0.1,
        height_1_mm=clay.height_mm,
        height_2_mm=clay.height_mm + 0.1,
        height_3_mm=clay.height_mm - 0.1,
        mass_g=round(mass, 2),
        largest_particle_mm=2.0,
        ends_square="no" if mistake == "askew" else "yes",
        load_by="load cell",
        load_cell="LC1",
        load_cell_most_n=250.0,
        rate_mm_min=round(rate, 3),
        readings=_series(clay, school, rate, dice, upto),
        stopped="called off" if mistake == "early" else "past the peak",
        failure_mode="one plane",
        plane_degrees=58.0,
        fissures="no",
        stones="no",
        tin="38",
        mass_tin_g=tin,
        mass_wet_g=round(tin + mass * (1 + dried / 100) / (1 + water / 100), 2),
        mass_dry_g=round(tin + mass / (1 + water / 100), 2),
        water_from="specimen",
        in_oven_at=START + timedelta(hours=1),
        natural_water_percent=round(water, 1),
        particle_density_mg_m3=particle,
        particle_density_from="measured",
    )
    truth = {"strength_kpa": strength, "strain_at_failure_percent": 100 * strain}
    # A hand reads every half percent of strain: the very peak lies between two of its readings.
    tolerance = {"strength_kpa": 0.05 * strength, "strain_at_failure_percent": 0.6}
    return Trial(record, truth, tolerance, mistake)


def address(seed: int, school: UnconfinedSchool, facts: Facts, called: Called, rate: float, speed: float) -> str:
    """The simulated press that shortens the hidden core."""
    c = clay_of(seed).curve
    pace = rate or (called.pace.rate if called.pace else 1.0)
    return (
        f"simulated://press?a_kn_mm={c.a_kn_mm:.6f}&bend_mm={c.bend_mm:.6f}&power={c.power:g}&peak_mm={c.peak_mm:.6f}"
        f"&left_ratio={c.left_ratio:.4f}&rate_mm_min={pace:g}&speed={speed:g}&seed={seed}&running=1&end_mm=18"
    )


def dials(facts: Facts, called: Called) -> tuple[Dial, ...]:
    """What is read by eye: the gauge under the platen, and the force."""
    return (
        Dial("travel", "shortening", "one division 0.01 mm, a turn 1 mm", 1.0),
        Dial("force", "force", "one division 1 N, a turn 100 N", 100.0),
    )


def seen(seed: int, school: UnconfinedSchool, facts: Facts) -> tuple[Seen, ...]:
    """What only the hidden core tells: a strength that was read otherwise."""
    if facts.peak is None or not facts.over:
        return ()
    strength, _ = truth_of(clay_of(seed), school.stop_strain_percent / 100)
    if abs(facts.peak.stress_kpa - strength) <= FAR_APART_RATIO * strength:
        return ()
    words = f"{facts.peak.stress_kpa:.0f} kPa read, the core had {strength:.0f} kPa"
    return (Seen("strength missed", words, "Read the force at each call, closer together round the peak."),)


def truth(seed: int, school: UnconfinedSchool, facts: Facts) -> Table:
    """The hidden core's own curve."""
    clay, many = clay_of(seed), 120
    last = school.stop_strain_percent / 100 * clay.height_mm
    rows = [last * i / many for i in range(many + 1)]
    return tuple(
        {"strain_percent": 100 * at / clay.height_mm, "stress_kpa": clay.stress_kpa(at), "label": ""} for at in rows
    )


def answers(seed: int, school: UnconfinedSchool, record: Any, path: str) -> Any:
    """In practice the ends are as the hand cut them, and the rate is chosen."""
    return None


PRACTICE = Practice(
    answers=answers,
    decides=("rate_mm_min", "stopped", "water_from", "sample_type", "load_by"),
    address=address,
    rates=(0.5, 0.76, 1.0, 1.5),
    dials=dials,
    seen=seen,
    truth=truth,
)
