"""When a held load has come to rest: the settlement's rate, the moment it will have fallen to a limit, a time curve."""

import math
from collections.abc import Sequence

from vadum.soil.contract.numerics import straight_line

NEARLY = 0.9  # a pair of readings that spans so much of the interval stands for it
LEAST_FIT = 3


def rate_mm_min(minutes: Sequence[float], settled_mm: Sequence[float], over_min: float) -> float | None:
    """The rate of settlement by the newest reading and the latest before it that lies `over_min` or longer back.

    Parameters: `minutes` since the load was on, rising; `settled_mm` at each, mm; `over_min` in min.
    Returns: mm/min; None before two readings lie so far apart.
    Source: the interval over which a rate is taken is the school's.

    >>> rate_mm_min([1, 2, 3], [1.0, 1.08, 1.12], 1.0)
    0.04
    """
    if len(minutes) < 2:
        return None
    last = minutes[-1]
    far = [i for i in range(len(minutes) - 1) if last - minutes[i] >= NEARLY * over_min]
    if not far:
        return None
    i = far[-1]
    return round((settled_mm[-1] - settled_mm[i]) / (last - minutes[i]), 9)


def creep_mm(minutes: Sequence[float], settled_mm: Sequence[float]) -> float | None:
    """Settlement in a log cycle of time: the slope of settlement against log10 of time over the last half of the
    readings, three of them at least.

    Parameters: `minutes` above 0 and `settled_mm`, as above.
    Returns: mm a log cycle; None below three readings at different times.
    """
    pairs = [(math.log10(t), s) for t, s in zip(minutes, settled_mm, strict=True) if t > 0]
    pairs = pairs[-max(LEAST_FIT, (len(pairs) + 1) // 2) :]
    if len(pairs) < LEAST_FIT or pairs[0][0] == pairs[-1][0]:
        return None
    return straight_line([t for t, _ in pairs], [s for _, s in pairs]).slope


def rests_at_min(creep: float, limit_mm_min: float) -> float:
    """When a settlement that creeps with log time has slowed to a rate: `t = b / (ln 10 * v)`.

    Parameters: `creep` b in mm a log cycle, 0 or more; `limit_mm_min` v in mm/min, above 0.
    Returns: minutes since the load was on.
    Source: derivative of `s = a + b log10 t`.

    >>> round(rests_at_min(0.46, 0.02), 1), round(rests_at_min(0.46, 0.02 / 60) / 60, 1)
    (10.0, 10.0)
    """
    return max(0.0, creep) / (math.log(10) * limit_mm_min)


def rests_in_min(
    minutes: Sequence[float], settled_mm: Sequence[float], limit_mm_min: float, now_min: float
) -> float | None:
    """About how long until the rate has fallen to its limit.

    Parameters: `minutes` and `settled_mm` of the readings; the limit in mm/min; `now_min` since the load was on.
    Returns: min, 0 or more; None while that cannot be told.
    Source: as `rests_at_min`, of the creep that was read.
    """
    creep = creep_mm(minutes, settled_mm)
    if creep is None or creep <= 0:
        return None
    return max(0.0, rests_at_min(creep, limit_mm_min) - now_min)


def probable_mm(minutes: Sequence[float], settled_mm: Sequence[float]) -> float | None:
    """The settlement that a step will come to by its time curve: a hyperbola `t / s = c + m t` over the last half of
    the readings, whose end is `1 / m`.

    Parameters: `minutes` since the load was on, `settled_mm` since then, both rising from 0.
    Returns: mm; None below three readings, or where they do not bend.
    Source: the rectangular hyperbola as a time curve; IS 1888 asks for a time curve and names none (D).

    >>> round(probable_mm([1, 4, 9, 16], [0.5, 1.0, 1.2, 1.3]), 2)
    1.45
    """
    pairs = [(t, t / s) for t, s in zip(minutes, settled_mm, strict=True) if t > 0 and s > 0]
    pairs = pairs[-max(LEAST_FIT, (len(pairs) + 1) // 2) :]
    if len(pairs) < LEAST_FIT:
        return None
    slope = straight_line([t for t, _ in pairs], [y for _, y in pairs]).slope
    return 1 / slope if slope > 0 else None
