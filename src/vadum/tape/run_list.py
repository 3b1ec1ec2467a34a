"""Runs as a list: by date, method, job, person and state, newest first."""

from collections.abc import Iterator
from datetime import date, datetime, time, timedelta, tzinfo
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import func, select, tuple_
from sqlmodel import Session, col

from vadum.tape.ground import Place, places_of
from vadum.tape.runs import STATES
from vadum.tape.tables import Entry, Job, Run, Sample, Spot

SIZE = 50
A_PAGE = 500  # runs that are read at a time for a table of all
State = Literal["", "open", "signed", "checked", "aside"]


class Filter(BaseModel):
    """Which runs are meant; what is empty does not narrow. Days are the laboratory's, both ends included."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    method: str = Field("", max_length=40)
    job: str = Field("", max_length=20)
    by: Annotated[str, Field(max_length=10)] = ""
    state: State = ""
    since: date | None = None
    until: date | None = None
    sample: int | None = Field(None, ge=1, le=2**31 - 1)

    @property
    def narrows(self) -> bool:
        """Whether anything is asked for."""
        return any(value not in ("", None) for value in self.model_dump().values())


def _begin(day: date, zone: tzinfo | None) -> datetime:
    return datetime.combine(day, time(), tzinfo=zone)


def _where(asked: Filter, zone: tzinfo | None) -> list[Any]:
    """Out of sight unless asked for: practice, which counts downward, and what was set aside."""
    states = (asked.state,) if asked.state else STATES
    where: list[Any] = [col(Run.state).in_(states), col(Run.number) > 0]
    if asked.method:
        where.append(col(Run.method) == asked.method)
    if asked.job:
        samples = (
            select(col(Sample.id))
            .join(Spot, col(Sample.spot_id) == col(Spot.id))
            .join(Job, col(Spot.job_id) == col(Job.id))
            .where(func.lower(col(Job.code)) == asked.job.lower())
        )
        where.append(col(Run.sample_id).in_(samples))
    if asked.sample:
        where.append(col(Run.sample_id) == asked.sample)
    if asked.since:
        where.append(col(Run.started_at) >= _begin(asked.since, zone))
    if asked.until:
        where.append(col(Run.started_at) < _begin(asked.until + timedelta(days=1), zone))
    if asked.by:
        entries = select(col(Entry.id)).where(col(Entry.run_id) == col(Run.id), col(Entry.by) == asked.by)
        where.append(entries.exists())
    return where


def found(
    session: Session, asked: Filter, zone: tzinfo | None, page: int = 1, size: int = SIZE
) -> list[tuple[Run, Place]]:
    """The runs of a page, newest first, each with where its soil is from.

    The runs are found first, by their own index; only then is asked where they come from.
    """
    query = select(Run).where(*_where(asked, zone)).order_by(col(Run.started_at).desc(), col(Run.id).desc())
    runs = list(session.execute(query.offset((page - 1) * size).limit(size)).scalars())
    places = places_of(session, {run.sample_id for run in runs})
    return [(run, places[run.sample_id]) for run in runs]


def in_pages(session: Session, asked: Filter, zone: tzinfo | None) -> Iterator[list[tuple[Run, Place]]]:
    """All runs that are asked for, newest first, a page at a time; each page goes on behind the last run of the one
    before, whatever is begun meanwhile."""
    where = _where(asked, zone)
    last: Run | None = None
    while True:
        query = select(Run).where(*where).order_by(col(Run.started_at).desc(), col(Run.id).desc()).limit(A_PAGE)
        if last is not None:
            query = query.where(tuple_(col(Run.started_at), col(Run.id)) < (last.started_at, last.id))
        runs = list(session.execute(query).scalars())
        if not runs:
            return
        places = places_of(session, {run.sample_id for run in runs})
        yield [(run, places[run.sample_id]) for run in runs]
        last = runs[-1]


def count(session: Session, asked: Filter, zone: tzinfo | None) -> int:
    """How many there are."""
    return int(session.execute(select(func.count(col(Run.id))).where(*_where(asked, zone))).scalar_one())
