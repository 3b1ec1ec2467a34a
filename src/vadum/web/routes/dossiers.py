"""Dossiers: the sheets, by how far they have come."""

from typing import Any

from fastapi import APIRouter, Request

from vadum.paper.sheet import ALWAYS
from vadum.tape import runs
from vadum.web.context import Me, Reading, TheShop, page

router = APIRouter(include_in_schema=False)


@router.get("/dossiers")
def dossiers_page(request: Request, its: TheShop, me: Me, session: Reading, page_number: int = 1) -> Any:
    """Sheets to sign, to check, closed."""
    groups = []
    for state, title in (("open", "To finish and sign"), ("signed", "To check"), ("checked", "Checked and closed")):
        listed = runs.listed(session, state, page=max(page_number, 1), size=25)
        reads = [(its.shelf.read(session, run), runs.place_of(session, run)) for run in listed]
        rows = [(read, where, read.at(its.now())) for read, where in reads]
        groups.append((state, title, rows))
    return page(request, "dossiers.html", me, place="dossiers", groups=groups, page_number=page_number, always=ALWAYS)
