"""The ultimate of a load-settlement curve by each of its rules, and from a plate to a footing."""

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

from vadum.soil.contract.numerics import StraightLine, straight_line


class TwoLines(NamedTuple):
    """Two straight lines through a curve: the first through so many points, their intersection (x, y)."""

    first: StraightLine
    last: StraightLine
    many: int
    x: float
    y: float


def two_lines(x: Sequence[float], y: Sequence[float], least: int) -> TwoLines | None:
    """The two straight lines, each through `least` points or more, that leave least of a curve unexplained, and where
    they meet.

    Parameters: `x` rising and `y`, of one length, in any units.
    Returns: None with fewer points, or where the second is not the steeper one, or they meet outside the readings.
    Source: tangent intersection of the initial and the final straight part; two-segment least squares.

    >>> found = two_lines([1, 2, 3, 4, 5, 6], [1, 2, 3, 8, 13, 18], 3)
    >>> found.x, round(found.y, 6)
    (3.0, 3.0)
    """
    best: tuple[float, TwoLines] | None = None
    for many in range(least, len(x) - least + 1):
        first, last = straight_line(list(x[:many]), list(y[:many])), straight_line(list(x[many:]), list(y[many:]))
        left = sum((v - first.at(u)) ** 2 for u, v in zip(x[:many], y[:many], strict=True))
        left += sum((v - last.at(u)) ** 2 for u, v in zip(x[many:], y[many:], strict=True))
        if last.slope <= first.slope * 1.05:
            continue
        at = round((first.intercept - last.intercept) / (last.slope - first.slope), 9)
        if x[0] <= at <= x[-1] and (best is None or left < best[0]):
            best = (left, TwoLines(first, last, many, at, first.at(at)))
    return None if best is None else best[1]


def log_break(kpa: Sequence[float], settled: Sequence[float], least: int) -> TwoLines | None:
    """The break of two straight lines on log-log axes; x and y of the result are logarithms to base 10.

    Parameters: pressures in kPa and settlements in mm, above 0.
    Returns: None where there is none.
    Source: log-log plot of load against settlement.
    """
    pairs = [(math.log10(q), math.log10(s)) for q, s in zip(kpa, settled, strict=True) if q > 0 and s > 0]
    return two_lines([q for q, _ in pairs], [s for _, s in pairs], least)


def pressure_at(kpa: Sequence[float], settled: Sequence[float], at_mm: float) -> float | None:
    """Pressure at a settlement on straight lines between the readings, and from nothing to the first.

    Parameters: pressures in kPa and settlements in mm, rising; the settlement `at_mm`.
    Returns: kPa; None beyond the readings.
    Source: linear interpolation.

    >>> round(pressure_at([150, 200], [3.1667, 4.2167], 3.75), 2)
    177.78
    """
    for (q0, s0), (q1, s1) in pairwise([(0.0, 0.0), *zip(kpa, settled, strict=True)]):
        if s0 <= at_mm <= s1 and s1 > s0:
            return q0 + (at_mm - s0) / (s1 - s0) * (q1 - q0)
    return None


def settlement_at(kpa: Sequence[float], settled: Sequence[float], at_kpa: float) -> float | None:
    """Settlement at a pressure on straight lines between the readings, and from nothing to the first.

    Parameters: as above; the pressure `at_kpa`.
    Returns: mm; None beyond the readings.
    Source: linear interpolation.
    """
    for (q0, s0), (q1, s1) in pairwise([(0.0, 0.0), *zip(kpa, settled, strict=True)]):
        if q0 <= at_kpa <= q1 and q1 > q0:
            return s0 + (at_kpa - q0) / (q1 - q0) * (s1 - s0)
    return None


def footing_pressure(plate_kpa: float, plate_m: float, footing_m: float, sand: bool) -> float:
    """The ultimate of a footing from a plate's: that of a clay is the same, that of a sand grows with the width.

    Parameters: kPa; widths in m.
    Returns: kPa.
    Source: `q_f = q_p` for clay, `q_f = q_p B_f / B_p` for sand.

    >>> footing_pressure(310, 0.3, 2.0, False), round(footing_pressure(310, 0.3, 1.5, True))
    (310, 1550)
    """
    return plate_kpa * footing_m / plate_m if sand else plate_kpa


def settlement_factor(plate_m: float, footing_m: float, sand: bool) -> float:
    """How much more a footing settles than the plate under the same pressure.

    Parameters: widths in m.
    Returns: a ratio.
    Source: `B_f / B_p` for clay, `[B_f (B_p + 0.3) / (B_p (B_f + 0.3))]^2` for sand, B in m.

    >>> round(settlement_factor(0.3, 2.0, False), 3), round(settlement_factor(0.3, 2.0, True), 3)
    (6.667, 3.025)
    """
    if not sand:
        return footing_m / plate_m
    return (footing_m * (plate_m + 0.3) / (plate_m * (footing_m + 0.3))) ** 2


def of_two_plates(
    load_1_kn: float, area_1_m2: float, edge_1_m: float, load_2_kn: float, area_2_m2: float, edge_2_m: float
) -> tuple[float, float] | None:
    """Pressure on the area and shear along the edge that two plates at one settlement share.

    Parameters: loads in kN, areas in m², perimeters in m.
    Returns: (q in kPa, s in kN/m); None where the plates are alike.
    Source: `Q = A q + P s`.

    >>> of_two_plates(26.0, 0.09, 1.2, 82.0, 0.36, 2.4)
    (166.667, 9.167)
    """
    det = area_1_m2 * edge_2_m - area_2_m2 * edge_1_m
    if abs(det) < 1e-9:
        return None
    q = (load_1_kn * edge_2_m - load_2_kn * edge_1_m) / det
    return round(q, 3), round((area_1_m2 * load_2_kn - area_2_m2 * load_1_kn) / det, 3)
