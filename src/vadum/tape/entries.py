"""Entries: how a new one is parsed at the door, hashed, chained and written."""

import hashlib
import json
import re
import uuid
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy import Connection, bindparam, func, insert, select, update
from sqlalchemy.orm.attributes import set_committed_value
from sqlmodel import Session

from vadum.soil.errors import FieldError, VadumError
from vadum.soil.readings import Moment, Part
from vadum.tape.dialect import Prepared, stored
from vadum.tape.tables import IN_HAND, Entry, Run

GENESIS = "0" * 64
EVENTS = (
    "@started",
    "@step",
    "@caution",
    "@signed",
    "@checked",
    "@reopened",
    "@instrument",
    "@revealed",
    "@passed",
)
_PATH = re.compile(r"(?P<name>[a-z][a-z0-9_]*)(\[(?P<index>\d{0,4})\](\.(?P<field>[a-z][a-z0-9_]*))?)?")
MOST_ROWS = 2000


_E = Entry.__table__  # type: ignore[attr-defined]
_R = Run.__table__  # type: ignore[attr-defined]
# Made once: building and caching a statement costs more than running it.
_STANDS = select(_E).where(_E.c.id == bindparam("known"))
_KNOWN = Prepared(select(_E.c.seq).where(_E.c.id == bindparam("known")))
_NEWEST = select(func.max(_E.c.seq)).where(_E.c.run_id == bindparam("run")).scalar_subquery()
_LAST = Prepared(select(_E.c.seq, _E.c.hash).where(_E.c.run_id == bindparam("run"), _E.c.seq == _NEWEST))
_STATE = Prepared(select(_R.c.state, _R.c.code).where(_R.c.id == bindparam("run")))
_WRITE = Prepared(insert(_E), *(c.name for c in _E.c))
_TOUCH = Prepared(update(_R).where(_R.c.id == bindparam("run")).values(last_seq=bindparam("seq")))
_TAPE = select(_E).where(_E.c.run_id == bindparam("run"), _E.c.seq > bindparam("after")).order_by(_E.c.seq)


class TapeError(VadumError):
    """The tape refuses, or does not hold together."""


class RunClosed(TapeError):
    """The run is signed; it must be reopened with a reason first."""


class StrikeError(TapeError):
    """A strike that names nothing strikable, or has no reason."""

    def __init__(self, field: str, problem: str) -> None:
        self.field, self.problem = field, problem
        super().__init__(f"{field}: {problem}")


class NewEntry(BaseModel):
    """An entry as its sender makes it. The digits stay as typed."""

    model_config = ConfigDict(extra="forbid")
    id: uuid.UUID = Field(default_factory=uuid.uuid4)
    path: str = Field(min_length=1, max_length=120)
    value: str | int | float | bool | dict[str, str | int | float | bool | None] | None = None
    strikes: tuple[uuid.UUID, ...] = Field((), max_length=50)
    reason: str = Field("", max_length=400)
    source: str = Field("hand", max_length=60)
    read_at: Moment | None = None  # when it was read, for an entry that waited to be sent


class Taped(BaseModel):
    """An entry as it stands on the tape."""

    model_config = ConfigDict(frozen=True)
    id: str
    run_id: int
    seq: int
    at: datetime
    by: str
    source: str
    path: str
    value: Any
    strikes: tuple[str, ...]
    reason: str
    previous_hash: str
    hash: str


def hash_of(entry: Taped) -> str:
    """SHA-256 over the entry's canonical JSON and the hash before it."""
    return _digest(entry.__dict__)


def _digest(fields: Mapping[str, Any]) -> str:
    content = {name: value for name, value in fields.items() if name not in ("hash", "run_id")}
    content["at"] = fields["at"].astimezone(UTC).isoformat(timespec="microseconds")
    return hashlib.sha256(
        json.dumps(content, sort_keys=True, ensure_ascii=False, separators=(",", ":")).encode()
    ).hexdigest()


def read_tape(session: Session, run_id: int, after: int = 0) -> list[Taped]:
    """The run's entries in their order; by columns, which is four times as fast as by rows of objects."""
    return _read(session.connection(), run_id, after)


def _read(connection: Connection, run_id: int, after: int) -> list[Taped]:
    return [_taped(row) for row in connection.execute(_TAPE, {"run": run_id, "after": after}).mappings()]


def _taped(row: Any) -> Taped:
    """The entry of a row; built without validation, which its writing had."""
    return Taped.model_construct(
        **{**row, "value": json.loads(row["value"]), "strikes": tuple(json.loads(row["strikes"]))}
    )


def _message(error: ValidationError) -> str:
    first = error.errors()[0]
    text = first["msg"].removeprefix("Value error, ")
    return text[0].lower() + text[1:]


def parse(record: type[Part], path: str, value: Any) -> None:
    """Refuse what is not a place of the record or cannot be read as its kind; raises FieldError with the field."""
    match = _PATH.fullmatch(path)
    if not match or match["name"] not in record.model_fields:
        raise FieldError(path[:60], "there is no such field")
    name, index, field = match["name"], match["index"], match["field"]
    is_list = record.model_fields[name].default == ()
    if is_list != (index is not None):
        raise FieldError(path, "this is a list of rows: say which row" if is_list else "this is not a list of rows")
    if index is not None and field is None and not isinstance(value, dict):
        raise FieldError(path, "a row is an object of its fields")
    if (index is None or field is not None) and isinstance(value, dict):
        raise FieldError(path, "one value is wanted, not an object")
    if isinstance(value, str) and not value.strip():
        raise FieldError(path, "is empty")
    texts = value.values() if isinstance(value, dict) else [value]
    if any(isinstance(text, str) and "\x00" in text for text in texts):
        raise FieldError(path, "holds a character that cannot be written")
    part: Any = value if index is None else [{field: value} if field else value]
    try:
        record.model_validate({name: part})
    except ValidationError as error:
        location = error.errors()[0]["loc"]
        at = path if field or index is None else f"{path}.{location[-1]}"
        unknown = error.errors()[0]["type"] == "extra_forbidden"
        raise FieldError(at, "there is no such field" if unknown else _message(error)) from None


def _rows_so_far(entries: list[Taped], name: str) -> int:
    prefix = f"{name}["
    indices = [int(e.path[len(prefix) : e.path.index("]")]) for e in entries if e.path.startswith(prefix)]
    return max(indices) + 1 if indices else 0


def resolved(path: str, entries: list[Taped]) -> str:
    """The path with its row: `trials[]` is the next row; a row beyond the next is refused."""
    match = _PATH.fullmatch(path)
    if path.startswith("@") or not match or match["index"] is None:
        return path
    rows = _rows_so_far(entries, match["name"])
    index = int(match["index"]) if match["index"] else rows
    if index > rows or index >= MOST_ROWS:
        raise FieldError(path, f"the next row is {match['name']}[{rows}]")
    return f"{match['name']}[{index}]" + (f".{match['field']}" if match["field"] else "")


def _check_strikes(new: NewEntry, entries: list[Taped]) -> None:
    if not new.strikes:
        if new.value is None:
            raise FieldError(new.path, "has no value")
        return
    if not new.reason.strip():
        raise StrikeError("reason", "striking an entry needs a reason")
    known = {e.id: e for e in entries}
    struck = {s for e in entries for s in e.strikes}
    for target in map(str, new.strikes):
        if target not in known:
            raise StrikeError("strikes", f"{target} is not an entry of this run")
        if target in struck:
            raise StrikeError("strikes", f"{known[target].path} was struck already")
        if known[target].path.startswith("@"):
            raise StrikeError("strikes", f"{known[target].path} is no reading; it stays")
        if known[target].value is None:
            raise StrikeError("strikes", "a strike cannot be struck; enter the reading again")


def _end_of(connection: Connection, run_id: int, entries: list[Taped] | None) -> tuple[int, str]:
    """Sequence number and hash of the tape's last entry."""
    if entries is not None:
        return (entries[-1].seq, entries[-1].hash) if entries else (0, GENESIS)
    last = _LAST.run(connection, {"run": run_id}).fetchone()
    return (last[0], last[1]) if last else (0, GENESIS)


def append_to(
    connection: Connection, run_id: int, new: NewEntry, by: str, at: datetime, entries: list[Taped] | None = None
) -> tuple[Taped, bool]:
    """Write one parsed entry at the end of the run's tape; a resent id gives the entry that stands, and False.

    The connection must hold the write lock. `entries` may be the tape as just read under that lock; the new entry is
    added to it. Raises RunClosed, StrikeError, FieldError.
    """
    known = str(new.id)
    if _KNOWN.run(connection, {"known": known}).fetchone():
        stands = connection.execute(_STANDS, {"known": known}).mappings().one()
        if stands["run_id"] != run_id:
            raise FieldError("id", "this id belongs to an entry of another run")
        return _taped(stands), False
    state, code = _STATE.run(connection, {"run": run_id}).fetchone()
    if state not in IN_HAND and not new.path.startswith("@"):
        raise RunClosed(f"{code} is {state}; reopen it with a reason first")
    if entries is None and (new.strikes or "[" in new.path):
        entries = _read(connection, run_id, 0)
    _check_strikes(new, entries or [])
    seq, previous = _end_of(connection, run_id, entries)
    content: dict[str, Any] = {
        "id": known,
        "run_id": run_id,
        "seq": seq + 1,
        "at": at.astimezone(UTC),
        "by": by,
        "source": new.source,
        "path": resolved(new.path, entries or []),
        "value": new.value,
        "strikes": tuple(map(str, new.strikes)),
        "reason": new.reason.strip(),
        "previous_hash": previous,
    }
    taped = Taped.model_construct(**content, hash=_digest(content))
    row = {**taped.__dict__, "value": json.dumps(taped.value), "strikes": json.dumps(taped.strikes)}
    _WRITE.run(connection, {**row, "at": stored(connection, taped.at)})
    _TOUCH.run(connection, {"run": run_id, "seq": taped.seq})
    if entries is not None:
        entries.append(taped)
    return taped, True


def append(
    session: Session, run: Run, new: NewEntry, by: str, at: datetime, entries: list[Taped] | None = None
) -> tuple[Taped, bool]:
    """As `append_to`, for a run that a session holds; what the session knows of the run is written first."""
    assert run.id is not None
    session.flush()
    taped, fresh = append_to(session.connection(), run.id, new, by, at, entries)
    if fresh:
        set_committed_value(run, "last_seq", taped.seq)
    return taped, fresh


def broken_link(entries: list[Taped]) -> str:
    """What is wrong with the chain, or an empty text when it holds."""
    previous = GENESIS
    for place, entry in enumerate(entries, 1):
        if entry.seq != place:
            return f"entry {place} is missing (found {entry.seq})"
        if entry.previous_hash != previous:
            return f"entry {place} does not follow the one before it"
        if hash_of(entry) != entry.hash:
            return f"entry {place} ({entry.path}) was changed"
        previous = entry.hash
    return ""
