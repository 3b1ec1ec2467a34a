"""Runs of practice: the seed of their virtual soil, time that is let pass, and the end of the hiding."""

from collections.abc import Sequence
from datetime import datetime

from sqlmodel import Session

from vadum.soil.contract.errors import FieldError
from vadum.tape.entries import NewEntry, Taped, append
from vadum.tape.runs import NotAllowed, Read
from vadum.tape.tables import Person, Run


def practice_seed(read: Read) -> int | None:
    """The seed of the virtual soil that a practice run stands on; None for real soil."""
    began = next(e for e in read.entries if e.path == "@started")
    return int(began.value["practice_seed"]) if "practice_seed" in began.value else None


def let_pass(session: Session, run: Run, seconds: float, by: Person, at: datetime) -> Taped:
    """In practice nobody waits four days: the run's own time moves on, and its tape says so."""
    if run.state != "practice":
        raise NotAllowed(f"{run.code} is no practice: its time passes by itself")
    if not 0 < seconds <= 60 * 86400:
        raise FieldError("seconds", "is no time to let pass")
    new = NewEntry(path="@passed", value={"seconds": round(seconds, 1)})
    return append(session, run, new, by.initials, at)[0]


def reveal(session: Session, run: Run, by: Person, at: datetime) -> Taped:
    """Practice is over: its soil is shown and no reading is added any more."""
    if run.state != "practice":
        raise NotAllowed(f"{run.code} is {run.state}: there is nothing to reveal")
    entry, _ = append(session, run, NewEntry(path="@revealed", value={"finished": True}), by.initials, at)
    run.state = "revealed"
    return entry


def told(run: Run, entries: Sequence[Taped]) -> list[Taped]:
    """The tape as it is told to people: while a practice goes on, the seed of its hidden soil is not in it."""
    if run.state != "practice":
        return list(entries)
    return [
        e.model_copy(update={"value": {k: v for k, v in e.value.items() if k != "practice_seed"}})
        if e.path == "@started"
        else e
        for e in entries
    ]
