"""Water in the ground of a job: conductivities by place and depth, curves of water against suction together."""

from typing import Any

from fastapi import APIRouter, Request

from vadum.figures.water_in_job import PICTURES
from vadum.soil.contract.outcome import Table
from vadum.soil.shared.water_in_job import Conducts, conducts_of, drawn, together
from vadum.tape import ground, runs
from vadum.web.context import Me, Reading, TheShop, page, style_for
from vadum.web.routes.ground import the_job
from vadum.web.views.desk import embedded

router = APIRouter(include_in_schema=False)
MOST_RUNS = 200


@router.get("/water/{code:path}")
def water_page(request: Request, its: TheShop, me: Me, session: Reading, code: str) -> Any:
    """What the ground of a job lets through and holds."""
    job = the_job(session, code)
    found: list[Conducts] = []
    curves: list[tuple[str, Table]] = []
    for at in ground.places(session, job.id or 0):
        listed = runs.listed(session, *runs.STATES, sample_id=at.sample.id, size=MOST_RUNS)
        sound, _ = its.shelf.judged(session, listed, its.now())
        for read in (one.read for one in sound):
            one = conducts_of(
                read.run.code,
                read.method.title,
                at.words,
                at.sample.depth_top_m,
                read.folded.record,
                read.outcome,
            )
            if one is not None:
                found.append(one)
            curve = read.outcome.series.get("curve", ())
            if curve and "suction" in curve[0]:
                curves.append((read.run.code, curve))
    data = drawn(found, curves)
    # One point is no picture of a scatter.
    there = {"depth": bool(found), "lognormal": len(found) > 1, "curves": bool(curves)}
    shown = [n for n in PICTURES if there[n]]
    return page(
        request,
        "water.html",
        me,
        place="ground",
        job=job,
        found=sorted(found, key=lambda one: (one.depth_m, one.code)),
        together=together(found),
        curves=[code for code, _ in curves],
        pictures=[
            (n, PICTURES[n].title, embedded(PICTURES[n].spec(None, style=style_for(request)) | {"datasets": data}))
            for n in shown
        ],
    )
