"""Dossiers: the sheets, by how far they have come."""

from typing import Any

from fastapi import APIRouter, Request

from vadum.paper.sheet import ALWAYS
from vadum.tape import runs
from vadum.web.context import Me, PageNumber, Reading, TheShop, page

router = APIRouter(include_in_schema=False)


@router.get("/dossiers")
def dossiers_page(request: Request, its: TheShop, me: Me, session: Reading, page_number: PageNumber = 1) -> Any:
    """Sheets to sign, to check, closed."""
    groups = []
    for state, title in (("open", "To finish and sign"), ("signed", "To check"), ("checked", "Checked and closed")):
        listed = runs.listed(session, state, page=page_number, size=25)
        sound, broken = its.shelf.judged(session, listed, its.now())
        rows = [(one.read, runs.place_of(session, one.read.run), one.outcome) for one in sound]
        groups.append((state, title, rows, broken, len(listed)))
    return page(request, "dossiers.html", me, place="dossiers", groups=groups, page_number=page_number, always=ALWAYS)
