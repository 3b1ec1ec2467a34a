"""The parabola through a loading and its modulus, the secants, the subgrade reaction."""

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

from vadum.soil.contract.numerics import straight_line

TERMS = 3  # of the parabola
DIGITS = 1e-9


class Parabola(NamedTuple):
    """`s = a0 + a1 sigma + a2 sigma^2`: settlement in mm, stress in MN/m²; the covariance of (a0, a1, a2) with
    `residual_mm` as the scatter of a reading, both None where there is no degree of freedom left."""

    a0: float
    a1: float
    a2: float
    n: int
    residual_mm: float | None
    covariance: tuple[tuple[float, float, float], ...] | None
    worst_mm: float

    def at(self, sigma: float) -> float:
        """Settlement at a stress, mm."""
        return self.a0 + self.a1 * sigma + self.a2 * sigma * sigma

    def error_of(self, term: int) -> float | None:
        """Standard error of a0, a1 or a2."""
        return None if self.covariance is None else math.sqrt(max(0.0, self.covariance[term][term]))


def parabola(sigma: Sequence[float], settled: Sequence[float]) -> Parabola | None:
    """The parabola of least squares through a loading.

    Parameters: `sigma` in MN/m² and `settled` in mm, of one length.
    Returns: None below three different stresses.
    Source: DIN 18134; covariance `s^2 (X'X)^-1`, s with n - 3 degrees of freedom.

    >>> fit = parabola([0.1, 0.2, 0.3, 0.5], [0.45, 0.88, 1.29, 2.05])
    >>> round(abs(fit.a0), 6), round(fit.a1, 6), round(fit.a2, 6)
    (0.0, 4.6, -1.0)
    """
    import numpy as np  # a fifth of a second that a start need not pay

    if len({round(x / DIGITS) for x in sigma}) < TERMS:
        return None
    scale = max(abs(x) for x in sigma)
    columns = np.vander(np.asarray(sigma) / scale, TERMS, increasing=True)
    coefficients, _, rank, _ = np.linalg.lstsq(columns, np.asarray(settled), rcond=None)
    if rank < TERMS:
        return None
    back = np.array([1.0, 1 / scale, 1 / scale**2])
    a0, a1, a2 = (float(c) for c in coefficients * back)
    residuals = np.asarray(settled) - columns @ coefficients
    n = len(sigma)
    worst = float(np.max(np.abs(residuals)))
    if n <= TERMS:
        return Parabola(a0, a1, a2, n, None, None, worst)
    variance = float(residuals @ residuals) / (n - TERMS)
    inverse = np.linalg.inv(columns.T @ columns) * np.outer(back, back) * variance
    covariance = tuple((float(r[0]), float(r[1]), float(r[2])) for r in inverse)
    return Parabola(a0, a1, a2, n, math.sqrt(variance), covariance, worst)


def strain_modulus(radius_mm: float, fit: Parabola, greatest: float) -> float | None:
    """The strain modulus of a loading: `Ev = 1.5 r / (a1 + a2 sigma_0max)`.

    Parameters: plate radius in mm, the loading's parabola, sigma_0max of the first loading in MN/m².
    Returns: MN/m²; None where the curve does not sink with the load.
    Source: DIN 18134.

    >>> round(strain_modulus(150, Parabola(0.12, 3.957505, 1.844648, 6, None, None, 0), 0.4999587), 3)
    46.109
    """
    slope = fit.a1 + fit.a2 * greatest
    return 1.5 * radius_mm / slope if slope > 0 else None


def error_of_modulus(radius_mm: float, fit: Parabola, greatest: float) -> float | None:
    """Standard error of a strain modulus by the covariance of its parabola:
    `u = Ev^2 / (1.5 r) sqrt(var a1 + 2 s0 cov(a1, a2) + s0^2 var a2)`.

    Parameters: as above. Returns: MN/m²; None without a degree of freedom.
    Source: propagation of the fit's covariance.
    """
    modulus = strain_modulus(radius_mm, fit, greatest)
    if fit.covariance is None or modulus is None:
        return None
    c = fit.covariance
    variance = c[1][1] + 2 * greatest * c[1][2] + greatest * greatest * c[2][2]
    return modulus**2 / (1.5 * radius_mm) * math.sqrt(max(0.0, variance))


def settled_at(sigma: Sequence[float], settled: Sequence[float], at: float, near: float = 0.0) -> float | None:
    """Settlement at a stress on straight lines between the readings.

    A pump gauge does not stop at 50.000: a first or last step that misses the stress by no more than `near`, a share of
    it, counts as reaching it, and its line is extended by so much.

    Parameters: `sigma` in MN/m², rising, `settled` in mm; the stress `at`, MN/m².
    Returns: mm; None beyond the readings.
    Source: linear interpolation; how near is a laboratory setting.

    >>> round(settled_at([0.0503, 0.1, 0.15], [0.45, 0.80, 1.12], 0.05, 0.02), 4)
    0.4479
    >>> settled_at([0.06, 0.1], [0.5, 0.8], 0.05, 0.02)
    """
    steps = list(pairwise(zip(sigma, settled, strict=True)))
    for i, ((x0, y0), (x1, y1)) in enumerate(steps):
        low = x0 - near * at if i == 0 else x0
        high = x1 + near * at if i == len(steps) - 1 else x1
        if low <= at <= high and x1 > x0:
            return y0 + (at - x0) / (x1 - x0) * (y1 - y0)
    return None


def stress_at(sigma: Sequence[float], settled: Sequence[float], at_mm: float) -> float | None:
    """Stress at a settlement on straight lines between the readings.

    Parameters: `sigma` in MN/m² and `settled` in mm, both rising; the settlement `at_mm`.
    Returns: MN/m²; None beyond the readings.
    Source: linear interpolation.
    """
    for (x0, y0), (x1, y1) in pairwise(zip(sigma, settled, strict=True)):
        if y0 <= at_mm <= y1 and y1 > y0:
            return x0 + (at_mm - y0) / (y1 - y0) * (x1 - x0)
    return None


class Origin(NamedTuple):
    """The first straight part of a loading: its settlement at no stress, its slope in mm per MN/m², its readings from
    and to (indices)."""

    at_mm: float
    slope: float
    first: int
    last: int


def straight_part(sigma: Sequence[float], settled: Sequence[float]) -> Origin | None:
    """The first straight part of a loading, by the run of at least four readings, without the first, whose line
    scatters least for its length.

    Parameters: stresses MN/m² and settlements mm, the first at the seating.
    Returns: None below four readings.
    Source: the origin of a modulus of subgrade reaction is corrected by the first straight part (F); which readings
        those are is a judgement: the longest run whose scatter is within `STRAIGHT_MM`, else the straightest of four.
    """
    best: tuple[float, float, Origin] | None = None
    n = len(sigma)
    for first in range(1, n - 3):
        for last in range(first + 3, n):
            x, y = list(sigma[first : last + 1]), list(settled[first : last + 1])
            if max(x) == min(x):
                continue
            line = straight_line(x, y)
            scatter = line.residual_sd or 0.0
            good = scatter <= STRAIGHT_MM
            rank = (-float(last - first) if good else 1.0, scatter)
            if best is None or rank < best[:2]:
                best = (*rank, Origin(line.intercept, line.slope, first, last))
    return None if best is None else best[2]


STRAIGHT_MM = 0.012  # scatter about a line that a gauge of a hundredth makes by itself


def subgrade_reaction(stress_mn_m2: float, settlement_mm: float) -> float:
    """Modulus of subgrade reaction.

    Parameters: stress in MN/m², settlement in mm above 0.
    Returns: MN/m³.
    Source: DIN 18134, `ks = sigma / s`, s = 1.25 mm; AASHTO T 222 at 69 kPa.

    >>> round(subgrade_reaction(0.0779732, 1.25), 5)
    62.37856
    """
    return 1000 * stress_mn_m2 / settlement_mm
