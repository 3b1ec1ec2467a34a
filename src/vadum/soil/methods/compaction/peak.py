"""The top of the curve: a parabola, a cubic or a spline through the points, and how well its peak is known."""

import math
from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.methods.compaction.points import Made
from vadum.soil.methods.compaction.school import CompactionSchool


class Peak(NamedTuple):
    """Optimum water content in percent and maximum dry density in Mg/m3, with the polynomial that has it.

    `coefficients` are a, b, c, d of `a + b x + c x^2 + d x^3` with `x = w - origin`; the errors are standard
    uncertainties from the fit's covariance, None where no degree of freedom is left.
    """

    water_percent: float
    dry_mg_m3: float
    origin: float
    coefficients: tuple[float, float, float, float]
    water_error: float | None
    dry_error: float | None
    used: tuple[int, ...]


def round_the_top(made: list[Made], most: int | None) -> list[Made]:
    """The `most` points nearest in water content to the densest; all when it is None."""
    if most is None or len(made) <= most:
        return made
    top = max(made, key=lambda m: m.dry_mg_m3)
    nearest = sorted(made, key=lambda m: (abs(m.water_percent - top.water_percent), m.row))[:most]
    return [m for m in made if m in nearest]


def top_of(a: float, b: float, c: float, d: float) -> float | None:
    """The x of the local maximum of `a + b x + c x^2 + d x^3`; None when it has none.

    Parameters: the coefficients; `c` below 0 where `d` is 0.
    Returns: x in the unit of the abscissa.
    Source: the roots of the derivative, `x = (-c - sqrt(c^2 - 3 b d)) / (3 d)`: of the two the one that curves down.

    >>> top_of(1.0, 2.0, -1.0, 0.0)
    1.0
    """
    if abs(d) < 1e-12:
        return -b / (2 * c) if c < 0 else None
    under = c * c - 3 * b * d
    return None if under <= 0 else (-c - math.sqrt(under)) / (3 * d)


def _polynomial(made: list[Made], degree: int) -> Peak:
    import numpy as np  # a fifth of a second that a start need not pay

    w = np.array([m.water_percent for m in made])
    y = np.array([m.dry_mg_m3 for m in made])
    origin = float(w.mean())
    x = w - origin
    design = np.vander(x, degree + 1, increasing=True)
    if len(made) < degree + 1 or np.linalg.matrix_rank(design) < degree + 1:
        raise ReductionError("peak", f"{len(made)} points", f"{degree + 1} different water contents")
    fit, *_ = np.linalg.lstsq(design, y, rcond=None)
    a, b, c, d = (*(float(v) for v in fit), 0.0)[:4]
    at = top_of(a, b, c, d)
    if at is None:
        raise ReductionError("peak", "a curve that opens upward", "a maximum")
    errors: tuple[float | None, float | None] = (None, None)
    free = len(made) - degree - 1
    if free > 0:
        residual = y - design @ fit
        covariance = float(residual @ residual) / free * np.linalg.inv(design.T @ design)
        powers = np.array([at**k for k in range(degree + 1)])
        # At the top the slope is nothing, so the density's error is that of the curve there; the place's error
        # follows from the slope's error over the curvature.
        slopes = np.array([k * at ** (k - 1) if k else 0.0 for k in range(degree + 1)])
        curvature = 2 * c + 6 * d * at
        errors = (
            float(np.sqrt(slopes @ covariance @ slopes) / abs(curvature)),
            float(np.sqrt(powers @ covariance @ powers)),
        )
    dry = a + b * at + c * at**2 + d * at**3
    return Peak(origin + at, dry, origin, (a, b, c, d), *errors, tuple(m.row for m in made))


def _spline(made: list[Made]) -> Peak:
    from scipy.interpolate import CubicSpline  # half a second to import, and few ask for it

    ordered = sorted(made, key=lambda m: m.water_percent)
    w = [m.water_percent for m in ordered]
    if len(set(w)) < 4 or len(set(w)) < len(w):
        raise ReductionError("peak", f"{len(set(w))} different water contents", "4 or more, all different")
    curve = CubicSpline(w, [m.dry_mg_m3 for m in ordered], bc_type="natural")
    best: Peak | None = None
    for i in range(len(w) - 1):
        d, c, b, a = (float(v) for v in curve.c[:, i])
        at = top_of(a, b, c, d)
        if at is None or not 0 <= at <= w[i + 1] - w[i]:
            continue
        dry = a + b * at + c * at**2 + d * at**3
        if best is None or dry > best.dry_mg_m3:
            best = Peak(w[i] + at, dry, w[i], (a, b, c, d), None, None, tuple(m.row for m in made))
    if best is None:
        raise ReductionError("peak", "a curve without a top", "points on both sides of it")
    return best


def peak_of(made: list[Made], school: CompactionSchool) -> Peak:
    """The peak by the school's fit. Raises ReductionError when there is none."""
    used = [m for m in made if m.counts]
    if school.fit == "spline":
        return _spline(used)
    if school.fit == "cubic" and len(used) >= 5:
        return _polynomial(used, 3)
    return _polynomial(round_the_top(used, school.fit_points), 2)


def curve_points(made: list[Made], peak: Peak, school: CompactionSchool) -> list[tuple[float, float]]:
    """Water content and dry density along the fitted curve, over the points it was fitted to."""
    many = 41
    used = [m for m in made if m.row in peak.used]
    low, high = min(m.water_percent for m in used), max(m.water_percent for m in used)
    grid = [low + (high - low) * i / (many - 1) for i in range(many)]
    if school.fit == "spline":
        from scipy.interpolate import CubicSpline

        ordered = sorted(used, key=lambda m: m.water_percent)
        curve = CubicSpline([m.water_percent for m in ordered], [m.dry_mg_m3 for m in ordered], bc_type="natural")
        return [(w, float(curve(w))) for w in grid]
    a, b, c, d = peak.coefficients
    at = [w - peak.origin for w in grid]
    return [(w, a + b * x + c * x**2 + d * x**3) for w, x in zip(grid, at, strict=True)]
