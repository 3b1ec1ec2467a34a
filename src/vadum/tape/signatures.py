"""Signing, checking and reopening: what was seen is what is decided on, and only what is final is signed for."""

import json
from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import NamedTuple

from sqlalchemy import bindparam, select
from sqlmodel import Session, col

from vadum.soil.contract.errors import FieldError, VadumError
from vadum.tape.dialect import hold_row
from vadum.tape.entries import NewEntry, Taped, append, read_tape
from vadum.tape.fence import fenced
from vadum.tape.laboratory import choice
from vadum.tape.runs import PRACTICE_STATES, NotAllowed, Read, compute
from vadum.tape.tables import Entry, ImportedRun, Person, Run
from vadum.version import program_version

_NEWEST_HASH = (
    select(col(Entry.hash)).where(col(Entry.run_id) == bindparam("run")).order_by(col(Entry.seq).desc()).limit(1)
)


BROUGHT_IN = "@brought_in"


class Standing(NamedTuple):
    """A run's state and whose it is: `laboratory` names where it was signed or checked when that was not here."""

    state: str
    laboratory: str = ""
    origin: str = ""

    @property
    def words(self) -> str:
        """The state as a list says it, with where it comes from.

        >>> Standing("signed").words, Standing("checked", "Laboratory B", "Laboratory B").words
        ('to be checked', 'checked at Laboratory B')
        """
        if self.laboratory:
            return f"{self.state} at {self.laboratory}"
        known = {"open": "in hand", "signed": "to be checked", "aside": "set aside"}
        return known.get(self.state, self.state) + (f", from {self.origin}" if self.origin else "")


def brought_in(tape: Sequence[Taped]) -> Taped | None:
    """The line that says that another laboratory's tape was brought in, and by whom; None for a run begun here."""
    return next((e for e in reversed(tape) if e.path == BROUGHT_IN), None)


def ours(tape: Sequence[Taped]) -> Sequence[Taped]:
    """What people of this laboratory wrote: initials further up are those of other people, whoever they look like."""
    line = brought_in(tape)
    return tape if line is None else tape[line.seq :]


def standing(read: Read) -> Standing:
    """A run's state, and whose signature it rests on."""
    line = brought_in(read.entries)
    if line is None:
        return Standing(read.run.state)
    origin = str(line.value["laboratory"])
    here = any(e.path in ("@reopened", f"@{read.run.state}") for e in ours(read.entries))
    elsewhere = read.run.state in ("signed", "checked") and not here
    return Standing(read.run.state, origin if elsewhere else "", origin)


class Changed(VadumError):
    """What a person decided on has changed since they looked."""


def reported(read: Read) -> dict[str, str]:
    """The values as they go on the sheet, by key. What must not be reported says so."""
    return {v.key: v.reported if v.final else "not reported" for v in read.outcome.values}


def holds_simulated(read: Read) -> bool:
    """Whether a reading that stands came from one of the program's own instruments, and so from no soil."""
    return any(entry.source.startswith("simulated: ") for entry in read.folded.came_from.values())


def tape_end(session: Session, run: Run) -> str:
    """The hash of the tape's last entry: what somebody who looks now will have seen."""
    return str(session.execute(_NEWEST_HASH, {"run": run.id}).scalar_one())


def as_seen(session: Session, run: Run, seen: str) -> None:
    """Refuse what a person decides on a tape that has grown since they looked; raises Changed."""
    if tape_end(session, run) != seen:
        raise Changed("The tape has grown since you looked: look at it as it is now, then decide again.")


def signable(session: Session, run: Run, seen: str) -> None:
    """Raise NotAllowed or Changed for a run that cannot be signed as it was seen."""
    if run.state in PRACTICE_STATES:
        raise NotAllowed(f"{run.code} is practice: it is never signed and never in a dossier")
    if run.state != "open":
        raise NotAllowed(f"{run.code} is {run.state} already")
    as_seen(session, run, seen)


def sign(session: Session, run: Run, by: Person, at: datetime, seen: str, reason: str = "") -> Taped:
    """A technician signs the run as it was `seen`: the hash of the tape's last entry that was on the screen.

    Unfinished, it needs a reason, which the sheet shows. Raises Changed, NotAllowed, FieldError, BrokenRun.
    """
    hold_row(session, run)
    signable(session, run, seen)
    entries = tuple(read_tape(session, run.id or 0))
    read = fenced(run, entries, "judged", lambda some: compute(run, list(some)))
    if not read.outcome.values:
        raise NotAllowed("there is nothing to sign: no value has been computed")
    if holds_simulated(read):
        raise NotAllowed(f"{run.code} holds readings of a simulated instrument: strike them before it is signed")
    outcome = read.at(at)
    unfinished = outcome.advice is not None and not outcome.advice.finished
    if unfinished and not reason.strip():
        assert outcome.advice is not None
        raise FieldError(
            "reason", f"the run is not finished ({outcome.advice.headline}); say why it is signed as it is"
        )
    value = {
        "tape": seen,
        "version": read.method.version,
        "program": program_version(),
        "values": _flat(reported(read)),
        "unfinished": unfinished,
    }
    return _decided(session, run, "signed", NewEntry(path="@signed", value=value, reason=reason), by, at)


def _decided(session: Session, run: Run, state: str, new: NewEntry, by: Person, at: datetime) -> Taped:
    """Put the decision on the tape, which still takes it, and the run into its new state."""
    entry, _ = append(session, run, new, by.initials, at)
    run.state = state
    return entry


def _flat(values: dict[str, str]) -> str:
    return "\n".join(f"{key}={value}" for key, value in values.items())


def signed_values(entry: Taped) -> dict[str, str]:
    """The values that a signature stands for."""
    return dict(line.split("=", 1) for line in str(entry.value["values"]).splitlines())


def readers(entries: Iterable[Taped]) -> set[str]:
    """Initials of everyone who read something into the run; what a register or another run brought is no reading."""
    brought = ("kit:", "run:", "school", "plan")
    return {e.by for e in entries if not e.path.startswith("@") and not e.source.startswith(brought)}


def may_check(session: Session, entries: Sequence[Taped], by: Person) -> str:
    """Why this person may not check the sheet, or an empty text."""
    if by.role not in ("checker", "manager"):
        return "a checker or a manager checks the sheet"
    here = ours(entries)
    signed = next((e for e in reversed(here) if e.path == "@signed"), None)
    elsewhere = len(here) < len(entries) if signed is None else _of_elsewhere(session, signed, entries)
    if elsewhere:
        return "it was signed at another laboratory: reopen it, review it and sign it here before it is checked"
    if signed is None or signed.by == by.initials:
        return "the person who signed cannot check: four eyes"
    if by.initials in readers(here) and choice(session, "checker_read_nothing") == "yes":
        return "you read some of its readings: somebody else checks it"
    return ""


def _of_elsewhere(session: Session, signed: Taped, entries: Sequence[Taped]) -> bool:
    """Whether a signature came with a tape that was brought in before tapes said so themselves."""
    if brought_in(entries) is not None:
        return False
    found = session.execute(select(col(ImportedRun.people)).where(col(ImportedRun.run_id) == signed.run_id)).scalar()
    return found is not None and signed.by in json.loads(found)


def check(session: Session, run: Run, by: Person, at: datetime, seen: str) -> Taped:
    """Another person with the right to check, who read none of it, closes the run as it was seen."""
    hold_row(session, run)
    if run.state != "signed":
        raise NotAllowed(f"{run.code} is {run.state}; only a signed run is checked")
    as_seen(session, run, seen)
    entries = read_tape(session, run.id or 0)
    refused = may_check(session, entries, by)
    if refused:
        raise NotAllowed(refused)
    return _decided(session, run, "checked", NewEntry(path="@checked", value={"tape": seen}), by, at)


def reopen(session: Session, run: Run, by: Person, at: datetime, seen: str, reason: str) -> Taped:
    """A signed or checked run is opened again as it was seen, with a reason."""
    hold_row(session, run)
    if run.in_hand or run.state in PRACTICE_STATES:
        raise NotAllowed(f"{run.code} is {run.state}: it is not reopened")
    as_seen(session, run, seen)
    if not reason.strip():
        raise FieldError("reason", "say why the run is reopened")
    if run.state == "checked" and by.role not in ("checker", "manager"):
        raise NotAllowed("a checked run is reopened by a checker or a manager")
    new = NewEntry(path="@reopened", value={"was": run.state}, reason=reason)
    return _decided(session, run, "open", new, by, at)
