"""Photographs: taken in, shown, left out with a reason."""

import hashlib
import uuid
from typing import Any

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, ConfigDict, Field

from vadum.soil.contract.fields import NearMoment
from vadum.tape import photographs, pictures, specimens
from vadum.tape.entries import read_tape
from vadum.web.body_limits import PICTURE_BYTES, body_up_to
from vadum.web.context import Me, Missing, Reading, TheShop
from vadum.web.routes.ground import SampleId, the_place
from vadum.web.routes.runs import the_run, told

router = APIRouter()
MOST_TEXT = 4_200_000
YEAR_S = 31_536_000


class Taken(BaseModel):
    """A picture as base64, what it is of (empty: the run), a caption, and how many millimetres it shows across."""

    model_config = ConfigDict(extra="forbid")
    jpeg: str = Field(max_length=MOST_TEXT)
    place: str = Field("", max_length=60)
    caption: str = Field("", max_length=photographs.MOST_CAPTION)
    across_mm: float | None = None


class TakenEntry(BaseModel):
    """It as an entry of the tape: its id is made where it is taken, so that sending it twice keeps one."""

    model_config = ConfigDict(extra="forbid")
    id: uuid.UUID = Field(default_factory=uuid.uuid4)
    path: str = photographs.EVENT
    value: Taken
    read_at: NearMoment | None = None


class PostedPhotograph(BaseModel):
    """A photograph as a device sends it, or sends it later."""

    model_config = ConfigDict(extra="forbid")
    entry: TakenEntry
    insist: bool = False


class LeftOut(BaseModel):
    """A photograph taken off the sheet, with a reason."""

    model_config = ConfigDict(extra="forbid")
    reason: str = Field(min_length=1, max_length=400)


class OfSpecimen(BaseModel):
    """A picture of a specimen as base64, a caption, and how many millimetres it shows across."""

    model_config = ConfigDict(extra="forbid")
    jpeg: str = Field(max_length=MOST_TEXT)
    caption: str = Field("", max_length=photographs.MOST_CAPTION)
    across_mm: float | None = None


@router.post("/samples/{sample_id}/specimens/{code}/photographs", include_in_schema=False)
@body_up_to(PICTURE_BYTES)
def post_of_specimen(its: TheShop, me: Me, sample_id: SampleId, code: str, posted: OfSpecimen) -> dict[str, Any]:
    """Keep a photograph of a specimen that no run need stand on."""
    raw = pictures.decoded(posted.jpeg)
    with its.database.reading() as session:
        piece = specimens.named(session, the_place(session, sample_id).sample.id or 0, code)
        mark = specimens.mark_of(session, piece, posted.caption)
    marked = its.pictures.done(pictures.marked, raw, mark, posted.across_mm)
    with its.writing(me) as session:
        piece = specimens.named(session, the_place(session, sample_id).sample.id or 0, code)
        hash_ = specimens.picture(session, piece, marked, me, posted.caption)
    return {"hash": hash_, "go": f"/samples/{sample_id}"}


@router.get("/samples/{sample_id}/specimens/{code}/photographs/{hash_}.jpg", include_in_schema=False)
def of_specimen(me: Me, session: Reading, sample_id: SampleId, code: str, hash_: str) -> Response:
    """A specimen's photograph."""
    piece = specimens.named(session, the_place(session, sample_id).sample.id or 0, code)
    jpeg = specimens.jpeg_of(session, piece, hash_)
    if jpeg is None:
        raise Missing("there is no such photograph")
    return Response(jpeg, media_type="image/jpeg", headers={"Cache-Control": f"private, max-age={YEAR_S}, immutable"})


@router.post("/runs/{code}/photographs", include_in_schema=False)
@body_up_to(PICTURE_BYTES)
def post_photograph(request: Request, its: TheShop, me: Me, code: str, posted: PostedPhotograph) -> dict[str, Any]:
    """Keep a photograph."""
    entry = posted.entry
    raw, at = pictures.decoded(entry.value.jpeg), entry.read_at or its.now()
    with its.database.reading() as session:
        run = the_run(session, code)
        mark = photographs.mark_of(run, read_tape(session, run.id or 0), at)
    marked = its.pictures.done(pictures.marked, raw, mark, entry.value.across_mm)
    with its.writing(me) as session:
        run = the_run(session, code, to_write=True)
        tape = read_tape(session, run.id or 0)
        kept = photographs.add(
            session, run, tape, entry.id, marked, me, at, place=entry.value.place, caption=entry.value.caption
        )
    return told(request, its, me, code) | {"kept": kept}


@router.post("/runs/{code}/photographs/{hash_}/out", include_in_schema=False)
def leave_out(request: Request, its: TheShop, me: Me, code: str, hash_: str, why: LeftOut) -> dict[str, Any]:
    """Take a photograph off the desk and the sheet, with a reason."""
    with its.writing(me) as session:
        run = the_run(session, code, to_write=True)
        photographs.leave_out(session, run, read_tape(session, run.id or 0), hash_, why.reason, me, its.now())
    return told(request, its, me, code)


@router.get("/runs/{code}/photographs/{hash_}.jpg", include_in_schema=False)
def photograph(its: TheShop, me: Me, session: Reading, code: str, hash_: str) -> Response:
    """The kept picture, if it is the one that the tape tells of."""
    jpeg = photographs.jpeg_of(session, the_run(session, code).id or 0, hash_)
    if jpeg is None or hashlib.sha256(jpeg).hexdigest() != hash_:
        raise Missing("There is no such photograph.")
    # It never changes: its name is its content.
    return Response(jpeg, media_type="image/jpeg", headers={"Cache-Control": f"private, max-age={YEAR_S}, immutable"})
