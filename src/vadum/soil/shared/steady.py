"""Whether a series of rates has become steady: by a band about the mean of its last values, or by values that are
alike."""

import math
from collections.abc import Sequence
from typing import NamedTuple

from vadum.soil.contract.compare import at_most
from vadum.soil.contract.numerics import straight_line


class Steady(NamedTuple):
    """The steady value and how many of the last values it is the mean of; `scatter` their standard error; `band` in
    percent of the mean as found: the farthest value, and the trend over them."""

    value: float
    many: int
    scatter: float
    farthest_percent: float
    trend_percent: float


def last_of(values: Sequence[float], many: int) -> Steady | None:
    """The mean of the last values with how far they lie from it and how they drift.

    Parameters: `values` in any unit; `many` of the last, 2 or more.
    Returns: None with fewer values, or where their mean is nothing.
    """
    if len(values) < many or many < 2:
        return None
    last = list(values[-many:])
    mean = math.fsum(last) / many
    if not abs(mean) > 1e-12:
        return None
    far = max(abs(v - mean) for v in last)
    trend = straight_line([float(i) for i in range(many)], last).slope * (many - 1)
    spread = math.sqrt(math.fsum((v - mean) ** 2 for v in last) / (many - 1))
    return Steady(mean, many, spread / math.sqrt(many), 100 * far / abs(mean), 100 * abs(trend) / abs(mean))


def is_steady(found: Steady | None, percent: float) -> bool:
    """Whether the last values lie within a band about their mean and drift by no more than it.

    >>> is_steady(last_of([9.0, 8.1, 8.0, 8.1, 7.9, 8.0], 5), 5.0), is_steady(last_of([12, 11, 10, 9, 8], 5), 5.0)
    (True, False)
    """
    return found is not None and at_most(found.farthest_percent, percent) and at_most(found.trend_percent, percent)
