"""Mistakes put right: ground that was named wrongly, made in vain or is done with; runs set aside with a reason.

Nothing that holds a reading is deleted. Who changed what stands in the ledger, a run's setting aside on its tape.
"""

from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlmodel import Session, SQLModel, col

from vadum.soil.contract.errors import FieldError
from vadum.tape.codes import refuse_alike
from vadum.tape.dialect import hold_row, lock_named
from vadum.tape.entries import NewEntry, append
from vadum.tape.ground import NewJob, NewSample, NewSpot, not_for_practice
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import Job, JobSchool, Owed, Person, Run, Sample, Specimen, Spot

ASIDE = "aside"


def _others(session: Session, column: Any, but: int | None, *where: Any) -> list[str]:
    """The codes of the others that a code must not look like."""
    table = column.class_
    return list(session.execute(select(column).where(table.id != but, *where)).scalars())


def _take(row: SQLModel, new: Any) -> None:
    for name, value in new.model_dump().items():
        setattr(row, name, value)


def change_job(session: Session, job: Job, new: NewJob) -> None:
    """Put right what is noted of a job, its code too; raises FieldError for a code that is taken."""
    lock_named(session.connection(), "jobs")
    refuse_alike(new.code, _others(session, col(Job.code), job.id), "another job")
    not_for_practice(new.code)
    _take(job, new)
    session.add(job)
    session.flush()


def change_spot(session: Session, spot: Spot, new: NewSpot) -> None:
    """Put right what is noted of a spot."""
    lock_named(session.connection(), f"spots of {spot.job_id}")
    taken = _others(session, col(Spot.code), spot.id, col(Spot.job_id) == spot.job_id)
    refuse_alike(new.code, taken, "another spot of this job")
    _take(spot, new)
    session.add(spot)
    session.flush()


def change_sample(session: Session, sample: Sample, new: NewSample) -> None:
    """Put right what is noted of a sample."""
    lock_named(session.connection(), f"samples of {sample.spot_id}")
    taken = _others(session, col(Sample.code), sample.id, col(Sample.spot_id) == sample.spot_id)
    refuse_alike(new.code, taken, "another sample of this spot")
    _take(sample, new)
    session.add(sample)
    session.flush()


# What hangs on each kind of ground, in the words in which its deletion is refused.
_HANGS: dict[type[SQLModel], tuple[tuple[Any, str], ...]] = {
    Job: ((Spot.job_id, "spot"),),
    Spot: ((Sample.spot_id, "sample"),),
    Sample: ((Run.sample_id, "run"), (Specimen.sample_id, "specimen")),
}


def hangs_on(session: Session, row: Job | Spot | Sample) -> str:
    """What hangs on a piece of ground, in words; empty where nothing does, so that it may be deleted."""
    found = []
    for column, word in _HANGS[type(row)]:
        many = session.execute(select(func.count()).where(col(column) == row.id)).scalar_one()
        if many:
            found.append(f"{many} {word}{'s' if many > 1 else ''}")
    return " and ".join(found)


def delete_empty(session: Session, row: Job | Spot | Sample) -> None:
    """Delete what was made in vain; raises NotAllowed where something hangs on it: that is closed, not deleted."""
    hold_row(session, row)
    hangs = hangs_on(session, row)
    if hangs:
        raise NotAllowed(f"{row.code} holds {hangs}: what was read is never deleted. Close it instead.")
    beside: tuple[tuple[Any, Any], ...] = ()
    if isinstance(row, Sample):
        beside = ((Owed, Owed.sample_id),)
    elif isinstance(row, Job):
        beside = ((JobSchool, JobSchool.job_id),)
    for table, column in beside:
        for one in session.execute(select(table).where(col(column) == row.id)).scalars():
            session.delete(one)
    session.flush()
    session.delete(row)
    session.flush()


def close(session: Session, row: Job | Spot | Sample, at: datetime | None) -> None:
    """Close a piece of ground, so that nothing more is begun on it, or open it again (`at` None)."""
    row.closed_at = at
    session.add(row)
    session.flush()


def set_aside(session: Session, run: Run, by: Person, at: datetime, reason: str) -> None:
    """Set an open run aside: kept whole, out of sight, brought back at any time. Raises NotAllowed, FieldError."""
    hold_row(session, run)
    if run.state != "open":
        why = "reopen it first" if run.state in ("signed", "checked") else "only an open run is set aside"
        raise NotAllowed(f"{run.code} is {run.state}: {why}")
    if not reason.strip():
        raise FieldError("reason", "say why the run is set aside")
    append(session, run, NewEntry(path="@set_aside", value={"was": run.state}, reason=reason), by.initials, at)
    run.state = ASIDE
    session.add(run)


def bring_back(session: Session, run: Run, by: Person, at: datetime, reason: str = "") -> None:
    """Bring a run back that was set aside. Raises NotAllowed."""
    hold_row(session, run)
    if run.state != ASIDE:
        raise NotAllowed(f"{run.code} is {run.state}: it was not set aside")
    append(session, run, NewEntry(path="@brought_back", value={"was": ASIDE}, reason=reason), by.initials, at)
    run.state = "open"
    session.add(run)
