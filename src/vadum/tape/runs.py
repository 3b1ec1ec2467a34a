"""Runs: started, read on, signed, checked, reopened; and a run's outcome, computed from its tape every time."""

import uuid
from collections import OrderedDict
from collections.abc import Iterable, Iterator
from datetime import datetime
from functools import partial
from threading import Lock
from typing import Any, NamedTuple

from sqlalchemy import func, select
from sqlmodel import Session, col

from vadum.soil.contract.errors import FieldError, VadumError
from vadum.soil.contract.method import Method
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Outcome, Verdict, judged
from vadum.soil.contract.school import School
from vadum.soil.register import METHODS, method
from vadum.tape.dialect import lock_named
from vadum.tape.entries import NewEntry, Taped, TapeError, append, read_tape
from vadum.tape.fence import BrokenRun, apart, fenced
from vadum.tape.fold import Folded, clock_verdicts, collision_verdicts, fold
from vadum.tape.ground import PRACTICE_JOB, Place, place
from vadum.tape.identity import schools_of
from vadum.tape.tables import Person, Run
from vadum.tape.vessels_elsewhere import taken_anyway

STATES = ("open", "signed", "checked")
PRACTICE_STATES = ("practice", "revealed")
FROM_RUN = "run: "  # the source of a reading that another run of the sample gave


class NotAllowed(VadumError):
    """The person may not do this, or not now."""


class SlipError(VadumError):
    """A reading that physics forbids; kept only when the person insists, or gives the reason that is asked for."""

    def __init__(self, path: str, found: str, remedy: str, *, asks_why: bool = False) -> None:
        self.path, self.found, self.remedy, self.asks_why = path, found, remedy, asks_why
        super().__init__(f"{path}: {found}")


class Read(NamedTuple):
    """A run read from its tape. `outcome` carries no advice yet: advice depends on the moment."""

    run: Run
    method: Method
    school: School
    entries: tuple[Taped, ...]
    folded: Folded
    outcome: Outcome
    facts: Any

    def at(self, now: datetime) -> Outcome:
        """The outcome with its advice at that moment; raises BrokenRun."""
        return fenced(self.run, self.entries, "advised on", lambda entries: self.upto(entries)._advised(now))

    def _advised(self, now: datetime) -> Outcome:
        advice = self.method.advised(self.facts, self.school, self.outcome, now)
        return self.outcome.model_copy(update={"advice": advice})

    def with_uncertainties(self) -> "Read":
        """The run with what every value is uncertain by and what that holds: for paper and files."""
        weighed = self.method.with_uncertainties(self.folded.record, self.school, self.outcome)
        return self._replace(outcome=weighed)

    def upto(self, entries: tuple[Taped, ...]) -> "Read":
        """The run as it stood with these of its entries."""
        return self if entries is self.entries else compute(self.run, list(entries))


class Opened(NamedTuple):
    """A run's tape folded, not yet reduced."""

    method: Method
    school: School
    folded: Folded


def open_tape(run: Run, entries: list[Taped]) -> Opened:
    """The method, school and record that the entries make; raises TapeError on a tape without a beginning."""
    started = next((e for e in entries if e.path == "@started"), None)
    if started is None:
        raise TapeError(f"{run.code} has no beginning on its tape")
    its = method(started.value["method"])
    # The school's settings stand on the tape: a run is recomputed by the rules it was begun with.
    school = type(its.school()).model_validate_json(started.value["school"])
    return Opened(its, school, fold(entries, its.Record))


def compute(run: Run, entries: list[Taped]) -> Read:
    """Fold, reduce and judge: a pure function of the entries."""
    its, school, folded = open_tape(run, entries)
    judgement = its.read(folded.record, school)
    outcome = judgement.outcome
    noticed = (
        *collision_verdicts(folded, partial(its.place_words, record=folded.record)),
        *clock_verdicts(folded),
        *taken_anyway(folded),
    )
    if noticed:
        outcome = judged(outcome.model_copy(update={"verdicts": (*outcome.verdicts, *noticed)}))
    # Nothing to the right of here meets a reading that cannot be.
    folded = folded._replace(record=judgement.record)
    return Read(run, its, school, tuple(entries), folded, outcome, judgement.facts)


class Judged(NamedTuple):
    """A run that can be read, with its outcome and advice at a moment."""

    read: Read
    outcome: Outcome


class Shelf:
    """Runs already read, so that a bench of hundreds is not folded again for every look. Safe to drop at any time.

    A run that cannot be read is kept as such too: its trouble is found once, and told to everyone who looks.
    """

    def __init__(self, most: int = 1500) -> None:
        # With the code and the length that it was read at: the run of a session that has ended must not be asked.
        self._read: OrderedDict[int, tuple[str, int, Read | BrokenRun]] = OrderedDict()
        self._most = most
        self._lock = Lock()

    def read(self, session: Session, run: Run) -> Read:
        """The run as its tape stands; from the shelf when no entry came since. Raises BrokenRun."""
        assert run.id is not None
        with self._lock:
            kept = self._read.get(run.id)
        if kept and kept[:2] == (run.code, run.last_seq):
            return self._in_step(session, self._given(kept[2], run))
        entries = tuple(read_tape(session, run.id))
        fresh: Read | BrokenRun
        try:
            fresh = fenced(run, entries, "judged", lambda some: compute(run, list(some)))
        except BrokenRun as broken:
            fresh = broken
        with self._lock:
            self._read[run.id] = (run.code, run.last_seq, fresh)
            self._read.move_to_end(run.id)
            while len(self._read) > self._most:
                self._read.popitem(last=False)
        return self._in_step(session, self._given(fresh, run))

    def _in_step(self, session: Session, read: Read) -> Read:
        """The run with a remark for each figure that it took from another run and that is another there now."""
        found = tuple(self._moved(session, read))
        if not found:
            return read
        verdicts = (*read.outcome.verdicts, *found)
        return read._replace(outcome=judged(read.outcome.model_copy(update={"verdicts": verdicts})))

    def _moved(self, session: Session, read: Read) -> Iterator[Verdict]:
        for field, taken in read.method.takes.items():
            entry = read.folded.came_from.get(field)
            if entry is None or not entry.source.startswith(FROM_RUN):
                continue
            code = entry.source.removeprefix(FROM_RUN)
            other = find(session, code)
            if other is None or other.id == read.run.id or other.sample_id != read.run.sample_id:
                continue  # of a job that was brought in, the code may be another run's here
            try:
                value = self.read(session, other).outcome.value(taken.key)
            except BrokenRun:
                continue
            now = plain(value.value, 6) if value is not None and value.value is not None else ""
            if now == str(read.folded.typed(field)):
                continue
            title = (read.method.Record.model_fields[field].title or field).lower()
            yield Verdict(
                rule="what was taken from another run still stands there",
                level="watch",
                found=f"{title} {read.folded.typed(field)} taken from {code}, {now or 'withheld'} there now",
                limit="the same",
                source="laboratory setting",
                remedy="Correct it to the newer figure, or say on the sheet why the older one stands.",
                at=(field,),
            )

    @staticmethod
    def _given(kept: Read | BrokenRun, run: Run) -> Read:
        if isinstance(kept, BrokenRun):
            raise kept
        return kept._replace(run=run)

    def judged(self, session: Session, found: Iterable[Run], now: datetime) -> tuple[list[Judged], list[BrokenRun]]:
        """These runs as they stand at now, and apart from them those that are broken: no list of runs stops at one."""

        def judge(run: Run) -> Judged:
            read = self.read(session, run)
            return Judged(read, read.at(now))

        return apart(found, judge)


def start(
    session: Session, place: Place, method_name: str, school_name: str | None, by: Person, at: datetime, **given: str
) -> Run:
    """Begin a run: its number, and the first entry of its tape with the school's settings as they are now.

    `material` is "fresh" or the code of a run whose dried specimen is meant; a spent specimen needs a `reason`.
    """
    its = method(method_name)
    closed = next((r for r in (place.job, place.spot, place.sample) if r.closed_at is not None), None)
    if closed is not None:
        raise NotAllowed(f"{closed.code} is closed: open it again before a run is begun on it")
    school = its.school(school_name or schools_of(session, place.job)[its.name])
    material, reason = given.get("material", "fresh"), given.get("reason", "").strip()
    if material != "fresh":
        origin = session.execute(select(Run).where(col(Run.code) == material)).scalar_one_or_none()
        if origin is None or origin.sample_id != place.sample.id:
            raise FieldError("material", f"{material!r} is no run of this sample")
        if spent(session, origin) and not reason:
            raise FieldError("reason", f"the specimen of {material} is oven-dried and spent; say why it is used again")
    # Practice counts downward, so that no number of a real run is used up by it.
    practising = place.job.code == PRACTICE_JOB
    lock_named(session.connection(), f"number of {its.name}")
    ends = func.min(Run.number) if practising else func.max(Run.number)
    reached = session.execute(select(ends).where(col(Run.method) == its.name)).scalar_one() or 0
    number = min(reached, 0) - 1 if practising else max(reached, 0) + 1
    run = Run(
        code=f"{'PR-' if practising else ''}{its.code}-{abs(number):02d}",
        method=its.name,
        number=number,
        school=school.name,
        sample_id=place.sample.id or 0,
        state="practice" if practising else "open",
        started_at=at,
    )
    session.add(run)
    session.flush()
    event = {
        "method": its.name,
        "version": its.version,
        "school": school.model_dump_json(),
        "material": material,
        "sample": place.words,
        # What the run is and whose soil it is on is bound by its first entry: an index that says otherwise is wrong.
        "code": run.code,
        "sample_id": run.sample_id,
        "sample_code": place.sample.code,
        "spot": place.spot.code,
        "job": place.job.code,
    }
    if practising:
        event["practice_seed"] = given.get("seed", "0")
    new = NewEntry(id=uuid.UUID(given["id"]) if "id" in given else uuid.uuid4(), path="@started", value=event)
    append(session, run, new.model_copy(update={"reason": reason}), by.initials, at)
    for path, value in its.begins_with(school):
        known = uuid.uuid5(new.id, path)
        append(session, run, NewEntry(id=known, path=path, value=value, source="school"), by.initials, at)
    return run


def spent(session: Session, run: Run) -> bool:
    """Whether the run's specimen has been in the oven to the end."""
    try:
        return METHODS[run.method].spends(open_tape(run, read_tape(session, run.id or 0)).folded.record)
    except VadumError:
        return False  # a tape that cannot be read says nothing of its soil


def note_step(
    session: Session, run: Run, key: str, state: str, by: Person, at: datetime, reason: str = "", entry_id: str = ""
) -> None:
    """Tick or skip a step, or tick its cautions; a note on the tape, never a bar."""
    its = METHODS[run.method]
    if key not in {s.key for s in its.steps}:
        raise FieldError("key", f"there is no step {key!r}")
    if state not in ("done", "skipped", "cautions read"):
        raise FieldError("state", "is done, skipped or cautions read")
    path = "@caution" if state == "cautions read" else "@step"
    new = NewEntry(path=path, value={"key": key, "state": state}, reason=reason)
    if entry_id:
        new = new.model_copy(update={"id": uuid.UUID(entry_id)})
    if not run.in_hand:
        raise NotAllowed(f"{run.code} is {run.state}; reopen it with a reason first")
    append(session, run, new, by.initials, at)


def find(session: Session, code: str, *, to_write: bool = False) -> Run | None:
    """The run of that code; `to_write` holds it for this transaction, so that nobody else appends meanwhile."""
    query = select(Run).where(col(Run.code) == code)
    if to_write:
        query = query.with_for_update().execution_options(populate_existing=True)
    return session.execute(query).scalar_one_or_none()


def listed(session: Session, *states: str, page: int = 1, size: int = 50, sample_id: int | None = None) -> list[Run]:
    """Runs in these states, newest first, a page at a time."""
    query = select(Run).where(col(Run.state).in_(states)).order_by(col(Run.started_at).desc(), col(Run.id).desc())
    if sample_id is not None:
        query = query.where(col(Run.sample_id) == sample_id)
    return list(session.execute(query.offset((page - 1) * size).limit(size)).scalars())


def open_of(session: Session, method_names: tuple[str, ...], most: int) -> list[Run]:
    """Open runs of these methods, oldest first."""
    query = select(Run).where(col(Run.state) == "open", col(Run.method).in_(method_names))
    return list(session.execute(query.order_by(col(Run.started_at), col(Run.id)).limit(most)).scalars())


def place_of(session: Session, run: Run) -> Place:
    """Where the run's sample comes from."""
    found = place(session, run.sample_id)
    if found is None:
        raise TapeError(f"{run.code} has no sample")
    return found


def value_of(session: Session, shelf: Shelf, sample_id: int, method_name: str, key: str) -> tuple[str, float] | None:
    """Code and value of the sample's newest reportable value of that name."""
    query = select(Run).where(col(Run.sample_id) == sample_id, col(Run.method) == method_name)
    for run in session.execute(query.order_by(col(Run.id).desc())).scalars():
        try:
            value = shelf.read(session, run).outcome.value(key)
        except BrokenRun:
            continue  # one tape that cannot be read keeps nobody from beginning another
        if value and value.reportable and value.value is not None:
            return run.code, value.value
    return None
