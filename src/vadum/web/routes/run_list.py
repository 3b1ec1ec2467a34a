"""All runs: a list that the address filters, and the same as CSV."""

import csv
import io
import json
from codecs import BOM_UTF8
from datetime import tzinfo
from functools import partial
from tempfile import SpooledTemporaryFile
from typing import Annotated, Any
from urllib.parse import urlencode

from fastapi import APIRouter, Depends, Query, Request
from fastapi.responses import Response, StreamingResponse
from pydantic import ValidationError
from sqlalchemy import select
from sqlmodel import Session, col
from starlette.background import BackgroundTask

from vadum.paper.spreadsheet import spreadsheet_cell
from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.shown import shown_values
from vadum.soil.register import METHODS
from vadum.tape import run_list
from vadum.tape.ground import PRACTICE_JOB, Place
from vadum.tape.run_list import SIZE, Filter
from vadum.tape.runs import Judged
from vadum.tape.signatures import standing
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
    )


@router.get("/runs.csv")
def runs_csv(its: TheShop, me: Me, session: Reading, asked: Asked) -> Response:
    """The same as a table for other programs, whole: points, SI units; of one method, a column for each result."""
    file = _table(its, session, asked)
    headers = {"Content-Disposition": 'attachment; filename="runs.csv"', "Cache-Control": "no-store"}
    pieces = iter(partial(file.read, A_PIECE), b"")
    return StreamingResponse(
        pieces, media_type="text/csv; charset=utf-8", headers=headers, background=BackgroundTask(file.close)
    )


HEADS = ["run", "test", "school", "state", "begun", "job", "spot", "depth m", "sample", "brought in from"]
A_PIECE = 65_536  # bytes sent at a time
IN_MEMORY = 2_000_000  # bytes of a table before it goes to the disk


def _cells(one: Judged) -> dict[str, str]:
    """The results that lead, by their heading."""
    values = [v for v in shown_values(one.outcome, one.read.method.leads) if v.leads and not v.sentence]
    return {
        f"{v.name}, {v.unit}".rstrip(", "): f"{v.reported}{' ' + v.qualified if v.qualified else ''}" for v in values
    }


def _told(one: Judged, place: Place, zone: tzinfo | None) -> list[str]:
    run, stands = one.read.run, standing(one.read)
    depth = "" if place.sample.depth_top_m is None else f"{place.sample.depth_top_m:g}"
    return [
        run.code,
        one.read.method.title,
        one.read.school.title,
        f"{run.state} at {stands.laboratory}" if stands.laboratory else run.state,
        run.started_at.astimezone(zone).isoformat(timespec="minutes"),
        place.job.code,
        place.spot.code,
        depth,
        place.sample.code,
        stands.origin,
    ]


def _table(its: Shop, session: Session, asked: Filter) -> "SpooledTemporaryFile[bytes]":
    """Every run that is asked for, read a page at a time: a long table lies on the disk, not in memory.

    A heading stands for each result that any run of a single method has, so that the heads are known last.
    """
    now = its.now()
    keys: dict[str, str] = {}
    rows: SpooledTemporaryFile[str] = SpooledTemporaryFile(IN_MEMORY, "w+", encoding="utf-8")  # noqa: SIM115
    for found in run_list.in_pages(session, asked, now.tzinfo):
        places = {run.id: place for run, place in found}
        sound, broken = its.shelf.judged(session, [run for run, _ in found], now)
        for one in sound:
            cells = _cells(one)
            keys |= dict.fromkeys(cells, "")
            rows.write(json.dumps([_told(one, places[one.read.run.id], now.tzinfo), cells]) + "\n")
        for lost in broken:
            rows.write(json.dumps([[lost.code, f"cannot be {lost.doing}"], None]) + "\n")
    made: SpooledTemporaryFile[bytes] = SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115
    made.write(BOM_UTF8)
    line = io.StringIO()
    writer = csv.writer(line)
    single = bool(asked.method)
    writer.writerow([*HEADS, *(keys if single else ["results"])])
    rows.seek(0)
    for text in rows:
        told, cells = json.loads(text)
        more = [cells.get(k, "") for k in keys] if single and cells is not None else []
        if not single and cells is not None:
            more = ["; ".join(f"{k}: {v}" for k, v in cells.items())]
        writer.writerow([spreadsheet_cell(c) for c in (*told, *more)])
        made.write(line.getvalue().encode("utf-8"))
        line.seek(0)
        line.truncate()
    made.write(line.getvalue().encode("utf-8"))
    rows.close()
    made.seek(0)
    return made
