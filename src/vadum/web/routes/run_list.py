"""All runs: a list that the address filters, and the same as CSV."""

import csv
import io
from typing import Annotated, Any
from urllib.parse import urlencode

from fastapi import APIRouter, Depends, Query, Request
from fastapi.responses import Response
from pydantic import ValidationError
from sqlalchemy import select
from sqlmodel import Session, col

from vadum.paper.spreadsheet import spreadsheet_cell
from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.shown import shown_values
from vadum.soil.register import METHODS
from vadum.tape import run_list
from vadum.tape.ground import PRACTICE_JOB
from vadum.tape.run_list import MOST_EXPORTED, SIZE, Filter
from vadum.tape.tables import Job, Person
from vadum.web.context import Me, PageNumber, Reading, Shop, TheShop, page

router = APIRouter(include_in_schema=False)


def _asked(
    method: Annotated[str, Query(max_length=40)] = "",
    job: Annotated[str, Query(max_length=20)] = "",
    by: Annotated[str, Query(max_length=10)] = "",
    state: Annotated[str, Query(max_length=10)] = "",
    since: Annotated[str, Query(max_length=10)] = "",
    until: Annotated[str, Query(max_length=10)] = "",
    sample: Annotated[str, Query(max_length=10)] = "",
) -> Filter:
    """What the address asks for; a form sends its empty fields too."""
    told = {"method": method, "job": job, "by": by, "state": state, "since": since, "until": until, "sample": sample}
    try:
        return Filter.model_validate({name: value for name, value in told.items() if value})
    except ValidationError as error:
        first = error.errors()[0]
        raise FieldError(str(first["loc"][0]), first["msg"]) from None


Asked = Annotated[Filter, Depends(_asked)]


def _address(asked: Filter, **more: Any) -> str:
    told = {name: value for name, value in asked.model_dump(mode="json").items() if value}
    return urlencode({**told, **more})


@router.get("/runs")
def runs_page(
    request: Request, its: TheShop, me: Me, session: Reading, asked: Asked, page_number: PageNumber = 1
) -> Any:
    """Runs by date, method, job, person, state, with their key results."""
    zone = its.now().tzinfo
    found = run_list.found(session, asked, zone, page_number)
    places = {run.id: place for run, place in found}
    sound, broken = its.shelf.judged(session, [run for run, _ in found], its.now())
    many = run_list.count(session, asked, zone)
    jobs = select(col(Job.code)).where(col(Job.code) != PRACTICE_JOB).order_by(col(Job.code))
    return page(
        request,
        "runs.html",
        me,
        place="dossiers",
        asked=asked,
        rows=[(one.read, places[one.read.run.id], one.outcome) for one in sound],
        broken=broken,
        many=many,
        page_number=page_number,
        pages=max(1, -(-many // SIZE)),
        address=lambda **more: f"/runs?{_address(asked, **more)}",
        csv_address=f"/runs.csv?{_address(asked)}",
        methods=METHODS,
        jobs=list(session.execute(jobs).scalars()),
        people=list(session.execute(select(Person).order_by(col(Person.name))).scalars()),
        most=MOST_EXPORTED,
    )


@router.get("/runs.csv")
def runs_csv(its: TheShop, me: Me, session: Reading, asked: Asked) -> Response:
    """The same as a table for other programs: points, SI units; of one method, a column for each of its results."""
    headers = {"Content-Disposition": 'attachment; filename="runs.csv"', "Cache-Control": "no-store"}
    text = _table(its, session, asked)
    return Response(text.encode("utf-8-sig"), media_type="text/csv; charset=utf-8", headers=headers)


HEADS = ["run", "test", "school", "state", "begun", "job", "spot", "depth m", "sample"]


def _table(its: Shop, session: Session, asked: Filter) -> str:
    found = run_list.found(session, asked, its.now().tzinfo, 1, MOST_EXPORTED)
    places = {run.id: place for run, place in found}
    sound, broken = its.shelf.judged(session, [run for run, _ in found], its.now())
    keys: dict[str, str] = {}
    rows = []
    for one in sound:
        run, place = one.read.run, places[one.read.run.id]
        depth = "" if place.sample.depth_top_m is None else f"{place.sample.depth_top_m:g}"
        begun = run.started_at.astimezone(its.now().tzinfo).isoformat(timespec="minutes")
        told = [run.code, one.read.method.title, one.read.school.title, run.state, begun, place.job.code]
        told += [place.spot.code, depth, place.sample.code]
        values = [v for v in shown_values(one.outcome, one.read.method.leads) if v.leads and not v.sentence]
        cells = {
            f"{v.name}, {v.unit}".rstrip(", "): f"{v.reported}{' ' + v.qualified if v.qualified else ''}"
            for v in values
        }
        keys |= dict.fromkeys(cells, "")
        rows.append((told, cells))
    out = io.StringIO()
    writer = csv.writer(out)
    single = bool(asked.method)
    writer.writerow([*HEADS, *(keys if single else ["results"])])
    for told, cells in rows:
        more = [cells.get(k, "") for k in keys] if single else ["; ".join(f"{k}: {v}" for k, v in cells.items())]
        writer.writerow([spreadsheet_cell(c) for c in (*told, *more)])
    for lost in broken:
        writer.writerow([lost.code, f"cannot be {lost.doing}"])
    return out.getvalue()
