"""Lists that are pasted: looked at before anything is made, made whole or not at all, and undone in one stroke."""

from datetime import date
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field
from sqlmodel import Session

from vadum.tape import ground, pasted_kinds
from vadum.tape.pasted_kinds import KINDS, Doer, Kind, Made, Result
from vadum.tape.tables import Job
from vadum.web.context import Me, Missing, Reading, Shop, TheShop, page, part
from vadum.web.routes.ground import the_job
from vadum.web.undoing import undo

router = APIRouter()
MOST_TEXT = 60_000
MOST_MADE = 20_000


class Pasted(BaseModel):
    """A list as it was pasted; the job it belongs to; `due_on` for lines of a schedule without a day; `units` that a
    person gave for heads without one, by column."""

    model_config = ConfigDict(extra="forbid")
    pasted: str = Field(max_length=MOST_TEXT)
    job: str = Field("", max_length=20)
    due_on: date | None = None
    units: dict[str, str] = Field(default_factory=dict, max_length=20)


class Undone(BaseModel):
    """All that one paste made, as its answer named it."""

    model_config = ConfigDict(extra="forbid")
    made: tuple[Made, ...] = Field(max_length=MOST_MADE)


class _OnlyLooked(Exception):
    """Rolls a transaction back: nothing is kept of what was only looked at."""


def _kind(name: str) -> pasted_kinds.ListKind:
    if name not in KINDS:
        raise Missing("there is no such list")
    return KINDS[name]


def _carried_out(session: Session, its: Shop, me: Me, name: Kind, asked: Pasted) -> Result:
    job: Job | None = None
    places: tuple[ground.Place, ...] = ()
    if name != "tins":
        job = the_job(session, asked.job)
        places = tuple(ground.places(session, job.id or 0)) if name == "schedule" else ()
    doer = Doer(session, job, me, its.now(), asked.due_on, places)
    return pasted_kinds.carry_out(_kind(name), asked.pasted, doer, asked.units)


def _count(many: int, noun: str) -> str:
    return f"{many} {noun}{'' if many == 1 else 's'}"


@router.post("/api/v1/pasted/{name}/preview", tags=["pasted"])
def preview(request: Request, its: TheShop, me: Me, name: Kind, asked: Pasted) -> dict[str, Any]:
    """What a list would make, line by line, with what cannot be taken; nothing is kept."""
    result: Result | None = None
    try:
        with its.writing(me) as session:
            result = _carried_out(session, its, me, name, asked)
            raise _OnlyLooked
    except _OnlyLooked:
        assert result is not None
    listed = result.listed
    wrong = len(listed.problems)
    html = part(request, "_pasted_preview.html", result=result, kind=_kind(name))
    return {
        "html": html,
        "lines": len(listed.lines),
        "problems": wrong,
        "asks": {column.key: column.unit for column, _ in listed.asks},
        "words": f"Register {_count(len(listed.lines), _kind(name).noun)}"
        if name != "schedule"
        else f"Schedule {_count(len(listed.lines), 'test')}",
    }


@router.post("/api/v1/undo", tags=["pasted"])
def take_back(its: TheShop, me: Me, undone: Undone) -> dict[str, Any]:
    """Take back what was just made, all that one paste made: whole, or nothing where something rests on it."""
    with its.writing(me) as session:
        many = pasted_kinds.undo(session, undone.made, me, its.now())
    return {"said": f"Undone: {_count(many, 'entry') if many == 1 else f'{many} entries'} taken back."}


@router.post("/api/v1/pasted/{name}", tags=["pasted"], status_code=201)
def make(its: TheShop, me: Me, name: Kind, asked: Pasted) -> dict[str, Any]:
    """Make all that a list says: all of it, or nothing and the first line that cannot be taken."""
    with its.writing(me) as session:
        result = _carried_out(session, its, me, name, asked)
        result.listed.refuse()
        made = [one.model_dump() for one in result.made]
    job = f"/ground/{quote(asked.job)}"
    go = {"tins": "/kit", "schedule": f"{job}/schedule"}.get(name, job)
    done = "on the schedule" if name == "schedule" else "registered"
    said = f"{_count(len(made), _kind(name).noun)} {done}."
    return {"go": go, "said": said, "made": made, "undo": undo("/undo", {"made": made})}


@router.get("/ground/{code}/paste/{name}", include_in_schema=False)
def paste_page(request: Request, me: Me, session: Reading, code: str, name: Kind) -> Any:
    """Where a list of locations, samples or tests of a job is pasted."""
    if name == "tins":
        raise Missing("there is no such page")
    job = the_job(session, code)
    return page(request, "paste.html", me, place="ground", name=name, kind=_kind(name), job=job)


@router.get("/kit/tins", include_in_schema=False)
def tins_page(request: Request, me: Me) -> Any:
    """Where a list of tins is pasted."""
    return page(request, "paste.html", me, place="kit", name="tins", kind=KINDS["tins"], job=None)
