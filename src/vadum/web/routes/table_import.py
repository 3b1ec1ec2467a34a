"""Bringing a table of readings into a run: looked at first, then kept whole or not at all."""

from typing import Any

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field

from vadum.soil.contract import paths
from vadum.soil.contract.block import rows_in
from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import unit_of
from vadum.tape import table_import
from vadum.tape.runs import Read
from vadum.tape.table_import import Asked, Preview, Wrong
from vadum.web.body_limits import TABLE_BYTES, body_up_to
from vadum.web.context import Me, Reading, TheShop, page
from vadum.web.routes.runs import the_run
from vadum.web.undoing import undo

router = APIRouter()
SHOWN_ROWS = 60


class NotBroughtIn(FieldError):
    """The table was undone as a whole; carries what is wrong, for the page."""

    def __init__(self, found: Preview, wrong: tuple[Wrong, ...]) -> None:
        self.found, self.wrong = found, wrong
        first = wrong[0]
        super().__init__(f"line {first.line}, {first.column}", f"{first.problem}. Nothing was kept.")


def choices(read: Read, rows: str) -> list[dict[str, str]]:
    """The fields a column may be."""
    model = table_import.row_model(read.method, rows)
    return [
        {"field": name, "title": f"{field.title}{', ' + unit_of(name) if unit_of(name) else ''}"}
        for name, field in model.model_fields.items()
    ]


def shown(read: Read, rows: str, found: Preview, wrong: tuple[Wrong, ...]) -> dict[str, Any]:
    """A preview as the page draws it."""
    return {
        "heads": found.cells.heads,
        "fields": found.fields,
        "choices": choices(read, rows),
        "rows": [{"line": line, "cells": cells} for line, cells in found.cells.rows[:SHOWN_ROWS]],
        "units": [
            {"said": c.unit, "unit": unit_of(field) if field else "", "changes": c.changes, "asks": c.asks}
            for field, c in zip(found.fields, found.conversions, strict=True)
        ],
        "more": max(0, len(found.cells.rows) - SHOWN_ROWS),
        "entries": _brought(found),
        "wrong": [w._asdict() for w in wrong],
    }


def _brought(found: Preview) -> int:
    """How many rows of the table come in."""
    return len({line for line, _ in found.entries}) if len(found.entries) != 1 else rows_in(found.entries[0][1].value)


class Brought(BaseModel):
    """The entries that an import brought in, by their numbers on the tape, both included."""

    model_config = ConfigDict(extra="forbid")
    first: int = Field(ge=1)
    last: int = Field(ge=1)


@router.get("/runs/{code}/import", include_in_schema=False)
def import_page(request: Request, its: TheShop, me: Me, session: Reading, code: str) -> Any:
    """Where a table is pasted or a file is chosen."""
    read = its.shelf.read(session, the_run(session, code))
    lists = [
        (rows, _title(read, rows), _columns(read, rows))
        for rows in table_import.lists_in(read.method, read.folded.record)
    ]
    return page(request, "import.html", me, place="", run=read.run, method=read.method, lists=lists)


def _title(read: Read, rows: str) -> str:
    field = paths.field_of(read.method.Record, rows)
    title = str(field.title) if field else read.method.rows[paths.pattern_of(rows)]
    of = read.method.row_words(rows, read.folded.record)
    return f"{of}, {title}" if of else title


def _columns(read: Read, rows: str) -> str:
    model = table_import.row_model(read.method, rows)
    return ", ".join(str(field.title) for field in model.model_fields.values())


@router.post("/api/v1/runs/{code}/import/preview", tags=["runs"])
@body_up_to(TABLE_BYTES)
def preview_table(its: TheShop, me: Me, session: Reading, code: str, asked: Asked) -> dict[str, Any]:
    """Look at a table of readings: its columns with their fields, and every cell that cannot be read."""
    read = its.shelf.read(session, the_run(session, code))
    found = table_import.preview(session, read, asked)
    return shown(read, asked.rows, found, found.wrong)


@router.post("/api/v1/runs/{code}/import", tags=["runs"], status_code=201)
@body_up_to(TABLE_BYTES)
def import_table(its: TheShop, me: Me, code: str, asked: Asked) -> dict[str, Any]:
    """Bring a table of readings in: all of its rows in one piece, or none."""
    with its.writing(me) as session:
        run = the_run(session, code, to_write=True)
        before = run.last_seq
        found, wrong = table_import.bring_in(session, run, asked, me, its.now())
        if wrong:
            raise NotBroughtIn(found, wrong)
        first, seq = before + 1, run.last_seq
    its.listeners.tell(code, seq)
    rows = _brought(found)
    said = f"{rows} {'row' if rows == 1 else 'rows'} imported."
    back = undo(f"/runs/{code}/import/undo", {"first": first, "last": seq}, f"/runs/{code}")
    return {"kept": rows, "go": f"/runs/{code}", "said": said, "undo": back}


@router.post("/api/v1/runs/{code}/import/undo", tags=["runs"])
def undo_import(its: TheShop, me: Me, code: str, brought: Brought) -> dict[str, Any]:
    """Strike out all that one import brought in; the readings and their strikes stay on the tape."""
    with its.writing(me) as session:
        run = the_run(session, code, to_write=True)
        many = table_import.take_back(session, run, brought.first, brought.last, me, its.now())
        seq = run.last_seq
    its.listeners.tell(code, seq)
    return {"said": f"Undone: {many} entries struck out.", "go": f"/runs/{code}"}
