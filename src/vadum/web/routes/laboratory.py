"""The laboratory itself: who it is on paper, its clocks, units and schools; and how one person likes figures shown."""

import base64
import binascii
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from vadum.paper.drawn_mark import drawable
from vadum.soil.contract.errors import FieldError
from vadum.soil.register import METHODS
from vadum.tape import identity, people
from vadum.tape.clock import zone_names
from vadum.tape.identity import NewIdentity
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import Person
from vadum.web.body_limits import TABLE_BYTES, body_up_to
from vadum.web.context import Me, Missing, Reading, TheShop, page
from vadum.web.views.first_steps import first_steps

router = APIRouter()


class NewMark(BaseModel):
    """A picture for the paper, as base64; empty takes it away."""

    model_config = ConfigDict(extra="forbid")
    key: str = Field(max_length=20)
    file: str = Field("", max_length=600_000)


class MethodAsked(BaseModel):
    """The school of a method that is offered first, and whether it is within the accreditation."""

    model_config = ConfigDict(extra="forbid")
    method: str = Field(max_length=40)
    school: str = Field("", max_length=60)
    accredited: bool | None = None


class LikeAsked(BaseModel):
    """How figures are shown to one person; what is left empty is the laboratory's way."""

    model_config = ConfigDict(extra="forbid")
    units: str = Field("", max_length=20)
    stress: str = Field("", max_length=20)
    decimal: str = Field("", max_length=1)
    dates: str = Field("", max_length=20)


def _manages(me: Person) -> None:
    if me.role != "manager":
        raise NotAllowed("what stands on the laboratory's paper is a manager's work")


@router.get("/laboratory", include_in_schema=False)
def laboratory_page(request: Request, its: TheShop, me: Me, session: Reading) -> Any:
    """Who the laboratory is: name, address, marks, zone, units, schools."""
    _manages(me)
    return page(
        request,
        "laboratory.html",
        me,
        who=identity.identity(session),
        zones=zone_names(),
        liked=identity.LIKED,
        marks=identity.MARKS,
        methods=METHODS,
        schools=identity.schools_of(session, None),
        steps=first_steps(session),
        here=str(its.now().tzinfo),
    )


@router.get("/laboratory/{name}", include_in_schema=False)
def mark(me: Me, session: Reading, name: str) -> Response:
    """A picture that stands on the paper."""
    found = identity.identity(session).marks
    for key, one in found.items():
        if f"{key}.{one.suffix}" == name:
            policy = {"Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'"}
            return Response(one.data, media_type=one.media_type, headers=policy)
    raise Missing("the laboratory has no such mark")


@router.post("/api/v1/laboratory", tags=["laboratory"])
def be(its: TheShop, me: Me, new: NewIdentity) -> dict[str, str]:
    """Say who the laboratory is."""
    _manages(me)
    with its.writing(me) as session:
        identity.be(session, new)
    its.look_at_zone()
    its.listeners.say("@laboratory", "laboratory", "")
    return {"go": "/laboratory"}


@router.post("/api/v1/laboratory/marks", tags=["laboratory"])
@body_up_to(TABLE_BYTES)
def set_mark(its: TheShop, me: Me, new: NewMark) -> dict[str, str]:
    """Set the laboratory's mark, or that of its accreditation."""
    _manages(me)
    try:
        content = base64.b64decode(new.file, validate=True)
    except (binascii.Error, ValueError):
        raise FieldError("file", "is not base64") from None
    mark = drawable(content) if content else None
    with its.writing(me) as session:
        identity.set_mark(session, new.key, mark)
    return {"go": "/laboratory"}


@router.post("/api/v1/laboratory/methods", tags=["laboratory"])
def set_method(its: TheShop, me: Me, asked: MethodAsked) -> dict[str, str]:
    """Set the school that is offered first, and whether the method is within the accreditation."""
    _manages(me)
    with its.writing(me) as session:
        identity.set_school(session, asked.method, asked.school)
        if asked.accredited is not None:
            identity.set_accredited(session, asked.method, asked.accredited)
    return {"go": "/laboratory"}


@router.post("/api/v1/me/likes", tags=["people"])
def like(its: TheShop, me: Me, asked: LikeAsked) -> dict[str, str]:
    """Choose how figures and days are shown to oneself."""
    with its.writing(me) as session:
        person = people.named(session, me.login)
        for key, value in asked.model_dump().items():
            identity.like(session, person, key, value)
    return {"go": "/me"}
