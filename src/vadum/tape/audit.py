"""Checking: everything that can be found by computing it again from what the database holds."""

import re
import sqlite3
import tempfile
from collections import defaultdict
from collections.abc import Iterator
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Table, inspect, select
from sqlalchemy.exc import DBAPIError
from sqlmodel import Session, col

from vadum.soil.contract.errors import VadumError
from vadum.soil.register import METHODS
from vadum.tape import ledger, photographs
from vadum.tape.codes import whole_number
from vadum.tape.database import Database
from vadum.tape.dialect import storage_faults
from vadum.tape.entries import Taped, broken_link, read_tape, state_told
from vadum.tape.runs import compute
from vadum.tape.seal import Seal
from vadum.tape.signatures import reported, signed_values
from vadum.tape.tables import Entry, ImportedRun, LedgerLine, Run
from vadum.version import program_version

_L: Table = LedgerLine.__table__  # type: ignore[attr-defined]
_E: Table = Entry.__table__  # type: ignore[attr-defined]
# Last change of everything but tapes: (kind, subject) -> digest.
Newest = dict[tuple[str, str], str]
Heads = dict[str, dict[int, str]]


def audit(database: Database, seal: Seal | None = None) -> tuple[int, list[str]]:
    """How many runs were looked at, and every fault found; never raises on what it finds."""
    try:
        return _audited(database, seal)
    except (DBAPIError, sqlite3.DatabaseError) as error:
        return 0, [f"the database cannot be read: {str(getattr(error, 'orig', error))[:200]}"]


def _audited(database: Database, seal: Seal | None) -> tuple[int, list[str]]:
    faults: list[str] = []
    number = 0
    with database.reading() as session:
        connection = session.connection()
        if not inspect(connection).has_table("ledger"):
            return 0, ["it is older than this program: start the program on it once, which takes it into the ledger"]
        faults += storage_faults(connection, _expected_schema)
        newest, heads, broken = _ledger_read(connection, seal)
        faults += broken
        faults += _rows_against(connection, newest)
        entries: dict[str, dict[int, str]] = defaultdict(dict)
        known = set()
        runs = list(session.execute(select(Run).order_by(col(Run.id))).scalars())
        imported = {one.run_id: one for one in session.execute(select(ImportedRun)).scalars()}
        for run in runs:
            tape = _tape_or_fault(session, run, faults)
            known.add(str(run.id))
            for entry in tape:
                entries[str(run.id)][entry.seq] = entry.hash
            faults += _tape_against(run, tape, heads.get(str(run.id), {}))
            faults += faults_of(run, tape, imported.get(run.id or 0))
            faults += photographs.faults(session, run, tape)
            number += 1
        for run_id in sorted(set(heads) - known, key=int):
            faults.append(f"run {run_id}: the ledger knows {len(heads[run_id])} entries of it, and it is gone")
        faults += [f"entries of a run {lost} that does not exist" for lost in _orphans(connection, known)]
    return number, faults


@cache
def _expected_schema() -> tuple[tuple[str, str, str, str], ...]:
    """Tables, indices and triggers as this program makes them in an empty SQLite file."""
    from vadum.tape.dialect import schema_of

    with tempfile.TemporaryDirectory() as folder:
        fresh = Database(f"sqlite:///{Path(folder) / 'fresh.db'}")
        fresh.migrate()
        with fresh.engine.connect() as connection:
            found = tuple(schema_of(connection))
        fresh.close()
    return found


def _tape_or_fault(session: Session, run: Run, faults: list[str]) -> list[Taped]:
    try:
        return read_tape(session, run.id or 0)
    except (ValueError, TypeError, LookupError) as error:
        faults.append(f"{run.code}: an entry of its tape cannot be read: {type(error).__name__}")
        return []


def _ledger_read(connection: Connection, seal: Seal | None) -> tuple[Newest, Heads, list[str]]:
    newest: Newest = {}
    heads: Heads = defaultdict(dict)
    faults: list[str] = []
    previous, place = ledger.GENESIS, 0
    sealed = None
    for line in connection.execute(select(_L).order_by(_L.c.seq)).mappings():
        place += 1
        if line["seq"] != place:
            faults.append(f"the ledger: line {place} is missing (found {line['seq']})")
            place = line["seq"]
        elif line["previous_hash"] != previous:
            faults.append(f"the ledger: line {place} does not follow the one before it")
        if ledger.line_hash(line) != line["hash"]:
            faults.append(f"the ledger: line {place} ({line['kind']} {line['subject']}) was changed")
        previous = line["hash"]
        if seal and line["seq"] == seal.seq:
            sealed = line["hash"]
        if line["kind"] == "entry":
            run_id, _, seq = line["subject"].partition("/")
            place_on_tape = whole_number(seq)
            if run_id.isdigit() and place_on_tape is not None:
                heads[run_id][place_on_tape] = line["digest"]
        else:
            newest[line["kind"], line["subject"]] = line["digest"]
        if len(faults) > 50:
            break
    if seal and sealed is None:
        faults.append(
            f"the seal: it was made at ledger line {seal.seq}, and this ledger ends at {place}: an older copy"
        )
    elif seal and sealed != seal.hash:
        faults.append(f"the seal: ledger line {seal.seq} is another than when it was sealed: the history was rewritten")
    return newest, heads, faults


def _rows_against(connection: Connection, newest: Newest) -> Iterator[str]:
    """Rows that are not as the ledger last noted them."""
    for model in ledger.WHOLE:
        table: Table = model.__table__  # type: ignore[attr-defined]
        here = set()
        query = select(*ledger.columns_of(table)).order_by(*table.primary_key)
        for row in connection.execute(query).mappings():
            subject = ledger.subject_of(table, row)
            here.add(subject)
            noted = newest.get((table.name, subject))
            words = _row_words(table, row)
            try:
                now = ledger.digest_of(table, row)
            except (ValueError, TypeError):
                now = ""
            if noted is None or noted == ledger.DELETED:
                yield f"{words}: the ledger does not know it"
            elif noted != now:
                yield f"{words}: was changed behind the program's back"
        for kind, subject in newest:
            if kind == table.name and subject not in here and newest[kind, subject] != ledger.DELETED:
                yield f"{kind} {subject}: the ledger knows it, and it is gone"


def _row_words(table: Table, row: Any) -> str:
    name = next((str(row[c]) for c in ("login", "code", "key", "kind") if c in row), "")
    return f"{table.name} {ledger.subject_of(table, row)}" + (f" ({name})" if name else "")


def _tape_against(run: Run, tape: list[Taped], noted: dict[int, str]) -> Iterator[str]:
    """A run's tape beside what the ledger noted of it."""
    here = {entry.seq: entry.hash for entry in tape}
    lost = sorted(set(noted) - set(here))
    if lost:
        yield f"{run.code}: {len(lost)} entries that the ledger knows are gone (the first is {lost[0]})"
    unknown = sorted(set(here) - set(noted))
    if unknown:
        yield f"{run.code}: the ledger does not know entry {unknown[0]}"
    other = sorted(seq for seq in set(here) & set(noted) if here[seq] != noted[seq])
    if other:
        yield f"{run.code}: entry {other[0]} is another than the ledger noted: the tape was exchanged or re-chained"


def _orphans(connection: Connection, known: set[str]) -> list[int]:
    found = connection.execute(select(_E.c.run_id).distinct()).scalars()
    return sorted(run_id for run_id in found if str(run_id) not in known)


def faults_of(run: Run, entries: list[Taped], origin: ImportedRun | None = None) -> Iterator[str]:
    """What does not hold within one run: its chain, its index, its beginning, its signatures, its signed values.

    `origin` is what its tape is bound to where another laboratory's program began it.
    """
    broken = broken_link(entries)
    if broken:
        yield f"{run.code}: {broken}"
        return
    if not entries:
        yield f"{run.code}: its tape is empty"
        return
    if entries[-1].seq != run.last_seq:
        yield f"{run.code}: the tape ends at {entries[-1].seq}, the index says {run.last_seq}"
    yield from _beginning(run, entries[0], origin)
    state = state_told(entries)
    if state != run.state:
        yield f"{run.code}: its tape says {state}, the index says {run.state}"
    for place, entry in enumerate(entries):
        if entry.path in ("@signed", "@checked"):
            yield from _signature(run, entries, place)


def _beginning(run: Run, first: Taped, origin: ImportedRun | None = None) -> Iterator[str]:
    if first.path != "@started" or not isinstance(first.value, dict):
        yield f"{run.code}: its tape has no beginning"
        return
    code, sample_id = (run.code, run.sample_id) if origin is None else (origin.code, origin.sample_id)
    bound = {"method": run.method, "code": code, "sample_id": sample_id}
    for key, indexed in bound.items():
        if key in first.value and first.value[key] != indexed:
            yield f"{run.code}: begun with {key.replace('_', ' ')} {first.value[key]!r}, the index says {indexed!r}"
    if run.method not in METHODS:
        yield f"{run.code}: there is no method {run.method!r}"
    elif f'"name":"{run.school}"' not in str(first.value.get("school", "")):
        yield f"{run.code}: begun by another school than the index says ({run.school})"


def _signature(run: Run, entries: list[Taped], place: int) -> Iterator[str]:
    entry = entries[place]
    word = entry.path.removeprefix("@")
    before = entries[place - 1] if place else None
    if before is None or not isinstance(entry.value, dict) or entry.value.get("tape") != before.hash:
        yield f"{run.code}: {word} by {entry.by} for another tape than stands before it"
    if entry.path == "@checked":
        signed = next((e for e in reversed(entries[:place]) if e.path == "@signed"), None)
        if signed is None or signed.by == entry.by:
            yield f"{run.code}: checked by {entry.by} without another's signature"
        return
    try:
        now = reported(compute(run, entries[:place]))
        values = signed_values(entry)
    except Exception as error:  # whatever a tape does to its own reduction is told, and the rest is looked at
        detail = str(error) if isinstance(error, VadumError) else type(error).__name__
        yield f"{run.code}: cannot be recomputed: {detail}"
        return
    for key, value in values.items():
        former = entry.value.get("program") != program_version()
        if value != now.get(key) and not (former and _only_reworded(value, now.get(key))):
            yield f"{run.code}: {key} was signed as {value}, computes to {now.get(key)}"


_FIGURE = re.compile(r"\d+(?:\.\d+)?")
_SENTENCE = re.compile(r"[a-z]+ [a-z]+ [a-z]+", re.IGNORECASE)  # a class or a choice is a word or two


def _only_reworded(signed: str, now: str | None) -> bool:
    """Whether a sentence that another version of this program signed differs in its wording alone: every figure of
    the new wording was signed. Figures and classes are never reworded."""
    if now is None or not (_SENTENCE.search(signed) and _SENTENCE.search(now)):
        return False
    return "not reported" not in (signed, now) and set(_FIGURE.findall(now)) <= set(_FIGURE.findall(signed))


def sealed(database: Database, at: datetime) -> Seal:
    """The ledger's head now, to be kept elsewhere."""
    with database.reading() as session:
        return Seal(*ledger.head(session.connection()), at.isoformat(timespec="seconds"))
