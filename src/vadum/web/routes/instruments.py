"""Instruments: which run listens to which, their figures, starting and stopping, their raw samples."""

import csv
import io
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from vadum.paper.spreadsheet import spreadsheet_cell
from vadum.soil.contract.errors import FieldError
from vadum.tape import instrument_log, kit
from vadum.tape.runs import NotAllowed
from vadum.web import attached_instruments
from vadum.web.context import Me, Reading, TheShop
from vadum.web.routes.runs import the_run

router = APIRouter()


class Listen(BaseModel):
    """The instrument to listen to; empty leaves it."""

    model_config = ConfigDict(extra="forbid")
    instrument: str = Field("", max_length=40)


class Command(BaseModel):
    """What the instrument, or the ear, should do."""

    model_config = ConfigDict(extra="forbid")
    command: str = Field(max_length=20)


@router.post("/api/v1/runs/{code}/instrument", tags=["instruments"])
def listen(its: TheShop, me: Me, code: str, asked: Listen) -> dict[str, Any]:
    """Let the run listen to an instrument, or leave it; noted on its tape."""
    with its.database.reading() as session:
        run = the_run(session, code)
        if not run.in_hand:
            raise NotAllowed(f"{code} is {run.state}: it listens to nothing")
        if asked.instrument:
            kit.instrument(session, asked.instrument)
    left = attached_instruments.leave(
        its, code
    )  # before the write lock is held: the former ear writes its last samples
    ear = None
    try:
        with its.writing(me) as session:
            run = the_run(session, code, to_write=True)
            if left:
                instrument_log.note_instrument(session, run, left, "left", me, its.now())
            if asked.instrument:
                ear = attached_instruments.attach(its, session, run, asked.instrument, me.initials)
                instrument_log.note_instrument(
                    session, run, asked.instrument, "listening", me, its.now(), ear.station.address
                )
    except Exception:
        if ear is not None:
            attached_instruments.leave(its, code)
        raise
    if ear is None:
        its.listeners.say(code, "line", "{}")
        return {"instrument": ""}
    ear.open()
    return ear.status(ear.station.state, ear.station.why)


@router.get("/api/v1/runs/{code}/instrument", tags=["instruments"])
def heard(its: TheShop, me: Me, session: Reading, code: str) -> dict[str, Any]:
    """What the run listens to, how the line stands, and what came so far."""
    return attached_instruments.status(its, session, its.shelf.read(session, the_run(session, code)))


@router.post("/api/v1/runs/{code}/instrument/command", tags=["instruments"])
def command(its: TheShop, me: Me, code: str, asked: Command) -> dict[str, Any]:
    """`take` readings from here on, `start` the frame too, or `stop` and read by hand."""
    if asked.command not in attached_instruments.COMMANDS:
        raise FieldError("command", "is take, start, stop or top")
    return attached_instruments.command(its, code, asked.command)


def _row(instrument: str, row: str) -> str:
    out = io.StringIO()
    cells = [instrument, *row.split(",")]
    csv.writer(out, lineterminator="").writerow([spreadsheet_cell(cell) for cell in cells])
    return out.getvalue()


@router.get("/runs/{code}/raw.csv", include_in_schema=False)
def raw(request: Request, its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """The raw samples as they came."""
    run = the_run(session, code)
    lines, heads = [], ""
    for trace in instrument_log.traces(session, run.id or 0):
        if trace.channels != heads:
            heads = trace.channels
            lines.append(f"instrument,{heads}")
        lines += [_row(trace.instrument, row) for row in trace.data.splitlines()]
    headers = {"Content-Disposition": f'attachment; filename="{code}-raw.csv"', "Cache-Control": "no-store"}
    return Response("\n".join(lines) + "\n", media_type="text/csv; charset=utf-8", headers=headers)
