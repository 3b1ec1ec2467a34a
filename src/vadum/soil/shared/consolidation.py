"""Consolidation against time: how quickly a specimen drains, by the root of time and by its logarithm."""

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import straight_line

TAYLOR_RATIO = 1.15  # abscissa of the second line over that of the first
EARLY_SHARE = 0.6  # of the whole movement: up to there the root-time curve is straight
LATE_SHARE = 0.9
T50, T90 = 0.197, 0.848  # time factors
LEAST_POINTS = 4
MOST_LOG_POINTS = 400
MANY, FINE = 60, 24  # readings from which a curve needs no smoothing; points between two of fewer


class Moved(NamedTuple):
    """A reading: minutes since the load, and the movement (mm of settlement, or cm³ of water out), growing."""

    minutes: float
    moved: float


class RootTime(NamedTuple):
    """The construction by the root of time: the straight line, t50, t90 and t100 in min, movement at 0, 90, 100 %."""

    start: float
    slope: float
    t50_min: float | None
    t90_min: float
    t100_min: float
    at_90: float
    at_100: float


class LogTime(NamedTuple):
    """The construction by the logarithm of time: movement at 0 and 100 %, and their times in min."""

    start: float
    at_100: float
    t50_min: float
    t100_min: float


class Consolidation(NamedTuple):
    """A consolidation: its readings, both constructions, t50, t90 and t100 in min as they are used, and whether a hand
    moved one."""

    readings: tuple[Moved, ...]
    root: RootTime | None
    log: LogTime | None
    t50_min: float | None
    t90_min: float | None
    t100_min: float | None
    by_hand: bool


def consolidation_of(
    readings: Sequence[Moved], t50_min: float | None, t90_min: float | None, t100_min: float | None
) -> Consolidation:
    """What the readings come to, with what a hand has moved in place of what was found.

    Parameters: `readings` as (min, movement); the times that a hand has set, min, None where it has not.
    Returns: the consolidation.
    """

    def typed(minutes: float | None) -> float | None:
        return minutes if known(minutes) and minutes > 0 else None

    root, log = by_root_time(readings, typed(t90_min)), by_log_time(readings)
    return Consolidation(
        tuple(sorted(readings)),
        root,
        log,
        typed(t50_min) or (root.t50_min if root else None) or (log.t50_min if log else None),
        typed(t90_min) or (root.t90_min if root else None),
        typed(t100_min) or (root.t100_min if root else None),
        any(known(t) for t in (t50_min, t90_min, t100_min)),
    )


def rising(readings: Sequence[Moved]) -> list[Moved]:
    """The readings by time, without those that fall behind an earlier one or lie at no time but the first."""
    found: list[Moved] = []
    for one in sorted(readings):
        if not found or (one.minutes > found[-1].minutes and one.moved >= found[-1].moved):
            found.append(one)
    return found


def smoothed(kept: Sequence[Moved]) -> Sequence[Moved]:
    """A monotone cubic through a hand's few readings, on the root of time: chords would cut its corners; a logger's
    many stand as they are."""
    if len(kept) > MANY:
        return kept
    from scipy.interpolate import PchipInterpolator  # a fifth of a second that a start need not pay

    roots = [math.sqrt(r.minutes) for r in kept]
    curve = PchipInterpolator(roots, [r.moved for r in kept])
    fine = [a + (b - a) * i / FINE for a, b in pairwise(roots) for i in range(FINE)] + [roots[-1]]
    return [Moved(x * x, float(y)) for x, y in zip(fine, curve(fine), strict=True)]


def time_at(readings: Sequence[Moved], moved: float) -> float | None:
    """When the movement first comes to a figure, min, straight between readings on the root of time.

    Parameters: `readings` that rise; `moved` in their unit.
    Returns: minutes; None where it does not come to it.
    Source: linear on the root of time.
    """
    for a, b in pairwise(readings):
        if a.moved <= moved <= b.moved and b.moved > a.moved:
            share = (moved - a.moved) / (b.moved - a.moved)
            root = math.sqrt(a.minutes) + share * (math.sqrt(b.minutes) - math.sqrt(a.minutes))
            return root**2
    return None


def moved_at(readings: Sequence[Moved], minutes: float) -> float | None:
    """The movement at a time, straight between readings on the root of time; None outside them.

    Parameters: `readings` that rise; `minutes`.
    Returns: their unit.
    Source: linear on the root of time.
    """
    for a, b in pairwise(readings):
        if a.minutes <= minutes <= b.minutes:
            share = (math.sqrt(minutes) - math.sqrt(a.minutes)) / (math.sqrt(b.minutes) - math.sqrt(a.minutes))
            return a.moved + share * (b.moved - a.moved)
    return None


def _straight(kept: Sequence[Moved]) -> tuple[float, float] | None:
    """Intercept and slope of the early straight part: without what moves at once, up to six tenths of the whole."""
    first, whole = kept[0].moved, kept[-1].moved - kept[0].moved
    early = [r for r in kept if r.minutes > 0 and r.moved <= first + EARLY_SHARE * whole]
    if len(early) < 3:
        early = [r for r in kept if r.minutes > 0][:3]
    try:
        line = straight_line([math.sqrt(r.minutes) for r in early], [r.moved for r in early])
    except ReductionError:
        return None
    return (line.intercept, line.slope) if line.slope > 0 else None


def by_root_time(readings: Sequence[Moved], t90_min: float | None = None) -> RootTime | None:
    """t50, t90 and t100 by the root of time (Taylor's construction).

    A straight line through the early readings; a second with 1.15 times its abscissae meets the curve at 90 %;
    `d100 = d0 + (d90 - d0) / 0.9`; t100 is where the first line reaches d100.

    Parameters: `readings` as (min, movement); `t90_min` where a hand has moved the construction.
    Returns: the construction; None while the readings do not reach it.
    Source: ASTM D2435 method B, D3080; BS 1377-7 (t100 on the root plot).

    >>> times = (0, 0.1, 0.25, 0.5, 1, 2, 4, 8, 15, 30, 60, 120, 240)
    >>> found = by_root_time([Moved(t, settled_percent(0.02 * t) / 50) for t in times])
    >>> round(found.t90_min), round(found.t50_min), round(found.at_100, 2)  # the law has 42.4, 9.85 and 2
    (41, 10, 1.98)
    """
    kept = rising(readings)
    if len(kept) < LEAST_POINTS or kept[-1].moved <= kept[0].moved:
        return None
    line = _straight(kept)
    if line is None:
        return None
    start, slope = line
    kept = list(smoothed(kept))
    at = t90_min if t90_min and t90_min > 0 else _crossing(kept, start, slope / TAYLOR_RATIO)
    if at is None:
        return None
    reached = moved_at(kept, at)
    if reached is None or reached <= start:
        return None
    whole = start + (reached - start) / 0.9
    return RootTime(
        start,
        slope,
        time_at(kept, start + (whole - start) / 2),
        at,
        ((whole - start) / slope) ** 2,
        reached,
        whole,
    )


def _crossing(kept: Sequence[Moved], start: float, slope: float) -> float | None:
    """Where the curve, having been above a line of that slope on the root of time, falls below it; min."""
    above = False
    for a, b in pairwise(kept):
        x0, x1 = math.sqrt(a.minutes), math.sqrt(b.minutes)
        over0, over1 = a.moved - start - slope * x0, b.moved - start - slope * x1
        above = above or over0 > 0
        if above and over0 >= 0 > over1:
            return (x0 + over0 / (over0 - over1) * (x1 - x0)) ** 2
    return None


def by_log_time(readings: Sequence[Moved]) -> LogTime | None:
    """t50 and t100 by the logarithm of time (Casagrande's construction).

    `d0 = 2 d(t) - d(4t)` at the first reading; d100 where the steepest tangent meets the line through the last
    readings; t50 at their middle.

    Parameters: `readings` as (min, movement).
    Returns: the construction; None while the readings do not turn flat.
    Source: ASTM D2435 method A, D3080.
    """
    kept = [r for r in rising(readings) if r.minutes > 0]
    if len(kept) < LEAST_POINTS + 1:
        return None
    kept = kept[:: max(1, len(kept) // MOST_LOG_POINTS)]
    x = [math.log10(r.minutes) for r in kept]
    slopes = [(b.moved - a.moved) / (xb - xa) for (a, xa), (b, xb) in pairwise(zip(kept, x, strict=True))]
    steepest = max(range(len(slopes)), key=slopes.__getitem__)
    try:
        late = straight_line(x[-3:], [r.moved for r in kept[-3:]])
    except ReductionError:
        return None
    if slopes[steepest] <= 0 or late.slope > slopes[steepest] / 3:
        return None  # still on its steep part
    a, xa = kept[steepest], x[steepest]
    meets = (late.intercept - a.moved + slopes[steepest] * xa) / (slopes[steepest] - late.slope)
    whole = late.at(meets)
    first = kept[0]
    kept = list(smoothed(kept))
    fourth = moved_at(kept, 4 * first.minutes)
    start = 2 * first.moved - fourth if fourth is not None else first.moved
    half = time_at(kept, (start + whole) / 2)
    return LogTime(start, whole, half, 10.0**meets) if half is not None and whole > start else None


def late_share_percent(readings: Sequence[Moved]) -> float | None:
    """How much it still moves at the end: the last movement per log cycle of time, percent of the whole.

    Parameters: `readings` as (min, movement).
    Returns: % per log cycle; None below three readings.
    Source: laboratory setting; creep goes on for ever.
    """
    kept = [r for r in rising(readings) if r.minutes > 0]
    if len(kept) < 3 or kept[-1].moved <= kept[0].moved:
        return None
    a, b = kept[-2], kept[-1]
    return 100 * (b.moved - a.moved) / math.log10(b.minutes / a.minutes) / (b.moved - readings[0].moved)


def consolidated_percent(readings: Sequence[Moved], found: RootTime) -> float:
    """The degree of consolidation at the last reading, percent of the movement at 100 %.

    Parameters: `readings`; `found` their construction.
    Returns: %.
    Source: root-time construction.
    """
    last = max((r.moved for r in readings), default=found.start)
    return 100 * (last - found.start) / (found.at_100 - found.start)


def settled_percent(factor: float) -> float:
    """The average degree of consolidation at a time factor, percent: Terzaghi's two branches.

    Parameters: `factor` T, a pure number from 0.
    Returns: %.
    Source: Terzaghi's theory, the usual approximation.

    >>> round(settled_percent(0.197), 1), round(settled_percent(0.848), 1)
    (50.1, 90.0)
    """
    return 100 * (math.sqrt(4 * factor / math.pi) if factor < 0.217 else 1 - 0.8106 * math.exp(-2.4674 * factor))
