"""A run: its desk, its readings, its signatures."""

import asyncio
from collections.abc import AsyncIterator
from typing import Any, NamedTuple
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, ConfigDict, Field
from sqlmodel import Session
from sse_starlette.sse import EventSourceResponse

from vadum.figures.register import figure
from vadum.soil.contract import paths
from vadum.soil.contract.errors import VadumError
from vadum.soil.contract.shown import shown_values, shown_verdicts
from vadum.soil.contract.times import clock
from vadum.tape import (
    instrument_log,
    kit,
    photographs,
    posting,
    runs,
    signatures,
    table_import,
)
from vadum.tape.entries import NewEntry, Taped, TypedEntry
from vadum.tape.fence import BrokenRun, fenced
from vadum.tape.fold import passed
from vadum.tape.runs import Read
from vadum.tape.tables import Person, Run
from vadum.web import attached_instruments
from vadum.web.context import Me, Missing, Reading, Shop, TheShop, first_template, page, part, style_for, visitor
from vadum.web.refusals import refusal
from vadum.web.views import desk
from vadum.web.views.call_panel import call_panel
from vadum.web.views.practice import practising
from vadum.web.views.work_form import prepares, without_called, work_form

SESSION_LOOK_S = 60.0  # a session that ran out by itself is noticed within this
router = APIRouter()
FRAGMENTS = (
    "head",
    "steps",
    "practice",
    "advice",
    "board",
    "fields",
    "strip",
    "remark",
    "values",
    "verdicts",
    "photographs",
    "sheet",
)


class Posted(BaseModel):
    """A reading, whether the person insists on it, and the instrument whose figure it is where it was not typed."""

    model_config = ConfigDict(extra="forbid")
    entry: TypedEntry
    insist: bool = False
    taken_from: str = Field("", max_length=40)


MOST_TOGETHER = 60


class PostedTogether(BaseModel):
    """Readings that were typed while an earlier one was on its way, in their order."""

    model_config = ConfigDict(extra="forbid")
    entries: list[Posted] = Field(min_length=1, max_length=MOST_TOGETHER)


class Noted(BaseModel):
    """A step ticked or skipped."""

    model_config = ConfigDict(extra="forbid")
    key: str = Field(max_length=40)
    state: str = Field(max_length=20)
    reason: str = Field("", max_length=400)


class Decision(BaseModel):
    """What a person decides on a sheet: the hash of the tape's last entry as they saw it, and why."""

    model_config = ConfigDict(extra="forbid")
    tape: str = Field(pattern=r"^[0-9a-f]{64}$")
    reason: str = Field("", max_length=400)


def the_run(session: Session, code: str, *, to_write: bool = False) -> Run:
    """The run of that code, held for this transaction where it is to be written to; raises Missing."""
    run = runs.find(session, code, to_write=to_write)
    if run is None:
        raise Missing(f"there is no run {code[:30]!r}")
    return run


class Sight(NamedTuple):
    """Where a page stands on a desk: the step it has open, the reading it asks for, the one it entered last."""

    step: str = ""
    field: str = ""
    at: str = ""


def desk_values(
    request: Request, its: Shop, session: Session, read: Read, me: Person, sight: Sight = Sight()
) -> dict[str, Any]:
    """All that the desk's fragments show."""
    now = its.now()
    if read.run.state == "practice":
        now += passed(read.entries)
    outcome = read.at(now)
    advice = outcome.advice
    assert advice is not None
    column = desk.steps(read, advice.wants)
    step = next((s for s in column if s.step.key == sight.step), None)
    form = work_form(read, advice, now, opened=step, at=sight.at, field=sight.field)
    if form.stays is not None:
        column = desk.steps(read, (sight.at,))
    shown = step or next((s for s in column if s.state == "now"), None)
    before_calls = prepares(read, form)
    calling = None if step or form.stays else call_panel(read, advice)
    if calling is not None or (step is None and not before_calls):
        form = without_called(read, form)
    place = runs.place_of(session, read.run)
    other = its.foreman.next_elsewhere(session, now, read.run.code)
    elsewhere = [other] if other else []
    signed = read.folded.last_event("@signed")
    picture, style = figure(read.method.name), style_for(request)
    return {
        "run": read.run,
        "method": read.method,
        "school": read.school,
        "record": read.folded.record,
        "outcome": outcome,
        "advice": advice,
        "steps": column,
        "opened": step,
        "cautions": desk.cautions(read, shown),
        "caution_key": shown.step.key if shown else "",
        "form": form,
        "prepares": before_calls,
        "remark": desk.remark(read),
        "focus": sight.field,
        "strip": desk.strip(read, now),
        "photographs": desk.pictured(read),
        "photograph_places": desk.photograph_places(read),
        "came_from": read.folded.came_from,
        "place_of_run": place,
        "elsewhere": [(m, "now" if m.due.at is None else clock(m.due.at, now)) for m in elsewhere],
        "may": desk.may(session, read, me),
        "tape": read.entries[-1].hash,
        "shown_values": shown_values(outcome, read.method.leads, style),
        "shown_verdicts": shown_verdicts(outcome),
        "imports": bool(table_import.table_lists(read.method)),
        "ready": desk.sheet_ready(outcome),
        "signed": signed,
        "stands": signatures.standing(read),
        "aside": read.folded.last_event("@set_aside"),
        "tables": picture.tables(outcome, style),
        "practice": practising(read, advice, now),
        "chart_title": picture.title,
        "me": me,
        "now": now,
        "calling": calling,
        "board_template": first_template(request, f"desk/_board_{read.method.name}.html", "desk/_board.html"),
        "words": desk.field_words(read.method.name),
        # A travel may begin to call on a page that was opened before: its panel is there from the start.
        "travels": any(task.kind == "calls" for task in read.method.flow),
        **desk.board_values(read, outcome, now),
    }


def fragments(
    request: Request, values: dict[str, Any], read: Read, whole: bool = True, only: tuple[str, ...] = FRAGMENTS
) -> dict[str, Any]:
    """The desk's moving parts as text, and the picture's data; photographs and remark only where one was just taken,
    or the `whole` is asked for."""
    templates = {name: f"desk/_{name}.html" for name in FRAGMENTS} | {"board": values["board_template"]}
    names = {name: templates[name] for name in only}
    for name, path in (("photographs", photographs.EVENT), ("remark", "remarks")):
        if not whole and read.entries[-1].path != path:
            names.pop(name, None)
    return {
        "seq": read.run.last_seq,
        "tape": values["tape"],
        "state": read.run.state,
        "asks": " ".join(paths.field_name(f.path) for f in values["form"].fields if not f.value),
        "fragments": {name: part(request, template, **values) for name, template in names.items()},
        "calling": values["calling"],
        "chart": figure(read.method.name).data(read.outcome, style_for(request)),
    }


GOES_ON = ("steps", "advice", "board", "fields")  # what changes when a person moves on to the next step


def _fresh(
    request: Request, its: Shop, session: Session, run: Run, me: Person, sight: Sight = Sight(), whole: bool = False
) -> dict[str, Any]:
    """The desk's moving parts. While the form stays with a step whose optional readings are open, `onward` holds what
    is shown when the person moves on: that must wait for no network."""
    read = its.shelf.read(session, run)

    def made(entries: tuple[Taped, ...]) -> dict[str, Any]:
        some = read.upto(entries)
        values = desk_values(request, its, session, some, me, sight)
        shown = fragments(request, values, some, whole)
        if values["form"].stays is not None:
            on = desk_values(request, its, session, some, me, sight._replace(at=""))
            shown["onward"] = fragments(request, on, some, whole, GOES_ON)
        return shown

    return fenced(run, read.entries, "shown", made)


@router.get("/runs/{code}", include_in_schema=False)
def desk_page(
    request: Request, its: TheShop, me: Me, session: Reading, code: str, step: str = "", field: str = ""
) -> Any:
    """The desk."""
    read = its.shelf.read(session, the_run(session, code))
    picture = figure(read.method.name)

    def made(entries: tuple[Taped, ...]) -> Any:
        some = read.upto(entries)
        values = desk_values(request, its, session, some, me, Sight(step, field))
        style = style_for(request)
        data = picture.data(some.outcome, style)
        specs = [desk.embedded(spec | {"datasets": data}) for spec in picture.specs(some.school, style)]
        start = fragments(request, values, some)
        values |= {"specs": specs, "asks": start["asks"], "pick": picture.pick, "seq": some.run.last_seq}
        values["rows"], values["noun"] = desk.leave_out_rows(some)
        values["equipment"] = kit.offered(session, desk.kit_kinds(some.method.name), its.now().date())
        values["vessels"] = kit.VESSELS
        values["instruments"] = kit.instruments(session) if some.run.state == "open" else []
        values.pop("me")
        values.pop("now")
        template = first_template(request, f"desk/{some.method.name}.html", "desk/_page.html")
        return page(request, template, me, place="", **values)

    return fenced(read.run, read.entries, "shown", made)


@router.get("/runs/{code}/parts", include_in_schema=False)
def desk_parts(
    request: Request, its: TheShop, me: Me, session: Reading, code: str, step: str = "", field: str = "", at: str = ""
) -> Any:
    """The desk's moving parts."""
    return _fresh(request, its, session, the_run(session, code), me, Sight(step, field, at), whole=True)


@router.get("/runs/{code}/readings", include_in_schema=False)
def desk_readings(request: Request, its: TheShop, me: Me, session: Reading, code: str) -> Any:
    """Older readings than the strip shows, the newest last."""
    read = its.shelf.read(session, the_run(session, code))
    now = its.now()

    def made(entries: tuple[Taped, ...]) -> dict[str, str]:
        some = read.upto(entries)
        pieces = desk.strip(some, now, desk.OLDER)
        return {"html": part(request, "desk/_strip.html", strip=pieces, run=some.run, now=now, older=False)}

    return fenced(read.run, read.entries, "shown", made)


@router.get("/runs/{code}/events", include_in_schema=False)
async def desk_events(request: Request, its: TheShop, me: Me, code: str) -> Any:
    """Told when the tape grows, and an instrument's figures as they come; ends with the session it belongs to."""
    queue = its.listeners.listen(code)

    async def stream() -> AsyncIterator[dict[str, str]]:
        try:
            while True:
                try:
                    event, data = await asyncio.wait_for(queue.get(), SESSION_LOOK_S)
                except TimeoutError:
                    event, data = "session", ""
                if event != "session":
                    yield {"event": event, "data": data}
                elif await run_in_threadpool(visitor, request) is None:
                    yield {"event": "ended", "data": "signed out"}
                    return
        finally:
            its.listeners.leave(code, queue)

    return EventSourceResponse(stream(), ping=15)


@router.post("/runs/{code}/entries", include_in_schema=False)
def post_entry(request: Request, its: TheShop, me: Me, code: str, posted: Posted, step: str = "") -> Any:
    """Keep a reading; acknowledged after its commit, with the desk's fresh parts."""
    kept = _keep(its, me, code, posted)
    return told(request, its, me, code, Sight(step, at=kept.path)) | {"kept": kept.id}


@router.post("/runs/{code}/entries/together", include_in_schema=False)
def post_together(request: Request, its: TheShop, me: Me, code: str, posted: PostedTogether, step: str = "") -> Any:
    """Keep readings that a hand typed faster than the network carries them: in their order, each for itself."""
    results = [_kept_or_refused(its, me, code, one) for one in posted.entries]
    sight = Sight(step, at=posted.entries[-1].entry.path)
    return told(request, its, me, code, sight) | {"results": results}


def _keep(its: Shop, me: Person, code: str, posted: Posted) -> Taped:
    with its.writing(me) as session:
        run = the_run(session, code, to_write=True)
        new = sourced(its, code, posted)
        entry, _ = posting.post(session, run, new, me, its.now(), insist=posted.insist, by_hand=True)
        return entry


def _kept_or_refused(its: Shop, me: Person, code: str, posted: Posted) -> dict[str, Any]:
    """What became of one of several readings: each is kept or refused for itself, in its own transaction."""
    try:
        return {"id": str(posted.entry.id), "status": 200, "kept": _keep(its, me, code, posted).id}
    except VadumError as error:
        return {"id": str(posted.entry.id)} | refusal(error)


def sourced(its: Shop, code: str, posted: Posted) -> NewEntry:
    """The reading with its source by the door it came through: a figure counts as an instrument's when it was heard."""
    source = (
        attached_instruments.source_of(its, code, posted.taken_from, posted.entry.value)
        if posted.taken_from
        else "hand"
    )
    return NewEntry(**posted.entry.model_dump(), source=source)


def told(request: Request, its: Shop, me: Person, code: str, sight: Sight = Sight()) -> dict[str, Any]:
    """The fresh parts after something was kept. What was kept stays kept when they cannot be shown: that is said."""
    with its.database.reading() as session:
        run = the_run(session, code)
        its.listeners.tell(code, run.last_seq)
        try:
            attached_instruments.refresh(its, code)
            return _fresh(request, its, session, run, me, sight)
        except BrokenRun as broken:
            return {"seq": run.last_seq, "state": run.state, "broken": str(broken), "go": f"/runs/{quote(code)}"}


@router.post("/runs/{code}/steps", include_in_schema=False)
def post_step(request: Request, its: TheShop, me: Me, code: str, noted: Noted) -> Any:
    """Tick or skip a step, or its cautions."""
    with its.writing(me) as session:
        runs.note_step(
            session, the_run(session, code, to_write=True), noted.key, noted.state, me, its.now(), noted.reason
        )
    return told(request, its, me, code)


@router.post("/api/v1/runs/{code}/sign", tags=["runs"])
def sign(request: Request, its: TheShop, me: Me, code: str, decision: Decision) -> dict[str, Any]:
    """Sign the run as it was seen. The instrument that it listens to is let go first: nothing comes after."""
    with its.database.reading() as session:
        signatures.signable(session, the_run(session, code), decision.tape)
    left = attached_instruments.leave(its, code)
    seen = decision.tape
    with its.writing(me) as session:
        run = the_run(session, code, to_write=True)
        if left:
            signatures.as_seen(session, run, seen)
            seen = instrument_log.note_instrument(session, run, left, "left", me, its.now(), "signed").hash
        signatures.sign(session, run, me, its.now(), seen, decision.reason)
    return told(request, its, me, code) | {"go": f"/runs/{quote(code)}/sheet"}


@router.post("/api/v1/runs/{code}/check", tags=["runs"])
def check(request: Request, its: TheShop, me: Me, code: str, decision: Decision) -> dict[str, Any]:
    """Check a signed run as it was seen; it is closed then."""
    with its.writing(me) as session:
        signatures.check(session, the_run(session, code, to_write=True), me, its.now(), decision.tape)
    return told(request, its, me, code) | {"go": f"/runs/{quote(code)}/sheet"}


@router.post("/api/v1/runs/{code}/reopen", tags=["runs"])
def reopen(request: Request, its: TheShop, me: Me, code: str, decision: Decision) -> dict[str, Any]:
    """Open a signed run again, as it was seen, with a reason."""
    with its.writing(me) as session:
        run = the_run(session, code, to_write=True)
        signatures.reopen(session, run, me, its.now(), decision.tape, decision.reason)
    return told(request, its, me, code) | {"go": f"/runs/{quote(code)}"}
