"""The few shared fits and the one way of rounding."""

import math
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from decimal import ROUND_HALF_EVEN, ROUND_HALF_UP, Context, Decimal
from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError

_ROOMY = Context(prec=400, rounding=ROUND_HALF_UP)


class StraightLine(NamedTuple):
    """`y = intercept + slope x` by least squares, with what its errors need."""

    intercept: float
    slope: float
    n: int
    sum_x: float
    sum_y: float
    sum_xx: float
    sum_xy: float
    residual_sd: float | None
    r_squared: float

    def at(self, x: float) -> float:
        """The line's y at x."""
        return self.intercept + self.slope * x

    def error_at(self, x: float) -> float | None:
        """Standard uncertainty of the line's y at x: `s sqrt(1/n + (x - mean)^2 / Sxx)`; None below three points."""
        if self.residual_sd is None:
            return None
        mean = self.sum_x / self.n
        spread = self.sum_xx - self.n * mean * mean
        if not spread > 0:
            return None  # abscissae so far from zero that their spread is lost in rounding
        return self.residual_sd * math.sqrt(1 / self.n + (x - mean) ** 2 / spread)


def straight_line(x: list[float], y: list[float]) -> StraightLine:
    """Least squares of y on x.

    Parameters: x, y of shape (n,), n >= 2, any units. Raises ReductionError below two different x.
    Source: ordinary least squares; residual variance with n - 2 degrees of freedom.

    >>> line = straight_line([0.0, 1.0, 2.0], [1.0, 3.0, 5.0])
    >>> line.intercept, line.slope
    (1.0, 2.0)
    """
    n = len(x)
    if n != len(y):
        raise ReductionError("straight line", f"{n} x and {len(y)} y", "as many x as y")
    if n < 2 or max(x) == min(x):
        raise ReductionError("straight line", f"{len(set(x))} different abscissae", "two or more")
    sum_x, sum_y = math.fsum(x), math.fsum(y)
    mean_x, mean_y = sum_x / n, sum_y / n
    spread = math.fsum((a - mean_x) ** 2 for a in x)
    if not spread > 0:
        raise ReductionError(
            "straight line", "abscissae that differ by less than a float can hold", "two or more apart"
        )
    slope = math.fsum((a - mean_x) * (b - mean_y) for a, b in zip(x, y, strict=True)) / spread
    intercept = mean_y - slope * mean_x
    residual = math.fsum((b - intercept - slope * a) ** 2 for a, b in zip(x, y, strict=True))
    total = math.fsum((b - mean_y) ** 2 for b in y)
    return StraightLine(
        intercept,
        slope,
        n,
        sum_x,
        sum_y,
        math.fsum(a * a for a in x),
        math.fsum(a * b for a, b in zip(x, y, strict=True)),
        math.sqrt(residual / (n - 2)) if n > 2 else None,
        1.0 if total == 0 else 1 - residual / total,
    )


def mean(values: list[float]) -> float:
    """Arithmetic mean; raises ReductionError on none."""
    if not values:
        raise ReductionError("mean", "no values", "at least one")
    return math.fsum(values) / len(values)


def error_of_mean(values: list[float]) -> float | None:
    """Standard uncertainty of a mean, `s / sqrt(n)`; None below two values.

    >>> error_of_mean([1.0, 3.0])
    1.0
    """
    if len(values) < 2:
        return None
    middle = mean(values)
    return math.sqrt(math.fsum((v - middle) ** 2 for v in values) / (len(values) - 1) / len(values))


_half: ContextVar[str] = ContextVar("half", default=ROUND_HALF_UP)


@contextmanager
def half_to_even(even: bool) -> Iterator[None]:
    """Within it a half goes to the even digit, as ASTM E29 has it, and not up, as D6026 has it."""
    kept = _half.set(ROUND_HALF_EVEN if even else ROUND_HALF_UP)
    try:
        yield
    finally:
        _half.reset(kept)


def rounded(value: float, step: float) -> str:
    """The value rounded to a multiple of step, written with the digits of step; a half goes up, see `half_to_even`.

    >>> rounded(46.88178, 1), rounded(25.03178, 0.1), rounded(22.5, 1), rounded(-0.04, 0.1)
    ('47', '25.0', '23', '0.0')
    >>> with half_to_even(True):
    ...     rounded(22.5, 1), rounded(23.5, 1)
    ('22', '24')
    """
    if not math.isfinite(value):
        return "no number"
    quantum = Decimal(str(step))
    # A float has at most 309 digits before its point: room for all of them, so that no size of number is refused.
    units = _ROOMY.divide(Decimal(repr(value)), quantum).quantize(Decimal(1), _half.get(), _ROOMY)
    result = _ROOMY.multiply(units, quantum)
    digits = max(0, -int(quantum.normalize().as_tuple().exponent))
    return f"{abs(result) if result == 0 else result:.{digits}f}"


def plain(value: float, digits: int = 4) -> str:
    """A number for a sentence: at most `digits` significant digits, no exponent, no trailing zeros.

    >>> plain(31.4400001), plain(0.000012), plain(1234.5)
    ('31.44', '0.000012', '1234.5')
    """
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else str(value)
    places = max(0, digits - 1 - math.floor(math.log10(abs(value)))) if abs(value) < 10 ** (digits - 1) else 2
    text = f"{value:.{places}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def significant_step(value: float, digits: int = 2) -> float:
    """The step that leaves a value that many significant digits, also where rounding lifts it to the next ten.

    Parameters: any `value`; `digits` wanted, 1 or more.
    Returns: a power of ten in the value's unit; 1 for zero and for what is no number.

    >>> significant_step(0.1316), significant_step(4.75), significant_step(63.0), significant_step(9.96)
    (0.01, 0.1, 1.0, 1.0)
    """
    if value == 0 or not math.isfinite(value):
        return 1.0
    places = math.floor(math.log10(abs(value))) - digits + 1
    lifted = Decimal(rounded(abs(value), 10.0**places)) >= Decimal(10) ** (places + digits)
    return float(10.0 ** (places + lifted))
