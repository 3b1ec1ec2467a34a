"""The vane: torque out of what was read, strength out of torque, stress in the ground, and what a design takes."""

import math
from itertools import pairwise
from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.methods.field_vane.record import Depth, Record
from vadum.soil.methods.field_vane.school import CHART, VaneSchool
from vadum.soil.shared.physics import GRAVITY_M_S2

WATER_KN_M3 = 9.81  # unit weight of the ground's water, as the profession uses it
FIELDS = {"torque wrench": "n_m", "spring balance": "kg", "dial": "div"}


class Torque(NamedTuple):
    """One torque in N m, with the formula and inputs that gave it where it was not read as such."""

    n_m: float
    formula: str
    inputs: dict[str, float]


def suffix_of(record: Record) -> str:
    """The ending of the fields that this gauge fills."""
    return FIELDS.get(record.read_by or "torque wrench", "n_m")


def torque_by_pull_n_m(pull_kg: float, lever_m: float) -> float:
    """Torque from a spring balance that pulls between two arms, N m: `T = F l`, the pull in kg (kilograms-force).

    Parameters: `pull_kg` in kg; `lever_m` in m.
    Returns: N·m.
    Source: statics: a force on a lever.

    >>> round(torque_by_pull_n_m(10.0, 0.5), 3)
    49.033
    """
    return pull_kg * GRAVITY_M_S2 * lever_m


def torque_of(record: Record, row: Depth, what: str) -> Torque | None:
    """A torque of a depth: `what` is peak, remoulded or friction; None while not read or without its factor.

    A torque that was typed as such goes before one that has to be worked out.
    """
    direct = getattr(row, f"{what}_n_m")
    if known(direct):
        return Torque(direct, "T", {"T": direct})
    pull, lever = getattr(row, f"{what}_kg"), record.lever_m
    if known(pull) and known(lever):
        inputs = {"F": pull, "g": GRAVITY_M_S2, "l": lever}
        return Torque(torque_by_pull_n_m(pull, lever), "F * g * l", inputs)
    read, factor = getattr(row, f"{what}_div"), record.dial_factor_n_m_div
    if known(read) and known(factor):
        return Torque(read * factor, "r * f", {"r": read, "f": factor})
    return None


def vane_constant_m3(
    diameter_mm: float, height_mm: float, top_degrees: float = 0.0, bottom_degrees: float = 0.0
) -> float:
    """What a vane's torque is divided by to give strength, m3 (N m per Pa).

    `K = pi D^2 / 12 (D / cos iT + D / cos iB + 6 H)`

    Parameters: diameter and height in mm, tapers in degrees, 0 for a rectangular vane.
    Returns: m3; for H = 2 D and no taper `7 pi D^3 / 6`. Raises: ReductionError unless the sizes are above 0 and the
    tapers below 90 degrees. Source: ASTM D2573.

    >>> round(1e6 * vane_constant_m3(65, 130), 3)
    1006.553
    """
    if not (diameter_mm > 0 and height_mm > 0 and 0 <= top_degrees < 90 and 0 <= bottom_degrees < 90):
        raise ReductionError("vane constant", f"{diameter_mm:g} × {height_mm:g} mm", "sizes above 0, tapers below 90°")
    d, h = diameter_mm / 1000, height_mm / 1000
    ends = d / math.cos(math.radians(top_degrees)) + d / math.cos(math.radians(bottom_degrees))
    return math.pi * d**2 / 12 * (ends + 6 * h)


def strength_kpa(torque_n_m: float, divisor_n_m_kpa: float) -> float:
    """Undrained strength, kPa: `s_v = T / k`, k in N m per kPa; a torque below 0 gives one below 0.

    Source: ASTM D2573, BS 1377-9.

    Parameters: `torque_n_m` in N·m; `divisor_n_m_kpa` in N·m/kPa.
    Returns: kPa.

    >>> round(strength_kpa(36.3, 1.006553), 4)
    36.0637
    """
    return torque_n_m / divisor_n_m_kpa


class Divisor(NamedTuple):
    """N m per kPa, with the formula and inputs that gave it."""

    n_m_kpa: float
    formula: str
    inputs: dict[str, float]


def divisor_of(record: Record) -> Divisor | None:
    """The set's own calibration, else its geometry; None while neither is known."""
    if known(record.divisor_n_m_kpa) and record.divisor_n_m_kpa > 0:
        return Divisor(record.divisor_n_m_kpa, "k", {"k": record.divisor_n_m_kpa})
    d, h = record.vane_diameter_mm, record.vane_height_mm
    if not (known(d) and known(h)):
        return None
    top, bottom = record.taper_top_degrees or 0.0, record.taper_bottom_degrees or 0.0
    try:
        value = 1000 * vane_constant_m3(d, h, top, bottom)
    except ReductionError:
        return None
    cos_top, cos_bottom = math.cos(math.radians(top)), math.cos(math.radians(bottom))
    inputs = {"D": d / 1000, "H": h / 1000, "c_T": cos_top, "c_B": cos_bottom}
    return Divisor(value, "1000 * pi * D ** 2 / 12 * (D / c_T + D / c_B + 6 * H)", inputs)


def middle_m(depth_m: float, record: Record, school: VaneSchool) -> float:
    """Depth of the vane's middle, m, of a depth counted as the school counts it.

    Parameters: `depth_m` from the ground's surface, 0 or more.
    Returns: m; the depth itself where the vane's height is not known.
    Source: the school (`depth_to`).
    """
    if school.depth_to == "middle" or not known(record.vane_height_mm):
        return depth_m
    return depth_m - record.vane_height_mm / 2000


def effective_stress_kpa(record: Record, depth_m: float) -> float | None:
    """Effective vertical stress in the ground, kPa: the layers' weight less the water's pressure.

    `sigma'v0 = sum(gamma_i h_i) - gamma_w (z - z_w)`; water standing above the ground weighs on it and presses alike.

    Returns: kPa, None while no unit weight is known or the layers do not begin at the ground.

    Parameters: `record` the readings; `depth_m` in m.
    Source: Terzaghi's principle.
    """
    layers = sorted(
        (r.from_m, r.unit_weight_kn_m3) for r in record.layers if known(r.from_m) and known(r.unit_weight_kn_m3)
    )
    if not layers and known(record.unit_weight_kn_m3):
        layers = [(0.0, record.unit_weight_kn_m3)]
    if not layers or layers[0][0] > 0:
        return None
    ends = [*layers, (math.inf, 0.0)]
    total = sum(weight * (min(depth_m, below) - top) for (top, weight), (below, _) in pairwise(ends) if depth_m > top)
    water = record.water_depth_m
    pressure = WATER_KN_M3 * max(0.0, depth_m - max(water, 0.0)) if known(water) else 0.0
    return total - pressure


def chandler_ratio(plasticity_percent: float, failure_min: float) -> float:
    """Factor from the vane's strength to one that a failure of that duration in the field mobilises.

    `mu = 1.05 - b sqrt(PI)`, `b = 0.015 + 0.0075 log10 t_f`

    Parameters: plasticity index in percent, above 5; time to failure in the field in min, above 0.
    Raises: ReductionError outside. Source: Chandler (1988), as ASTM D2573 cites it.

    Returns: a ratio.

    >>> round(chandler_ratio(34, 10_000), 7)
    0.7876072
    """
    if not (plasticity_percent > 5 and failure_min > 0):
        raise ReductionError(
            "correction", f"PI {plasticity_percent:g}, {failure_min:g} min", "PI above 5, a time above 0"
        )
    return 1.05 - (0.015 + 0.0075 * math.log10(failure_min)) * math.sqrt(plasticity_percent)


def chart_ratio(plasticity_percent: float) -> float:
    """Bjerrum's factor by the plasticity index, on straight lines between what was read off his chart.

    Parameters: `plasticity_percent` in %, 20 to 120.
    Returns: a ratio that the strength is multiplied by.
    Raises: ReductionError outside the chart: it is not extrapolated.
    Source: Bjerrum (1972).

    >>> chart_ratio(40), round(chart_ratio(35), 3)
    (0.86, 0.89)
    """
    for (a, low), (b, high) in pairwise(CHART):
        if a <= plasticity_percent <= b:
            return low + (high - low) * (plasticity_percent - a) / (b - a)
    raise ReductionError("correction", f"PI {plasticity_percent:g}", "20 to 120, as far as the chart goes")
