"""The bench: all runs in hand, what now, what after, what waits in the heat."""

import heapq
from collections.abc import Callable, Iterable
from datetime import datetime, timedelta
from threading import Lock
from typing import Any, NamedTuple, TypeVar, cast

from sqlalchemy import select
from sqlmodel import Session, col

from vadum.bench.moments import Moment, clashes, in_order
from vadum.bench.river import ZOOMS, Flow, River, river
from vadum.soil.contract.outcome import Due
from vadum.soil.contract.times import local
from vadum.soil.register import METHODS
from vadum.tape.entries import Taped
from vadum.tape.fence import BrokenRun
from vadum.tape.ground import place_words
from vadum.tape.runs import Read, Shelf
from vadum.tape.tables import Run, Sample, Spot

LATE_LOOK = timedelta(seconds=30)
BROKEN = "broken"
Made = TypeVar("Made")


class Bench(NamedTuple):
    """Everything the start page shows."""

    now: Moment | None
    after: tuple[Moment, ...]
    waiting: tuple[Moment, ...]
    river: River
    clash_codes: frozenset[str]
    in_hand: int
    broken: tuple[Moment, ...]


class InHand(NamedTuple):
    """An open run, by the columns the bench needs: whole objects would cost more than all the rest."""

    id: int
    code: str
    method: str
    last_seq: int
    started_at: datetime
    words: str


_IN_HAND: Any = (
    select(
        col(Run.id),
        col(Run.code),
        col(Run.method),
        col(Run.last_seq),
        col(Run.started_at),
        col(Spot.code).label("spot"),
        col(Sample.depth_top_m),
        col(Sample.code).label("sample"),
    )
    .join(Sample, col(Run.sample_id) == col(Sample.id))
    .join(Spot, col(Sample.spot_id) == col(Spot.id))
    .where(col(Run.state) == "open")
)


class Foreman:
    """Knows each run's due moments; asks a run's method again only when its tape or its time has moved on."""

    def __init__(self, shelf: Shelf) -> None:
        self.shelf = shelf
        self._dues: dict[int, tuple[int, datetime, datetime | None, tuple[Due, ...]]] = {}
        self._made: dict[int, tuple[InHand, tuple[Due, ...], Any]] = {}
        self._lock = Lock()

    def read(self, session: Session, run_id: int) -> Read:
        """The open run of that id; raises BrokenRun."""
        run = session.get(Run, run_id)
        assert run is not None
        return self.shelf.read(session, run)

    def dues(self, session: Session, run: InHand, now: datetime) -> tuple[Due, ...]:
        """The run's due moments at now."""
        kept = self._dues.get(run.id)
        if kept and kept[0] == run.last_seq and kept[1] <= now and (kept[2] is None or now < kept[2]):
            return kept[3]
        try:
            advice = self.read(session, run.id).at(now).advice
            dues = advice.due if advice else ()
        except BrokenRun as broken:
            # One run that is broken must not take the bench from everyone: it is told, and the rest goes on.
            what = f"{run.code} cannot be {broken.doing}: strike what is wrong"
            dues = (Due(what=what, kind="hands", detail=str(broken), label=BROKEN),)
        turning = [d.at for d in dues if d.at and d.at > now]
        if any(d.at and d.at <= now and d.window_s is not None for d in dues):
            turning.append(now + LATE_LOOK)  # how late it is, and whether it is given up, changes by the minute
        with self._lock:
            self._dues[run.id] = (run.last_seq, now, min(turning) if turning else None, dues)
        return dues

    def kept(self, run: InHand, dues: tuple[Due, ...], make: Callable[[], Made]) -> Made:
        """What was made of a run and of these very dues, made once: at ten thousand runs the shelf cannot hold them
        all, and each would be folded again for a page that shows one line of it."""
        kept = self._made.get(run.id)
        if kept is not None and kept[0] == run and kept[1] is dues:
            return cast(Made, kept[2])
        made = make()
        with self._lock:
            self._made[run.id] = (run, dues, made)
        return made

    def _touched(self, session: Session, run: InHand, now: datetime) -> tuple[datetime, ...]:
        """When the run was read or worked on; of a tape that cannot be read, its bare entries."""
        try:
            entries: Iterable[Taped] = self.read(session, run.id).entries
        except BrokenRun as broken:
            entries = broken.entries
        return tuple(local(e.at, now) for e in entries if e.value is not None)

    def in_hand(self, session: Session, now: datetime) -> list[tuple[InHand, list[Moment]]]:
        """Every open run with its moments."""
        found = []
        for r in session.connection().execute(_IN_HAND):
            run = InHand(r[0], r[1], r[2], r[3], r[4], place_words(r[5], r[6], r[7]))
            title = METHODS[run.method].title
            found.append((run, [Moment(run.code, title, run.words, due) for due in self.dues(session, run, now)]))
        return found

    def next_of(self, session: Session, run: Run, now: datetime) -> str:
        """What an open run asks for next, in a few words; empty where nothing does."""
        row = session.connection().execute(_IN_HAND.where(col(Run.id) == run.id)).first()
        if row is None:
            return ""
        dues = self.dues(
            session, InHand(row[0], row[1], row[2], row[3], row[4], place_words(row[5], row[6], row[7])), now
        )
        moments = [Moment(run.code, "", "", due) for due in dues]
        first = min(moments, key=lambda m: m.rank(now), default=None)
        return first.due.what if first else ""

    def broken(self, session: Session, now: datetime) -> set[str]:
        """Codes of the open runs that are broken."""
        return {m.run_code for _, found in self.in_hand(session, now) for m in found if m.due.label == BROKEN}

    def next_elsewhere(self, session: Session, now: datetime, code: str) -> Moment | None:
        """The most urgent moment of any other run."""
        moments = [m for run, found in self.in_hand(session, now) if run.code != code for m in found]
        return min(moments, key=lambda m: m.rank(now), default=None)

    def bench(self, session: Session, now: datetime, zoom: str, most_lanes: int = 6) -> Bench:
        """The bench as it stands."""
        runs = self.in_hand(session, now)
        moments = [m for _, found in runs for m in found]
        ordered = in_order(moments, now)
        clashing = clashes(moments, now)
        marks = {f"{m.run_code}{(m.due.at or now).isoformat()}" for pair in clashing for m in pair}
        rank = {m.run_code: i for i, m in reversed(list(enumerate(ordered)))}
        until = now + ZOOMS[zoom][1]

        def lane(pair: tuple[InHand, list[Moment]]) -> tuple[bool, bool, datetime, int]:
            """Runs with a moment ahead in the picture come first, by its time; then those that wait for free hands;
            what hands elsewhere take comes behind."""
            ahead = [m.busy(now)[0] for m in pair[1] if m.due.at and m.due.at > now and m.busy(now)[0] < until]
            soon = [m.due.at for m in pair[1] if m.due.at and m.due.window_s is not None and m.due.at <= now]
            first = min([*ahead, *soon], default=None)
            return all(m.elsewhere for m in pair[1]), first is None, first or now, rank[pair[0].code]

        shown = heapq.nsmallest(most_lanes, (pair for pair in runs if pair[1]), key=lane)
        in_river = sum(1 for pair in runs if pair[1])
        flows = []
        for run, found in shown:
            touched = self._touched(session, run, now)
            title = METHODS[run.method].title
            flows.append(Flow(run.code, title, run.words, run.started_at, touched, tuple(found)))
        drawn = river(flows, now, zoom, marks, most_lanes)._replace(hidden=max(0, in_river - most_lanes))
        waiting = sorted((m for m in moments if m.due.kind == "wait" and m.due.since), key=lambda m: m.due.at or now)
        return Bench(
            ordered[0] if ordered else None,
            tuple(ordered[1:6]),
            tuple(waiting[:40]),
            drawn,
            frozenset(m.run_code for pair in clashing for m in pair),
            len(runs),
            tuple(m for m in moments if m.due.label == BROKEN),
        )
