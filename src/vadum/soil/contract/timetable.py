"""What is called, as it stands at a moment: what is next, late or missed, when each falls due, when hands are taken."""

import math
from bisect import bisect_right
from datetime import datetime, timedelta
from itertools import accumulate
from typing import Literal, NamedTuple

from vadum.soil.contract.called import Called, Taken
from vadum.soil.contract.compare import at_most
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Due
from vadum.soil.contract.times import exact, minutes_between

State = Literal["done", "late", "early", "missed", "next", "ahead"]
MOST_EARLY = 0.9  # a reading by the clock that was taken after nine tenths of its time stands for it
GIVEN_UP_AFTER_MIN = 360.0  # behind the last call of a timetable


class Slot(NamedTuple):
    """One call as it stands: what is called, its row once read, and seconds late (early below 0) by the clock."""

    call: int
    at: float
    state: State
    row: int | None
    off_s: float


def covered(called: Called) -> dict[int, Taken]:
    """For each call that a reading stands for, that reading.

    By the clock a reading stands for the last call that it has reached, or nearly: nobody reads to the second.
    """
    found: dict[int, Taken] = {}
    # The last call that a time has reached: of the least from each call on, the last that is not later than it.
    reached_from = [reached_from_min(called, i) for i in range(len(called.at))] if called.by == "clock" else []
    least = list(accumulate(reversed(reached_from), min))[::-1]
    for one in called.taken:
        if called.by != "clock":
            if one.row < len(called.at) and not one.missed:
                found[one.row] = one
            continue
        if one.at is None:
            continue
        reached = bisect_right(least, one.at) - 1
        if reached >= 0 and reached not in found:
            found[reached] = one
    return found


def reached_from_min(called: Called, index: int) -> float:
    """Minutes from which on a reading by the clock stands for a call: nine tenths of its time, its window before it,
    and never before half-way from the call before.

    Parameters: `index` of a call of the series, from 0.
    Returns: minutes from the start of the series.
    Source: nobody reads to the second.

    >>> daily = Called("r", "cell", "clock", "min", (1440.0, 2880.0, 4320.0), ("m_g",))
    >>> [reached_from_min(daily, i) for i in range(3)]
    [1296.0, 2592.0, 3888.0]
    """
    at = called.at[index]
    before = called.at[index - 1] if index else 0.0
    return min(max(MOST_EARLY * at, (before + at) / 2), at - (called.window(index) or 0) / 60)


def given_up_after_min(called: Called, index: int) -> float:
    """Minutes after which a reading by the clock that was not taken is missed: half-way to the next call.

    Parameters: `index` of a call of the series, from 0.
    Returns: minutes from the start of the series; infinite for a call without a window, which waits for its reading.
    """
    if called.window(index) is None:
        return math.inf
    if index + 1 < len(called.at):
        return (called.at[index] + called.at[index + 1]) / 2
    return called.at[index] + GIVEN_UP_AFTER_MIN


def slots(called: Called, now: datetime) -> tuple[Slot, ...]:
    """Every call as it stands at now."""
    standing = covered(called)
    clock = called.by == "clock"
    since = minutes_between(called.began_at, now) if clock and called.began_at else -1.0
    newest = max(standing, default=-1)
    missed = {one.row for one in called.taken if one.missed} if not clock else set()
    found: list[Slot] = []
    next_found = called.over
    for i, at in enumerate(called.at):
        if i in standing:
            one = standing[i]
            off = ((one.at or 0.0) - at) * 60 if clock else 0.0
            window = called.window(i)
            within = not clock or window is None or abs(off) <= window + 0.5
            found.append(Slot(i, at, "done" if within else ("late" if off > 0 else "early"), one.row, off))
        elif i < newest or i in missed or (clock and since > given_up_after_min(called, i)):
            found.append(Slot(i, at, "missed", None, 0.0))
        elif not next_found and (not clock or called.began_at is not None):
            next_found = True
            found.append(Slot(i, at, "next", None, max(0.0, (since - at) * 60) if clock else 0.0))
        else:
            found.append(Slot(i, at, "ahead", None, 0.0))
    return tuple(found)


def next_slot(called: Called, now: datetime) -> Slot | None:
    """The call to answer next; None when it is over or has not begun."""
    return next((slot for slot in slots(called, now) if slot.state == "next"), None)


def due_at(called: Called, minutes: float) -> datetime:
    """The clock time of a call; what is called by the clock must have begun."""
    assert called.began_at is not None
    return called.began_at + timedelta(minutes=minutes)


def words_of(called: Called, at: float) -> str:
    """A call as it is said aloud.

    >>> words_of(Called("r", "A", "clock", "min", (0.5,), ("x_mm",)), 0.5)
    '30 s'

    >>> words_of(Called("r", "top end", "travel", "mm", (0.25,), ("x_n",)), 0.25)
    '0.25 mm'
    """
    if called.by == "clock":
        return minutes_words(at)
    return f"{at:.2f} {called.unit}" if called.by in ("travel", "depth") else f"{plain(at)} {called.unit}"


def minutes_words(minutes: float) -> str:
    """A time of a timetable as it is called.

    >>> minutes_words(0.5), minutes_words(8), minutes_words(1440)
    ('30 s', '8 min', '24 h')
    """
    if minutes < 1:
        return f"{minutes * 60:g} s"
    return f"{minutes:g} min" if minutes < 360 else f"{minutes / 60:g} h"


def dues(called: Called, now: datetime) -> tuple[Due, ...]:
    """The moments that a timetable's readings fall due; nothing where it is not the clock that calls."""
    if called.by != "clock" or called.began_at is None:
        return ()
    path, made = called.path(called.next_row), []
    for slot in slots(called, now):
        if slot.state not in ("next", "ahead"):
            continue
        at, in_place = due_at(called, slot.at), at_most(slot.at, called.stays_until)
        lead = 0 if in_place else called.lead_s
        begin = at - timedelta(seconds=lead)
        name = f"{called.does[:1].upper()}{called.does[1:]} {called.words}"
        goes_in = f"{called.gauge[:1].upper()}{called.gauge[1:]} in at {exact(begin, now)}."
        made.append(
            Due(
                what=f"{name} at {words_of(called, slot.at)}",
                kind="reading",
                at=at,
                since=begin,
                path=path,
                hands_s=lead + called.after_s,
                lead_s=lead,
                window_s=called.window(slot.call),
                label=f"{called.name} {words_of(called, slot.at)}".strip(),
                detail=goes_in if lead else "It stays in place." if in_place and called.gauge else "",
                by="clock",
            )
        )
    return tuple(made)


class Hands(NamedTuple):
    """Hands taken from `begin_s` to `end_s`, seconds from the start of what is called, and what for."""

    begin_s: int
    end_s: int
    label: str = ""


def hands(called: Called) -> tuple[Hands, ...]:
    """When a timetable takes hands, in seconds from its start: the start with the readings that follow in one go, then
    each further reading with what it needs before and after; pieces that touch are one. Calls that wait take none."""
    near = [t for t in called.at if at_most(t, called.stays_until)]
    end = round(near[-1] * 60) + called.after_s if near else 0
    taken = [Hands(-called.start_s, max(end, called.begin_hands_s), "start")]
    for t in called.at if called.is_exact else ():
        if at_most(t, called.stays_until):
            continue
        begin, finish = round(t * 60) - called.lead_s, round(t * 60) + called.after_s
        if begin < taken[-1].end_s:
            last = taken.pop()
            taken.append(Hands(last.begin_s, max(finish, last.end_s), last.label))
        else:
            taken.append(Hands(begin, finish, words_of(called, t)))
    return tuple(taken)
