"""The shear box: the area that is left, the stresses on it, the peak, the tail and the slope of opening."""

import math
from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.methods.direct_shear.record import Record, Stage
from vadum.soil.methods.direct_shear.school import ShearSchool
from vadum.soil.shared.force_reading import net_force_n
from vadum.soil.shared.physics import GRAVITY_M_S2
from vadum.soil.shared.proving_ring import Ring

BACK_MM = 0.02  # a gauge trembles by so much while the carriage moves; beyond, it ran backwards


class Box(NamedTuple):
    """The box: whether it is square, its side or diameter in mm, whether that was said or is the school's."""

    square: bool
    width_mm: float
    said: bool

    @property
    def area_mm2(self) -> float:
        """The area of the plane before the shear."""
        return self.area_at_mm2(0.0)

    def area_at_mm2(self, travel_mm: float) -> float:
        """The area of the plane that is left at a travel."""
        return square_mm2(self.width_mm, travel_mm) if self.square else lens_mm2(self.width_mm, travel_mm)


class Point(NamedTuple):
    """A reading that counts: its row, the travel in mm, the net force in N, both stresses in kPa, the vertical gauge
    in mm (down positive), the time in s."""

    row: int
    travel_mm: float
    force_n: float
    shear_kpa: float
    normal_kpa: float
    vertical_mm: float | None
    elapsed_s: float | None


def square_mm2(side_mm: float, travel_mm: float) -> float:
    """Area that both halves of a square box share: `A = a (a - dh)`.

    Parameters: `side_mm`, above 0, and `travel_mm`, both in mm.
    Returns: mm².
    Raises: ReductionError where the halves share nothing.
    Source: BS 1377-7, ISO 17892-10.

    >>> square_mm2(60.0, 1.75)
    3495.0
    """
    if travel_mm >= side_mm:
        raise ReductionError("area", f"travel {travel_mm:g} mm", f"below the box's {side_mm:g} mm")
    return side_mm * (side_mm - travel_mm)


def lens_mm2(diameter_mm: float, travel_mm: float) -> float:
    """Area that both halves of a round box share: `A = D^2 / 2 (acos x - x sqrt(1 - x^2))`, `x = dh / D`.

    Parameters: `diameter_mm`, above 0, and `travel_mm`, both in mm.
    Returns: mm².
    Raises: ReductionError where the halves share nothing.
    Source: two circles of one diameter.

    >>> round(lens_mm2(63.5, 0.0), 1), round(lens_mm2(63.5, 6.35), 1)
    (3166.9, 2764.4)
    """
    x = abs(travel_mm) / diameter_mm  # a little behind the start the halves share as much as before it
    if x >= 1:
        raise ReductionError("area", f"travel {travel_mm:g} mm", f"below the box's {diameter_mm:g} mm")
    return diameter_mm**2 / 2 * (math.acos(x) - x * math.sqrt(1 - x * x))


def normal_kpa(direct_kg: float, hanger_kg: float, lever_ratio: float, area_mm2: float) -> float:
    """Normal stress: `sigma_n = g (m_direct + ratio m_hanger) / A`.

    Parameters: `direct_kg` what rests on the plane itself (cap, upper half, lever) and `hanger_kg`, in kg;
        `lever_ratio`; `area_mm2`, above 0.
    Returns: kPa.
    Source: statics of the hanger.

    >>> round(normal_kpa(1.42, 1.8, 10.0, 3600.0), 5)
    52.90143
    """
    return 1000 * GRAVITY_M_S2 * (direct_kg + lever_ratio * hanger_kg) / area_mm2


def hanger_for_kg(wanted_kpa: float, direct_kg: float, lever_ratio: float, area_mm2: float) -> float:
    """What has to hang for a normal stress, kg in all: the other way round than `normal_kpa`.

    Parameters: `wanted_kpa`; `direct_kg`; `lever_ratio`, above 0; `area_mm2`.
    Returns: kg.
    Source: statics of the hanger.

    >>> round(hanger_for_kg(100.0, 1.42, 10.0, 3600.0), 3)
    3.529
    """
    return (wanted_kpa * area_mm2 / (1000 * GRAVITY_M_S2) - direct_kg) / lever_ratio


def box_of(record: Record, school: ShearSchool) -> Box:
    """The box, its width the school's where none was entered."""
    width = record.box_width_mm
    said = known(width) and width > 0
    return Box(record.box_shape != "round", width if known(width) and width > 0 else school.width_mm, said)


def direct_kg(record: Record) -> float:
    """What rests on the plane besides the hanger, kg: the cap, the upper half, a lever that is not balanced.

    Parameters: `record` with masses in kg.
    Returns: kg; what was not entered counts as nothing, and a rule says so.
    Source: statics of the hanger.
    """
    lever = record.lever_kg if record.lever_balanced != "yes" else None
    return sum(m for m in (record.cap_kg, record.upper_half_kg, lever) if known(m))


def called_mm(record: Record, school: ShearSchool) -> tuple[float, ...]:
    """The travels at which a hand reads, mm to a hundredth, up to the end of the travel."""
    width = box_of(record, school).width_mm
    most = 100 * school.most_travel_share
    return tuple(dict.fromkeys(round(p / 100 * width, 2) for p in school.called_percent if p <= most + 1e-9))


def points_of(
    stage: Stage, box: Box, nominal_kpa: float, school: ShearSchool, ring: Ring | None, at_mm: tuple[float, ...]
) -> tuple[Point, ...]:
    """The readings of a stage that count, in their order; one that runs backwards, is left out or cannot be is passed
    over."""
    friction = stage.friction_n if known(stage.friction_n) else 0.0
    corrected, area = school.area == "corrected", box.area_mm2
    first = next((r.read_at for r in stage.shear if r.read_at is not None), None)
    found: list[Point] = []
    furthest = -math.inf
    for i, row in enumerate(stage.shear):
        travel = row.travel_mm
        if travel is None and i < len(at_mm):
            travel = at_mm[i]
        force = net_force_n(row, ring, friction)
        if not known(travel) or force is None or row.excluded_because or travel <= furthest or travel >= box.width_mm:
            continue
        furthest = travel
        left = box.area_at_mm2(travel) if corrected else area
        seconds = row.elapsed_s if known(row.elapsed_s) else None
        if seconds is None and row.read_at is not None and first is not None:
            seconds = (row.read_at - first).total_seconds()
        vertical = row.vertical_mm if known(row.vertical_mm) else None
        found.append(Point(i, travel, force, 1000 * force / left, nominal_kpa * area / left, vertical, seconds))
    return tuple(found)
