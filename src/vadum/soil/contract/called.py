"""Called readings: those that something calls, the clock, a travel, a load step or a depth.

Written once over them: which call is next, late or missed and when hands are taken (`timetable`), the pace of a
travel and a sample at a called one (`travel`). The rack reads those of the clock, the call panel those of a travel,
the ladder those of a load, the rod those of a depth; an instrument's samples become readings through them.
"""

import math
from collections.abc import Mapping, Sequence
from datetime import datetime
from types import MappingProxyType
from typing import Literal, NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.compare import at_least, at_most

By = Literal["clock", "travel", "load", "depth"]
MOST_AT_PACE = 2000


def at_pace(given: Sequence[float], every: float, until: float) -> tuple[float, ...]:
    """A timetable that goes on at a pace behind its given times, until a call reaches a time.

    Parameters: `given` times, one or more; `every` so many and `until`, all in min.
    Returns: the times. Where `until` lies further away than `MOST_AT_PACE` calls, as a date typed a century ahead puts
    it, those between are passed over: the last one reaches it still.
    Source: arithmetic.

    >>> at_pace((0.0, 1.0, 5.0), 5.0, 14.0), at_pace((0.0,), 1.0, 0.0)
    ((0.0, 1.0, 5.0, 10.0, 15.0), (0.0,))
    >>> far = at_pace((0.0,), 1.0, 90e6)
    >>> len(far), far[-1]
    (2001, 90000000.0)
    """
    many = max(0, math.ceil((until - given[-1]) / every - 1e-9))
    steps = range(1, many + 1) if many <= MOST_AT_PACE else (*range(1, MOST_AT_PACE), many)
    return (*given, *(given[-1] + every * n for n in steps))


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
