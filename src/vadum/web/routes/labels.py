"""Labels: what gets one is ticked, the paper is chosen, and a PDF comes out."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from sqlalchemy import select
from sqlmodel import Session, col

from vadum.paper import labels as paper
from vadum.paper.labels import SIZES, Label
from vadum.soil.contract.errors import FieldError
from vadum.tape import ground, kit, specimens
from vadum.tape.codes import whole_number
from vadum.tape.labels import kit_label, sample_label, specimen_label
from vadum.tape.tables import Job
from vadum.web.context import Me, Reading, TheShop, page
from vadum.web.routes.ground import the_job, the_place

router = APIRouter(include_in_schema=False)


def _of_place(at: ground.Place) -> Label:
    depth = ""
    if at.sample.depth_top_m is not None:
        bottom = "" if at.sample.depth_bottom_m is None else f"–{at.sample.depth_bottom_m:.2f}"
        depth = f"{at.sample.depth_top_m:.2f}{bottom} m"
    lines = (f"{at.job.code} · {at.sample.kind} · {depth}".removesuffix(" · "), at.sample.description[:60])
    return Label(sample_label(at.sample.id or 0), f"{at.spot.code} {at.sample.code}", tuple(t for t in lines if t))


def _of(session: Session, asked: str) -> Label:
    """The label of one thing: `sample:5`, `specimen:5:A`, `tin:38` or any other kind of kit; raises FieldError."""
    kind, _, code = asked.partition(":")
    if kind == "sample" and (number := whole_number(code)) is not None:
        return _of_place(the_place(session, number))
    if kind == "specimen":
        told, _, own = code.partition(":")
        sample_id = whole_number(told)
        if sample_id is None:
            raise FieldError("of", f"{asked[:40]!r} is nothing that gets a label")
        at = the_place(session, sample_id)
        place = _of_place(at)
        if own not in {h.specimen.code for h in specimens.held(session, sample_id)}:
            raise FieldError("of", f"{own[:20]!r} is no specimen of {at.words}")
        return Label(specimen_label(sample_id, own), f"{place.big} {own}", place.lines)
    item = kit.find(session, kind, code) if kind in kit.KINDS else None
    if item is None:
        raise FieldError("of", f"{asked[:40]!r} is nothing that gets a label")
    return Label(
        kit_label(kind, item.code), item.code, (kit.one_of(kind), item.title) if item.title else (kit.one_of(kind),)
    )


@router.get("/labels")
def labels_page(
    request: Request,
    its: TheShop,
    me: Me,
    session: Reading,
    job: Annotated[str, Query(max_length=20)] = "",
    sample: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0,
    kind: Annotated[str, Query(max_length=30)] = "tin",
) -> Any:
    """Tick what gets a label."""
    chosen: list[tuple[str, str, str]] = []
    title = ""
    if sample:
        at = the_place(session, sample)
        title = f"Labels of {at.words}"
        chosen = [(f"sample:{sample}", at.words, at.sample.description)]
        chosen += [
            (f"specimen:{sample}:{h.specimen.code}", f"{at.words}, specimen {h.specimen.code}", h.specimen.size)
            for h in specimens.held(session, sample)
        ]
    elif job:
        the = the_job(session, job)
        title = f"Labels of {the.title}"
        chosen = [(f"sample:{p.sample.id}", p.words, p.sample.description) for p in ground.places(session, the.id or 0)]
    else:
        if kind not in kit.KINDS:
            raise FieldError("kind", f"is one of {', '.join(kit.KINDS)}")
        title = f"Labels of {kit.KINDS[kind].lower()}"
        pieces = kit.states(session, its.now().date())
        chosen = [
            (f"{kind}:{s.item.code}", f"{kit.one_of(kind)} {s.item.code}", s.item.title)
            for s in pieces
            if s.item.kind == kind
        ]
    real = select(col(Job.code)).where(col(Job.code) != ground.PRACTICE_JOB).order_by(col(Job.code))
    return page(
        request,
        "labels.html",
        me,
        place="kit",
        title=title,
        chosen=chosen,
        sizes=SIZES,
        kinds=kit.KINDS,
        kind="" if job or sample else kind,
        jobs=list(session.execute(real).scalars()),
        job=job,
    )


@router.get("/labels.pdf")
def labels_pdf(
    me: Me,
    session: Reading,
    of: Annotated[list[Annotated[str, Query(max_length=80)]] | None, Query()] = None,
    size: Annotated[str, Query(max_length=60)] = next(iter(SIZES)),
    skip: Annotated[int, Query(ge=0, le=200)] = 0,
) -> Response:
    """The labels that were ticked."""
    made = paper.pdf([_of(session, one) for one in of or []], size, skip)
    headers = {"Content-Disposition": 'inline; filename="labels.pdf"', "Cache-Control": "no-store"}
    return Response(made, media_type="application/pdf", headers=headers)
