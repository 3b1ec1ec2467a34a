"""Lists that are pasted: looked at before anything is made, made whole or not at all, and undone in one stroke."""

from datetime import date
from functools import partial
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field
from sqlmodel import Session

from vadum.tape import pasted_kinds, pasted_plan
from vadum.tape.pasted_kinds import KINDS, Kind
from vadum.tape.pasted_plan import Doer, Made
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
    units: dict[str, Annotated[str, Field(max_length=30)]] = Field(default_factory=dict, max_length=20)


class Undone(BaseModel):
    """All that one paste made, as its answer named it."""

    model_config = ConfigDict(extra="forbid")
    made: tuple[Made, ...] = Field(max_length=MOST_MADE)


def _kind(name: str) -> pasted_kinds.ListKind:
    if name not in KINDS:
        raise Missing("there is no such list")
    return KINDS[name]


def _doer(session: Session, its: Shop, me: Me, name: Kind, asked: Pasted) -> Doer:
    job = None if name == "tins" else the_job(session, asked.job)
    return Doer(session, job, me, its.now(), asked.due_on)


def _count(many: int, noun: str) -> str:
    return f"{many} {noun}{'' if many == 1 else 's'}"


@router.post("/api/v1/pasted/{name}/preview", tags=["pasted"])
def preview(request: Request, its: TheShop, me: Me, session: Reading, name: Kind, asked: Pasted) -> dict[str, Any]:
    """What a list would make, line by line, with what cannot be taken; nothing is written."""
    kind = _kind(name)
    result, _ = pasted_kinds.look(kind, asked.pasted, _doer(session, its, me, name, asked), asked.units)
    listed = result.listed
    verb = "Schedule" if kind.grid else "Register"
    return {
        "html": part(request, "_pasted_preview.html", result=result, kind=kind),
        "lines": len(listed.lines),
        "problems": len(listed.problems),
        "asks": {column.key: column.unit for column, _ in listed.asks},
        "words": f"{verb} {_count(len(listed.lines), kind.noun)}",
    }


@router.post("/api/v1/undo", tags=["pasted"])
def take_back(its: TheShop, me: Me, undone: Undone) -> dict[str, Any]:
    """Take back what was just made, all that one paste made: whole, or nothing where something rests on it."""
    with its.writing(me) as session:
        many = pasted_kinds.undo(session, undone.made, me, its.now())
    return {"said": f"Undone: {many} {'entry' if many == 1 else 'entries'} removed."}


@router.post("/api/v1/pasted/{name}", tags=["pasted"], status_code=201)
def make(its: TheShop, me: Me, name: Kind, asked: Pasted) -> dict[str, Any]:
    """Make all that a list says: all of it, or nothing and the first line that cannot be taken."""
    kind = _kind(name)
    with its.database.reading() as session:
        before = pasted_kinds.plan(kind, asked.pasted, _doer(session, its, me, name, asked), asked.units)
    with its.writing(me) as session:
        doer = _doer(session, its, me, name, asked)
        again = partial(pasted_kinds.plan, kind, asked.pasted, doer, asked.units)
        found = pasted_plan.carry_out(before, session, kind.locks(doer), again)
    made = [one.model_dump(mode="json") for one in found]
    job = f"/ground/{quote(asked.job)}"
    go = {"tins": "/kit", "schedule": f"{job}/schedule"}.get(name, job)
    done = "on the schedule" if name == "schedule" else "registered"
    said = f"{_count(len(made), kind.noun)} {done}."
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
