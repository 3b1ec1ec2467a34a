"""The rack: the merged calls of all runs that the clock calls, and their planned starts."""

import uuid
from typing import Any

from fastapi import APIRouter, Request
from sqlmodel import Session

from vadum.bench.rack import Rack, rack
from vadum.bench.vessels import clock_calls
from vadum.soil.contract.called import Called
from vadum.soil.register import METHODS
from vadum.tape import posting, runs
from vadum.tape.codes import whole_number
from vadum.tape.entries import NewEntry
from vadum.tape.ground import Place
from vadum.tape.runs import NotAllowed, Read
from vadum.web.context import Me, Reading, Shop, TheShop, page, part
from vadum.web.views.rack import rack_values

router = APIRouter(include_in_schema=False)
PARTS = ("call", "glasses", "line", "sheet", "starts")
MOST = 24


def timed_methods() -> tuple[str, ...]:
    """The methods whose readings the clock can call."""
    return tuple(name for name, its in METHODS.items() if its.by_clock)


def open_vessels(its: Shop, session: Session) -> list[tuple[Read, Place]]:
    """Every open run that the clock calls with its place, oldest first."""
    sound, _ = its.shelf.judged(session, runs.open_of(session, timed_methods(), MOST), its.now())
    return [(one.read, runs.place_of(session, one.read.run)) for one in sound]


def the_rack(its: Shop, session: Session) -> Rack:
    """The rack now."""
    now = its.now()
    moments = [m for _, found in its.foreman.in_hand(session, now) for m in found]
    return rack(open_vessels(its, session), moments, now)


@router.get("/rack")
def rack_page(request: Request, its: TheShop, me: Me, session: Reading, pick: str = "") -> Any:
    """The rack."""
    return page(request, "rack.html", me, place="bench", **rack_values(the_rack(its, session), its.now(), pick))


@router.get("/rack/live")
def rack_live(request: Request, its: TheShop, me: Me, session: Reading, pick: str = "") -> Any:
    """The rack's moving parts."""
    values = rack_values(the_rack(its, session), its.now(), pick)
    return {"fragments": {name: part(request, f"rack/_{name}.html", **values) for name in PARTS}}


@router.post("/rack/plan")
def plan_starts(its: TheShop, me: Me) -> Any:
    """Put the proposed start of every ready cylinder on its tape."""
    with its.writing(me) as session:
        proposals = the_rack(its, session).proposals
        planned = [p for p in proposals if p.start_at is not None]
        if not planned:
            raise NotAllowed("nothing is ready to start, or none can start without a clash in the next hours")
        for proposal in planned:
            assert proposal.start_at is not None
            run = runs.find(session, proposal.code, to_write=True)
            assert run is not None
            called = _called(its.shelf.read(session, run), proposal.id)
            assert called is not None
            new = NewEntry(path=called.plan_field, value=proposal.start_at.isoformat(), source="plan")
            posting.post(session, run, new, me, its.now())
        grown = [(p.code, runs.find(session, p.code)) for p in planned]
        told = [(code, run.last_seq) for code, run in grown if run]
    for code, seq in told:
        its.listeners.tell(code, seq)
    return {"planned": len(planned), "go": "/rack"}


def _called(read: Read, vessel: str) -> Called | None:
    """What the clock calls of a vessel, by the rack's name of it."""
    calls = clock_calls(read)
    _, _, number = vessel.partition(":")
    place = whole_number(number) or 0
    return calls[place] if place < len(calls) else None


@router.post("/rack/forget/{vessel}")
def forget_start(its: TheShop, me: Me, vessel: str) -> Any:
    """Take a planned start back, so that it can be planned anew."""
    code = vessel.partition(":")[0]
    with its.writing(me) as session:
        run = runs.find(session, code)
        read = None if run is None else its.shelf.read(session, run)
        called = None if read is None else _called(read, vessel)
        if run is None or read is None or called is None:
            raise NotAllowed(f"{code[:20]} is not on the rack")
        entry = read.folded.came_from.get(called.plan_field)
        if entry is None:
            raise NotAllowed(f"{code} has no planned start")
        strikes = (uuid.UUID(entry.id),)
        new = NewEntry(path=called.plan_field, strikes=strikes, reason="planned anew", source="plan")
        posting.post(session, run, new, me, its.now())
        seq = run.last_seq
    its.listeners.tell(code, seq)
    return {"go": "/rack"}
