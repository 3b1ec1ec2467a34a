"""What a run heard: which instrument it listens to, by its tape, and the raw samples that came."""

from datetime import datetime

from sqlalchemy import select
from sqlmodel import Session, col

from vadum.tape.entries import NewEntry, RunClosed, Taped, append
from vadum.tape.runs import Read
from vadum.tape.tables import Entry, Person, Run, Trace


def note_instrument(
    session: Session, run: Run, instrument: str, state: str, by: Person | str, at: datetime, detail: str = ""
) -> Taped:
    """On the tape: an instrument is listened to, its line is lost or back, it is left."""
    initials = by if isinstance(by, str) else by.initials
    event = NewEntry(path="@instrument", value={"instrument": instrument, "state": state, "detail": detail[:200]})
    return append(session, run, event, initials, at)[0]


def listens_to(read: Read) -> tuple[str, str] | None:
    """The instrument that a run listens to and who let it, by its tape; None when it was left."""
    event = read.folded.last_event("@instrument")
    if event is None or event.value["state"] == "left":
        return None
    began = next(e for e in reversed(read.folded.events) if e.path == "@instrument" and e.value["state"] == "listening")
    return str(event.value["instrument"]), began.by


def listening_runs(session: Session) -> list[Run]:
    """Open runs whose tape speaks of an instrument; whether one still listens, its tape says."""
    spoke = select(col(Entry.id)).where(col(Entry.run_id) == col(Run.id), col(Entry.path) == "@instrument").exists()
    return list(session.execute(select(Run).where(col(Run.state) == "open", spoke)).scalars())


def note_zero(session: Session, run: Run, instrument: str, rows: str, at_mm: float, by: str, at: datetime) -> Taped:
    """On the tape: where the instrument's gauge stood when the push whose readings are `rows` began."""
    value = {"instrument": instrument, "state": "zero", "detail": "", "rows": rows, "zero_mm": round(at_mm, 6)}
    return append(session, run, NewEntry(path="@instrument", value=value), by, at)[0]


def zero_mm(read: Read, instrument: str, rows: str) -> float | None:
    """The zero last noted for that instrument and push, mm; None where it was not zeroed for it."""
    for event in reversed(read.folded.events):
        wanted = event.path == "@instrument" and event.value["state"] == "zero"
        if wanted and (event.value["instrument"], event.value["rows"]) == (instrument, rows):
            return float(event.value["zero_mm"])
    return None


def keep_trace(session: Session, run_id: int, instrument: str, channels: str, rows: list[str]) -> None:
    """Keep raw samples as they came: one row of the table for about a second of them; none of a run that is closed."""
    run = session.get(Run, run_id, with_for_update=True)
    if run is None or not run.in_hand:
        raise RunClosed("the run is closed: no raw samples are kept behind its signature")
    session.add(Trace(run_id=run_id, instrument=instrument, channels=channels, samples=len(rows), data="\n".join(rows)))


def traces(session: Session, run_id: int) -> list[Trace]:
    """A run's raw samples, in the order they came."""
    query = select(Trace).where(col(Trace.run_id) == run_id).order_by(col(Trace.id))
    return list(session.execute(query).scalars())
