"""What falls due over all runs in hand, in the order that hands should take it."""

from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Literal, NamedTuple

from vadum.soil.contract.outcome import Due

SOON = timedelta(minutes=5)


class Moment(NamedTuple):
    """A due thing of one run."""

    run_code: str
    method_title: str
    words: str
    due: Due

    def urgency(self, now: datetime) -> Literal["cannot wait", "hands", "ready", "later"]:
        """A reading with a window near it cannot wait; work in hand comes next; what is ready can wait for both."""
        if self.due.at is None:
            return "hands"
        if self.due.window_s is not None and self.due.at - now <= SOON:
            return "cannot wait"
        return "ready" if self.due.at <= now else "later"

    @property
    def elsewhere(self) -> bool:
        """Whether other hands than the laboratory's take it: those that stand at a load in the field."""
        return self.due.by == "load"

    @property
    def is_patient(self) -> bool:
        """Whether it is a call of the clock that waits until hands are free."""
        return self.due.by == "clock" and self.due.window_s is None

    def rank(self, now: datetime) -> tuple[bool, int, datetime, str]:
        """What to sort by: the hands here before those elsewhere, the class, the earlier, then the run's code."""
        return (self.elsewhere, ORDER.index(self.urgency(now)), self.due.at or now, self.run_code)

    def busy(self, now: datetime) -> tuple[datetime, datetime]:
        """From when to when it takes hands."""
        begin = (self.due.at or now) - timedelta(seconds=self.due.lead_s)
        return begin, begin + timedelta(seconds=self.due.hands_s)


ORDER = ("cannot wait", "hands", "ready", "later")


def in_order(moments: Iterable[Moment], now: datetime) -> list[Moment]:
    """The one to do now first. Within a class: the earlier, then the run's code."""
    return sorted(moments, key=lambda m: m.rank(now))


def clashes(moments: Iterable[Moment], now: datetime) -> list[tuple[Moment, Moment]]:
    """Pairs of timed moments, still ahead, whose hands' times overlap; hands elsewhere are in nobody's way, nor is a
    call of the clock that waits."""
    here = [m for m in moments if m.due.at and m.due.at > now and not (m.elsewhere or m.is_patient)]
    timed = sorted(((*m.busy(now), m) for m in here), key=lambda t: (t[0], t[2].run_code))
    found = []
    for i, (_, end, first) in enumerate(timed):
        for begin, _, second in timed[i + 1 :]:
            if begin >= end:
                break
            if second.run_code != first.run_code:
                found.append((first, second))
    return found
