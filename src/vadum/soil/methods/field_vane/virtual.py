"""A virtual profile: a crust, soft clay that grows with depth, a stone, a sand seam, and a rod that rubs."""

import math
import random
from datetime import UTC, datetime, timedelta
from typing import Any

from vadum.soil.contract import paths
from vadum.soil.contract.method import Practice, Trial
from vadum.soil.methods.field_vane.facts import planned_m
from vadum.soil.methods.field_vane.record import Depth, Record
from vadum.soil.methods.field_vane.school import VaneSchool
from vadum.soil.methods.field_vane.vane import vane_constant_m3

MISTAKES = {
    "fast": "turned so fast that the peak came within half a minute",
    "turns": "three turns before the second reading",
    "friction": "the rod's friction never measured",
    "sand": "a strength read in a sand seam",
    "stone": "a stone taken for strength",
}
START = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
FIRST_M, STEP_M, LAST_M = 1.0, 0.5, 3.0
DIAMETER_MM, HEIGHT_MM = 65.0, 130.0
DIVISOR_N_M_KPA = 1000 * vane_constant_m3(DIAMETER_MM, HEIGHT_MM)


def clay_of(seed: int, depth_m: float) -> tuple[float, float, float]:
    """The hidden ground at a depth: strength and remoulded strength in kPa, and the rod's friction in N m."""
    dice = random.Random(seed)
    base, growth, crust = dice.uniform(5, 8), dice.uniform(3.0, 4.5), dice.uniform(1, 4)
    sensitivity = dice.uniform(2.5, 7.0)
    strength = base + growth * depth_m + crust * math.exp(-depth_m)
    return strength, strength / sensitivity, 0.6 + 0.5 * depth_m


def _row(seed: int, school: VaneSchool, i: int, depth_m: float, at: datetime, mistake: str | None) -> Depth:
    strength, weak, rod = clay_of(seed, depth_m)
    dice = random.Random(seed * 100 + i)
    last = i == 2
    if mistake == "stone" and last:
        strength *= 2.6
    peak = strength * DIVISOR_N_M_KPA + rod + dice.gauss(0, 0.05)
    remoulded = weak * DIVISOR_N_M_KPA + rod + dice.gauss(0, 0.05)
    minutes = 0.4 if mistake == "fast" and last else round(dice.uniform(2.2, 3.8), 1)
    noted: Any = {"stone": "stone", "sand": "sand"}.get(mistake or "") if last else None
    return Depth(
        depth_m=depth_m,
        pushed_at=at,
        wait_min=round(dice.uniform(1, 3), 1),
        peak_n_m=round(peak, 1),
        peak_min=minutes,
        peak_at=at + timedelta(minutes=5),
        friction_n_m=None if mistake == "friction" else round(rod, 1),
        turns_count=3 if mistake == "turns" and last else school.turns_count,
        remoulded_n_m=round(remoulded, 1),
        noted=noted,
    )


def virtual(seed: int, school: VaneSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual profile whose true mean strength is returned beside it."""
    planned = planned_m(Record(first_m=FIRST_M, step_m=STEP_M, last_m=LAST_M))
    rows = [_row(seed, school, i, depth, START + timedelta(minutes=20 * i), mistake) for i, depth in enumerate(planned)]
    record = Record(
        services_located="yes",
        ground_level_m=112.4,
        water_depth_m=0.8,
        placed="pushed",
        vane="V1",
        vane_diameter_mm=DIAMETER_MM,
        vane_height_mm=HEIGHT_MM,
        area_ratio_percent=10.5,
        torque_most_n_m=100.0,
        read_by="torque wrench",
        coupling="slip coupling",
        first_m=FIRST_M,
        step_m=STEP_M,
        last_m=LAST_M,
        unit_weight_kn_m3=17.0,
        plasticity_index_percent=34.0,
        depths=tuple(rows),
        ended="yes",
    )
    truth = sum(clay_of(seed, d)[0] for d in planned) / len(planned)
    return Trial(record, {"shear_strength_kpa": truth}, {"shear_strength_kpa": 0.3}, mistake)


def answers(seed: int, school: VaneSchool, record: Record, path: str) -> Any:
    """The gauge at the depth that the person chose; a rod without a coupling shows no friction."""
    place = paths.parse(path)
    if not place.rows or place.rows[0][0] != "depths" or place.row is None:
        return None
    planned = planned_m(record)
    row = record.depths[place.row] if place.row < len(record.depths) else Depth()
    depth = row.depth_m or (planned[place.row] if place.row < len(planned) else None)
    if depth is None:
        return None
    strength, weak, rod = clay_of(seed, depth)
    k = DIVISOR_N_M_KPA
    if record.vane_diameter_mm and record.vane_height_mm:
        k = 1000 * vane_constant_m3(record.vane_diameter_mm, record.vane_height_mm)
    shown = {"peak_n_m": strength * k + rod, "remoulded_n_m": weak * k + rod, "friction_n_m": rod}
    value = shown.get(place.name)
    return None if value is None else round(value, 1)


PRACTICE = Practice(
    answers=answers,
    decides=(
        "services_located",
        "placed",
        "read_by",
        "coupling",
        "first_m",
        "step_m",
        "last_m",
        "depth_m",
        "turns_count",
        "noted",
        "ended",
    ),
)
