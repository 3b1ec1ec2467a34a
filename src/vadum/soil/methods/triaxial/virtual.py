"""A virtual clay in a triaxial cell: it saturates, consolidates, and fails on its own envelope."""

import math
import random
from datetime import UTC, datetime, timedelta
from typing import Any, NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.contract.method import Dial, Practice, Seen, Trial
from vadum.soil.contract.outcome import Table
from vadum.soil.methods.triaxial.cell import membrane_kpa
from vadum.soil.methods.triaxial.facts import Facts, called_mm
from vadum.soil.methods.triaxial.record import Drained, Increment, Kind, Reading, Record, Specimen
from vadum.soil.methods.triaxial.school import TriaxialSchool
from vadum.soil.shared.consolidation import settled_percent
from vadum.soil.shared.physics import WATER_20_MG_M3

MISTAKES = {
    "b": "sheared at B 0.88, the back pressure low",
    "fast": "sheared ten times too fast",
    "leak": "a membrane that leaks while it consolidates",
    "soaked": "a membrane soaked for two hours",
    "early": "stopped before its greatest deviator",
    "two": "two specimens only",
    "back": "a back pressure above the cell's",
}
START = datetime(2026, 1, 5, 8, 0, tzinfo=UTC)
PRESSURES_KPA = (100.0, 200.0, 400.0)
HEIGHT_MM, DIAMETER_MM, BACK_KPA = 76.0, 38.0, 300.0
MODULUS_KPA, THICKNESS_MM = 1400.0, 0.2
FAR_APART_DEGREES = 2.0
SECONDS = 60.0


class Clay(NamedTuple):
    """A hidden clay: its envelope, pore pressure parameter, strain at failure as a ratio, drainage as a time factor a
    minute, undrained strength where nothing is consolidated, and how much of its peak is left behind it."""

    phi_degrees: float
    c_kpa: float
    a_ratio: float
    strain: float
    per_min: float
    su_kpa: float
    left_ratio: float

    def deviator_kpa(self, pressure: float, kind: Kind, extension: bool = False) -> float:
        """Its deviator at failure under an effective consolidation pressure, kPa; without its sign.

        Undrained: `q = (2 c cos phi + 2 p sin phi) / (1 - sin phi + 2 A sin phi)`; drained without A.
        """
        if kind in ("UU", "UUP"):
            return 2 * self.su_kpa
        sine, cosine = math.sin(math.radians(self.phi_degrees)), math.cos(math.radians(self.phi_degrees))
        top = 2 * self.c_kpa * cosine + 2 * pressure * sine
        drained = kind in ("CID", "CAD")
        if extension:
            return top / (1 + sine) if drained else top / (1 + sine + 2 * self.a_ratio * sine)
        return top / (1 - sine) if drained else top / (1 - sine + 2 * self.a_ratio * sine)

    def share(self, strain: float) -> float:
        """The share of the deviator at failure at a strain, a ratio: a hyperbola to 1, then a fall."""
        x, bend = strain / self.strain, 0.5
        top = 1 / (1 + (1 / bend) ** 2) ** 0.5
        if x <= 1:
            return float(x / (1 + (x / bend) ** 2) ** 0.5 / top)
        return 1 - (1 - self.left_ratio) * (1 - math.exp(-(x - 1) / 0.5))


def clay_of(seed: int) -> Clay:
    """The hidden clay of a seed."""
    dice = random.Random(seed)
    return Clay(
        dice.uniform(22, 32),
        dice.uniform(2, 12),
        dice.uniform(0.15, 0.45),
        dice.uniform(0.05, 0.08),
        dice.uniform(0.02, 0.06),
        dice.uniform(30, 90),
        dice.uniform(0.86, 0.93),
    )


def steps_to(pressure: float, mistake: str | None) -> tuple[Increment, ...]:
    """Its saturation: six steps of 50 kPa, B rising to where it is proved."""
    rows, pore, cell = [], 0.0, 0.0
    for n, b in enumerate((0.52, 0.68, 0.80, 0.88, 0.93, 0.97)):
        raised = cell + 50.0 if n else 60.0
        answered = pore + b * (raised - cell)
        back = raised - 10.0
        rows.append(
            Increment(
                cell_from_kpa=cell,
                cell_to_kpa=raised,
                pore_from_kpa=round(pore, 1),
                pore_to_kpa=round(answered, 1),
                back_kpa=round(back, 1),
            )
        )
        pore, cell = back, raised
        if mistake == "b" and n == 3:
            break
    return tuple(rows)


def _drained(
    clay: Clay, school: TriaxialSchool, volume_cm3: float, out: float, mistake: str | None
) -> tuple[Drained, ...]:
    rows = []
    for minutes in (0.0, *school.consolidation_min):
        share = settled_percent(clay.per_min * minutes) / 100
        lost = 0.25 * out * math.log10(1 + minutes) if mistake == "leak" else 0.002 * out * math.log10(1 + minutes)
        rows.append(Drained(volume_cm3=round(out * share + lost, 3), elapsed_min=minutes))
        if clay.per_min * minutes > 5:
            break
    return tuple(rows)


def _shear(
    clay: Clay,
    school: TriaxialSchool,
    kind: Kind,
    pressure: float,
    height: float,
    volume_cm3: float,
    rate: float,
    dice: random.Random,
    most: float,
    back: float,
) -> tuple[Reading, ...]:
    area, top = 1000 * volume_cm3 / height, clay.deviator_kpa(pressure, kind)
    diameter = math.sqrt(4 * area / math.pi)
    rows = []
    drained = kind in ("CID", "CAD")
    for at in called_mm(height, school):
        strain = at / height
        if strain > most:
            break
        q = top * clay.share(strain)
        volume = 0.015 * (1 - math.exp(-strain / 0.03)) if drained else 0.0
        now = area * (1 - volume) / (1 - strain)
        rubber = membrane_kpa(MODULUS_KPA, THICKNESS_MM, strain, diameter)
        measured = q + rubber
        if rubber <= school.correct_over_percent / 100 * abs(measured):
            measured = q  # so small a correction is not made
        force = measured * now / 1000
        pore = None if drained or kind == "UU" else round(back + clay.a_ratio * q + dice.gauss(0, 0.1), 1)
        rows.append(
            Reading(
                deformation_mm=at,
                force_n=round(max(0.0, force + (dice.gauss(0, 0.1) if at else 0.0)), 1),
                pore_kpa=pore,
                volume_cm3=round(volume * volume_cm3, 3) if drained else None,
                elapsed_s=round(SECONDS * at / rate, 1),
            )
        )
    return tuple(rows)


def kind_of(school: TriaxialSchool) -> Kind:
    """The kind that the virtual test is of: the school's first."""
    found: Kind = school.kinds[0]  # type: ignore[assignment]
    return found


def rate_percent_min(clay: Clay, school: TriaxialSchool, kind: Kind) -> float:
    """A rate at which the hidden clay keeps even, or drains, %/min."""
    if school.rate_by == "fixed":
        return school.fixed_percent_min
    t50, t90, t100 = 0.197 / clay.per_min, 0.848 / clay.per_min, 0.785 / clay.per_min
    strain = school.expected_failure_percent
    if school.rate_by == "F t100":
        factor = (school.drained_factors if kind in ("CID", "CAD") else school.undrained_factors)[
            school.drained_ends - 1
        ]
        return 0.8 * strain / max(factor * t100 * 1.1, school.least_failure_min)
    if kind in ("CID", "CAD"):
        return 0.8 * strain / (16 * t90)
    return 0.8 * strain / (10 * t50)


def virtual(seed: int, school: TriaxialSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual clay in three specimens, the truth of its envelope beside it."""
    clay, dice, kind = clay_of(seed), random.Random(seed + 300), kind_of(school)
    quick = kind in ("UU", "UUP")
    area = math.pi * DIAMETER_MM**2 / 4
    volume = area * HEIGHT_MM / 1000
    particle, water = 2.72, 28.0
    dry = 0.985 / (1 / particle + water / 100 / WATER_20_MG_M3)
    mass = dry * (1 + water / 100) * volume
    specimens = []
    for n, pressure in enumerate(PRESSURES_KPA[: 2 if mistake == "two" else 3]):
        out = 0.0 if quick else 0.9 + 1.1 * math.log10(pressure / 50) * 2
        height = HEIGHT_MM if quick else HEIGHT_MM - HEIGHT_MM * out / volume / 3
        left = volume if quick else volume - out
        rate = rate_percent_min(clay, school, kind) / 100 * height
        if mistake == "fast":
            rate *= 10
        most = 0.5 * clay.strain if mistake == "early" else clay.strain + school.past_peak_percent / 100 + 0.02
        shear = _shear(clay, school, kind, pressure, height, left, rate, dice, most, BACK_KPA)
        tin = 31.42
        after = water - (0.0 if quick else 100 * out * WATER_20_MG_M3 / (dry * volume))
        soaked = START + timedelta(days=n)
        specimens.append(
            Specimen(
                number=f"{n + 1}",
                wanted_kpa=pressure,
                discs_boiled_at=None if quick else soaked,
                membrane="M4",
                membrane_thickness_mm=THICKNESS_MM,
                membrane_soaked_from_at=None if quick else soaked,
                lines_flushed=None if quick else "yes",
                diameter_top_mm=DIAMETER_MM,
                diameter_middle_mm=DIAMETER_MM + 0.1,
                diameter_bottom_mm=DIAMETER_MM - 0.1,
                height_1_mm=HEIGHT_MM,
                height_2_mm=HEIGHT_MM + 0.1,
                height_3_mm=HEIGHT_MM - 0.1,
                mass_g=round(mass * (1 + dice.uniform(-0.002, 0.002)), 2),
                mounted_at=None if quick else soaked + timedelta(hours=2 if mistake == "soaked" else 18),
                increments=() if quick else steps_to(pressure, mistake),
                saturated=None if quick else "yes",
                saturation_shortening_mm=None if quick else 0.0,
                cell_kpa=pressure if quick else BACK_KPA + pressure,
                back_kpa=None if quick else (BACK_KPA + pressure + 40 if mistake == "back" else BACK_KPA),
                under_pressure_from_at=soaked if quick else None,
                drained_from_at=None if quick else soaked + timedelta(hours=20),
                consolidation=() if quick else _drained(clay, school, volume, out, mistake),
                consolidated=None if quick else "yes",
                volume_out_cm3=None if quick else round(out, 3),
                consolidation_shortening_mm=None if quick else round(HEIGHT_MM - height, 3),
                rate_mm_min=round(rate, 5),
                shear=shear,
                stopped="called off" if mistake == "early" else "past the peak",
                failed_by="bulge",
                tin=f"3{n}",
                mass_tin_g=tin,
                mass_wet_g=round(tin + dry * volume * (1 + after / 100), 2),
                mass_dry_g=round(tin + dry * volume, 2),
                in_oven_at=START + timedelta(days=5),
            )
        )
    record = Record(
        kind=kind,
        soil_state="as received",
        direction="compression",
        staging="single",
        sample_type="tube",
        brittle="no",
        largest_particle_mm=1.0,
        particle_density_mg_m3=particle,
        particle_density_from="measured",
        water_before_percent=water,
        triaxial_cell="C1",
        cell_rating_kpa=1000.0,
        cell_fluid="water",
        load_cell="LC3",
        load_cell_most_n=5000.0,
        piston_zeroed="yes",
        membrane_modulus_kpa=MODULUS_KPA,
        membrane_modulus_from="measured",
        side_drains="no",
        specimens=tuple(specimens),
        enough="yes",
    )
    if quick:
        return Trial(record, {"shear_strength_kpa": clay.su_kpa}, {"shear_strength_kpa": 0.03 * clay.su_kpa}, mistake)
    truth = {"phi_degrees": clay.phi_degrees, "c_kpa": clay.c_kpa}
    return Trial(record, truth, {"phi_degrees": 0.8, "c_kpa": 3.0}, mistake)


def address(seed: int, school: TriaxialSchool, facts: Facts, called: Called, rate: float, speed: float) -> str | None:
    """The simulated set that shears the hidden clay under the pressures that stand."""
    one = facts.in_hand
    kind = facts.record.kind
    if one is None or one.start is None or kind is None or one.specimen.cell_kpa is None:
        return None
    clay = clay_of(seed)
    pressure = one.effective_kpa if one.effective_kpa is not None else one.specimen.cell_kpa
    pace = rate or (called.pace.rate if called.pace else 0.1)
    drained = kind in ("CID", "CAD")
    return (
        f"simulated://cell?deviator_kpa={clay.deviator_kpa(pressure, kind):.4f}&failure_ratio={clay.strain:.5f}"
        f"&left_ratio={clay.left_ratio:.4f}&a_ratio={0 if drained else clay.a_ratio:.4f}"
        f"&height_mm={one.start.height_mm:.4f}&area_mm2={one.start.area_mm2:.4f}&cell_kpa={one.specimen.cell_kpa:g}"
        f"&back_kpa={one.specimen.back_kpa or 0:g}&volume_ratio={0.015 if drained else 0:g}"
        f"&rating_kpa={facts.record.cell_rating_kpa or 1000:g}&rate_mm_min={pace:g}&speed={speed:g}"
        f"&seed={seed + one.row}&running=1&end_mm={0.2 * one.start.height_mm:g}"
    )


def dials(facts: Facts, called: Called) -> tuple[Dial, ...]:
    """What is read by eye: the shortening, the load, and the pore pressure."""
    found = [
        Dial("travel", "shortening", "one division 0.01 mm, a turn 1 mm", 1.0),
        Dial("force", "load", "one division 1 N, a turn 100 N", 100.0),
    ]
    if facts.record.kind in ("CIU", "CAU", "UUP"):
        found.append(Dial("pore", "pore pressure", "one division 1 kPa, a turn 100 kPa", 100.0))
    if facts.drained:
        found.append(Dial("volume", "water out", "one division 0.02 cm³, a turn 2 cm³", 2.0))
    return tuple(found)


def seen(seed: int, school: TriaxialSchool, facts: Facts) -> tuple[Seen, ...]:
    """What only the hidden clay tells: an angle or a strength that was read otherwise."""
    if facts.hand is not None:
        return ()
    clay = clay_of(seed)
    if facts.quick and facts.shear_strength_kpa is not None:
        if abs(facts.shear_strength_kpa - clay.su_kpa) <= 0.1 * clay.su_kpa:
            return ()
        words = f"{facts.shear_strength_kpa:.0f} kPa read, the clay had {clay.su_kpa:.0f} kPa"
        return (Seen("strength missed", words, "Look at the load's zero and at the rate."),)
    if facts.effective is None or abs(facts.effective.strength.phi_degrees - clay.phi_degrees) <= FAR_APART_DEGREES:
        return ()
    words = f"{facts.effective.strength.phi_degrees:.1f}° read, the clay had {clay.phi_degrees:.1f}°"
    return (Seen("angle missed", words, "Look at the pressures and at the rate."),)


def truth(seed: int, school: TriaxialSchool, facts: Facts) -> Table:
    """The hidden clay's own envelope."""
    clay, most = clay_of(seed), 600.0
    if facts.quick:
        return tuple({"normal_kpa": most * i / 6, "shear_kpa": clay.su_kpa} for i in range(7))
    tan = math.tan(math.radians(clay.phi_degrees))
    return tuple({"normal_kpa": most * i / 6, "shear_kpa": clay.c_kpa + most * i / 6 * tan} for i in range(7))


def answers(seed: int, school: TriaxialSchool, record: Any, path: str) -> Any:
    """In practice the pressures are chosen; the saturation answers as the clay does."""
    return None


PRACTICE = Practice(
    answers=answers,
    decides=(
        "stopped",
        "rate_mm_min",
        "saturated",
        "consolidated",
        "kind",
        "cell_kpa",
        "back_kpa",
        "direction",
        "staging",
        "piston_zeroed",
    ),
    address=address,
    rates=(0.05, 0.5, 1.0),
    dials=dials,
    seen=seen,
    truth=truth,
)
