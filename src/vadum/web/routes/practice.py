"""Practice: any method's desk on a virtual soil; its truth is shown when the person has finished."""

import secrets
from typing import Any, Literal

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field
from sqlmodel import Session

from vadum.figures.register import figure
from vadum.recording.what_is_called import pushed_now
from vadum.soil import practice
from vadum.soil.contract.errors import FieldError
from vadum.soil.register import METHODS
from vadum.tape import ground, practice_runs, runs
from vadum.tape.entries import Taped
from vadum.tape.fence import apart, fenced
from vadum.tape.runs import Read
from vadum.tape.tables import Person, Run
from vadum.web import attached_instruments
from vadum.web.channel import Unheard
from vadum.web.context import Me, Missing, Reading, Shop, TheShop, page, style_for
from vadum.web.routes.runs import the_run
from vadum.web.views.desk import embedded
from vadum.web.views.syllabus import course, drawing

router = APIRouter()


class Asked(BaseModel):
    """The test to practise. A `seed` gives the same hidden soil again, for two people who want to compare."""

    model_config = ConfigDict(extra="forbid")
    method: str = Field(max_length=40)
    school: str | None = Field(None, max_length=60)
    seed: int | None = Field(None, ge=0, le=999_999)


class Push(BaseModel):
    """The rate that the motor is set to, mm/min (a hand finds its own), and how many times faster than in life."""

    model_config = ConfigDict(extra="forbid")
    rate_mm_min: float | None = Field(None, gt=0, le=10)
    speed: float = Field(1.0, gt=0, le=60)


class Winding(BaseModel):
    """A hand at the crank goes a little faster or slower."""

    model_config = ConfigDict(extra="forbid")
    pace: Literal["faster", "slower"]


class Passing(BaseModel):
    """How long to let pass."""

    model_config = ConfigDict(extra="forbid")
    seconds: float = Field(gt=0)


def _practised(its: Shop, session: Session, code: str) -> tuple[Run, Read, int]:
    run = the_run(session, code)
    read = its.shelf.read(session, run)
    seed = practice_runs.practice_seed(read)
    if seed is None:
        raise Missing(f"{code} is a real run, no practice")
    return run, read, seed


@router.get("/practice", include_in_schema=False)
def practice_page(request: Request, its: TheShop, me: Me, session: Reading) -> Any:
    """The place: what to practise, and how it went before."""
    sound, broken = its.shelf.judged(session, runs.listed(session, *runs.PRACTICE_STATES, size=12), its.now())
    rows, more = apart(sound, lambda one: (one.read, _compared(one.read)))
    values: dict[str, Any] = {"rows": rows, "broken": broken + more, "course": course(session, its.shelf, me)}
    return page(request, "practice.html", me, place="practice", **values)


@router.get("/practice/drawing/{name}.svg", include_in_schema=False)
def practice_drawing(request: Request, me: Me, name: str) -> Response:
    """The picture that a method draws, of a made-up soil."""
    if name not in METHODS:
        raise Missing(f"there is no method {name[:20]!r}")
    headers = {"Cache-Control": "private, max-age=600"}  # the units of whoever looks may change
    return Response(drawing(name, style_for(request)), media_type="image/svg+xml", headers=headers)


def _compared(read: Read) -> tuple[practice.Compared, ...]:
    """What was found beside what was hidden, of a finished practice; raises BrokenRun."""
    if read.run.state != "revealed":
        return ()

    def made(entries: tuple[Taped, ...]) -> tuple[practice.Compared, ...]:
        some = read.upto(entries)
        return tuple(practice.compared(some.method, some.school, practice_runs.practice_seed(some) or 0, some.outcome))

    return fenced(read.run, read.entries, "shown", made)


@router.post("/api/v1/practice", tags=["practice"], status_code=201)
def begin(its: TheShop, me: Me, asked: Asked) -> dict[str, str]:
    """Begin a run on a virtual soil. It is marked, never signed, never in a dossier."""
    seed = secrets.randbelow(1_000_000) if asked.seed is None else asked.seed
    with its.writing(me) as session:
        place = ground.practice_place(session, its.now())
        run = runs.start(session, place, asked.method, asked.school, me, its.now(), seed=str(seed))
        code = run.code
    return {"code": code, "go": f"/runs/{code}"}


@router.post("/api/v1/practice/{code}/pass", tags=["practice"])
def let_pass(its: TheShop, me: Me, code: str, asked: Passing) -> dict[str, str]:
    """Let the run's own time pass."""
    with its.writing(me) as session:
        practice_runs.let_pass(session, the_run(session, code, to_write=True), asked.seconds, me, its.now())
    return {"go": f"/runs/{code}"}


@router.post("/api/v1/practice/{code}/push", tags=["practice"])
def push(its: TheShop, me: Me, code: str, asked: Push) -> dict[str, Any]:
    """Start the motor, or wind: the plunger goes into the hidden ground, and the dials move."""
    with its.database.reading() as session:
        _, read, seed = _practised(its, session, code)
        advice = read.at(its.now()).advice
        called = pushed_now(read, advice.wants) if advice else None
        make = read.method.practice.address
        if called is None or make is None:
            raise FieldError("push", "nothing is ready to be pushed: seat it first")
        address = make(seed, read.school, read.facts, called, asked.rate_mm_min or 0.0, asked.speed)
        if address is None:
            raise FieldError("push", "how the force is read is not entered yet")
    if called.by == "load" and attached_instruments.pumped_on(its, code):
        return {"state": "connected"}
    attached_instruments.leave(its, code)
    ear = attached_instruments.practise(its, code, address, me.initials)
    return {"state": ear.station.state}


@router.post("/api/v1/practice/{code}/wind", tags=["practice"])
def wind(its: TheShop, me: Me, code: str, asked: Winding) -> dict[str, Any]:
    """Wind a little faster or slower."""
    try:
        attached_instruments.command(its, code, asked.pace)
    except Unheard:
        raise FieldError("pace", "nothing is being wound") from None
    return {"pace": asked.pace}


@router.post("/api/v1/practice/{code}/reveal", tags=["practice"])
def reveal(its: TheShop, me: Me, code: str) -> dict[str, str]:
    """Finish: the soil is shown, the run is closed."""
    attached_instruments.leave(its, code)
    with its.writing(me) as session:
        practice_runs.reveal(session, the_run(session, code, to_write=True), me, its.now())
    return {"go": f"/practice/{code}"}


@router.get("/practice/{code}", include_in_schema=False)
def practice_end(request: Request, its: TheShop, me: Me, session: Reading, code: str) -> Any:
    """What the soil was, what was found, and the mistakes that were seen."""
    run, read, seed = _practised(its, session, code)
    if run.state != "revealed":
        raise Missing(f"{code} is not finished: its soil stays hidden")

    def made(entries: tuple[Taped, ...]) -> Any:
        return _end_page(request, me, read.upto(entries), seed)

    return fenced(run, read.entries, "shown", made)


def _end_page(request: Request, me: Person, read: Read, seed: int) -> Any:
    record = read.folded.record
    picture = figure(read.method.name)
    series = read.outcome.series | practice.truth_series(read.method, read.school, seed, record)
    style = style_for(request)
    data = picture.data(read.outcome.model_copy(update={"series": series}), style)
    return page(
        request,
        "practised.html",
        me,
        place="practice",
        run=read.run,
        read=read,
        compared=practice.compared(read.method, read.school, seed, read.outcome),
        mistakes=practice.mistakes(read.method, read.school, seed, record, read.outcome),
        fine=[v for v in read.outcome.verdicts if v.level == "fine"],
        seed=seed,
        picture=picture,
        has_truth=bool(series.get("truth")),
        specs=[embedded(spec | {"datasets": data}) for spec in picture.specs(read.school, style)],
    )


@router.get("/api/v1/practice/{code}", tags=["practice"])
def result(its: TheShop, me: Me, session: Reading, code: str) -> dict[str, Any]:
    """What was compared and which mistakes were seen; only of a finished practice."""
    run, read, seed = _practised(its, session, code)
    if run.state != "revealed":
        raise Missing(f"{code} is not finished: its soil stays hidden")

    def made(entries: tuple[Taped, ...]) -> dict[str, Any]:
        some = read.upto(entries)
        found = practice.compared(some.method, some.school, seed, some.outcome)
        seen = practice.mistakes(some.method, some.school, seed, some.folded.record, some.outcome)
        return {
            "compared": [{**c._asdict(), "within": c.within} for c in found],
            "mistakes": [m._asdict() for m in seen],
        }

    return fenced(run, read.entries, "shown", made)
