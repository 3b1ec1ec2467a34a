"""The ground: jobs, spots, samples, and where a run begins."""

from collections import Counter
from datetime import date, timedelta
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import Response
from sqlalchemy import select
from sqlmodel import Session, col

from vadum.figures.shown_units import rows_in_style
from vadum.figures.soil_card import GRADING, PLASTICITY
from vadum.soil.register import METHODS
from vadum.tape import ground, identity, job_export, laboratory, put_right, runs, schedule, specimens
from vadum.tape.tables import Job, Spot
from vadum.web.context import Me, Missing, PageNumber, Reading, TheShop, page, style_for
from vadum.web.views.desk import card_tables, embedded
from vadum.web.views.plan import columns, plan
from vadum.web.views.soil_card import card_of

router = APIRouter(include_in_schema=False)
SampleId = Annotated[int, Path(ge=1, le=2**31 - 1)]


def the_job(session: Session, code: str) -> Job:
    """The job of that code; raises Missing."""
    job: Job | None = session.execute(select(Job).where(col(Job.code) == code)).scalar_one_or_none()
    if job is None or job.code == ground.PRACTICE_JOB:
        raise Missing(f"there is no job {code[:30]!r}")
    return job


def the_spot(session: Session, spot_id: int) -> tuple[Spot, Job]:
    """The location of that id with its job; raises Missing, for the one of practice too."""
    spot = session.get(Spot, spot_id)
    job = session.get(Job, spot.job_id) if spot else None
    if spot is None or job is None or job.code == ground.PRACTICE_JOB:
        raise Missing(f"there is no location {spot_id}")
    return spot, job


def the_place(session: Session, sample_id: int) -> ground.Place:
    """The sample of that id, placed; raises Missing."""
    found = ground.place(session, sample_id)
    if found is None or found.job.code == ground.PRACTICE_JOB:
        raise Missing(f"there is no sample {sample_id}")
    return found


@router.get("/ground")
def jobs_page(
    request: Request,
    me: Me,
    session: Reading,
    page_number: PageNumber = 1,
    new: Annotated[str | None, Query(max_length=80)] = None,
) -> Any:
    """All jobs; with one job only, that job."""
    found = ground.jobs(session, page_number)
    return page(request, "ground.html", me, place="ground", jobs=found, page_number=page_number, asked=new)


@router.get("/ground/{code}/schedule")
def schedule_page(request: Request, its: TheShop, me: Me, session: Reading, code: str) -> Any:
    """The job's schedule of tests: samples by tests, what is asked, running, done; soil asked for beside what came."""
    job = the_job(session, code)
    places = ground.places(session, job.id or 0)
    cells = schedule.grid(session, places)
    asked = {name for _, name in cells}
    soils = {
        p.sample.id: schedule.soil_asked(p.sample, [c for (sample, _), c in cells.items() if sample == p.sample.id])
        for p in places
    }
    owed = sorted((c.owed for c in cells.values() if c.owed is not None), key=lambda o: (o.due_on, o.id or 0))
    by_id = {p.sample.id: p for p in places}
    return page(
        request,
        "schedule.html",
        me,
        place="ground",
        job=job,
        places=places,
        cells=cells,
        # The tests that are asked for stand first; a column of nothing else keeps to the end.
        methods=sorted(METHODS.values(), key=lambda m: m.name not in asked),
        many_asked=len(asked),
        soils=soils,
        owed=[(o, by_id[o.sample_id], cells[o.sample_id, o.method]) for o in owed],
        due=its.now().date() + timedelta(days=7),
    )


@router.get("/ground/{code}/job.zip")
def job_zip(its: TheShop, me: Me, session: Reading, code: str) -> Response:
    """The whole job in one file: tapes, pictures, raw samples, kit as it was, and a manifest with hashes."""
    job = the_job(session, code)
    made = its.archives.done(job_export.export, session, job, its.now())
    headers = {
        "Content-Disposition": f"attachment; filename*=UTF-8''{quote(job.code)}.zip",
        "Cache-Control": "no-store",
    }
    return Response(made, media_type="application/zip", headers=headers)


@router.get("/ground/{code:path}")
def job_page(request: Request, its: TheShop, me: Me, session: Reading, code: str, spot: str = "") -> Any:
    """A job: its plan, its spots with their depth columns, its samples and what is owed."""
    job = the_job(session, code)
    spots = list(session.execute(select(Spot).where(col(Spot.job_id) == job.id).order_by(col(Spot.code))).scalars())
    places = ground.places(session, job.id or 0)
    cells = schedule.grid(session, places)
    counts = {p.sample.id: runs.listed(session, *runs.STATES, sample_id=p.sample.id) for p in places}
    return page(
        request,
        "job.html",
        me,
        place="ground",
        job=job,
        plan=plan(spots),
        columns=columns(spots, places),
        places=places,
        runs_of=counts,
        chosen=spot,
        owed=schedule.owed(session, job.id),
        broken=its.foreman.broken(session, its.now()),
        methods=METHODS,
        cells=cells,
        states=Counter(cell.state for cell in cells.values()),
        hangs={r.id: put_right.hangs_on(session, r) for r in spots},
        job_hangs=put_right.hangs_on(session, job),
        schools=identity.job_schools(session, job),
        spot_kinds=ground.SPOT_KINDS,
        sample_kinds=ground.SAMPLE_KINDS,
    )


@router.get("/samples/{sample_id}")
def sample_page(request: Request, its: TheShop, me: Me, session: Reading, sample_id: SampleId) -> Any:
    """The soil card of a sample: what its runs say together, the runs, and a start for each method."""
    its_place = the_place(session, sample_id)
    listed = runs.listed(session, *runs.STATES, sample_id=sample_id, size=100)
    sound, broken = its.shelf.judged(session, listed, its.now())
    reads = [one.read for one in sound]
    known, told_not = card_of(reads, laboratory.bands(session))
    broken += told_not
    style = style_for(request)
    told = {name: rows_in_style(rows, style) for name, rows in known.series.items()}
    specs = [embedded(f.spec(None, style=style) | {"datasets": told}) for f in (GRADING, PLASTICITY)]
    return page(
        request,
        "sample.html",
        me,
        place="ground",
        at=its_place,
        reads=reads,
        broken=broken,
        card=known,
        specs=specs,
        tables=card_tables(known),
        methods=METHODS,
        spent=[r.run.code for r in reads if runs.spent(session, r.run)],
        specimens=specimens.held(session, sample_id),
        schools=identity.schools_of(session, its_place.job),
        aside=runs.listed(session, put_right.ASIDE, sample_id=sample_id),
        hangs=put_right.hangs_on(session, its_place.sample),
        due_here=_due_here(session, its_place),
        soil=schedule.soil_asked(its_place.sample, schedule.grid(session, [its_place]).values()),
        kinds=ground.SAMPLE_KINDS,
    )


def _due_here(session: Session, at: ground.Place) -> dict[str, date]:
    """The tests that are asked for of a sample and not begun, with their days, the soonest first."""
    cells = schedule.grid(session, [at]).values()
    owed = [c.owed for c in cells if c.owed is not None and c.state == "owed"]
    return {o.method: o.due_on for o in sorted(owed, key=lambda o: o.due_on)}


@router.get("/start")
def start_page(
    request: Request, me: Me, session: Reading, sample: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0
) -> Any:
    """From anywhere: sample, method, begun."""
    places = ground.newest_places(session)
    chosen = next((p for p in places if p.sample.id == sample), None)
    if sample and chosen is None:
        chosen = the_place(session, sample)
    values: dict[str, Any] = {
        "places": places,
        "chosen": chosen,
        "specimens": specimens.held(session, chosen.sample.id or 0) if chosen else [],
        "schools": identity.schools_of(session, chosen.job if chosen else None),
        "due_here": _due_here(session, chosen) if chosen else {},
    }
    return page(request, "start.html", me, place="", methods=METHODS, **values)
