"""Called readings: those that something calls, the clock, a travel, a load step or a depth.

Written once over them: which call is next, which are late or missed, when each falls due, when hands are taken. The
rack reads those of the clock, the call panel those of a travel, the ladder those of a load, the rod those of a depth;
an instrument's samples become readings through them.
"""

import math
from bisect import bisect_right
from collections.abc import Mapping
from datetime import datetime, timedelta
from itertools import accumulate
from types import MappingProxyType
from typing import Literal, NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.compare import alike, at_least, at_most
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Due
from vadum.soil.contract.times import exact, minutes_between

By = Literal["clock", "travel", "load", "depth"]
State = Literal["done", "late", "early", "missed", "next", "ahead"]
MOST_EARLY = 0.9  # a reading by the clock that was taken after nine tenths of its time stands for it
GIVEN_UP_AFTER_MIN = 360.0  # behind the last call of a timetable


class Pace(NamedTuple):
    """The rate a travel is called at and the band it may move in, in the call's unit a minute."""

    rate: float
    low: float
    high: float

    def word(self, rate: float) -> Literal["too slow", "right", "too fast"]:
        """How a rate stands to the band.

        >>> Pace(1.0, 0.8, 1.2).word(1.2), Pace(1.0, 0.8, 1.2).word(1.3)
        ('right', 'too fast')
        """
        return "too slow" if not at_least(rate, self.low) else "right" if at_most(rate, self.high) else "too fast"


class Hold(NamedTuple):
    """How long a load step is held: at least so many minutes, and until the rate, over an interval, has fallen to the
    limit."""

    least_min: float
    most_rate_mm_min: float | None = None
    over_min: float = 1.0


class Taken(NamedTuple):
    """A call that was answered: the row it stands in, where it was truly read (in the call's unit), and when."""

    row: int
    at: float | None
    moment: datetime | None = None
    missed: bool = False
    shows: str = ""


class Called(NamedTuple):
    """Readings that something calls: the clock, a travel, a load step or a depth.

    `at` is what the school calls; `taken` what was read so far. By the clock a reading stands for the call whose time
    it reached; otherwise row i is call i. `over`: it is finished or was stopped.

    By the clock: `lead_s` hands before a reading and `after_s` after it, `start_s` before the start, `window_s` how far
    off each may lie; up to `stays_until` the instrument stays in place between the readings. `begin_field` takes the
    start, `plan_field` a planned one, `ready` says that everything before it is there; `insert_field` of a row is when
    the instrument went in, `after_field` what is read after it; a row that was begun stays open for `most_open_s`.
    `name` is the vessel's, `gauge` what goes in, `begins` and `prepares` are said of the start and of what goes before,
    `does` and `how` of a reading; `begin_hands_s` is what the start takes. `only_row`: it calls that one row's reading.
    `drawn` is the vessel that stands on the rack, none where it is empty; `filled` how full it is drawn, 0 to 1. An
    instrument that reads it is sampled every `sampled_s`, at the calls where that is 0.

    By a travel: `pace`, and how an instrument fills a row: `channels` says which field a channel fills, one of
    `travel_channels` is the travel, `travel_field` where it was truly read, `time_field` the instrument's time. A
    missed one is noted in `missed_field`; `stops` are the ways to end it, `notes` what may be noted at a reading.

    By a depth: `says` what is asked for each field and how it is done, `alone` the fields asked by themselves.

    By a load: `hold`. What a reading comes to is told in `Taken.shows`, under the head `shows`.
    """

    key: str
    words: str
    by: By
    unit: str
    at: tuple[float, ...]
    reads: tuple[str, ...]
    window_s: tuple[int, ...] = ()
    began_at: datetime | None = None
    lead_s: int = 0
    after_s: int = 45
    pace: Pace | None = None
    hold: Hold | None = None
    over: bool = False
    taken: tuple[Taken, ...] = ()
    rows: int = 0
    stays_until: float = 0.0
    start_s: int = 0
    channels: Mapping[str, str] = MappingProxyType({})
    travel_channels: tuple[str, ...] = ()
    travel_field: str = ""
    writes_travel: bool = False
    time_field: str = ""
    moment_field: str = ""
    missed_field: str = ""
    stop_field: str = ""
    stops: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    note_field: str = ""
    interpolates: bool = True
    open_row: int | None = None
    only_row: int | None = None
    shows: str = ""
    begin_field: str = ""
    plan_field: str = ""
    ready: bool = True
    insert_field: str = ""
    after_field: str = ""
    most_open_s: int = 0
    name: str = ""
    gauge: str = ""
    begins: str = "start"
    prepares: str = ""
    how: str = ""
    does: str = "read"
    begin_hands_s: int = 10
    drawn: str = "cylinder"
    filled: float | None = None
    sampled_s: float = 0.0
    says: Mapping[str, tuple[str, str]] = MappingProxyType({})
    alone: tuple[str, ...] = ()

    @property
    def next_row(self) -> int:
        """The row of the reading to take next: its only one, one that was begun, or the first behind the last."""
        if self.only_row is not None:
            return self.only_row
        return self.rows if self.open_row is None else self.open_row

    def start_words(self, name: str = "") -> str:
        """The start as it is said, of the vessel's name.

        >>> called = Called("r", "cylinder D", "clock", "min", (), (), name="D", begins="set down")
        >>> called.start_words(), called._replace(begins="fill {} and start").start_words()
        ('set down D', 'fill D and start')
        """
        name = name or self.name or self.words
        return self.begins.replace("{}", name) if "{}" in self.begins else f"{self.begins} {name}"

    @property
    def is_exact(self) -> bool:
        """Whether its calls come at their time; else they wait until hands are free."""
        return bool(self.window_s)

    def window(self, index: int) -> int | None:
        """How many seconds from its call a reading may lie; None where nothing is late."""
        return self.window_s[index] if index < len(self.window_s) else None

    def path(self, row: int, field: str = "") -> str:
        """The path of a field of a row, of its first reading where none is named."""
        return paths.at(self.key, row, field or self.reads[0])


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
