"""A tin that lies wet in another open run: one of the two numbers is wrong, and a tare with it."""

import json
from collections.abc import Callable, Iterator
from functools import partial
from typing import Any, NamedTuple

from sqlalchemy import or_, select
from sqlmodel import Session, col

from vadum.soil.contract import paths
from vadum.soil.contract.block import is_block
from vadum.soil.contract.fields import RecordPart
from vadum.tape.entries import Taped, read_tape
from vadum.tape.fence import BrokenRun, fenced
from vadum.tape.fold import Folded
from vadum.tape.tables import Entry, Run

MOST_LOOKED_AT = 20  # open runs that name the tin; more would be a laboratory that numbers none


class Held(NamedTuple):
    """Where the tin is named, where it lies, and what to do."""

    path: str
    found: str
    remedy: str


def tin_elsewhere(
    session: Session, run: Run, entry: Taped, opened: Callable[[Run, list[Taped]], Folded]
) -> Held | None:
    """The first tin of an entry that another open run holds wet and undried; None where none does."""
    for path, tin in _named(entry):
        for other in _naming(session, run, tin):
            try:
                tape = tuple(read_tape(session, other.id or 0))
                record = fenced(other, tape, "read", partial(_record, other, opened))
            except BrokenRun:
                continue  # what cannot be read holds nobody up
            if any(_is_wet(part) for part in _parts(record) if getattr(part, "tin", None) == tin):
                remedy = "Look at the tin's number; strike the wrong one, or say that it is so."
                return Held(path, f"tin {tin} lies in {other.code}, wet and not yet weighed dry", remedy)
    return None


def _record(run: Run, opened: Callable[[Run, list[Taped]], Folded], tape: tuple[Taped, ...]) -> RecordPart:
    return opened(run, list(tape)).record


def _named(entry: Taped) -> list[tuple[str, str]]:
    """The tins that an entry names, with their places."""
    found: list[tuple[str, Any]] = []
    if isinstance(entry.value, dict) and not is_block(entry.value):
        found = [(f"{entry.path}.tin", entry.value.get("tin"))]
    elif paths.field_name(entry.path) == "tin":
        found = [(entry.path, entry.value)]
    return [(path, tin) for path, tin in found if isinstance(tin, str) and tin.strip()]


def _naming(session: Session, run: Run, tin: str) -> list[Run]:
    """The other open runs that name a tin, in a field of its own or in a row."""
    alone = (col(Entry.value) == json.dumps(tin)) & or_(col(Entry.path) == "tin", col(Entry.path).like("%.tin"))
    in_a_row = col(Entry.value).like(f'%"tin": {json.dumps(tin)}%')
    named = (
        select(Run)
        .join(Entry, col(Entry.run_id) == col(Run.id))
        .where(col(Run.id) != run.id, col(Run.state) == "open", or_(alone, in_a_row))
        .distinct()
        .limit(MOST_LOOKED_AT)
    )
    return list(session.execute(named).scalars())


def _parts(record: RecordPart) -> Iterator[RecordPart]:
    """A record and its rows, rows within rows too."""
    yield record
    for name in type(record).model_fields:
        rows = getattr(record, name)
        if isinstance(rows, tuple):
            for row in rows:
                if isinstance(row, RecordPart):
                    yield from _parts(row)


def _is_wet(part: RecordPart) -> bool:
    """Whether a tin was weighed wet, and neither dried nor left out."""
    if getattr(part, "mass_wet_g", None) is None or getattr(part, "excluded_because", None):
        return False
    weighings = getattr(part, "weighings", ())
    return getattr(part, "mass_dry_g", None) is None and not any(w.mass_dry_g is not None for w in weighings)
