"""The ledger: one append-only chain over the whole database, with a line for each entry of a tape and for each change
of people, ground, kit, runs, traces and settings. What one table hides, the ledger still says.

Lines are gathered while a transaction works and written at its end, so that the ledger's own lock is the last one
taken: every writer takes the locks in one order, its run's first, and no two can wait for each other.
"""

import hashlib
import json
from collections.abc import Iterable, Mapping
from datetime import UTC, date, datetime
from typing import Any, NamedTuple

from sqlalchemy import (
    Boolean,
    Column,
    Connection,
    Date,
    DateTime,
    Float,
    Integer,
    Table,
    event,
    func,
    insert,
    inspect,
    select,
)
from sqlmodel import Session, SQLModel

from vadum.tape.dialect import Prepared, lock_ledger, stored
from vadum.tape.tables import (
    ImportedRun,
    Job,
    JobSchool,
    KitEvent,
    KitFile,
    KitItem,
    LaboratoryMark,
    LaboratorySetting,
    LedgerLine,
    Owed,
    Person,
    PersonSetting,
    Photograph,
    Run,
    Sample,
    Specimen,
    SpecimenPhotograph,
    SpecimenUse,
    Spot,
    Trace,
)

GENESIS = "0" * 64
DELETED = "deleted"
WHOLE: tuple[type[SQLModel], ...] = (
    Person,
    Job,
    Spot,
    Sample,
    Owed,
    Run,
    KitItem,
    KitEvent,
    Trace,
    LaboratorySetting,
    Photograph,
    Specimen,
    SpecimenUse,
    SpecimenPhotograph,
    JobSchool,
    KitFile,
    LaboratoryMark,
    PersonSetting,
    ImportedRun,
)
# Of a run its identity alone: state and last entry are an index of its tape, and compared with that.
IDENTITY = {"run": ("id", "code", "method", "number", "school", "sample_id", "started_at")}
PENDING = "ledger"
_as_json = json.JSONEncoder(sort_keys=True, ensure_ascii=False).encode
_L: Table = LedgerLine.__table__  # type: ignore[attr-defined]
_NEWEST = Prepared(select(_L.c.seq, _L.c.hash).where(_L.c.seq == select(func.max(_L.c.seq)).scalar_subquery()))
_WRITE = Prepared(insert(_L), *(c.name for c in _L.c))


class Noted(NamedTuple):
    """What a line will say; its place in the chain is found when it is written."""

    kind: str
    subject: str
    digest: str
    by: str
    words: str = ""


class Head(NamedTuple):
    """The ledger's last line."""

    seq: int
    hash: str

    @property
    def words(self) -> str:
        """As it is printed: its number, and enough of its hash to know it by."""
        return f"{self.seq} · {self.hash[:16]}"


def _moment(at: datetime) -> str:
    return at.astimezone(UTC).isoformat(timespec="microseconds")


def _sha256(content: Mapping[str, Any]) -> str:
    """SHA-256 over canonical JSON."""
    return hashlib.sha256(_as_json(content).encode()).hexdigest()


def _plain(column: "Column[Any]", value: Any) -> Any:
    """A value as every database hands it back."""
    if value is None:
        return None
    kind = column.type
    if isinstance(value, datetime) or isinstance(getattr(kind, "impl", kind), DateTime):
        return _moment(value)
    if isinstance(kind, Date) or isinstance(value, date):
        return value.isoformat()
    if isinstance(kind, Boolean):
        return bool(value)
    if isinstance(kind, Float):
        return float(value)
    return int(value) if isinstance(kind, Integer) else str(value)


def columns_of(table: Table) -> list["Column[Any]"]:
    """The columns of a table that its digest holds."""
    names = IDENTITY.get(table.name)
    return [c for c in table.c if names is None or c.name in names]


def digest_of(table: Table, row: Any) -> str:
    """SHA-256 over a row's canonical JSON, the same on every database."""
    return _sha256({c.name: _plain(c, row[c.name]) for c in columns_of(table) if c.name in row})


def subject_of(table: Table, row: Any) -> str:
    """A row's own name in the ledger, by its key."""
    return str(row[next(iter(table.primary_key)).name])


def line_hash(line: Any) -> str:
    """SHA-256 over a line's canonical JSON and the hash before it."""
    content = {name: value for name, value in line.items() if name != "hash"}
    return _sha256(content | {"at": _moment(line["at"])})


def begin(connection: Connection, by: str = "") -> None:
    """A transaction begins: nothing is noted yet; `by` answers for what the rows themselves do not say."""
    connection.info[PENDING] = []
    connection.info["by"] = by


def note(connection: Connection, kind: str, subject: str, digest: str, by: str, words: str = "") -> None:
    """To be written into the ledger with this transaction."""
    connection.info.setdefault(PENDING, []).append(Noted(kind, subject, digest, by, words[:200]))


def write(connection: Connection, at: datetime) -> None:
    """Write what this transaction noted, at the ledger's end."""
    pending: list[Noted] = connection.info.get(PENDING, [])
    if not pending:
        return
    lock_ledger(connection)
    seq, previous = head(connection)
    lines = []
    utc = at.astimezone(UTC)
    written, kept = _moment(utc), stored(connection, utc)
    for one in pending:
        seq += 1
        line: dict[str, Any] = {
            "seq": seq,
            "at": written,
            "by": one.by,
            "kind": one.kind,
            "subject": one.subject,
            "digest": one.digest,
            "words": one.words,
            "previous_hash": previous,
        }
        previous = _sha256(line)
        line["at"], line["hash"] = kept, previous
        lines.append(line)
    _WRITE.run_many(connection, lines)
    connection.info[PENDING] = []


def head(connection: Connection) -> Head:
    """The ledger's last line; 0 and zeros where there is none yet."""
    last = _NEWEST.run(connection, {}).fetchone()
    return Head(last[0], last[1]) if last else Head(0, GENESIS)


READINGS = ("entry", "trace", "run", "photograph")


def only_readings_since(connection: Connection, seq: int) -> bool:
    """Whether nothing but what belongs to a run was written after a line: people, ground and kit are as they were."""
    query = select(_L.c.seq).where(_L.c.seq > seq, _L.c.kind.not_in(READINGS)).limit(1)
    return connection.execute(query).first() is None


def adopt(
    connection: Connection, tables: Iterable[Table], at: datetime, by: str, words: str = "stood before the ledger"
) -> None:
    """Note every row that stands already: for a database that is older than its ledger, and than some of its tables
    and columns. A later migration that adds a column to a table notes its rows again."""
    known = inspect(connection)
    there = set(known.get_table_names())
    for table in (t for t in tables if t.name in there):
        named = {column["name"] for column in known.get_columns(table.name)}
        columns = [c for c in columns_of(table) if c.name in named]
        for row in connection.execute(select(*columns).order_by(*table.primary_key)).mappings():
            note(connection, table.name, subject_of(table, row), digest_of(table, row), by, words)
    write(connection, at)


def _words(row: Any) -> str:
    """Which columns of a row were changed: a pass-phrase by its name alone."""
    state = inspect(row)
    changed = [a.key for a in state.attrs if a.history.has_changes()]
    return words_of_change(changed)


def words_of_change(names: Iterable[str]) -> str:
    """Which columns of a row were changed, as the ledger says it."""
    return "changed " + ", ".join(name.replace("_", " ") for name in names)


@event.listens_for(Session, "after_flush")
def _note_rows(session: Session, _context: Any) -> None:
    """Whatever a session writes is noted: no door has to remember it."""
    connection = session.connection()
    by = connection.info.get("by", "")
    # Each of these is asked for once: a session makes the set anew every time.
    for how, rows in (("made", session.new), ("changed", session.dirty), ("deleted", session.deleted)):
        for row in rows:
            if not isinstance(row, WHOLE):
                continue
            table: Table = row.__table__  # type: ignore[attr-defined]
            content = {c.name: getattr(row, c.name) for c in columns_of(table)}
            if how == "deleted":
                note(connection, table.name, subject_of(table, content), DELETED, by, "deleted")
                continue
            if how == "changed" and not _changed(row, content):
                continue
            words = "" if how == "made" else _words(row)
            note(connection, table.name, subject_of(table, content), digest_of(table, content), by, words)


def _changed(row: Any, content: Mapping[str, Any]) -> bool:
    attributes = inspect(row).attrs
    return any(attributes[name].history.has_changes() for name in content)
