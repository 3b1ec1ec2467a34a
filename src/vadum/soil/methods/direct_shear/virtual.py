"""A virtual soil in a shear box: a hyperbolic rise to a peak, softening behind it, opening as it shears."""

import math
import random
from datetime import UTC, datetime, timedelta
from typing import NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.contract.method import Dial, Practice, Seen, Trial
from vadum.soil.contract.outcome import Table
from vadum.soil.methods.direct_shear.box import called_mm, hanger_for_kg, normal_kpa
from vadum.soil.methods.direct_shear.facts import Facts, nominal_kpa
from vadum.soil.methods.direct_shear.record import Reading, Record, Settlement, Soil, Stage
from vadum.soil.methods.direct_shear.school import ShearSchool
from vadum.soil.shared.consolidation import settled_percent
from vadum.soil.shared.load_curve import LoadCurve, vertical_mm

MISTAKES = {
    "screws": "the screws left in at the second stage",
    "lever": "the lever's ratio forgotten",
    "fast": "sheared four times too fast",
    "early": "stopped before the peak",
    "stuck": "a vertical gauge that sticks",
    "two": "two specimens only",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
LOADS_KPA = (50.0, 100.0, 200.0)
FAR_APART_DEGREES = 2.0  # from there on practice names it
SCREWS_KPA = 90.0  # what two screws bear before they give way


class Ground(NamedTuple):
    """A hidden soil: angles of its peak and its tail in degrees, cohesion in kPa, travel at the peak in mm, the angle
    it opens at, how much it closes at first in mm, its drainage as a time factor a minute, and its kind."""

    peak_degrees: float
    tail_degrees: float
    cohesion_kpa: float
    peak_mm: float
    opening_degrees: float
    closing_mm: float
    per_min: float
    soil: Soil

    def shear_kpa(self, normal: float) -> float:
        """Its greatest shear stress under a normal stress, kPa."""
        return self.cohesion_kpa + normal * math.tan(math.radians(self.peak_degrees))

    def curve(self, normal: float, area_mm2: float) -> LoadCurve:
        """Its force in kN against the travel in mm."""
        force_kn = self.shear_kpa(normal) * area_mm2 / 1e6
        bend, power = 0.6 * self.peak_mm, 2.0
        slope = force_kn / (self.peak_mm / (1 + (self.peak_mm / bend) ** power) ** (1 / power))
        left = normal * math.tan(math.radians(self.tail_degrees)) / self.shear_kpa(normal)
        return LoadCurve(slope, bend, power, 0.0, self.peak_mm, left)

    def vertical_mm(self, travel_mm: float) -> float:
        """Its vertical movement, mm, down positive: it closes a little, then opens, fastest at the peak."""
        return vertical_mm(travel_mm, self.closing_mm, self.peak_mm, self.opening_degrees)


def ground_of(seed: int, width_mm: float = 60.0) -> Ground:
    """The hidden soil of a seed: a sand for an even one, a clay that drains slowly for an odd one."""
    dice = random.Random(seed)
    scale = width_mm / 60
    if seed % 2 == 0:
        tail = dice.uniform(30, 33)
        opening = dice.uniform(4, 9)
        peak_mm = round(dice.uniform(1.6, 2.6), 2) * scale
        return Ground(tail + 0.8 * opening, tail, 0.0, peak_mm, opening, 0.04 * scale, 40.0, "clean sand")
    peak = dice.uniform(22, 29)
    peak_mm = round(dice.uniform(2.4, 3.6), 2) * scale
    per_min = dice.uniform(0.5, 1.2)
    return Ground(peak, peak - 5, dice.uniform(6, 14), peak_mm, 0.8, 0.1 * scale, per_min, "silt or lean clay")


def _settling(ground: Ground, school: ShearSchool, height: float, normal: float) -> tuple[Settlement, ...]:
    whole = 0.012 * height * math.log10(1 + normal / 10)
    rows = []
    for minutes in (0.0, *school.settle_min):
        share = settled_percent(ground.per_min * minutes) / 100
        creep = 0.0006 * math.log10(1 + minutes)
        rows.append(Settlement(settlement_mm=round(whole * (share + creep), 4), elapsed_min=minutes))
        if ground.per_min * minutes > 6:
            break
    return tuple(rows)


def _shear(
    ground: Ground, normal: float, area: float, at_mm: tuple[float, ...], rate: float, dice: random.Random, most: float
) -> list[Reading]:
    curve, rows = ground.curve(normal, area), []
    for at in at_mm:
        if at > most:
            break
        force = 1000 * curve.force_kn(at) + (dice.gauss(0, 0.3) if at else 0.0)
        rows.append(
            Reading(
                travel_mm=at,
                force_n=round(max(0.0, force), 1),
                vertical_mm=round(ground.vertical_mm(at) + (dice.gauss(0, 0.0008) if at else 0.0), 3),
                elapsed_s=round(60 * at / rate, 1),
            )
        )
    return rows


def rate_of(ground: Ground, school: ShearSchool) -> float:
    """A rate at which the hidden soil drains until its peak, mm/min."""
    if ground.soil == "clean sand":
        return school.dry_sand_mm_min
    needed = 12.7 * 0.95 / ground.per_min
    return round(0.8 * ground.peak_mm / needed, 3)


def virtual(seed: int, school: ShearSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual soil in three stages, the truth of its envelope beside it."""
    # A dry sand forgives any rate: only a clay can be sheared too fast.
    dice, ground = random.Random(seed + 900), ground_of(seed | 1 if mistake == "fast" else seed, school.width_mm)
    width, height = school.width_mm, school.height_mm
    area, cap, lever = width * width, 1.42 if width < 100 else 22.0, 10.0
    sand = ground.soil == "clean sand"
    water, particle, dry = (0.3, 2.65, 1.66) if sand else (24.0, 2.72, 1.62)
    at_mm, rate = called_mm(Record(box_width_mm=width), school), rate_of(ground, school)
    if mistake == "fast":
        rate = 8 * rate
    stages = []
    for n, wanted in enumerate(LOADS_KPA[: 2 if mistake == "two" else 3]):
        hanger = round(hanger_for_kg(wanted, cap, lever, area), 2)
        normal = normal_kpa(cap, hanger, lever, area)
        most = 0.7 * ground.peak_mm if mistake == "early" else 2.6 * ground.peak_mm + 0.02 * width
        rows = _shear(ground, normal, area, at_mm, rate, dice, most)
        if mistake == "screws" and n == 1:
            force = [
                round((r.force_n or 0) + (SCREWS_KPA * area / 1000 if i in (1, 2) else 0), 1)
                for i, r in enumerate(rows)
            ]
            rows = [r.model_copy(update={"force_n": v}) for r, v in zip(rows, force, strict=True)]
        if mistake == "stuck" and n == 1:
            rows = [r.model_copy(update={"vertical_mm": 0.0 if i < 3 else 0.021}) for i, r in enumerate(rows)]
        mass = round(dry * (1 + water / 100) * area * height / 1000 * (1 + dice.uniform(-0.002, 0.002)), 2)
        left = 412.6
        stages.append(
            Stage(
                wanted_kpa=wanted,
                mass_before_g=round(left + mass, 2),
                mass_left_g=left,
                height_mm=height,
                hanger_kg=hanger,
                gap_mm=0.7,
                flooded="no" if sand else "yes",
                loaded_at=None if sand else START + timedelta(days=n),
                settlement=() if sand else _settling(ground, school, height, normal),
                consolidated=None if sand else "yes",
                screws_out="yes",
                zeroed="yes",
                friction_n=0.0,
                rate_mm_min=rate,
                shear=tuple(rows),
                stopped="called off" if mistake == "early" else "past the peak",
            )
        )
    record = Record(
        soil=ground.soil,
        soil_state="as received",
        normally_consolidated="no",
        drainage="drained",
        largest_particle_mm=1.0,
        water_before_percent=water,
        particle_density_mg_m3=particle,
        particle_density_from="measured",
        shear_box="B1",
        box_shape="square",
        box_width_mm=width,
        box_height_mm=height,
        cap_kg=cap,
        lever_ratio=1.0 if mistake == "lever" else lever,
        lever_balanced="yes",
        ridges_across="yes",
        load_by="load cell",
        load_cell="LC2",
        load_cell_most_n=2000.0 if width < 100 else 50000.0,
        stages=tuple(stages),
        enough="yes",
    )
    truth = {"phi_peak_degrees": ground.peak_degrees}
    # A corrected area leaves the ratio of both stresses what it is: the angle is the same by either school.
    return Trial(record, truth, {"phi_peak_degrees": 1.2}, mistake)


def address(seed: int, school: ShearSchool, facts: Facts, called: Called, rate: float, speed: float) -> str | None:
    """The simulated frame that shears the hidden soil under the load that hangs."""
    stage = facts.in_hand
    if stage is None:
        return None
    normal = nominal_kpa(facts.record, stage.stage, facts.box)
    if normal is None:
        return None
    ground = ground_of(seed, facts.box.width_mm)
    c = ground.curve(normal, facts.box.area_mm2)
    pace = rate or (called.pace.rate if called.pace else 1.0)
    return (
        f"simulated://shear?a_kn_mm={c.a_kn_mm:.6f}&bend_mm={c.bend_mm:.6f}&power={c.power:g}&peak_mm={c.peak_mm:.6f}"
        f"&left_ratio={c.left_ratio:.4f}&closing_mm={ground.closing_mm:.4f}&opening_degrees={ground.opening_degrees:.3f}"
        f"&rate_mm_min={pace:g}&speed={speed:g}&seed={seed + stage.row}&running=1"
        f"&end_mm={school.most_travel_share * facts.box.width_mm:g}"
    )


def dials(facts: Facts, called: Called) -> tuple[Dial, ...]:
    """What is read by eye: the travel, the force and the vertical gauge."""
    return (
        Dial("travel", "travel", "one division 0.01 mm, a turn 1 mm", 1.0),
        Dial("force", "force", "one division 1 N, a turn 100 N", 100.0),
        Dial("vertical", "vertical, down", "one division 0.002 mm, a turn 0.2 mm", 0.2),
    )


def seen(seed: int, school: ShearSchool, facts: Facts) -> tuple[Seen, ...]:
    """What only the hidden soil tells: an angle that was read otherwise."""
    if facts.peak is None or facts.hand is not None:
        return ()
    true, found = ground_of(seed, facts.box.width_mm).peak_degrees, facts.peak.strength.phi_degrees
    if abs(true - found) <= FAR_APART_DEGREES:
        return ()
    return (Seen("angle missed", f"{found:.1f}° read, the soil had {true:.1f}°", "Look at the load and at the peaks."),)


def truth(seed: int, school: ShearSchool, facts: Facts) -> Table:
    """The hidden soil's own envelope."""
    ground = ground_of(seed, facts.box.width_mm)
    most = max((st.normal_kpa or 0.0 for st in facts.stages), default=0.0) or LOADS_KPA[-1]
    return tuple({"normal_kpa": most * i / 10, "shear_kpa": ground.shear_kpa(most * i / 10)} for i in range(12))


PRACTICE = Practice(
    decides=("stopped", "rate_mm_min", "consolidated", "screws_out", "zeroed", "hanger_kg", "load_by", "drainage"),
    address=address,
    rates=(0.5, 1.0, 1.5),
    dials=dials,
    seen=seen,
    truth=truth,
)
