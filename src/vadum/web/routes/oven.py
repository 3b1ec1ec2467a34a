"""The oven: what stands on its shelves, since when, what may come out; and the round that weighs it, tin after tin."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, ConfigDict, Field

from vadum.bench.lying import Lying, in_the_oven, lying
from vadum.soil.contract.errors import FieldError
from vadum.tape import kit, runs
from vadum.tape.entries import NewEntry, append
from vadum.web import glance
from vadum.web.context import Me, Reading, TheShop, page
from vadum.web.routes.runs import the_run

router = APIRouter()


class Shelved(BaseModel):
    """Where a tin stands in the oven."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    run: str = Field(max_length=20)
    tin: str = Field(max_length=20)
    shelf: str = Field(max_length=20)


def _shelves(tins: list[Lying]) -> list[tuple[str, list[Lying]]]:
    """The tins shelf by shelf, the shelves by their names; those that nobody has placed stand last."""
    names = sorted({t.shelf for t in tins}, key=lambda s: (not s, s))
    return [(name, [t for t in tins if t.shelf == name]) for name in names]


@router.get("/oven", include_in_schema=False)
def oven_page(request: Request, its: TheShop, me: Me, session: Reading) -> Any:
    """What dries: shelf by shelf, and as a list."""
    found = lying(session, its.foreman, its.now())
    tins = in_the_oven(found)
    out = [t for t in tins if t.where == "may come out"]
    on_the_bench = [t for t in found if t.where == "wet on the bench"]
    values: dict[str, Any] = {"tins": tins, "out": out, "shelves": _shelves(tins), "wet": on_the_bench}
    return page(request, "oven.html", me, place="bench", **values)


@router.get("/oven/round", include_in_schema=False)
def round_page(
    request: Request, its: TheShop, me: Me, session: Reading, tin: Annotated[list[str] | None, Query()] = None
) -> Any:
    """Weigh what may come out, one tin after the other; or the tins that are named."""
    tins = in_the_oven(lying(session, its.foreman, its.now()))
    asked = [t for t in tins if (t.code in tin if tin else t.where == "may come out")]
    balances = [i for i in kit.instruments(session) if glance.weighs(session, i.code)]
    return page(request, "round.html", me, place="bench", tins=asked, instruments=balances)


@router.post("/api/v1/oven/shelf", tags=["runs"])
def shelve(its: TheShop, me: Me, asked: Shelved) -> dict[str, str]:
    """Say on which shelf a tin stands; a note on its run's tape."""
    with its.writing(me) as session:
        run = the_run(session, asked.run, to_write=True)
        if not run.in_hand:
            raise runs.NotAllowed(f"{run.code} is {run.state}: nothing of it is in the oven")
        lies = [t for t in in_the_oven(lying(session, its.foreman, its.now())) if t.run_code == run.code]
        if asked.tin not in {t.code for t in lies}:
            raise FieldError("tin", f"{asked.tin} of {run.code} is not in the oven")
        note = NewEntry(path="@shelf", value={"tin": asked.tin, "shelf": asked.shelf})
        append(session, run, note, me.initials, its.now())
    return {"go": "/oven"}


@router.get("/api/v1/instruments/{code}/figure", tags=["instruments"])
def figure(its: TheShop, me: Me, session: Reading, code: str) -> dict[str, Any]:
    """What an instrument shows at this moment, also where no run listens to it."""
    return glance.figure(its, session, code)
