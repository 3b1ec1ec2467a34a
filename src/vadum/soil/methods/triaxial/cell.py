"""The specimen in its cell: sizes after consolidation, area as it shears, corrections, stresses and their paths."""

import math
from itertools import pairwise
from typing import Any, NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean
from vadum.soil.methods.triaxial.record import Record, Specimen
from vadum.soil.methods.triaxial.school import TriaxialSchool

DRAINS_FULL_STRAIN = 0.02  # from there on a side drain bears all it can
BACK_MM = 0.02
LEAST_OBLIQUITY_STRAIN = 0.001  # before it two small figures make any ratio


class Core(NamedTuple):
    """A specimen as it was measured: mean height and diameter in mm, all diameters."""

    height_mm: float
    diameter_mm: float
    diameters_mm: tuple[float, ...]

    @property
    def area_mm2(self) -> float:
        """Its section."""
        return math.pi * self.diameter_mm**2 / 4

    @property
    def volume_cm3(self) -> float:
        """Its volume."""
        return self.area_mm2 * self.height_mm / 1000

    @property
    def slenderness_ratio(self) -> float:
        """Height over diameter."""
        return self.height_mm / self.diameter_mm


class Sheared(NamedTuple):
    """A specimen as it begins to shear: height in mm, volume in cm³, area in mm²."""

    height_mm: float
    volume_cm3: float
    area_mm2: float

    @property
    def diameter_mm(self) -> float:
        """The diameter of a circle of its area."""
        return math.sqrt(4 * self.area_mm2 / math.pi)


class Point(NamedTuple):
    """A reading of the shear: its row; axial and volumetric strain as ratios; deviator as measured and after its
    corrections, pore pressure risen since the start, and effective stresses, all kPa; time in s."""

    row: int
    strain: float
    volume_strain: float
    area_mm2: float
    force_n: float
    measured_kpa: float
    membrane_kpa: float
    drains_kpa: float
    deviator_kpa: float
    pore_kpa: float | None
    rise_kpa: float | None
    radial_kpa: float
    elapsed_s: float | None

    @property
    def axial_kpa(self) -> float:
        """The axial stress: radial and deviator, effective where the pore pressure is known or drained."""
        return self.radial_kpa + self.deviator_kpa

    @property
    def major_kpa(self) -> float:
        """The greater of both."""
        return max(self.axial_kpa, self.radial_kpa)

    @property
    def minor_kpa(self) -> float:
        """The lesser of both."""
        return min(self.axial_kpa, self.radial_kpa)

    @property
    def obliquity(self) -> float | None:
        """Greater over lesser; None where the lesser is nothing."""
        axial, radial = self.radial_kpa + self.deviator_kpa, self.radial_kpa
        major, minor = (axial, radial) if axial > radial else (radial, axial)
        return major / minor if minor > 0 else None

    @property
    def s_kpa(self) -> float:
        """Centre of the circle, `s = (s1 + s3) / 2`."""
        return (self.axial_kpa + self.radial_kpa) / 2

    @property
    def t_kpa(self) -> float:
        """Radius of the circle, `t = (s1 - s3) / 2`."""
        return abs(self.deviator_kpa) / 2

    @property
    def p_kpa(self) -> float:
        """Mean stress, `p = (s1 + 2 s3) / 3`, the radial one twice."""
        return (self.axial_kpa + 2 * self.radial_kpa) / 3


def core_of(specimen: Specimen) -> Core | None:
    """The specimen's sizes; None until a diameter and a height are measured."""
    diameters = (specimen.diameter_top_mm, specimen.diameter_middle_mm, specimen.diameter_bottom_mm)
    wide = [d for d in diameters if known(d) and d > 0]
    high = [h for h in (specimen.height_1_mm, specimen.height_2_mm, specimen.height_3_mm) if known(h) and h > 0]
    return Core(mean(high), mean(wide), tuple(wide)) if wide and high else None


def consolidated_area_mm2(
    volume_cm3: float, saturation_cm3: float, water_out_cm3: float, height_mm: float, shortened_mm: float
) -> float:
    """Area after consolidation, method A: `Ac = (V0 - dV_sat - dVc) / (H0 - dH0)`.

    Parameters: volumes in cm³ (changes positive in compression), heights in mm.
    Returns: mm².
    Raises: ReductionError where no volume or height is left.
    Source: ASTM D4767.

    >>> v0 = math.pi * 38.1**2 / 4 * 76 / 1000
    >>> round(consolidated_area_mm2(v0, 3 * v0 * -0.08 / 76, 2.1, 76.0, -0.08 + 0.75), 3)
    1125.987
    """
    left, high = volume_cm3 - saturation_cm3 - water_out_cm3, height_mm - shortened_mm
    if left <= 0 or high <= 0:
        raise ReductionError("area after consolidation", f"{left:.2f} cm³ and {high:.2f} mm left", "both above 0")
    return 1000 * left / high


def saturation_volume_cm3(volume_cm3: float, shortening_mm: float, height_mm: float) -> float:
    """Volume lost while it was saturated: `dV_sat = 3 V0 dH_s / H0`.

    Parameters: `volume_cm3` in cm³; `shortening_mm`, positive in compression, and `height_mm` in mm.
    Returns: cm³.
    Source: ASTM D4767: strain alike in every direction.

    >>> round(saturation_volume_cm3(86.65, -0.08, 76.0), 4)
    -0.2736
    """
    return 3 * volume_cm3 * shortening_mm / height_mm


def area_by_water_mm2(
    mass_dry_g: float, water_after_percent: float, particle_mg_m3: float, height_mm: float, water_mg_m3: float
) -> float:
    """Area after consolidation, method B: `Ac = (V_wf + V_s) / Hc`, from the water content after the test.

    Parameters: dry mass in g; water content in %; particle and water density in Mg/m³; height in mm.
    Returns: mm².
    Source: ASTM D4767; of a saturated specimen.

    >>> round(area_by_water_mm2(118.0, 24.2, 2.71, 75.3, 0.9982), 1)
    958.2
    """
    water, solids = mass_dry_g * water_after_percent / 100 / water_mg_m3, mass_dry_g / particle_mg_m3
    return 1000 * (water + solids) / height_mm


def area_at_mm2(area_mm2: float, strain: float, volume_strain: float = 0.0) -> float:
    """Area while it shears: `A = Ac (1 - eps_v) / (1 - eps_a)`; undrained the volume keeps.

    Parameters: `area_mm2` after consolidation; both strains as ratios, positive in compression, `strain` below 1.
    Returns: mm².
    Raises: ReductionError at a strain of 1 or more.
    Source: ASTM D4767, D7181, D2850.

    >>> round(area_at_mm2(1125.987, 0.07), 2), round(area_at_mm2(1125.987, 0.07, 0.01), 2)
    (1210.74, 1198.63)
    """
    if strain >= 1:
        raise ReductionError("area", f"strain {strain:g}", "a strain below 1")
    return area_mm2 * (1 - volume_strain) / (1 - strain)


def membrane_kpa(modulus_kpa: float, thickness_mm: float, strain: float, diameter_mm: float) -> float:
    """What the membrane bears: `4 Em tm eps_a / Dc`.

    Parameters: `modulus_kpa`; `thickness_mm` and `diameter_mm` in mm; `strain` a ratio.
    Returns: kPa, to be taken from the deviator.
    Source: ASTM D4767.

    >>> round(membrane_kpa(1400.0, 0.3, 0.10, 50.0), 2)
    3.36
    """
    return 4 * modulus_kpa * thickness_mm * strain / diameter_mm


def drains_kpa(force_kn_m: float, perimeter_mm: float, area_mm2: float, strain: float) -> float:
    """What filter strips along the side bear: `Kfp Pfp / Ac` beyond 2 % strain, in proportion below.

    Parameters: `force_kn_m` of their width; `perimeter_mm` that they cover; `area_mm2`; `strain` a ratio.
    Returns: kPa, to be taken from the deviator.
    Source: ASTM D4767.

    >>> round(drains_kpa(0.19, 60.0, 1134.1, 0.05), 2), round(drains_kpa(0.19, 60.0, 1134.1, 0.01), 2)
    (10.05, 5.03)
    """
    full = 1000 * force_kn_m * perimeter_mm / area_mm2
    return full * max(-1.0, min(1.0, strain / DRAINS_FULL_STRAIN))


def pore_answer(cell_from_kpa: float, cell_to_kpa: float, pore_from_kpa: float, pore_to_kpa: float) -> float:
    """`B = du / dsigma3`: what the pore pressure answers to a step of the cell.

    Parameters: pressures before and after, in kPa; the cell's step not 0.
    Returns: a ratio.
    Raises: ReductionError for no step.
    Source: ASTM D4767.

    >>> pore_answer(350.0, 400.0, 300.0, 348.9)
    0.978
    """
    step = cell_to_kpa - cell_from_kpa
    if step == 0:
        raise ReductionError("B", "no step of the cell pressure", "a step")
    return round((pore_to_kpa - pore_from_kpa) / step, 12)


def slope_of_failure(phi_degrees: float, extension: bool) -> float:
    """`M = 6 sin phi / (3 - sin phi)` in compression, `6 sin phi / (3 + sin phi)` in extension.

    Parameters: `phi_degrees` from 0; `extension` whether it was pulled.
    Returns: q over p at failure without cohesion, a ratio.
    Source: both definitions of the stress path.

    >>> round(slope_of_failure(30.0, False), 3), round(slope_of_failure(30.0, True), 3)
    (1.2, 0.857)
    """
    sine = math.sin(math.radians(phi_degrees))
    return 6 * sine / (3 + sine) if extension else 6 * sine / (3 - sine)


def points_of(
    specimen: Specimen,
    record: Record,
    school: TriaxialSchool,
    at: Sheared,
    at_mm: tuple[float, ...],
    shortened_mm: float = 0.0,
) -> tuple[Point, ...]:
    """The readings of a specimen that count, in their order, with what its kind of test makes of them; a later stage
    counts from the shortening that the stages before it left."""
    drained = record.kind in ("CID", "CAD")
    quick = record.kind in ("UU", "UUP")
    modulus = record.membrane_modulus_kpa if known(record.membrane_modulus_kpa) else school.membrane_modulus_kpa
    thickness = specimen.membrane_thickness_mm if known(specimen.membrane_thickness_mm) else 0.0
    perimeter = record.drains_perimeter_mm if record.side_drains == "yes" and known(record.drains_perimeter_mm) else 0.0
    friction = record.piston_friction_n if known(record.piston_friction_n) else 0.0
    back = specimen.back_kpa if known(specimen.back_kpa) else 0.0
    piston = record.piston_area_mm2 if record.piston_zeroed == "no" and known(record.piston_area_mm2) else 0.0
    least = school.correct_over_percent / 100
    way = -1 if record.direction == "extension" else 1
    first = next((r.read_at for r in specimen.shear if r.read_at is not None), None)
    start = next((r.pore_kpa for r in specimen.shear if known(r.pore_kpa)), None)
    found: list[Point] = []
    furthest = -math.inf
    for i, row in enumerate(specimen.shear):
        travel = row.deformation_mm if row.deformation_mm is not None else (at_mm[i] * way if i < len(at_mm) else None)
        if not known(travel) or not known(row.force_n) or row.excluded_because:
            continue
        if way * travel <= furthest or abs(travel) >= at.height_mm:
            continue
        furthest = way * travel
        cell = row.cell_kpa if known(row.cell_kpa) else specimen.cell_kpa
        if not known(cell):
            continue
        strain = (shortened_mm + travel) / at.height_mm
        if abs(strain) >= 1:
            continue
        water = row.volume_cm3 if drained and known(row.volume_cm3) else 0.0
        volume = water / at.volume_cm3
        if volume >= 1:
            continue
        area = area_at_mm2(at.area_mm2, strain, volume)
        force = row.force_n - cell * piston / 1000 - way * friction
        measured = 1000 * force / area
        rubber = membrane_kpa(modulus, thickness, strain, at.diameter_mm)
        strips = drains_kpa(school.drains_kn_m, perimeter, at.area_mm2, strain) if perimeter else 0.0
        limit = least * abs(measured)
        rubber = rubber if abs(rubber) > limit else 0.0
        strips = strips if abs(strips) > limit else 0.0
        pore = row.pore_kpa if known(row.pore_kpa) else None
        rise = pore - start if pore is not None and start is not None else None
        if quick:
            radial = cell - pore if record.kind == "UUP" and pore is not None else cell
        elif drained or pore is None:
            radial = cell - back
        else:
            radial = cell - pore
        seconds = row.elapsed_s if known(row.elapsed_s) else None
        if seconds is None and row.read_at is not None and first is not None:
            seconds = (row.read_at - first).total_seconds()
        found.append(
            Point(
                i,
                strain,
                volume,
                area,
                force,
                measured,
                rubber,
                strips,
                measured - rubber - strips,
                pore,
                rise,
                radial,
                seconds,
            )
        )
    return tuple(found)


def between(a: Point, b: Point, strain: float) -> Point:
    """The state at a strain between two readings, on the straight line of each figure."""
    share = (strain - a.strain) / (b.strain - a.strain)

    def mix(x: float | None, y: float | None) -> float | None:
        return None if x is None or y is None else x + share * (y - x)

    mixed: dict[str, Any] = {name: mix(getattr(a, name), getattr(b, name)) for name in Point._fields if name != "row"}
    return a._replace(**mixed)


def greatest_deviator(points: tuple[Point, ...], stop_strain: float) -> Point | None:
    """Where the deviator is greatest up to the stop strain, interpolated there where it still rises.

    Parameters: `points` by their strain; `stop_strain` a ratio.
    Returns: the point; None without one.
    Source: ASTM D2850, D4767.
    """
    within = [p for p in points if abs(p.strain) <= stop_strain + 1e-12]
    if len(within) < 2:
        return None
    best = max(within, key=lambda p: abs(p.deviator_kpa))
    beyond = next((p for p in points if abs(p.strain) > stop_strain), None)
    if beyond is not None and best is within[-1]:
        at_stop = between(within[-1], beyond, math.copysign(stop_strain, beyond.strain))
        if abs(at_stop.deviator_kpa) > abs(best.deviator_kpa):
            return at_stop
    return best


def greatest_obliquity(points: tuple[Point, ...], stop_strain: float) -> Point | None:
    """Where the ratio of the effective stresses is greatest up to the stop strain.

    Parameters: `points` by their strain; `stop_strain` a ratio.
    Returns: the point; None without one.
    Source: ASTM D4767.
    """
    best, most = None, 0.0
    for p in points:
        if LEAST_OBLIQUITY_STRAIN <= abs(p.strain) <= stop_strain + 1e-12:
            ratio = p.obliquity or 0.0
            if ratio > most:
                best, most = p, ratio
    return best


def secant_mpa(points: tuple[Point, ...], strain: float) -> float | None:
    """Secant modulus from the start to a strain, MPa: `E = dq / eps`.

    Parameters: `points`; `strain` a ratio, above 0.
    Returns: MPa; None where the readings do not reach it.
    Source: definition.
    """
    for a, b in pairwise(points):
        if abs(a.strain) <= strain <= abs(b.strain):
            at = between(a, b, math.copysign(strain, b.strain))
            return abs(at.deviator_kpa - points[0].deviator_kpa) / strain / 1000
    return None


def strain_at(points: tuple[Point, ...], deviator_kpa: float, start_kpa: float = 0.0) -> float | None:
    """The strain at which the deviator has first changed by a figure, a ratio; None where it does not.

    Parameters: `points`; `deviator_kpa` without its sign, counted from `start_kpa`.
    Returns: a ratio.
    Source: straight between readings.
    """
    for a, b in pairwise(points):
        low, high = abs(a.deviator_kpa - start_kpa), abs(b.deviator_kpa - start_kpa)
        if low < deviator_kpa <= high:
            return abs(a.strain) + (deviator_kpa - low) / (high - low) * (abs(b.strain) - abs(a.strain))
    return None
