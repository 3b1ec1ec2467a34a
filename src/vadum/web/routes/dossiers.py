"""Dossiers: the sheets, by how far they have come."""

from typing import Any

from fastapi import APIRouter, Request

from vadum.paper.sheet import ALWAYS
from vadum.soil.contract.outcome import Outcome
from vadum.tape import runs
from vadum.tape.fence import BrokenRun
from vadum.tape.ground import Place
from vadum.tape.runs import Read
from vadum.tape.signatures import standing
from vadum.web.context import Me, PageNumber, Reading, TheShop, page

router = APIRouter(include_in_schema=False)
SIZE = 25
# In the order of who waits: a title, and what is to be done.
GROUPS = {
    "ready": ("Finished: to be signed", "Look at the sheet, then sign it at the desk."),
    "signed": ("Signed: to be checked", "Somebody who read none of it looks and closes it."),
    "open": ("Still in work", ""),
    "checked": ("Checked and closed", ""),
    "elsewhere": (
        "Signed at another laboratory",
        "To report it as this laboratory's own, reopen it, review it and sign it here.",
    ),
}


@router.get("/dossiers")
def dossiers_page(request: Request, its: TheShop, me: Me, session: Reading, page_number: PageNumber = 1) -> Any:
    """What waits for a signature or a second pair of eyes first; then what is still in work, then what is closed."""
    found: dict[str, list[tuple[Read, Place, Outcome]]] = {}
    broken: list[BrokenRun] = []
    more = False
    for state in ("open", "signed", "checked"):
        listed = runs.listed(session, state, page=page_number, size=SIZE)
        sound, lost = its.shelf.judged(session, listed, its.now())
        broken += lost
        more = more or len(listed) == SIZE
        for one in sound:
            finished = one.outcome.advice is not None and one.outcome.advice.finished
            group = "ready" if state == "open" and finished else state
            group = "elsewhere" if standing(one.read).laboratory else group
            found.setdefault(group, []).append((one.read, runs.place_of(session, one.read.run), one.outcome))
    mine = me.role in ("checker", "manager")
    first = next((g for g in (("signed", "ready") if mine else ("ready", "signed")) if g in found), "")
    groups = [(key, *GROUPS[key], found[key]) for key in GROUPS if key in found]
    return page(
        request,
        "dossiers.html",
        me,
        place="dossiers",
        groups=groups,
        first=first,
        broken=broken,
        page_number=page_number,
        more=more,
        always=ALWAYS,
    )
