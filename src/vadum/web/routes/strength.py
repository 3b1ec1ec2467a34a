"""Strengths of a job in one picture and fit, specimens switched in and out with a reason."""

from typing import Annotated, Any
from urllib.parse import urlencode

from fastapi import APIRouter, Query, Request

from vadum.figures.joined_envelope import JOINED, named_clear
from vadum.soil.contract.errors import FieldError
from vadum.soil.shared.joined_envelope import KINDS, Failure, drawn, failures_of, joined
from vadum.tape import ground, runs
from vadum.web.context import Me, Reading, TheShop, page, style_for
from vadum.web.routes.ground import the_job
from vadum.web.views.desk import embedded

router = APIRouter(include_in_schema=False)
MOST_RUNS, MOST_REASON = 200, 200


def left_out(out: list[str]) -> dict[str, str]:
    """`TX-01:2 a slip of the hand` as the specimen and its reason; raises FieldError where a reason lacks."""
    found = {}
    for one in out:
        name, _, reason = one.partition(" ")
        if not reason.strip() or len(reason) > MOST_REASON:
            raise FieldError("out", f"{name[:30]}: why is it left out?")
        found[name] = reason.strip()
    return found


def _address(code: str, out: dict[str, str], samples: list[int]) -> str:
    asked = [*(("out", f"{name} {reason}") for name, reason in out.items()), *(("sample", s) for s in samples)]
    return f"/strength/{code}" + (f"?{urlencode(asked)}" if asked else "")


@router.get("/strength/{code:path}")
def strength_page(
    request: Request,
    its: TheShop,
    me: Me,
    session: Reading,
    code: str,
    out: Annotated[list[str], Query(max_length=100)] = [],  # noqa: B006
    sample: Annotated[list[int], Query(max_length=100)] = [],  # noqa: B006
) -> Any:
    """The failures of a job's runs, or of some of its samples, with the lines through those that count."""
    job, reasons = the_job(session, code), left_out(out)
    failures: list[Failure] = []
    where: dict[str, str] = {}
    choices = []  # the samples that were sheared, whether they are joined now, and what they are
    for at in ground.places(session, job.id or 0):
        listed = runs.listed(session, *runs.STATES, sample_id=at.sample.id, size=MOST_RUNS)
        sound, _ = its.shelf.judged(session, listed, its.now())
        mine = [f for one in sound for f in failures_of(one.read.run.code, one.read.outcome, reasons)]
        if mine:
            taken = not sample or at.sample.id in sample
            choices.append((at, taken))
            failures += mine if taken else []
            where |= {f.code: at.words for f in mine}
    lines = joined(failures)
    data = drawn(failures, lines)
    data["points"] = named_clear(data["points"])
    rows = []
    for f in failures:
        with_it = {k: v for k, v in reasons.items() if k != f.name}
        rows.append((f, where[f.code], _address(code, with_it, sample)))
    return page(
        request,
        "strength.html",
        me,
        place="ground",
        job=job,
        rows=rows,
        lines=lines,
        kinds=KINDS,
        out=reasons,
        sample=sample,
        choices=choices,
        spec=embedded(JOINED.spec(None, style=style_for(request)) | {"datasets": data}),
    )
