"""From an instrument's samples to readings by the clock: each vessel's own channel, at its interval, in blocks."""

from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import NamedTuple

from vadum.recording.loading import Kept
from vadum.soil.contract.block import Cell, block_of
from vadum.soil.contract.called import Called
from vadum.soil.contract.fields import unit_of
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.times import minutes_between


def followed(calls: Iterable[Called], channels: Iterable[str]) -> tuple[Called, ...]:
    """What of a run an instrument of these channels is sampled for."""
    names = set(channels)
    return tuple(c for c in calls if c.by == "clock" and c.sampled_s > 0 and set(c.channels) & names)


class _Vessel(NamedTuple):
    """One vessel as it is followed: what calls it, its channel, when it was begun in the instrument's seconds, and
    when it was read last."""

    called: Called
    channel: str
    zero_s: float
    last_s: float


class ClockTaker:
    """Goes along with the samples of vessels that drain, each from its own start, and gathers their readings.

    The time of a reading is the instrument's own, counted from where the wall's clock stood at its first sample.
    """

    def __init__(self, calls: tuple[Called, ...], now: datetime) -> None:
        self.began_at = now
        self.first_s: float | None = None
        self._vessels: dict[str, _Vessel] = {}
        self._gathered: dict[str, dict[str, list[Cell]]] = {}
        self.follow(calls)

    def follow(self, calls: tuple[Called, ...]) -> None:
        """What the tape says now: vessels that were begun or are over since."""
        self.calls = calls
        for gone in set(self._vessels) - {c.key for c in calls if not c.over}:
            del self._vessels[gone]

    def hear(self, seconds: float, figures: Mapping[str, float]) -> None:
        """One more sample."""
        if self.first_s is None:
            self.first_s = seconds
        for called in self.calls:
            if called.began_at is None or called.over:
                continue
            # Its own channel before the one that all of them have.
            channel = next((c for c in reversed(tuple(called.channels)) if c in figures), None)
            if channel is None:
                continue
            vessel = self._vessels.get(called.key)
            if vessel is None:
                zero = self.first_s - 60 * minutes_between(called.began_at, self.began_at)
                last = max((60 * t.at for t in called.taken if t.at is not None), default=-called.sampled_s)
                vessel = _Vessel(called, channel, zero, zero + last)
            if seconds - vessel.zero_s < 0 or seconds - vessel.last_s < called.sampled_s - 1e-6:
                self._vessels[called.key] = vessel
                continue
            self._vessels[called.key] = vessel._replace(last_s=seconds)
            self._gather(called, channel, seconds - vessel.zero_s, figures[channel])

    def _gather(self, called: Called, channel: str, since_s: float, figure: float) -> None:
        field = called.channels[channel]
        columns = self._gathered.setdefault(called.key, {called.time_field: [], field: []})
        since = since_s if unit_of(called.time_field) == "s" else since_s / 60
        columns[called.time_field].append(plain(since, 8))
        columns[field].append(plain(figure, 6))

    def gathered(self) -> list[Kept]:
        """What came since it was asked last, a block for each vessel."""
        found = [Kept(f"{key}[]", block_of(columns)) for key, columns in self._gathered.items()]
        self._gathered = {}
        return found
