"""Plates of a job beside each other: field control by layer and chainage."""

from typing import Any

from fastapi import APIRouter, Request

from vadum.figures.plate_control import PICTURES
from vadum.soil.shared.plate.control import Control, beside, by_layer, control_of, drawn
from vadum.tape import ground, runs
from vadum.web.context import Me, Reading, TheShop, page, style_for
from vadum.web.routes.ground import the_job
from vadum.web.views.desk import embedded

router = APIRouter(include_in_schema=False)
MOST_RUNS = 200
NEEDS = {"along": "chainage_m", "bearing": "bearing_percent", "compaction": "compaction_percent"}


@router.get("/plates/{code:path}")
def plates_page(request: Request, its: TheShop, me: Me, session: Reading, code: str) -> Any:
    """The plates of a job: each in its layer, in or out of the job's corner, against what stands beside it."""
    job = the_job(session, code)
    controls: list[Control] = []
    for at in ground.places(session, job.id or 0):
        listed = runs.listed(session, *runs.STATES, sample_id=at.sample.id, size=MOST_RUNS)
        sound, _ = its.shelf.judged(session, listed, its.now())
        reads = [one.read for one in sound]
        for read in reads:
            made = control_of(read.run.code, at.words, read.folded.record, read.outcome)
            if made is not None:
                controls.append(beside(made, (r.outcome for r in reads)))
    data = drawn(controls)
    shown = [n for n in PICTURES if n not in NEEDS or any(getattr(c, NEEDS[n]) is not None for c in controls)]
    return page(
        request,
        "plates.html",
        me,
        place="ground",
        job=job,
        layers=by_layer(controls),
        controls=controls,
        pictures=[
            (n, PICTURES[n].title, embedded(PICTURES[n].spec(None, style=style_for(request)) | {"datasets": data}))
            for n in shown
        ],
    )
