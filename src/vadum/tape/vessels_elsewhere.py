"""A tin, mould, cylinder or cell that holds another soil: one of the two numbers is wrong, and a mass with it. And a
piece of kit that is retired."""

import json
from collections.abc import Callable
from datetime import datetime
from functools import partial
from typing import Any, NamedTuple

from sqlalchemy import or_, select
from sqlmodel import Session, col

from vadum.soil.contract import paths, tins
from vadum.soil.contract.block import is_block
from vadum.soil.contract.outcome import Advice, Verdict
from vadum.tape import kit
from vadum.tape.entries import Taped, read_tape
from vadum.tape.fence import BrokenRun, fenced
from vadum.tape.fold import Folded, value_in
from vadum.tape.tables import Entry, Run

MOST_LOOKED_AT = 20  # open runs that name the vessel; more would be a laboratory that numbers none


class Held(NamedTuple):
    """Where the vessel is named, where it lies, and what to do."""

    path: str
    found: str
    remedy: str


# A run read from its tape, as `vadum.tape.runs.compute` reads it.
Opener = Callable[[Run, list[Taped]], Any]


def held_elsewhere(session: Session, run: Run, entry: Taped, opened: Opener, now: datetime) -> Held | None:
    """The first vessel of an entry that another open run holds, or that is retired; None where none is."""
    for path, kind, code in kit_named(entry):
        item = kit.find(session, kind, code)
        if item is not None and item.retired_at is not None:
            retired = f"{kit.one_of(kind)} {code} was retired"
            return Held(path, retired, "Take another, or say why this one is used.")
        if kit.vessel_of(paths.field_name(path)):
            found = _lies(session, run, path, kind, code, opened, now)
            if found is not None:
                return found
    return None


def taken_anyway(folded: Folded) -> tuple[Verdict, ...]:
    """One *watch* for each piece of kit that was taken with a reason, though it lay elsewhere or was retired."""
    found = []
    for path, entry in folded.came_from.items():
        name = paths.field_name(path)
        kind = kit.kind_named(name) or kit.vessel_of(name)
        if entry.reason and not entry.strikes and kind:
            words = f"{kit.one_of(kind)} {value_in(entry, path)}: {entry.reason}"
            found.append(
                Verdict(
                    rule="each piece of kit is free, and in use",
                    level="watch",
                    found=words,
                    limit="none that holds another soil or is retired",
                    source="laboratory setting",
                    at=(path,),
                )
            )
    return tuple(found)


def _lies(session: Session, run: Run, path: str, kind: str, code: str, opened: Opener, now: datetime) -> Held | None:
    for other in _naming(session, run, paths.field_name(path), code):
        try:
            tape = tuple(read_tape(session, other.id or 0))
            read = fenced(other, tape, "read", partial(_opened, other, opened))
            parts = [p for _, p in tins.naming(read.folded.record, frozenset({kind})) if getattr(p, kind, None) == code]
            if kind == "tin":
                lies, how = (
                    any(tins.is_weighed_wet(p) and not tins.dry_weighings(p) for p in parts),
                    ", wet and not yet weighed dry",
                )
            else:
                lies, how = bool(parts) and _still_holds(read.at(now).advice), ", which is not done with it"
        except BrokenRun:
            continue  # what cannot be read holds nobody up
        if lies:
            words = f"{kit.one_of(kind)} {code} lies in {other.code}{how}"
            return Held(path, words, "Look at its number; strike the wrong one, or say why it is so.")
    return None


def _opened(run: Run, opened: Opener, tape: tuple[Taped, ...]) -> Any:
    return opened(run, list(tape))


def _still_holds(advice: Advice | None) -> bool:
    """Whether a run still has its soil in its vessel: something is waited for that is not only tins in the oven."""
    if advice is None or advice.finished:
        return False
    return not advice.due or not all(tins.is_only_drying(d.kind, d.path) for d in advice.due)


def kit_named(entry: Taped) -> list[tuple[str, str, str]]:
    """The pieces of kit that a reading names: place, kind, number."""
    if entry.path.startswith("@"):
        return []  # an event, no reading
    found: list[tuple[str, Any]] = []
    if isinstance(entry.value, dict) and not is_block(entry.value):
        found = [(f"{entry.path}.{name}", value) for name, value in entry.value.items()]
    elif not is_block(entry.value):
        found = [(entry.path, entry.value)]
    told = [(path, kit.kind_named(paths.field_name(path)) or kit.vessel_of(path), value) for path, value in found]
    return [(path, kind, value) for path, kind, value in told if kind and isinstance(value, str) and value.strip()]


def _naming(session: Session, run: Run, field: str, code: str) -> list[Run]:
    """The other open runs that name a vessel, in a field of its own or in a row."""
    alone = (col(Entry.value) == json.dumps(code)) & or_(col(Entry.path) == field, col(Entry.path).like(f"%.{field}"))
    in_a_row = col(Entry.value).like(f'%"{field}": {json.dumps(code)}%')
    named = (
        select(Run)
        .join(Entry, col(Entry.run_id) == col(Run.id))
        .where(col(Run.id) != run.id, col(Run.state) == "open", or_(alone, in_a_row))
        .distinct()
        .limit(MOST_LOOKED_AT)
    )
    return list(session.execute(named).scalars())
