"""A run: its desk, its readings, its sheet."""

from collections.abc import AsyncIterator
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field
from sqlmodel import Session
from sse_starlette.sse import EventSourceResponse

from vadum.figures.register import figure
from vadum.paper.sheet import Sheet, as_csv, as_json, chart_svg, pdf, sheet_of
from vadum.soil.readings import field_of
from vadum.soil.times import clock
from vadum.tape import kit, people, runs
from vadum.tape.entries import NewEntry
from vadum.tape.fold import passed
from vadum.tape.runs import Read
from vadum.tape.tables import Person, Run
from vadum.web.context import Me, Missing, Reading, Shop, TheShop, page, part
from vadum.web.views import desk
from vadum.web.views.practising import practising

router = APIRouter()
FRAGMENTS = ("head", "steps", "practice", "advice", "board", "fields", "strip", "values", "verdicts", "sheet")


class Posted(BaseModel):
    """A reading and whether the person insists on it."""

    model_config = ConfigDict(extra="forbid")
    entry: NewEntry
    insist: bool = False


class Noted(BaseModel):
    """A step ticked or skipped."""

    model_config = ConfigDict(extra="forbid")
    key: str = Field(max_length=40)
    state: str = Field(max_length=20)
    reason: str = Field("", max_length=400)


class Reason(BaseModel):
    """Why."""

    model_config = ConfigDict(extra="forbid")
    reason: str = Field("", max_length=400)


def the_run(session: Session, code: str) -> Run:
    """The run of that code; raises Missing."""
    run = runs.find(session, code)
    if run is None:
        raise Missing(f"there is no run {code[:30]!r}")
    return run


def desk_values(
    its: Shop, session: Session, read: Read, me: Person, opened: str = "", field: str = ""
) -> dict[str, Any]:
    """All that the desk's fragments show."""
    now = its.now()
    if read.run.state == "practice":
        now += passed(read.entries)
    outcome = read.at(now)
    advice = outcome.advice
    assert advice is not None
    column = desk.steps(read, advice.wants)
    current = next((s for s in column if s.state == "now"), None)
    step = next((s for s in column if s.step.key == opened), None)
    shown = step or current
    wants = advice.wants
    if field and field not in wants and field_of(read.method.Record, field):
        wants = (field, *wants)
    paths = desk.step_paths(read, step.step) if step else wants
    place = runs.place_of(session, read.run)
    other = its.foreman.next_elsewhere(session, now, read.run.code)
    elsewhere = [other] if other else []
    signed = read.folded.last_event("@signed")
    return {
        "run": read.run,
        "method": read.method,
        "school": read.school,
        "record": read.folded.record,
        "outcome": outcome,
        "advice": advice,
        "steps": column,
        "opened": step,
        "cautions": desk.cautions_unread(read, shown),
        "caution_key": shown.step.key if shown else "",
        "fields": desk.fields(read, paths, now) if read.run.in_hand else [],
        "focus": field,
        "strip": desk.strip(read, now),
        "came_from": read.folded.came_from,
        "place_of_run": place,
        "elsewhere": [(m, "now" if m.due.at is None else clock(m.due.at, now)) for m in elsewhere],
        "may": desk.may(read, me),
        "ready": desk.sheet_ready(outcome),
        "signed": signed,
        "tables": desk.chart_tables(read.method, outcome, dict(figure(read.method.name).columns)),
        "practice": practising(read, advice, now),
        "chart_title": figure(read.method.name).title,
        "me": me,
        "now": now,
        **desk.board_values(read, now),
    }


def fragments(request: Request, values: dict[str, Any], read: Read) -> dict[str, Any]:
    """The desk's moving parts as text, and the picture's data."""
    names = {name: f"desk/_{name}.html" for name in FRAGMENTS} | {"board": f"desk/_board_{read.method.name}.html"}
    return {
        "seq": read.run.last_seq,
        "state": read.run.state,
        "asks": " ".join(f.path.rpartition(".")[2] for f in values["fields"] if not f.value),
        "fragments": {name: part(request, template, **values) for name, template in names.items()},
        "chart": figure(read.method.name).data(read.outcome),
    }


def _fresh(request: Request, its: Shop, session: Session, run: Run, me: Person, opened: str = "") -> dict[str, Any]:
    read = its.shelf.read(session, run)
    return fragments(request, desk_values(its, session, read, me, opened), read)


@router.get("/runs/{code}", include_in_schema=False)
def desk_page(
    request: Request, its: TheShop, me: Me, session: Reading, code: str, step: str = "", field: str = ""
) -> Any:
    """The desk."""
    read = its.shelf.read(session, the_run(session, code))
    values = desk_values(its, session, read, me, step, field)
    picture = figure(read.method.name)
    spec = picture.spec(read.school) | {"datasets": picture.data(read.outcome)}
    start = fragments(request, values, read)
    values |= {"spec": desk.embedded(spec), "asks": start["asks"], "pick": picture.pick, "seq": read.run.last_seq}
    values["rows"], values["noun"] = desk.leave_out_rows(read)
    values["instruments"] = kit.instruments(session) if read.run.state == "open" else []
    values.pop("me")
    values.pop("now")
    return page(request, f"desk/{read.method.name}.html", me, place="", **values)


@router.get("/runs/{code}/parts", include_in_schema=False)
def desk_parts(request: Request, its: TheShop, me: Me, session: Reading, code: str, step: str = "") -> Any:
    """The desk's moving parts."""
    return _fresh(request, its, session, the_run(session, code), me, step)


@router.get("/runs/{code}/events", include_in_schema=False)
async def desk_events(request: Request, its: TheShop, me: Me, code: str) -> Any:
    """Told when the tape grows, and an instrument's figures as they come."""
    queue = its.listeners.listen(code)

    async def stream() -> AsyncIterator[dict[str, str]]:
        try:
            while True:
                event, data = await queue.get()
                yield {"event": event, "data": data}
        finally:
            its.listeners.leave(code, queue)

    return EventSourceResponse(stream(), ping=15)


@router.post("/runs/{code}/entries", include_in_schema=False)
def post_entry(request: Request, its: TheShop, me: Me, code: str, posted: Posted, step: str = "") -> Any:
    """Keep a reading; acknowledged after its commit, with the desk's fresh parts."""
    with its.database.writing() as session:
        run = the_run(session, code)
        runs.post(session, run, posted.entry, me, its.now(), insist=posted.insist)
    return _told(request, its, me, code, step)


def _told(request: Request, its: Shop, me: Person, code: str, step: str = "") -> dict[str, Any]:
    with its.database.reading() as session:
        run = the_run(session, code)
        its.listeners.tell(code, run.last_seq)
        if code in its.ears:
            its.ears[code].refresh()
        return _fresh(request, its, session, run, me, step)


@router.post("/runs/{code}/steps", include_in_schema=False)
def post_step(request: Request, its: TheShop, me: Me, code: str, noted: Noted) -> Any:
    """Tick or skip a step, or its cautions."""
    with its.database.writing() as session:
        runs.note_step(session, the_run(session, code), noted.key, noted.state, me, its.now(), noted.reason)
    return _told(request, its, me, code)


@router.post("/api/v1/runs/{code}/sign", tags=["runs"])
def sign(request: Request, its: TheShop, me: Me, code: str, why: Reason) -> dict[str, Any]:
    """Sign the run as it stands."""
    with its.database.writing() as session:
        runs.sign(session, the_run(session, code), me, its.now(), why.reason)
    return _told(request, its, me, code) | {"go": f"/runs/{code}/sheet"}


@router.post("/api/v1/runs/{code}/check", tags=["runs"])
def check(request: Request, its: TheShop, me: Me, code: str) -> dict[str, Any]:
    """Check a signed run; it is closed then."""
    with its.database.writing() as session:
        runs.check(session, the_run(session, code), me, its.now())
    return _told(request, its, me, code) | {"go": f"/runs/{code}/sheet"}


@router.post("/api/v1/runs/{code}/reopen", tags=["runs"])
def reopen(request: Request, its: TheShop, me: Me, code: str, why: Reason) -> dict[str, Any]:
    """Open a signed run again, with a reason."""
    with its.database.writing() as session:
        runs.reopen(session, the_run(session, code), me, its.now(), why.reason)
    return _told(request, its, me, code) | {"go": f"/runs/{code}"}


def _sheet(its: Shop, session: Session, code: str) -> tuple[Read, Sheet]:
    read = its.shelf.read(session, the_run(session, code))
    return read, sheet_of(read, runs.place_of(session, read.run), people.by_initials(session), its.now())


@router.get("/runs/{code}/sheet", include_in_schema=False)
def sheet_page(request: Request, its: TheShop, me: Me, session: Reading, code: str) -> Any:
    """The sheet as a page for the printer."""
    read, sheet = _sheet(its, session, code)
    may = desk.may(read, me)
    return page(request, "sheet.html", me, sheet=sheet, chart=chart_svg(read), may=may, run=read.run, place="dossiers")


@router.get("/runs/{code}/sheet.pdf", include_in_schema=False)
def sheet_pdf(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """The sheet as PDF."""
    read, sheet = _sheet(its, session, code)
    return _file(pdf(sheet, chart_svg(read)), "application/pdf", f"{code}.pdf")


@router.get("/runs/{code}/run.json", include_in_schema=False)
def run_json(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """The run as open data."""
    return _file(as_json(*_sheet(its, session, code)).encode(), "application/json", f"{code}.json")


@router.get("/runs/{code}/run.csv", include_in_schema=False)
def run_csv(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """The run as rows."""
    return _file(as_csv(*_sheet(its, session, code)).encode("utf-8-sig"), "text/csv; charset=utf-8", f"{code}.csv")


def _file(content: bytes, kind: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"', "Cache-Control": "no-store"}
    return Response(content, media_type=kind, headers=headers)
