"""When what is ready can start: the hands of all that begins with it, beside everything that already takes hands."""

import math
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from functools import lru_cache
from typing import NamedTuple

from vadum.bench.moments import Moment
from vadum.bench.vessels import Group, Vessel
from vadum.soil.contract.called import Called
from vadum.soil.contract.timetable import hands
from vadum.soil.shared.start_times import GRID_S, Block, Plan, clashes_at, merged, next_start_s, stagger


class Proposal(NamedTuple):
    """When something ready can start: at once with what would suffer, and at the next clean moment."""

    id: str
    code: str
    name: str
    start_at: datetime | None
    clean_at: datetime | None
    suffers: tuple[str, ...]
    hands: tuple[Block, ...]


def starts_of(calls: Sequence[Called]) -> tuple[tuple[Called, tuple[Block, ...]], ...]:
    """What of a run can be started by itself, with the hands of all that begins with it.

    What has no start of its own begins with the first that has one.
    """
    own = [c for c in calls if c.begin_field]
    found = []
    for i, one in enumerate(own):
        together = [one, *(c for c in calls if not c.begin_field)] if i == 0 else [one]
        hands_ = [b for c in together for b in (blocks_of(c) if c is one else blocks_of(c)[1:])]
        found.append((one, merged(hands_)))
    return tuple(found)


def base_of(now: datetime) -> datetime:
    """The next whole step of the grid: plans are made from there, so that they do not jitter with the seconds."""
    second = now.replace(microsecond=0)
    past = (second.minute * 60 + second.second) % GRID_S
    return second + timedelta(seconds=(GRID_S - past) % GRID_S)


def busy_of(moments: Iterable[Moment], base: datetime) -> list[Block]:
    """Everything with a window that already takes hands, in seconds from base."""
    blocks = []
    for moment in moments:
        if moment.due.at is None or moment.due.window_s is None or moment.elsewhere:
            continue
        begin, end = moment.busy(base)
        first, last = (begin - base).total_seconds(), (end - base).total_seconds()
        if last > 0:
            blocks.append(Block(math.floor(first), math.ceil(last), f"{moment.due.what} ({moment.run_code})"))
    return blocks


@lru_cache(maxsize=16)
def _planned(patterns: tuple[tuple[Block, ...], ...], busy: tuple[Block, ...], earliest: int) -> Plan:
    """A plan, kept for as long as its grid step stands: several pages ask for the same one."""
    return stagger(patterns, busy, earliest)


def blocks_of(called: Called) -> tuple[Block, ...]:
    """When a timetable takes hands, as the search for start times reads it."""
    return tuple(Block(*one) for one in hands(called))


class Startable(NamedTuple):
    """A vessel that is ready, with the hands of all that begins with it."""

    vessel: Vessel
    hands: tuple[Block, ...]


def startable(groups: Iterable[Group]) -> list[Startable]:
    """Everything that can be started now, group by group."""
    found = []
    for group in groups:
        for code in dict.fromkeys(v.code for v in group.vessels):
            mine = [v for v in group.vessels if v.code == code]
            for one, hands_ in starts_of([v.called for v in mine]):
                vessel = next(v for v in mine if v.called is one)
                if vessel.stage == "ready":
                    found.append(Startable(vessel, hands_))
    return found


def proposals_of(
    ready: Sequence[Startable], busy: Sequence[Block], base: datetime
) -> tuple[tuple[Proposal, ...], bool, float]:
    """Start times of all that is ready together, with the least total delay; and what each would cost at once."""
    if not ready:
        return (), True, 0.0
    patterns = [one.hands for one in ready]
    earliest = max(-p[0].begin_s for p in patterns)
    plan = _planned(tuple(patterns), tuple(busy), earliest)
    found = []
    for i, (vessel, hands_) in enumerate(ready):
        start = base + timedelta(seconds=plan.starts_s[i]) if plan.starts_s else None
        clean = next_start_s(hands_, busy, earliest)
        clashes = clashes_at(earliest, hands_, busy)
        said = dict.fromkeys(f"{c.mine.label} against {c.other.label}" for c in clashes)
        found.append(
            Proposal(
                id=vessel.id,
                code=vessel.code,
                name=vessel.name,
                start_at=start,
                clean_at=None if clean is None else base + timedelta(seconds=clean),
                suffers=tuple(said),
                hands=hands_,
            )
        )
    return tuple(found), plan.proved, (plan.total_delay_s - earliest * len(ready)) / 60
