"""The bench: all runs in hand, what now, what after, what waits in the heat."""

from datetime import datetime
from threading import Lock
from typing import NamedTuple

from sqlalchemy import select
from sqlmodel import Session, col

from vadum.bench.moments import Moment, clashes, in_order
from vadum.bench.river import Flow, River, river
from vadum.soil.outcome import Due
from vadum.soil.register import METHODS
from vadum.tape.ground import Place
from vadum.tape.runs import Shelf
from vadum.tape.tables import Job, Run, Sample, Spot


class Bench(NamedTuple):
    """Everything the start page shows."""

    now: Moment | None
    after: tuple[Moment, ...]
    waiting: tuple[Moment, ...]
    river: River
    clash_codes: frozenset[str]
    in_hand: int


class Foreman:
    """Knows each run's due moments; asks a run's method again only when its tape or its time has moved on."""

    def __init__(self, shelf: Shelf) -> None:
        self.shelf = shelf
        self._dues: dict[int, tuple[int, datetime, datetime | None, tuple[Due, ...]]] = {}
        self._lock = Lock()

    def dues(self, session: Session, run: Run, now: datetime) -> tuple[Due, ...]:
        """The run's due moments at now."""
        key = run.id or 0
        kept = self._dues.get(key)
        if kept and kept[0] == run.last_seq and kept[1] <= now and (kept[2] is None or now < kept[2]):
            return kept[3]
        advice = self.shelf.read(session, run).at(now).advice
        dues = advice.due if advice else ()
        turning = [d.at for d in dues if d.at and d.at > now]
        with self._lock:
            self._dues[key] = (run.last_seq, now, min(turning) if turning else None, dues)
        return dues

    def bench(self, session: Session, now: datetime, zoom: str, most_lanes: int = 6) -> Bench:
        """The bench as it stands."""
        query = (
            select(Run, Sample, Spot, Job)
            .join(Sample, col(Run.sample_id) == col(Sample.id))
            .join(Spot, col(Sample.spot_id) == col(Spot.id))
            .join(Job, col(Spot.job_id) == col(Job.id))
            .where(col(Run.state) == "open")
        )
        runs: list[tuple[Run, Place]] = [(r[0], Place(r[1], r[2], r[3])) for r in session.execute(query)]
        moments: list[Moment] = []
        by_run: dict[str, list[Moment]] = {}
        for run, place in runs:
            its = METHODS[run.method]
            found = [Moment(run.code, its.title, place.words, due) for due in self.dues(session, run, now)]
            moments += found
            by_run[run.code] = found
        ordered = in_order(moments, now)
        clashing = clashes(moments, now)
        marks = {f"{m.run_code}{(m.due.at or now).isoformat()}" for pair in clashing for m in pair}
        rank = {m.run_code: i for i, m in reversed(list(enumerate(ordered)))}
        shown = sorted((r for r in runs if by_run[r[0].code]), key=lambda r: rank.get(r[0].code, len(rank)))
        flows = []
        for run, place in shown[:most_lanes]:
            read = self.shelf.read(session, run)
            touched = tuple(e.at.astimezone(now.tzinfo) for e in read.entries if e.value is not None)
            flows.append(
                Flow(run.code, read.method.title, place.words, run.started_at, touched, tuple(by_run[run.code]))
            )
        drawn = river(flows, now, zoom, marks, most_lanes)._replace(hidden=max(0, len(shown) - most_lanes))
        waiting = sorted((m for m in moments if m.due.kind == "wait" and m.due.since), key=lambda m: m.due.at or now)
        return Bench(
            ordered[0] if ordered else None,
            tuple(ordered[1:6]),
            tuple(waiting[:40]),
            drawn,
            frozenset(m.run_code for pair in clashing for m in pair),
            len(runs),
        )
