"""Runs: started, read on, signed, checked, reopened; and a run's outcome, computed from its tape every time."""

import uuid
from collections import OrderedDict
from collections.abc import Iterable, Iterator
from datetime import datetime, timedelta, tzinfo
from functools import partial
from threading import Lock
from typing import Any, NamedTuple

from sqlalchemy import func, select
from sqlmodel import Session, col

from vadum.soil.contract import paths, questions
from vadum.soil.contract.block import is_block
from vadum.soil.contract.errors import FieldError, VadumError
from vadum.soil.contract.fields import RecordPart, number, unit_of
from vadum.soil.contract.method import Method
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Outcome, Verdict, judged
from vadum.soil.contract.school import School
from vadum.soil.register import METHODS, method
from vadum.tape import kit
from vadum.tape.dialect import hold_row, lock_named
from vadum.tape.entries import NewEntry, Taped, TapeError, append, read_tape
from vadum.tape.fence import BrokenRun, apart, fenced
from vadum.tape.fold import Folded, clock_verdicts, collision_verdicts, fold, passed
from vadum.tape.ground import PRACTICE_JOB, Place, place
from vadum.tape.identity import schools_of
from vadum.tape.tables import Person, Run
from vadum.tape.typed_moments import with_offsets
from vadum.tape.typed_values import parse
from vadum.tape.vessels_elsewhere import held_elsewhere, taken_anyway

STATES = ("open", "signed", "checked")
PRACTICE_STATES = ("practice", "revealed")
FROM_RUN = "run: "  # the source of a reading that another run of the sample gave
LONGEST_WAIT = timedelta(days=7)  # a tablet that stayed in the field over a week-end
AHEAD = timedelta(minutes=2)  # as far as a tablet's clock may be off without being asked about


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


def _read_at(run: Run, claimed: datetime, now: datetime) -> datetime:
    """When a reading was read by its device's word: not before its run, not after now, and not weeks ago."""
    if claimed > now + AHEAD:
        raise FieldError("read_at", "lies ahead: set this device's clock, or enter the time as a reading")
    if claimed < now - LONGEST_WAIT:
        raise FieldError("read_at", "is more than a week back; enter the time as a reading")
    if claimed < run.started_at - AHEAD:
        raise FieldError("read_at", "is older than the run itself: set this device's clock, or enter it as a reading")
    return min(max(claimed, run.started_at), now)


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


def bring(session: Session, shelf: Shelf, run: Run, by: Person, at: datetime) -> None:
    """Readings that other tests of the sample can fill: the newest reportable value of each, with its run as source."""
    for field, taken in METHODS[run.method].takes.items():
        found = value_of(session, shelf, run.sample_id, taken.method, taken.key)
        if found is None:
            continue
        code, value = found
        for path, brought in {field: plain(value, 6), **taken.also}.items():
            post(session, run, NewEntry(path=path, value=brought, source=f"{FROM_RUN}{code}"), by, at, insist=True)


def spent(session: Session, run: Run) -> bool:
    """Whether the run's specimen has been in the oven to the end."""
    try:
        return METHODS[run.method].spends(open_tape(run, read_tape(session, run.id or 0)).folded.record)
    except VadumError:
        return False  # a tape that cannot be read says nothing of its soil


def _followers(session: Session, run: Run, before: list[Taped], entry: Taped, at: datetime) -> list[NewEntry]:
    """Readings that the kit brings when a piece of it is named: each is an entry of its own, with its source."""
    places: dict[str, Any] = {entry.path: entry.value}
    if is_block(entry.value):
        return []
    if isinstance(entry.value, dict):
        places = {f"{entry.path}.{field}": value for field, value in entry.value.items()}
    # Most readings name no kit: the tape is folded only for those that do.
    if not any(kit.names_kit(paths.field_name(path)) and isinstance(v, str) for path, v in places.items()):
        return []
    try:
        read = fenced(run, tuple(before), "read", lambda some: open_tape(run, list(some)))
    except BrokenRun:
        return []  # to mend a broken run must stay possible; the kit is named again when it is mended
    followers = []
    for path, value in places.items():
        parsed = paths.parse(path)
        prefix, dot, field = parsed.parent, "." if parsed.parent else "", parsed.name
        if not isinstance(value, str):
            continue
        for name, brought in kit.brought_by(session, field, value, at.date()).items():
            target = f"{prefix}{dot}{name}"
            weighed = f"{prefix}{dot}mass_tin_g"
            if name == "mass_tin_register_g" and weighed not in places and weighed not in read.folded.came_from:
                continue  # the register against itself would be a check that cannot fail
            try:
                parse(read.method.Record, target, brought)
            except FieldError:
                continue  # this method does not ask for it
            # The register's tare stands in for a weighing only where none was made; what another piece brought goes
            # with it when its number is corrected.
            stands = read.folded.came_from.get(target)
            if target not in places and (stands is None or _of_kit(stands, field)):
                strikes = () if stands is None else (uuid.UUID(stands.id),)
                of, why = f"kit: {field} {value}", f"{field} was corrected" if strikes else ""
                followers.append(NewEntry(path=target, value=brought, source=of, strikes=strikes, reason=why))
        followers += _left_behind(read, prefix, field, places, {f.path for f in followers})
    return followers


def _of_kit(entry: Taped, field: str) -> bool:
    """Whether an entry was brought by the piece of kit that a field names."""
    return entry.source.startswith(f"kit: {field} ")


def _left_behind(read: Opened, prefix: str, field: str, places: dict[str, Any], renewed: set[str]) -> list[NewEntry]:
    """What the piece that was named before brought, and this one does not: taken back, so that no factor of one ring
    stands beside the number of another."""
    found = []
    for path, entry in list(read.folded.came_from.items()):
        if not _of_kit(entry, field) or path in renewed or path in places or paths.parse(path).parent != prefix:
            continue
        reason = f"{field} was corrected"
        found.append(NewEntry(path=path, strikes=(uuid.UUID(entry.id),), source=f"kit: {field}", reason=reason))
    return found


def post(
    session: Session,
    run: Run,
    new: NewEntry,
    by: Person,
    at: datetime,
    *,
    insist: bool = False,
    by_hand: bool = False,
    entries: list[Taped] | None = None,
) -> tuple[Taped, bool]:
    """Put a reading on the tape, with what the kit brings; the entry, and whether it is new.

    `by_hand`: a person named the kit, and takes what lies elsewhere with a reason only, insisting or not.
    `entries` may be the tape as read under this session's lock; new entries are added to it.
    Raises FieldError on malformed input, SlipError on a reading that physics forbids unless `insist`.
    """
    if new.path.startswith("@"):
        raise FieldError(new.path, "there is no such field")
    if entries is None:
        hold_row(session, run)  # before its tape is read: what is judged here is what it is added to
        entries = read_tape(session, run.id or 0)
    if any(e.id == str(new.id) for e in entries):
        return append(session, run, new, by.initials, at, entries)
    before = list(entries)
    record = method(run.method).Record
    arrived = at
    new, at = _parsed(run, record, new, entries, at)
    stood_in = _stood_in(entries, new)
    if stood_in is not None:
        new = new.model_copy(update={"strikes": (uuid.UUID(stood_in.id),), "reason": new.reason or READ_INSTEAD})
    entry, fresh = append(session, run, new, by.initials, at, entries, arrived)
    for kept in _checked_against(record, stood_in, entry, entries):
        append(session, run, kept, by.initials, at, entries, arrived)
    # A virtual soil has its own apparatus: the laboratory's kit brings nothing into practice.
    for follower in () if run.state == "practice" else _followers(session, run, before, entry, at):
        append(session, run, follower, by.initials, at, entries, arrived)
    if not insist and new.value is not None:
        if by_hand and stood_in is not None:
            _ask_of_register(stood_in, entry)
        _refuse_slip(run, before, entries, entry, arrived.tzinfo, asks=by_hand and not entry.strikes)
    if run.state != "practice" and (by_hand or not insist) and new.value is not None and not new.strikes:
        held = held_elsewhere(session, run, entry, compute, at)
        if held and not new.reason.strip():
            raise SlipError(*held, asks_why=True)
    return entry, fresh


def _parsed(
    run: Run, record: type[RecordPart], new: NewEntry, entries: list[Taped], at: datetime
) -> tuple[NewEntry, datetime]:
    """The entry as it can be kept, and when it was read; raises FieldError."""
    if run.state == "practice":
        ahead = passed(entries)
        at += ahead
        if new.read_at is not None:
            new = new.model_copy(update={"read_at": new.read_at + ahead})
    if new.read_at is not None:
        at = _read_at(run, new.read_at, at)
    if new.value is not None:
        new = new.model_copy(update={"value": with_offsets(record, new.path, new.value, at)})
        parse(record, new.path, new.value)
    elif not new.strikes:
        raise FieldError(new.path, "has no value")
    return new, at


READ_INSTEAD = "read, in place of the register's figure"


def _stood_in(entries: list[Taped], new: NewEntry) -> Taped | None:
    """The figure of the equipment register that a reading of the same place takes the place of: a hand that types ahead
    of the network may weigh what the register brings meanwhile, and the weighing counts."""
    if new.strikes or new.value is None or new.source.startswith(("kit:", FROM_RUN)) or new.path.endswith("]"):
        return None
    found = next((e for e in reversed(entries) if e.path == new.path and e.value is not None), None)
    if found is None or not found.source.startswith("kit: "):
        return None
    return None if any(found.id in e.strikes for e in entries) else found


def _checked_against(
    record: type[RecordPart], stood_in: Taped | None, entry: Taped, entries: list[Taped]
) -> Iterator[NewEntry]:
    """The register's tare that had stood in for a weighing: from now on the weighing is checked against it."""
    if stood_in is None or paths.field_name(entry.path) != "mass_tin_g":
        return
    target = paths.of(paths.parse(entry.path).parent, "mass_tin_register_g")
    if paths.field_of(record, target) is not None and not any(e.path == target for e in entries):
        yield NewEntry(path=target, value=stood_in.value, source=stood_in.source)


REGISTER_SHARE = 0.05  # a piece weighed or measured anew differs from its register by less; laboratory setting


def _ask_of_register(stood_in: Taped, entry: Taped) -> None:
    """A figure far from what the register holds of the piece is asked about before it is kept."""
    try:
        here, there = number(entry.value), number(stood_in.value)
    except ValueError:
        return
    if abs(here - there) > max(REGISTER_SHARE * abs(there), 0.5):
        unit = unit_of(paths.field_name(entry.path))
        piece = stood_in.source.removeprefix("kit: ")
        found = f"{entry.value} {unit}? The register holds {stood_in.value} {unit} ({piece})"
        raise SlipError(entry.path, found, "Look at the number and the figure again.")


def _ask(before: Read, after: Read, entry: Taped, zone: tzinfo | None) -> None:
    """What speaks against a figure is asked before it is kept: target, twins, the reading before, what follows."""
    at = _moment_of(after, entry).astimezone(zone)
    advice = before.at(at).advice or Advice(headline="")
    expected = (
        *filter(None, (questions.expected_by_advice(advice).get(entry.path),)),
        *questions.expected(before.method, before.facts, before.school, before.folded.record, entry.path),
    )
    question = (
        questions.asked(expected, entry.path, entry.value)
        or questions.too_early(advice, entry.path, at)
        or questions.asked_of_results(before.outcome, after.outcome)
    )
    if question:
        raise SlipError(entry.path, question, "")


def _moment_of(read: Read, entry: Taped) -> datetime:
    """When it happened: the moment that was entered, else when the reading was taken."""
    value = paths.reading_at(read.folded.record, entry.path)
    return value if isinstance(value, datetime) else entry.at


def _refuse_slip(
    run: Run, older: list[Taped], newer: list[Taped], entry: Taped, zone: tzinfo | None, *, asks: bool = False
) -> None:
    """A new stop that points at this entry undoes the whole transaction: nothing is half kept; times as `zone` says."""
    try:
        before, after = (
            fenced(run, tuple(tape), "judged", lambda some: compute(run, list(some))) for tape in (older, newer)
        )
    except BrokenRun:
        return  # the reading is kept; that its run cannot be shown is told by whoever shows it
    stood = {(v.rule, v.found) for v in before.outcome.verdicts if v.level == "stop"}
    for verdict in after.outcome.verdicts:
        points_here = any(paths.inside(path, entry.path) for path in verdict.at)
        if verdict.level == "stop" and (verdict.rule, verdict.found) not in stood and points_here:
            raise SlipError(entry.path, verdict.found, verdict.remedy)
    if asks and not is_block(entry.value) and not isinstance(entry.value, dict):
        _ask(before, after, entry, zone)


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
