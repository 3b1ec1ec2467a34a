"""The core under its load: strain, area, stress, the greatest stress, the modulus at half of it."""

import math
from itertools import pairwise
from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import error_of_mean, mean, straight_line
from vadum.soil.methods.unconfined_compression.record import Reading, Record
from vadum.soil.methods.unconfined_compression.school import UnconfinedSchool
from vadum.soil.shared.force_reading import net_force_n, ring_of

BACK_MM = 0.02  # a gauge trembles by so much while the platen comes down; beyond, it ran backwards
LEAST_TOE_POINTS = 3


class Core(NamedTuple):
    """The specimen: mean diameter and height in mm, the three diameters, and their standard errors."""

    diameter_mm: float
    height_mm: float
    diameters_mm: tuple[float, ...]
    diameter_error_mm: float | None
    height_error_mm: float | None

    @property
    def area_mm2(self) -> float:
        """Area of the section before the test."""
        return math.pi * self.diameter_mm**2 / 4

    @property
    def volume_cm3(self) -> float:
        """Volume before the test."""
        return self.area_mm2 * self.height_mm / 1000

    @property
    def slenderness_ratio(self) -> float:
        """Height over diameter."""
        return self.height_mm / self.diameter_mm

    @property
    def taper_percent(self) -> float:
        """How much the diameter changes along the core, percent of its mean."""
        return 100 * (max(self.diameters_mm) - min(self.diameters_mm)) / self.diameter_mm


class Point(NamedTuple):
    """A reading that counts: its row, the strain as a ratio, the force in N, the stress in kPa, the time in s."""

    row: int
    strain: float
    force_n: float
    stress_kpa: float
    elapsed_s: float | None


class Peak(NamedTuple):
    """The greatest stress up to the stop strain: its strain, kPa and force; `rising`: taken at the stop strain."""

    strain: float
    stress_kpa: float
    force_n: float
    rising: bool
    elapsed_s: float | None


def core_of(record: Record) -> Core | None:
    """The specimen; None until its diameter and height are measured at least once."""
    diameters = [d for d in (record.diameter_top_mm, record.diameter_middle_mm, record.diameter_bottom_mm) if known(d)]
    heights = [h for h in (record.height_1_mm, record.height_2_mm, record.height_3_mm) if known(h)]
    if not diameters or not heights or min(diameters) <= 0 or min(heights) <= 0:
        return None
    return Core(mean(diameters), mean(heights), tuple(diameters), error_of_mean(diameters), error_of_mean(heights))


def area_at_mm2(area_mm2: float, strain: float) -> float:
    """Area of the section at a strain, mm2: the core keeps its volume while it bulges.

    `A = A0 / (1 - eps)`

    Parameters: area before the test in mm2; strain as a ratio, below 1.
    Returns: mm2. Raises: ReductionError at a strain of 1 or more. Source: ASTM D2166, ISO 17892-7.

    >>> round(area_at_mm2(1140.09, 0.05223097), 2)
    1202.92
    """
    if strain >= 1:
        raise ReductionError("area", f"strain {strain:g}", "a strain below 1")
    return area_mm2 / (1 - strain)


def stress_kpa(force_n: float, area_mm2: float, strain: float) -> float:
    """Axial stress, kPa: `sigma = P / A`, P in N, A in mm2 at that strain.

    Source: ASTM D2166.

    Parameters: `force_n` in N; `area_mm2`; `strain` a ratio, below 1.
    Returns: kPa.

    >>> round(stress_kpa(166.3, 1140.0918, 0.05223097), 3)
    138.247
    """
    return 1000 * force_n / area_at_mm2(area_mm2, strain)


def deformation_of(row: Reading, index: int, called_mm: tuple[float, ...]) -> float | None:
    """How much shorter the core was, mm: as read, else as called.

    Parameters: `index` of the reading; the called shortenings in mm.
    Returns: mm; None beyond the last call.
    Source: ASTM D2166.
    """
    if row.deformation_mm is not None:
        return row.deformation_mm if known(row.deformation_mm) else None
    return called_mm[index] if index < len(called_mm) else None


def points_of(record: Record, core: Core, called_mm: tuple[float, ...]) -> tuple[Point, ...]:
    """The readings that count, in their order; one that runs backwards, is left out or cannot be is passed over."""
    ring = ring_of(record)
    friction = record.platen_friction_n if known(record.platen_friction_n) else 0.0
    first = next((r.read_at for r in record.readings if r.read_at is not None), None)
    found: list[Point] = []
    furthest = -math.inf
    for i, row in enumerate(record.readings):
        at, force = deformation_of(row, i, called_mm), net_force_n(row, ring, friction)
        if at is None or force is None or row.excluded_because or at >= core.height_mm or at <= furthest:
            continue
        furthest = at
        seconds = row.elapsed_s if known(row.elapsed_s) else None
        if seconds is None and row.read_at is not None and first is not None:
            seconds = (row.read_at - first).total_seconds()
        strain = at / core.height_mm
        found.append(Point(i, strain, force, stress_kpa(force, core.area_mm2, strain), seconds))
    return tuple(found)


def between(a: Point, b: Point, strain: float) -> tuple[float, float, float | None]:
    """Force, stress and time at a strain between two readings, on the straight line of force and time."""
    share = (strain - a.strain) / (b.strain - a.strain)
    force = a.force_n + share * (b.force_n - a.force_n)
    stress = a.stress_kpa + share * (b.stress_kpa - a.stress_kpa)
    seconds = None
    if a.elapsed_s is not None and b.elapsed_s is not None:
        seconds = a.elapsed_s + share * (b.elapsed_s - a.elapsed_s)
    return force, stress, seconds


def peak_of(points: tuple[Point, ...], stop_strain: float) -> Peak | None:
    """The greatest stress up to the stop strain, a ratio; interpolated there where the series passes it rising."""
    within = [p for p in points if p.strain <= stop_strain]
    if not within:
        return None
    best = max(within, key=lambda p: p.stress_kpa)
    peak = Peak(best.strain, best.stress_kpa, best.force_n, False, best.elapsed_s)
    beyond = next((p for p in points if p.strain > stop_strain), None)
    if beyond is not None:
        force, stress, seconds = between(within[-1], beyond, stop_strain)
        if stress > best.stress_kpa:
            return Peak(stop_strain, stress, force, True, seconds)
    return peak._replace(rising=best is within[-1] and best.strain >= 0.999 * stop_strain)


def strain_at_stress(points: tuple[Point, ...], wanted_kpa: float) -> float | None:
    """The strain at which the curve first comes to a stress, a ratio, by interpolation; None where it does not.

    Parameters: points by rising strain; `wanted_kpa` in kPa.
    Returns: a strain as a ratio.
    Source: linear between readings.
    """
    if points and points[0].stress_kpa >= wanted_kpa:
        return points[0].strain
    for a, b in pairwise(points):
        if a.stress_kpa < wanted_kpa <= b.stress_kpa:
            return a.strain + (wanted_kpa - a.stress_kpa) / (b.stress_kpa - a.stress_kpa) * (b.strain - a.strain)
    return None


def secant_mpa(strength_kpa: float, strain_at_half: float) -> float:
    """Secant modulus to half of the strength, MPa: `E50 = (q_u / 2) / eps_50`; strain as a ratio, above 0.

    Source: ASTM D2166, as usually reported.

    Parameters: `strength_kpa` in kPa; `strain_at_half`.
    Returns: MPa.

    >>> round(secant_mpa(138.2467, 0.01285062), 3)
    5.379
    """
    return strength_kpa / 2 / strain_at_half / 1000


def toe_strain(points: tuple[Point, ...], peak: Peak) -> float | None:
    """Where the steepest straight part before the peak, carried back, meets no stress: a strain as a ratio.

    The steepest is looked for over any three readings in a row, of the rise alone.
    """
    rise = [p for p in points if p.strain <= peak.strain]
    best: tuple[float, float] | None = None
    for i in range(len(rise) - LEAST_TOE_POINTS + 1):
        some = rise[i : i + LEAST_TOE_POINTS]
        try:
            line = straight_line([p.strain for p in some], [p.stress_kpa for p in some])
        except ReductionError:
            continue
        if line.slope > 0 and (best is None or line.slope > best[0]):
            best = (line.slope, -line.intercept / line.slope)
    return max(0.0, best[1]) if best else None


def called_mm(height_mm: float, school: UnconfinedSchool) -> tuple[float, ...]:
    """The shortenings at which a hand reads, mm to a hundredth: by strain, up to the stop strain."""
    steps = [s for s in school.called_percent if s <= school.stop_strain_percent]
    return tuple(dict.fromkeys(round(s / 100 * height_mm, 2) for s in steps))
