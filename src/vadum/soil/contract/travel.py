"""Readings that a travel calls: its rate, the time to the next call, a sample at a called travel out of two."""

from collections.abc import Mapping
from typing import NamedTuple

from vadum.soil.contract.called import Called, Taken
from vadum.soil.contract.compare import alike
from vadum.soil.contract.times import minutes_between


def rate_between(first: Taken, last: Taken) -> float | None:
    """Travel a minute from one reading to another, in the call's unit; None where no time passes."""
    if first.at is None or last.at is None or first.moment is None or last.moment is None:
        return None
    minutes = minutes_between(first.moment, last.moment)
    return None if minutes <= 0 or alike(minutes, 0.0) else (last.at - first.at) / minutes


def rate_of(called: Called, over: int = 4) -> float | None:
    """The rate over the last few readings: steady enough for a hand, quick enough to answer to it.

    Parameters: `over`, how many intervals the mean is taken across.
    Returns: the call's unit a minute; None before two timed readings.
    """
    timed = [one for one in called.taken if one.at is not None and one.moment is not None]
    return (
        rate_between(timed[-(over + 1)], timed[-1])
        if len(timed) > over
        else (rate_between(timed[0], timed[-1]) if len(timed) > 1 else None)
    )


def interval_s(called: Called, index: int) -> float:
    """Seconds from the call before to this one at the right pace; 0 where nothing sets one.

    Parameters: `index` of a call of the series, from 0.
    Returns: s, 0 or more.
    """
    if called.pace is None or called.pace.rate <= 0:
        return 0.0
    before = called.at[index - 1] if index else 0.0
    return 60 * (called.at[index] - before) / called.pace.rate


class Sample(NamedTuple):
    """One sample of an instrument: its own time in s, its travel, and each channel's figure."""

    seconds: float
    travel: float
    figures: Mapping[str, float]


def sample_at(travel: float, before: Sample, after: Sample, interpolates: bool) -> Sample:
    """The sample at a called travel out of the two around it: on the straight line between, where the school allows
    it, else the nearer of the two as it is. Nothing is taken from outside them.

    Raises: ValueError where the travel does not lie between the two.

    >>> sample_at(0.25, Sample(0, 0.24, {"force": 10}), Sample(1, 0.26, {"force": 12}), True).figures
    {'force': 11.0}
    """
    if not before.travel <= travel <= after.travel:
        raise ValueError(f"{travel} does not lie between the samples")
    span = after.travel - before.travel
    if not interpolates or span == 0:
        return before if travel - before.travel <= after.travel - travel else after
    share = (travel - before.travel) / span
    figures = {
        name: round(low + share * (after.figures[name] - low), 6)
        for name, low in before.figures.items()
        if name in after.figures
    }
    return Sample(round(before.seconds + share * (after.seconds - before.seconds), 6), travel, figures)
