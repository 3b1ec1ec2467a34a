"""Doors of putting right: ground changed, closed, deleted where it is empty; runs set aside; the schedule of tests."""

import base64
from datetime import date
from functools import partial
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Path
from pydantic import BaseModel, ConfigDict, Field
from sqlmodel import Session

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import PlainNumber
from vadum.soil.register import method
from vadum.tape import (
    identity,
    instrument_log,
    job_file,
    job_import,
    pasted_kinds,
    pasted_plan,
    put_right,
    runs,
    schedule,
)
from vadum.tape.ground import NewJob, NewSample, NewSpot
from vadum.tape.tables import Job, Owed, Sample, Spot
from vadum.web import attached_instruments
from vadum.web.body_limits import JOB_BYTES, body_up_to
from vadum.web.context import Me, Missing, Shop, TheShop
from vadum.web.routes.ground import the_job, the_place, the_spot
from vadum.web.routes.runs import the_run
from vadum.web.undoing import former, undo

router = APIRouter(prefix="/api/v1")
Id = Annotated[int, Path(ge=1, le=2**31 - 1)]
MOST_ASKED = 2000
SAVED = "Changes saved."
MOST_ARCHIVE = 56_000_000  # forty million bytes of a zip as base64


class Why(BaseModel):
    """A reason."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    reason: str = Field("", max_length=200)


class JobSchoolAsked(BaseModel):
    """The school that a job asks for, of one method; empty: the laboratory's."""

    model_config = ConfigDict(extra="forbid")
    method: str = Field(max_length=40)
    school: str = Field("", max_length=60)


class TestsAsked(BaseModel):
    """Tests for the schedule, each `sample:method`, and by when."""

    model_config = ConfigDict(extra="forbid")
    tests: list[Annotated[str, Field(pattern=r"^\d{1,10}:[a-z_]{1,40}$")]] = Field(max_length=MOST_ASKED)
    due_on: date


class NewArchive(BaseModel):
    """A job's zip as base64, and the code it gets here where its own is taken."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    file: str = Field(max_length=MOST_ARCHIVE)
    code: str = Field("", max_length=20)


class OwedChange(BaseModel):
    """When a test is due, and how much soil was asked for it."""

    model_config = ConfigDict(extra="forbid")
    due_on: date
    wanted_g: PlainNumber | None = None


def _page(job: Job, spot: str = "") -> str:
    return f"/ground/{quote(job.code)}" + (f"?spot={quote(spot)}" if spot else "")


@router.post("/jobs/import", tags=["ground"], status_code=201)
@body_up_to(JOB_BYTES)
def import_job(its: TheShop, me: Me, brought: NewArchive) -> dict[str, Any]:
    """Import a whole job that another program exported; only a manager can, because it carries signatures."""
    if me.role != "manager":
        raise runs.NotAllowed("only a manager can import a job, because it carries signatures")
    try:
        content = base64.b64decode(brought.file, validate=True)
    except ValueError:
        raise FieldError("file", "is not base64") from None
    file = its.archives.done(job_file.opened, content)
    with its.writing(me) as session:
        made = job_import.bring_in(session, file, me, its.now(), brought.code)
        go = f"/ground/{quote(made.code)}"
    numbers = ", ".join(f"{old} is now {new}" for old, new in made.renamed)
    said = f"{made.runs} runs imported." + (f" Renumbered: {numbers}." if numbers else "")
    return {"code": made.code, "runs": made.runs, "go": go, "said": said}


@router.post("/jobs/{code}/change", tags=["ground"])
def change_job(its: TheShop, me: Me, code: str, new: NewJob) -> dict[str, Any]:
    """Edit the data of a job."""
    with its.writing(me) as session:
        job = the_job(session, code)
        before = former(job, NewJob)
        put_right.change_job(session, job, new)
        return {"go": _page(job), "said": SAVED, "undo": undo(f"/jobs/{quote(job.code)}/change", before)}


@router.post("/jobs/{code}/school", tags=["ground"])
def job_school(its: TheShop, me: Me, code: str, asked: JobSchoolAsked) -> dict[str, str]:
    """Set the procedure that a job requires for a test."""
    with its.writing(me) as session:
        job = the_job(session, code)
        identity.set_job_school(session, job, asked.method, asked.school)
        return {"go": _page(job)}


@router.post("/spots/{spot_id}/change", tags=["ground"])
def change_spot(its: TheShop, me: Me, spot_id: Id, new: NewSpot) -> dict[str, Any]:
    """Edit the data of a location."""
    with its.writing(me) as session:
        spot, job = the_spot(session, spot_id)
        before = former(spot, NewSpot)
        put_right.change_spot(session, spot, new)
        return {"go": _page(job, spot.code), "said": SAVED, "undo": undo(f"/spots/{spot_id}/change", before)}


@router.post("/samples/{sample_id}/change", tags=["ground"])
def change_sample(its: TheShop, me: Me, sample_id: Id, new: NewSample) -> dict[str, Any]:
    """Put right what is noted of a sample."""
    with its.writing(me) as session:
        sample = the_place(session, sample_id).sample
        before = former(sample, NewSample)
        put_right.change_sample(session, sample, new)
    return {"go": f"/samples/{sample_id}", "said": SAVED, "undo": undo(f"/samples/{sample_id}/change", before)}


OPPOSITE = {"close": "open", "open": "close"}
DONE = {"close": "closed", "open": "reopened", "delete": "deleted"}


def _close(its: Shop, me: Me, find: Any, word: str, base: str) -> dict[str, Any]:
    """Close, open or delete what `find` gives with the page to go to and the undo of its deletion."""
    with its.writing(me) as session:
        row, go, remade = find(session)
        code = row.code
        if word == "delete":
            put_right.delete_empty(session, row)
        else:
            put_right.close(session, row, its.now() if word == "close" else None)
    back = remade if word == "delete" else undo(f"{base}/{OPPOSITE[word]}", go=go)
    return {"go": go, "said": f"{code} {DONE[word]}.", "undo": back}


VERBS = ("close", "open", "delete")


def _verb(word: str) -> str:
    if word not in VERBS:
        raise Missing("there is no such page")
    return word


@router.post("/jobs/{code}/{word}", tags=["ground"])
def close_job(its: TheShop, me: Me, code: str, word: str) -> dict[str, Any]:
    """Close a job, open it again, or delete one that is empty."""
    word = _verb(word)

    def find(session: Session) -> tuple[Job, str, dict[str, Any]]:
        job = the_job(session, code)
        return job, "/ground" if word == "delete" else _page(job), undo("/jobs", former(job, NewJob))

    return _close(its, me, find, word, f"/jobs/{quote(code)}")


@router.post("/spots/{spot_id}/{word}", tags=["ground"])
def close_spot(its: TheShop, me: Me, spot_id: Id, word: str) -> dict[str, Any]:
    """Close a spot, open it again, or delete one that is empty."""
    word = _verb(word)

    def find(session: Session) -> tuple[Spot, str, dict[str, Any]]:
        spot, job = the_spot(session, spot_id)
        remade = undo(f"/jobs/{quote(job.code)}/spots", former(spot, NewSpot))
        return spot, _page(job, "" if word == "delete" else spot.code), remade

    return _close(its, me, find, word, f"/spots/{spot_id}")


@router.post("/samples/{sample_id}/{word}", tags=["ground"])
def close_sample(its: TheShop, me: Me, sample_id: Id, word: str) -> dict[str, Any]:
    """Close a sample, open it again, or delete one that is empty."""
    word = _verb(word)

    def find(session: Session) -> tuple[Sample, str, dict[str, Any]]:
        place = the_place(session, sample_id)
        remade = undo(f"/spots/{place.spot.id}/samples", former(place.sample, NewSample))
        go = _page(place.job, place.spot.code) if word == "delete" else f"/samples/{sample_id}"
        return place.sample, go, remade

    return _close(its, me, find, word, f"/samples/{sample_id}")


@router.post("/runs/{code}/aside", tags=["runs"])
def set_aside(its: TheShop, me: Me, code: str, why: Why) -> dict[str, Any]:
    """Set a run aside with a reason: kept whole, out of sight. Its instrument is let go first."""
    left = attached_instruments.leave(its, code)
    with its.writing(me) as session:
        run = the_run(session, code, to_write=True)
        if left and run.in_hand:
            instrument_log.note_instrument(session, run, left, "left", me, its.now(), "set aside")
        put_right.set_aside(session, run, me, its.now(), why.reason)
        seq, sample_id = run.last_seq, run.sample_id
    its.listeners.tell(code, seq)
    said, back = f"{code} is set aside; it is listed under All runs.", undo(f"/runs/{quote(code)}/back")
    return {"go": f"/samples/{sample_id}", "said": said, "undo": back}


@router.post("/runs/{code}/back", tags=["runs"])
def bring_back(its: TheShop, me: Me, code: str, why: Why) -> dict[str, str]:
    """Bring a run back that was set aside."""
    with its.writing(me) as session:
        run = the_run(session, code, to_write=True)
        put_right.bring_back(session, run, me, its.now(), why.reason)
        seq = run.last_seq
    its.listeners.tell(code, seq)
    return {"go": f"/runs/{quote(code)}"}


@router.post("/jobs/{code}/schedule/tests", tags=["schedule"])
def ask(its: TheShop, me: Me, code: str, asked: TestsAsked) -> dict[str, Any]:
    """Put tests on the schedule of a job."""
    with its.database.reading() as session:
        job = the_job(session, code)
        go, locks = f"{_page(job)}/schedule", [f"schedule of {job.id}"]
        before = _ticked(its, session, me, job, asked)
    with its.writing(me) as session:
        again = partial(_ticked, its, session, me, job, asked)
        made = pasted_plan.carry_out(before, session, locks, again)
    return {
        "go": go,
        "said": f"{len(asked.tests)} on the schedule.",
        "undo": undo("/undo", {"made": [one.model_dump(mode="json") for one in made]}),
    }


def _ticked(its: Shop, session: Session, me: Me, job: Job, asked: TestsAsked) -> pasted_plan.Plan:
    """The tests that were ticked, as they will be written; raises FieldError."""
    doer = pasted_plan.Doer(session, job, me, its.now(), asked.due_on)
    places = {p.sample.id for p in doer.places}
    if not asked.tests:
        raise FieldError("tests", "tick the tests that are asked for")
    acts: list[pasted_plan.Act] = []
    for one in asked.tests:
        sample_id, _, name = one.partition(":")
        if int(sample_id) not in places:
            raise FieldError("tests", f"sample {sample_id} is none of this job")
        row = Owed(sample_id=int(sample_id), method=method(name).name, due_on=asked.due_on)
        acts.append(partial(pasted_kinds.ask_for, new=row))
    return pasted_plan.planned(doer, acts)


def _owed(session: Session, owed_id: int) -> tuple[Owed, Job]:
    row = session.get(Owed, owed_id)
    if row is None:
        raise Missing(f"nothing {owed_id} is on any schedule")
    return row, the_place(session, row.sample_id).job


@router.post("/schedule/{owed_id}/change", tags=["schedule"])
def change_owed(its: TheShop, me: Me, owed_id: Id, change: OwedChange) -> dict[str, str]:
    """Another day, or another mass, for a test on the schedule; what was withdrawn is asked for again."""
    with its.writing(me) as session:
        row, job = _owed(session, owed_id)
        if change.wanted_g is not None and change.wanted_g <= 0:
            raise FieldError("wanted_g", "is above 0")
        sample = session.get(Sample, row.sample_id)
        assert sample is not None
        schedule.ask(session, sample, row.method, change.due_on, change.wanted_g)
        return {"go": f"{_page(job)}/schedule"}


@router.post("/schedule/{owed_id}/withdraw", tags=["schedule"])
def withdraw(its: TheShop, me: Me, owed_id: Id, why: Why) -> dict[str, Any]:
    """Withdraw a test from the schedule, with a reason."""
    with its.writing(me) as session:
        row, job = _owed(session, owed_id)
        due = row.due_on.isoformat()
        schedule.withdraw(session, row, me, why.reason)
        back = undo(f"/schedule/{owed_id}/change", {"due_on": due})
        return {"go": f"{_page(job)}/schedule", "said": "Test withdrawn.", "undo": back}
