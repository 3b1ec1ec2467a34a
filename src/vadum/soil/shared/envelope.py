"""The strength envelope: a straight line through failure states, its two parameters and their errors."""

import math
from collections.abc import Sequence
from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.numerics import mean, plain, straight_line

STUDENT_95 = {1: 12.71, 2: 4.30, 3: 3.18, 4: 2.78, 5: 2.57, 6: 2.45, 7: 2.36, 8: 2.31}
NORMAL_95 = 1.96
LEAST_SCATTER = 1e-9  # of the greatest y: what is left over below it is the machine's rounding, and no error


class Line(NamedTuple):
    """`y = intercept + slope x` with what its errors need; `held`: it was held through zero.

    The errors are None where as many points as parameters leave nothing over.
    """

    intercept: float
    slope: float
    n: int
    freedom: int
    r_squared: float
    slope_error: float | None
    intercept_error: float | None
    covariance: float | None
    residual_sd: float | None
    held: bool
    least_x: float
    most_x: float

    def at(self, x: float) -> float:
        """The line at x, in the unit of y."""
        return self.intercept + self.slope * x

    def error_at(self, x: float) -> float | None:
        """Standard error of the line at x, in the unit of y; None without any."""
        if self.slope_error is None:
            return None
        across = (self.intercept_error or 0.0) ** 2 + 2 * x * (self.covariance or 0.0) + (x * self.slope_error) ** 2
        return math.sqrt(max(0.0, across))


class Strength(NamedTuple):
    """Friction angle in degrees and cohesion in kPa, each with its standard error (None without any)."""

    phi_degrees: float
    c_kpa: float
    phi_error_degrees: float | None
    c_error_kpa: float | None


def fitted(x: Sequence[float], y: Sequence[float], through_zero: bool = False) -> Line | None:
    """The line of least squares through two points or more; through zero already of one.

    Parameters: `x` the normal stress, taken as free of error, and `y` the shear stress, both in kPa and of one length.
    Returns: the line; None where there are too few points or they lie at one x.
    Source: least squares; ASTM D3080, D4767.

    >>> line = fitted([100.0, 200.0, 300.0], [72.0, 134.0, 203.0])
    >>> round(line.slope, 3), round(line.intercept, 2), round(line.slope_error, 4), line.freedom
    (0.655, 5.33, 0.0202, 1)
    """
    n = len(x)
    if through_zero:
        across = math.fsum(a * a for a in x)
        if n < 1 or across <= 0:
            return None
        slope = math.fsum(a * b for a, b in zip(x, y, strict=True)) / across
        left = math.fsum((b - slope * a) ** 2 for a, b in zip(x, y, strict=True))
        total = math.fsum((b - mean(list(y))) ** 2 for b in y)
        sd = _scatter(math.sqrt(left / (n - 1)) if n > 1 else None, y)
        error = None if sd is None else sd / math.sqrt(across)
        return Line(
            0.0, slope, n, n - 1, 1 - left / total if total else 1.0, error, None, None, sd, True, min(x), max(x)
        )
    try:
        line = straight_line(list(x), list(y))
    except ReductionError:
        return None
    middle = line.sum_x / n
    across = math.fsum((a - middle) ** 2 for a in x)
    sd = _scatter(line.residual_sd, y)
    if sd is None:
        return Line(line.intercept, line.slope, n, n - 2, line.r_squared, None, None, None, None, False, min(x), max(x))
    return Line(
        line.intercept,
        line.slope,
        n,
        n - 2,
        line.r_squared,
        sd / math.sqrt(across),
        sd * math.sqrt(1 / n + middle**2 / across),
        -(sd**2) * middle / across,
        sd,
        False,
        min(x),
        max(x),
    )


class NotBelowZero(NamedTuple):
    """A line whose intercept is not below nothing. `free` is the fit before it was held through zero; None where it was
    not held: angle and cohesion that are reported together are of one line."""

    line: Line
    free: Line | None


def fitted_not_below_zero(x: Sequence[float], y: Sequence[float]) -> NotBelowZero | None:
    """The line of least squares; through zero where its intercept would be below nothing, which no soil's is.

    Parameters: as `fitted`.
    Returns: the line; None below two points.
    Source: physics: soil bears no tension by cohesion below zero.

    >>> found = fitted_not_below_zero([50.0, 100.0, 200.0], [25.0, 60.0, 130.0])
    >>> round(found.line.slope, 3), found.line.intercept, round(found.free.intercept, 1)
    (0.633, 0.0, -10.0)
    """
    line = fitted(x, y) if len(x) > 1 else None
    if line is None:
        return None
    through = fitted(x, y, through_zero=True) if line.intercept < 0 else None
    return NotBelowZero(line, None) if through is None else NotBelowZero(through, line)


def _scatter(sd: float | None, y: Sequence[float]) -> float | None:
    """What is left over of a fit; None where it is nothing: points on one line tell no error of it."""
    most = max((abs(b) for b in y), default=0.0)
    return sd if sd is not None and sd > LEAST_SCATTER * most else None


def by_stresses(line: Line) -> Strength:
    """Strength of `tau = c + sigma tan phi`.

    `phi = atan b`, `u(phi) = u(b) / (1 + b^2)`, `c = a`.

    Parameters: `line` of shear stress on normal stress, kPa.
    Returns: degrees and kPa with their standard errors.
    Source: ASTM D3080.

    >>> found = by_stresses(fitted([100.0, 200.0, 300.0], [72.0, 134.0, 203.0]))
    >>> round(found.phi_degrees, 2), round(found.phi_error_degrees, 2), round(found.c_kpa, 2)
    (33.22, 0.81, 5.33)
    """
    error = None if line.slope_error is None else math.degrees(line.slope_error / (1 + line.slope**2))
    return Strength(math.degrees(math.atan(line.slope)), line.intercept, error, line.intercept_error)


def by_circle_tops(line: Line) -> Strength | None:
    """Strength of `t = a + m s`: `sin phi = m`, `c = a / cos phi`.

    `u(phi) = u(m) / cos phi`;
    `u(c)^2 = (u(a) / cos phi)^2 + (a sin phi / cos^2 phi u(phi))^2 + 2 (a sin phi / cos^4 phi) cov(a, m)`.

    Parameters: `line` of t = (s1 - s3) / 2 on s = (s1 + s3) / 2, kPa.
    Returns: degrees and kPa with their standard errors; None where m is 1 or more: no angle has such a sine.
    Source: ASTM D4767; first-order propagation.
    """
    if abs(line.slope) >= 1:
        return None
    phi = math.asin(line.slope)
    cosine, sine, a = math.cos(phi), math.sin(phi), line.intercept
    if line.slope_error is None:
        return Strength(math.degrees(phi), a / cosine, None, None)
    turn = line.slope_error / cosine
    if line.intercept_error is None:
        return Strength(math.degrees(phi), a / cosine, math.degrees(turn), None)
    variance = (line.intercept_error / cosine) ** 2 + (a * sine / cosine**2 * turn) ** 2
    variance += 2 * (a * sine / cosine**4) * (line.covariance or 0.0)
    return Strength(math.degrees(phi), a / cosine, math.degrees(turn), math.sqrt(max(0.0, variance)))


def mean_line(x: Sequence[float], y: Sequence[float]) -> tuple[float, float] | None:
    """Intercept and slope of the geometric-mean line, which stands where both x and y vary.

    `m = sign(r) s_y / s_x`

    Parameters: `x` and `y` in kPa, of one length.
    Returns: (intercept, slope); None where there is no spread.
    Source: reduced major axis.

    >>> [round(v, 3) for v in mean_line([100.0, 200.0, 300.0], [72.0, 134.0, 203.0])]
    [5.271, 0.655]
    """
    if len(x) < 2:
        return None
    mx, my = mean(list(x)), mean(list(y))
    sx, sy = math.fsum((a - mx) ** 2 for a in x), math.fsum((b - my) ** 2 for b in y)
    together = math.fsum((a - mx) * (b - my) for a, b in zip(x, y, strict=True))
    if sx <= 0:
        return None
    slope = math.copysign(math.sqrt(sy / sx), together)
    return my - slope * mx, slope


def band_words(line: Line, strength: Strength) -> str:
    """An honest word about how firm the angle is: how many points, what is left over, and a 95 % band where it tells.

    >>> line = fitted([100.0, 200.0], [72.0, 134.0])
    >>> band_words(line, by_stresses(line))
    'two points always make a line: no error can be given yet'
    """
    if line.freedom <= 0:
        return "two points always make a line: no error can be given yet" if line.n == 2 else "one point makes no line"
    if strength.phi_error_degrees is None:
        return f"{line.n} points on one straight line: their scatter tells no error"
    student = STUDENT_95.get(line.freedom, NORMAL_95)
    error = strength.phi_error_degrees
    if line.freedom == 1:
        points = f"{line.n} points leave one degree of freedom"
        return f"{points} (t = 12.7): ± {plain(error, 2)}° is one standard error, no firm 95 % band"
    return (
        f"{line.n} points: 95 % within ± {plain(student * error, 2)}° (t = {student:g}, one error {plain(error, 2)}°)"
    )


def moves_without(x: Sequence[float], y: Sequence[float], out: int, through_zero: bool = False) -> Line | None:
    """The line without one of its points.

    Parameters: as `fitted`; `out` the place of the point that is left out.
    Returns: the line; None where the others make none.
    """
    return fitted([a for i, a in enumerate(x) if i != out], [b for i, b in enumerate(y) if i != out], through_zero)
