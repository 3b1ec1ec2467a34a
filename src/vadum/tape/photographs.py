"""Photographs of a run, a step or a specimen: numbered and kept, bound by the tape, left out with a reason."""

import base64
import hashlib
import uuid
from collections.abc import Iterable
from datetime import datetime
from typing import NamedTuple

from sqlmodel import Session, col, select

from vadum.soil.contract import paths
from vadum.soil.contract.errors import FieldError
from vadum.soil.register import METHODS
from vadum.tape.entries import NewEntry, Taped, append
from vadum.tape.pictures import Marked
from vadum.tape.tables import Person, Photograph, Run

EVENT = "@photograph"
MOST_OF_A_RUN = 60
MOST_CAPTION = 200


class Pictured(NamedTuple):
    """A photograph as the tape tells it: its number in the run, hash, place (empty: the run), caption, who and when."""

    number: int
    hash: str
    place: str
    caption: str
    by: str
    at: datetime


def mark_of(run: Run, tape: Iterable[Taped], at: datetime) -> str:
    """What is drawn below the next photograph of a run: the run, its number in it, when it was taken."""
    return f"{run.code} · {len(taken(tape, with_left_out=True)) + 1} · {at:%d %b %Y %H:%M}"


def add(
    session: Session,
    run: Run,
    tape: list[Taped],
    known: uuid.UUID,
    marked: Marked,
    by: Person,
    at: datetime,
    *,
    place: str = "",
    caption: str = "",
) -> str:
    """Keep a picture of a run, of a step (by its key) or of a row such as a specimen, its mark drawn; its hash.

    Sent again under one id it is kept once. Raises FieldError, TapeError.
    """
    stands = next((e for e in tape if e.id == str(known)), None)
    if stands is not None:
        return str(stands.value["hash"])
    _refuse_place(run, place)
    if len(caption) > MOST_CAPTION:
        raise FieldError("caption", f"is longer than {MOST_CAPTION} characters")
    before = taken(tape, with_left_out=True)
    if len(before) >= MOST_OF_A_RUN:
        raise FieldError("photograph", f"{run.code} holds {MOST_OF_A_RUN} already")
    made = marked.made(mark_of(run, tape, at))
    session.add(
        Photograph(
            run_id=run.id or 0,
            hash=made.hash,
            width=made.width,
            height=made.height,
            data=made.text,
        )
    )
    value = {"hash": made.hash, "number": len(before) + 1, "place": place, "caption": caption}
    append(session, run, NewEntry(id=known, path=EVENT, value=value), by.initials, at, tape)
    return made.hash


def leave_out(session: Session, run: Run, tape: list[Taped], hash_: str, reason: str, by: Person, at: datetime) -> None:
    """Take a photograph off the desk and the sheet, with a reason; it stays on the tape. Raises FieldError."""
    if not reason.strip():
        raise FieldError("reason", "why is it left out?")
    if hash_ not in {p.hash for p in taken(tape)}:
        raise FieldError("photograph", "there is no such photograph")
    append(
        session, run, NewEntry(path=EVENT, value={"hash": hash_, "out": "yes"}, reason=reason), by.initials, at, tape
    )


def taken(tape: Iterable[Taped], *, with_left_out: bool = False) -> list[Pictured]:
    """The photographs that a tape tells of, in their order."""
    found: dict[str, Pictured] = {}
    for entry in tape:
        if entry.path != EVENT:
            continue
        value = entry.value
        if value.get("out"):
            if not with_left_out:
                found.pop(value["hash"], None)
            continue
        found[value["hash"]] = Pictured(
            int(value["number"]), value["hash"], value["place"], value["caption"], entry.by, entry.at
        )
    return list(found.values())


def jpeg_of(session: Session, run_id: int, hash_: str) -> bytes | None:
    """The kept picture; None where there is none."""
    query = select(Photograph).where(col(Photograph.run_id) == run_id, col(Photograph.hash) == hash_)
    found = session.execute(query).scalar_one_or_none()
    return None if found is None else base64.b64decode(found.data)


def faults(session: Session, run: Run, tape: Iterable[Taped]) -> list[str]:
    """Pictures that the tape tells of and that are gone, or are others than it says."""
    found = []
    for one in taken(tape, with_left_out=True):
        jpeg = jpeg_of(session, run.id or 0, one.hash)
        if jpeg is None:
            found.append(f"{run.code}: photograph {one.number} is gone")
        elif hashlib.sha256(jpeg).hexdigest() != one.hash:
            found.append(f"{run.code}: photograph {one.number} is not the one that was taken")
    return found


def place_words(run: Run, place: str) -> str:
    """What a photograph is of, in words: the run, a step by its title, a row as the method calls it."""
    its = METHODS[run.method]
    step = next((s for s in its.steps if s.key == place), None)
    if step is not None:
        return step.title
    return its.row_words(place) if place else "the run"


def _refuse_place(run: Run, place: str) -> None:
    its = METHODS[run.method]
    if not place or any(s.key == place for s in its.steps):
        return
    parsed = paths.parse(place)
    if not parsed.is_row or paths.rows_model(its.Record, parsed.rows[-1][0]) is None:
        raise FieldError("place", "is no step and no row of this test")
