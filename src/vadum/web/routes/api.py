"""The JSON interface: the same verbs as the pages, described by OpenAPI."""

from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Path, Query
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from vadum.soil.contract.errors import FieldError
from vadum.soil.register import METHODS, method
from vadum.tape import ground, posting, practice_runs, runs, specimens
from vadum.tape.entries import read_tape
from vadum.tape.ground import NewJob, NewSample, NewSpot
from vadum.web.context import Me, Reading, TheShop
from vadum.web.plain import PlainJSON
from vadum.web.routes.ground import the_job, the_place, the_spot
from vadum.web.routes.runs import Posted, sourced, the_run
from vadum.web.undoing import undo
from vadum.web.views.find import Finder

router = APIRouter(prefix="/api/v1")
Made = dict[str, Any]


MOST_ID = 2**31 - 1  # what a number of a row can be, on every database
Id = Annotated[int, Path(ge=1, le=MOST_ID)]


class NewRun(BaseModel):
    """A run to begin."""

    model_config = ConfigDict(extra="forbid")
    sample_id: int = Field(ge=1, le=MOST_ID)
    method: str = Field(max_length=40)
    school: str | None = Field(None, max_length=60)
    material: str = Field("fresh", max_length=20)
    reason: str = Field("", max_length=400)
    specimen: str = Field("", max_length=20)
    specimen_g: specimens.Maybe = None


@router.get("/methods", tags=["methods"])
def methods(me: Me) -> list[Made]:
    """Every method with its schools."""
    return [
        {
            "name": m.name,
            "title": m.title,
            "standards": m.standards,
            "schools": [s.model_dump(mode="json") for s in m.schools.values()],
        }
        for m in METHODS.values()
    ]


@router.get("/methods/{name}/schema", tags=["methods"])
def method_schema(me: Me, name: str) -> Made:
    """JSON Schema of what a method's record holds."""
    return method(name).Record.model_json_schema()


@router.get("/runs", tags=["runs"])
def list_runs(
    me: Me,
    session: Reading,
    state: str = "open",
    page: Annotated[int, Query(ge=1, le=100_000)] = 1,
) -> list[Made]:
    """Runs in a state, newest first, fifty a page."""
    if state not in runs.STATES:
        raise FieldError("state", f"is one of {', '.join(runs.STATES)}")
    return [
        {"code": r.code, "method": r.method, "school": r.school, "state": r.state, "started_at": r.started_at}
        for r in runs.listed(session, state, page=page)
    ]


@router.post("/runs", tags=["runs"], status_code=201)
def start_run(its: TheShop, me: Me, new: NewRun) -> Made:
    """Begin a run on a sample."""
    with its.writing(me) as session:
        where = the_place(session, new.sample_id)
        run = runs.start(
            session, where, new.method, new.school, me, its.now(), material=new.material, reason=new.reason
        )
        if new.specimen:
            specimens.begin_on(session, run, new.specimen, new.specimen_g, me)
        posting.bring(session, its.shelf, run, me, its.now())
        code = run.code
    back = undo(f"/runs/{quote(code)}/aside", {"reason": "started by mistake"})
    return {"code": code, "go": f"/runs/{quote(code)}", "said": f"{code} started.", "undo": back}


@router.post("/samples/{sample_id}/specimens", tags=["ground"], status_code=201)
def cut_specimen(its: TheShop, me: Me, sample_id: Id, new: specimens.NewSpecimen) -> dict[str, Any]:
    """Cut a specimen from a sample."""
    with its.writing(me) as session:
        made = specimens.add(session, the_place(session, sample_id).sample, new)
        session.flush()
        code, made_id = made.code, made.id
    back = undo("/undo", {"made": [{"what": "specimen", "id": made_id}]})
    return {"code": code, "go": f"/samples/{sample_id}", "said": f"Specimen {code} registered.", "undo": back}


@router.post("/samples/{sample_id}/specimens/{code}", tags=["ground"])
def correct_specimen(
    its: TheShop, me: Me, sample_id: Id, code: str, change: specimens.SpecimenChange
) -> dict[str, Any]:
    """Put right what was noted of a specimen; its number and what it was cut from stay."""
    with its.writing(me) as session:
        the_place(session, sample_id)
        specimens.correct(session, sample_id, code, change)
    return {"code": code, "go": f"/samples/{sample_id}"}


@router.get("/samples/{sample_id}/specimens", tags=["ground"])
def list_specimens(its: TheShop, me: Me, session: Reading, sample_id: Id) -> list[dict[str, Any]]:
    """The specimens of a sample, the runs on them, and what is left."""
    the_place(session, sample_id)
    return [
        h.specimen.model_dump(exclude={"id", "sample_id"}) | {"runs": h.runs, "pieces": h.pieces, "left_g": h.left_g}
        for h in specimens.held(session, sample_id)
    ]


@router.get("/runs/{code}", tags=["runs"])
def get_run(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """A run's outcome now, with advice."""
    read = its.shelf.read(session, the_run(session, code))
    return Response(read.at(its.now()).model_dump_json(), media_type="application/json")


@router.get("/runs/{code}/tape", tags=["runs"])
def get_tape(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """A run's whole tape."""
    run = the_run(session, code)
    entries = practice_runs.told(run, read_tape(session, run.id or 0))  # not folded: a tape is told whatever is on it
    return PlainJSON([e.model_dump(mode="json", exclude={"run_id"}) for e in entries])


@router.post("/runs/{code}/entries", tags=["runs"], status_code=201)
def post_entry(its: TheShop, me: Me, code: str, posted: Posted) -> Made:
    """Keep a reading. Sending the same id again gives the entry that stands."""
    with its.writing(me) as session:
        run = the_run(session, code, to_write=True)
        entry, fresh = posting.post(
            session, run, sourced(its, code, posted), me, its.now(), insist=posted.insist, by_hand=True
        )
        seq = run.last_seq
    its.listeners.tell(code, seq)
    return {"id": entry.id, "seq": entry.seq, "path": entry.path, "hash": entry.hash, "new": fresh}


@router.get("/find", tags=["ground"])
def find(
    its: TheShop, me: Me, session: Reading, q: Annotated[str, Query(max_length=80)] = "", exact: bool = False
) -> list[Made]:
    """What the find box finds, each with what it is doing now; `exact` keeps what a scanner's code names."""
    found = Finder(session, its.foreman, its.now()).rows(q)
    return [row._asdict() for row in found if row.exact or not exact]


@router.post("/jobs", tags=["ground"], status_code=201)
def add_job(its: TheShop, me: Me, new: NewJob) -> Made:
    """Make a job."""
    with its.writing(me) as session:
        job = ground.add_job(session, new, its.now())
        code = job.code
    back = undo(f"/jobs/{quote(code)}/delete", go="/ground")
    return {"code": code, "go": f"/ground/{quote(code)}", "said": f"Job {code} registered.", "undo": back}


@router.post("/jobs/{code:path}/spots", tags=["ground"], status_code=201)
def add_spot(its: TheShop, me: Me, code: str, new: NewSpot) -> Made:
    """Make a spot of a job."""
    with its.writing(me) as session:
        spot = ground.add_spot(session, the_job(session, code), new)
        made = spot.id
    go = f"/ground/{quote(code)}?spot={quote(new.code)}"
    return {"id": made, "go": go, "said": f"Location {new.code} registered.", "undo": undo(f"/spots/{made}/delete")}


@router.post("/spots/{spot_id}/samples", tags=["ground"], status_code=201)
def add_sample(its: TheShop, me: Me, spot_id: Id, new: NewSample) -> Made:
    """Make a sample of a spot."""
    with its.writing(me) as session:
        spot, _ = the_spot(session, spot_id)
        made = ground.add_sample(session, spot, new).id
    said, back = f"Sample {new.code} logged in.", undo(f"/samples/{made}/delete")
    return {"id": made, "go": f"/samples/{made}", "said": said, "undo": back}
