"""Posting a reading on a run's tape: parsed as typed, with what the kit brings; an impossible figure is questioned."""

import uuid
from collections.abc import Iterator
from datetime import datetime, timedelta, tzinfo
from typing import Any

from sqlmodel import Session

from vadum.soil.contract import paths, questions
from vadum.soil.contract.block import is_block
from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import RecordPart, number, unit_of
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice
from vadum.soil.register import METHODS, method
from vadum.tape import kit
from vadum.tape.dialect import hold_row
from vadum.tape.entries import NewEntry, Taped, append, read_tape
from vadum.tape.fence import BrokenRun, fenced
from vadum.tape.fold import passed
from vadum.tape.runs import FROM_RUN, Opened, Read, Shelf, SlipError, compute, open_tape, value_of
from vadum.tape.tables import Person, Run
from vadum.tape.typed_moments import with_offsets
from vadum.tape.typed_values import parse
from vadum.tape.vessels_elsewhere import held_elsewhere

LONGEST_WAIT = timedelta(days=7)  # a tablet that stayed in the field over a week-end
AHEAD = timedelta(minutes=2)  # as far as a tablet's clock may be off without being asked about


def bring(session: Session, shelf: Shelf, run: Run, by: Person, at: datetime) -> None:
    """Readings that other tests of the sample can fill: the newest reportable value of each, with its run as source."""
    for field, taken in METHODS[run.method].takes.items():
        found = value_of(session, shelf, run.sample_id, taken.method, taken.key)
        if found is None:
            continue
        code, value = found
        for path, brought in {field: plain(value, 6), **taken.also}.items():
            post(session, run, NewEntry(path=path, value=brought, source=f"{FROM_RUN}{code}"), by, at, insist=True)


def _read_at(run: Run, claimed: datetime, now: datetime) -> datetime:
    """When a reading was read by its device's word: not before its run, not after now, and not weeks ago."""
    if claimed > now + AHEAD:
        raise FieldError("read_at", "lies ahead: set this device's clock, or enter the time as a reading")
    if claimed < now - LONGEST_WAIT:
        raise FieldError("read_at", "is more than a week back; enter the time as a reading")
    if claimed < run.started_at - AHEAD:
        raise FieldError("read_at", "is older than the run itself: set this device's clock, or enter it as a reading")
    return min(max(claimed, run.started_at), now)


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
    """Strikes for figures of the former piece of kit that the new piece has no value for: the factor of one proving
    ring must not remain under the number of another."""
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
