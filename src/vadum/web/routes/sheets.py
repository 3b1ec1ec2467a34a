"""A run's sheet: as a page, as PDF, as a slip for the spot, and as open data."""

from collections.abc import Callable
from typing import Any, TypeVar

from fastapi import APIRouter, Request
from fastapi.responses import Response
from sqlmodel import Session

from vadum.paper.open_data import as_csv, as_json, as_zip
from vadum.paper.printed import SLIP_WIDTH, chart_svg, pdf, slip_pdf
from vadum.paper.sheet import Sheet, sheet_of
from vadum.soil.contract.shown_units import SI
from vadum.tape import identity, job_import, ledger, people, photographs, runs, signatures
from vadum.tape.entries import Taped
from vadum.tape.fence import fenced
from vadum.tape.runs import Read
from vadum.web.context import Me, Reading, Shop, TheShop, page
from vadum.web.routes.runs import the_run
from vadum.web.views import desk

T = TypeVar("T")
router = APIRouter()


def _printed(its: Shop, session: Session, code: str, make: Callable[[Read, Sheet], T], *, data: bool = False) -> T:
    """What is made of a run's sheet; `data` keeps SI units and points, for programs. Raises BrokenRun."""
    read = its.shelf.read(session, the_run(session, code))
    place, everyone = runs.place_of(session, read.run), people.by_initials(session)
    origin = job_import.origin_of(session, read.run)
    if origin is not None:
        everyone |= job_import.people_of(origin, everyone, read.entries)
    from_where = f"from {origin.laboratory}, where it was {origin.code}" if origin is not None else ""
    head = ledger.head(session.connection())
    who = identity.identity(session)
    if data:
        who = who._replace(style=SI)

    def made(entries: tuple[Taped, ...]) -> T:
        some = read.upto(entries).with_uncertainties()
        return make(some, sheet_of(some, place, everyone, its.now(), head, who, from_where))

    return fenced(read.run, read.entries, "printed", made)


def _pictures(session: Session, read: Read) -> dict[str, bytes]:
    """The photographs of a run by their hash."""
    found = {p.hash: photographs.jpeg_of(session, read.run.id or 0, p.hash) for p in photographs.taken(read.entries)}
    return {hash_: jpeg for hash_, jpeg in found.items() if jpeg is not None}


def _marks(session: Session) -> dict[str, bytes]:
    """The laboratory's pictures for paper, by their file name."""
    found = identity.identity(session).marks
    return {f"{key}.{mark.suffix}": mark.data for key, mark in found.items()}


@router.get("/runs/{code}/sheet", include_in_schema=False)
def sheet_page(request: Request, its: TheShop, me: Me, session: Reading, code: str) -> Any:
    """The sheet as a page for the printer."""

    def made(read: Read, sheet: Sheet) -> Any:
        may, seen = desk.may(session, read, me), read.entries[-1].hash
        checker = read.run.state == "signed" and me.role in ("checker", "manager")
        refused = signatures.may_check(session, read.entries, me) if checker else ""
        values: dict[str, Any] = {
            "sheet": sheet,
            "chart": chart_svg(read, sheet.style),
            "may": may,
            "run": read.run,
            "seen": seen,
        }
        values["refused"] = refused
        return page(request, "sheet.html", me, place="dossiers", **values)

    return _printed(its, session, code, made)


@router.get("/runs/{code}/sheet.pdf", include_in_schema=False)
def sheet_pdf(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """The sheet as PDF."""

    def printed(read: Read, sheet: Sheet) -> bytes:
        return pdf(sheet, chart_svg(read, sheet.style), _pictures(session, read), _marks(session))

    return _file(_printed(its, session, code, printed), "application/pdf", f"{code}.pdf")


@router.get("/runs/{code}/slip.pdf", include_in_schema=False)
def slip(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """The field slip as PDF, 80 mm wide."""

    def printed(read: Read, sheet: Sheet) -> bytes:
        return slip_pdf(sheet, chart_svg(read, sheet.style, SLIP_WIDTH))

    return _file(_printed(its, session, code, printed), "application/pdf", f"{code}-slip.pdf")


@router.get("/runs/{code}/run.json", include_in_schema=False)
def run_json(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """The run as open data."""
    return _file(_printed(its, session, code, as_json, data=True).encode(), "application/json", f"{code}.json")


@router.get("/runs/{code}/tables.zip", include_in_schema=False)
def run_tables(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """The run as tidy tables, with the tape's own rows beside."""

    def packed(read: Read, sheet: Sheet) -> bytes:
        return as_zip(read, sheet, _pictures(session, read))

    return _file(_printed(its, session, code, packed, data=True), "application/zip", f"{code}-tables.zip")


@router.get("/runs/{code}/run.csv", include_in_schema=False)
def run_csv(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """The run as rows."""
    made = _printed(its, session, code, as_csv, data=True)
    return _file(made.encode("utf-8-sig"), "text/csv; charset=utf-8", f"{code}.csv")


def _file(content: bytes, kind: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"', "Cache-Control": "no-store"}
    return Response(content, media_type=kind, headers=headers)
