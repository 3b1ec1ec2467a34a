"""Comparing a figure with its limit: the one place that knows the tolerance.

A figure equal to its limit holds; equality is relative, so that floating-point noise decides nothing (10 % against
10 %, 12.40 after a correction).
"""

SAME = 1e-9
NOISE = 1e-12  # what is left of nothing after a few sums


def alike(a: float, b: float) -> bool:
    """Whether two figures are the same but for noise.

    >>> alike(0.1 + 0.2, 0.3), alike(10.0, 10.001)
    (True, False)
    """
    return abs(a - b) <= max(SAME * max(abs(a), abs(b)), NOISE)


def at_most(value: float, limit: float) -> bool:
    """Whether the value is the limit or below it.

    >>> at_most(0.1 + 0.2, 0.3), at_most(0.30001, 0.3)
    (True, False)
    """
    return value <= limit or alike(value, limit)


def at_least(value: float, limit: float) -> bool:
    """Whether the value is the limit or above it."""
    return value >= limit or alike(value, limit)


def below(value: float, limit: float) -> bool:
    """Whether the value is truly below the limit."""
    return value < limit and not alike(value, limit)


def within(value: float, low: float, high: float) -> bool:
    """Whether the value lies from low to high, both among it."""
    return at_least(value, low) and at_most(value, high)
