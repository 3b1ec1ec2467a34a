"""Entries: how a new one is parsed at the door, hashed, chained and written."""

import hashlib
import json
import math
import uuid
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Annotated, Any, NamedTuple

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, PlainSerializer
from sqlalchemy import Connection, bindparam, func, insert, select, update
from sqlalchemy.orm.attributes import set_committed_value
from sqlmodel import Session

from vadum.soil.contract import paths
from vadum.soil.contract.block import Block, is_block, rows_in
from vadum.soil.contract.errors import FieldError, VadumError
from vadum.soil.contract.fields import MOST_COUNTED, NearMoment, unit_of
from vadum.tape import ledger
from vadum.tape.dialect import Prepared, loaded, stored
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
    "@clock",
    "@photograph",
    "@shelf",
    "@set_aside",
    "@brought_back",
    "@brought_in",
)
# What a tape takes in each state of its run: a signed one nothing but its check, its reopening, or the line of who
# brought it in from another laboratory.
TAKES: dict[str, tuple[str, ...]] = {
    "open": (
        "@started",
        "@step",
        "@caution",
        "@signed",
        "@instrument",
        "@clock",
        "@photograph",
        "@shelf",
        "@set_aside",
        "@brought_in",
    ),
    "practice": ("@started", "@step", "@caution", "@instrument", "@passed", "@revealed", "@clock", "@photograph"),
    "signed": ("@checked", "@reopened", "@brought_in"),
    "checked": ("@reopened", "@brought_in"),
    "revealed": (),
    "aside": ("@brought_back", "@brought_in"),
}
BACK_S = 1.0  # a clock set back by less is the network's own jitter
MOST_ROWS = 40_000  # of blocks and single rows together
MOST_TEXT = 4000


_E = Entry.__table__  # type: ignore[attr-defined]
_R = Run.__table__  # type: ignore[attr-defined]
# Made once: building and caching a statement costs more than running it.
_STANDS = select(_E).where(_E.c.id == bindparam("known"))
_KNOWN = Prepared(select(_E.c.seq).where(_E.c.id == bindparam("known")))
_NEWEST = select(func.max(_E.c.seq)).where(_E.c.run_id == bindparam("run")).scalar_subquery()
_LAST = Prepared(
    select(_E.c.seq, _E.c.hash, _E.c.arrived_at).where(_E.c.run_id == bindparam("run"), _E.c.seq == _NEWEST)
)
# On a server the row is held from here to the transaction's end: one hand at a time at a tape's end.
_STATE = Prepared(select(_R.c.state, _R.c.code).where(_R.c.id == bindparam("run")).with_for_update())
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


def _writable(value: Any) -> Any:
    """A value that JSON and every database can hold; raises ValueError with a sentence."""
    if isinstance(value, Block):
        made = value.model_dump()
        units = made["units"] or {name: unit_of(name) for name in made["columns"]}
        return {"columns": made["columns"], "units": units}
    for one in value.values() if isinstance(value, dict) else (value,):
        if isinstance(one, float) and not math.isfinite(one):
            raise ValueError("is no number")
        if isinstance(one, int) and not isinstance(one, bool) and abs(one) > MOST_COUNTED:
            raise ValueError("has more digits than a number can hold: send it as text")
        if isinstance(one, str) and len(one) > MOST_TEXT:
            raise ValueError(f"is longer than {MOST_TEXT} characters")
    return value


class TypedEntry(BaseModel):
    """An entry as its sender makes it. The digits stay as typed; where it came from, the door says."""

    model_config = ConfigDict(extra="forbid")
    id: uuid.UUID = Field(default_factory=uuid.uuid4)
    path: str = Field(min_length=1, max_length=120)
    value: Annotated[
        str | int | float | bool | dict[str, str | int | float | bool | None] | Block | None,
        AfterValidator(_writable),
        PlainSerializer(lambda value: value, return_type=Any),  # what was writable is already plain
    ] = None
    strikes: tuple[uuid.UUID, ...] = Field((), max_length=50)
    reason: str = Field("", max_length=400)
    read_at: NearMoment | None = None  # when it was read, for an entry that waited to be sent


class NewEntry(TypedEntry):
    """An entry with its source: hand, instrument, kit, import, another run."""

    source: str = Field("hand", max_length=60)


class Taped(BaseModel):
    """An entry as it stands on the tape."""

    model_config = ConfigDict(frozen=True)
    id: str
    run_id: int
    seq: int
    at: datetime
    arrived_at: datetime | None
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
    if fields["arrived_at"] is None:
        del content["arrived_at"]  # an entry older than this column
    else:
        content["arrived_at"] = fields["arrived_at"].astimezone(UTC).isoformat(timespec="microseconds")
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


def _rows_so_far(entries: list[Taped], list_path: str) -> int:
    """How many rows a list has: the next row's number. A struck block leaves no rows behind."""
    struck = {target for entry in entries for target in entry.strikes}
    many = 0
    prefix = f"{list_path}["
    for entry in entries:
        if not entry.path.startswith(prefix):
            continue
        if is_block(entry.value) and entry.id in struck:
            continue
        for name, row in paths.rows_of(entry.path):
            if name == list_path:
                many = max(many, row + (rows_in(entry.value) if entry.path.endswith("]") else 1))
    return many


def resolved(path: str, entries: list[Taped]) -> str:
    """The path with its rows: `trials[]` is the next row; a row beyond the next is refused."""
    if path.startswith("@") or "[" not in path:
        return path
    steps: list[paths.Step] = []
    for step in paths.parse(path).steps:
        if step.row is None:
            steps.append(step)
            continue
        here = str(paths.Path((*steps, paths.Step(step.name))))
        rows = _rows_so_far(entries, here)
        index = rows if step.row == paths.NEXT else step.row
        if index > rows or index >= MOST_ROWS:
            raise FieldError(path, f"there is no row so far down: the next is number {rows + 1}")
        steps.append(paths.Step(step.name, index))
    return str(paths.Path(tuple(steps)))


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
            raise StrikeError("strikes", "that reading was struck already")
        if known[target].path.startswith("@"):
            raise StrikeError("strikes", "that is no reading; it stays")
        if known[target].value is None:
            raise StrikeError("strikes", "a strike cannot be struck; enter the reading again")


class _End(NamedTuple):
    """Where a tape ends."""

    seq: int
    hash: str
    arrived_at: datetime | None


def _end_of(connection: Connection, run_id: int, entries: list[Taped] | None) -> _End:
    if entries is not None:
        return _End(entries[-1].seq, entries[-1].hash, entries[-1].arrived_at) if entries else _End(0, GENESIS, None)
    last = _LAST.run(connection, {"run": run_id}).fetchone()
    return _End(last[0], last[1], loaded(connection, last[2])) if last else _End(0, GENESIS, None)


def append_to(
    connection: Connection,
    run_id: int,
    new: NewEntry,
    by: str,
    at: datetime,
    entries: list[Taped] | None = None,
    arrived: datetime | None = None,
) -> tuple[Taped, bool]:
    """Write one parsed entry at the end of the run's tape; a resent id gives the entry that stands, and False.

    The connection must hold the run's lock. `entries` may be the tape as just read under that lock; the new entry is
    added to it. `at` is when it was read, `arrived` when it came in by the program's own clock (at once, where it is
    not said); where that clock has gone back since the last entry, the tape says so first.
    Raises RunClosed, StrikeError, FieldError.
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
    if new.path.startswith("@") and new.path not in TAKES[state]:
        raise RunClosed(f"{code} is {state}: nothing more is added to its tape")
    if entries is None and (new.strikes or "[" in new.path):
        entries = _read(connection, run_id, 0)
    _check_strikes(new, entries or [])
    end = _end_of(connection, run_id, entries)
    arrived = at if arrived is None else arrived
    if end.arrived_at is not None and (back_s := (end.arrived_at - arrived).total_seconds()) > BACK_S:
        noted = _put(
            connection, run_id, end, NewEntry(path="@clock", value={"back_s": round(back_s, 1)}), by, at, arrived
        )
        if entries is not None:
            entries.append(noted)
        end = _End(noted.seq, noted.hash, noted.arrived_at)
    path = resolved(new.path, entries or [])
    taped = _put(connection, run_id, end, new.model_copy(update={"path": path}), by, at, arrived)
    if entries is not None:
        entries.append(taped)
    return taped, True


def _put(
    connection: Connection, run_id: int, end: _End, new: NewEntry, by: str, at: datetime, arrived: datetime
) -> Taped:
    content: dict[str, Any] = {
        "id": str(new.id),
        "run_id": run_id,
        "seq": end.seq + 1,
        "at": at.astimezone(UTC),
        "arrived_at": arrived.astimezone(UTC),
        "by": by,
        "source": new.source,
        "path": new.path,
        "value": new.value,
        "strikes": tuple(map(str, new.strikes)),
        "reason": new.reason.strip(),
        "previous_hash": end.hash,
    }
    taped = Taped.model_construct(**content, hash=_digest(content))
    row = {**taped.__dict__, "value": json.dumps(taped.value), "strikes": json.dumps(taped.strikes)}
    moments = {"at": stored(connection, taped.at), "arrived_at": stored(connection, content["arrived_at"])}
    _WRITE.run(connection, row | moments)
    _TOUCH.run(connection, {"run": run_id, "seq": taped.seq})
    ledger.note(connection, "entry", f"{run_id}/{taped.seq}", taped.hash, by)
    return taped


def append(
    session: Session,
    run: Run,
    new: NewEntry,
    by: str,
    at: datetime,
    entries: list[Taped] | None = None,
    arrived: datetime | None = None,
) -> tuple[Taped, bool]:
    """As `append_to`, for a run that a session holds; what the session knows of the run is written first."""
    assert run.id is not None
    session.flush()
    taped, fresh = append_to(session.connection(), run.id, new, by, at, entries, arrived)
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


# What each of these entries makes of a run.
_AFTER = {
    "@signed": "signed",
    "@checked": "checked",
    "@reopened": "open",
    "@revealed": "revealed",
    "@set_aside": "aside",
    "@brought_back": "open",
}


def state_told(tape: Sequence[Taped]) -> str:
    """The state that a run's tape gives it, whatever its row says."""
    practising = isinstance(tape[0].value, dict) and "practice_seed" in tape[0].value
    state = "practice" if practising else "open"
    for entry in tape:
        state = _AFTER.get(entry.path, state)
    return state
