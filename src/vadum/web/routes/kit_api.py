"""The kit's doors: pieces registered, weighed, inspected, calibrated with their papers, retired."""

from typing import Any
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlmodel import Session

from vadum.instruments.address import allowed_address
from vadum.instruments.profile import profile
from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import PlainNumber
from vadum.soil.shared.apparatus import CALIBRATIONS, InstrumentSetup
from vadum.soil.shared.device_check import CupInspection
from vadum.tape import kit, kit_papers
from vadum.tape.kit import NewItem
from vadum.tape.kit_papers import BalanceCheck, Certificate
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import KitItem
from vadum.web.body_limits import PICTURE_BYTES, body_up_to
from vadum.web.context import Me, Missing, Reading, TheShop
from vadum.web.undoing import undo

router = APIRouter(prefix="/api/v1", tags=["kit"])
Made = dict[str, Any]


class NewPiece(NewItem):
    """A piece as it is registered; of a tin its empty mass at once."""

    mass_g: PlainNumber | None = None


class NewTare(BaseModel):
    """A tin's mass, clean, dry and empty."""

    model_config = ConfigDict(extra="forbid")
    mass_g: PlainNumber


class Why(BaseModel):
    """Why a piece is retired."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=True)
    reason: str = Field("", max_length=200)


def _item(session: Session, kind: str, code: str) -> KitItem:
    item = kit.find(session, kind, code)
    if item is None:
        raise Missing(f"there is no {kit.one_of(kind[:20])} {code[:30]!r}")
    return item


def _page(kind: str, code: str) -> str:
    return f"/kit/{kind}/{quote(code)}"


@router.post("/kit", status_code=201)
def add_item(its: TheShop, me: Me, new: NewPiece) -> Made:
    """Register a piece of kit."""
    if new.mass_g is not None and new.kind != "tin":
        raise FieldError("mass_g", "is asked for of a tin alone")
    with its.writing(me) as session:
        item = kit.add_item(session, NewItem(**new.model_dump(exclude={"mass_g"})))
        if new.mass_g is not None:
            kit.add_tare(session, item, new.mass_g, me.initials, its.now())
    # A tin that is weighed is done with; anything else is measured next, on its own page.
    go = f"/kit?new={new.kind}" if new.mass_g is not None else f"{_page(new.kind, new.code)}#measure"
    said = f"{kit.one_of(new.kind).capitalize()} {new.code} registered."
    back = undo(f"/kit/{new.kind}/{quote(new.code)}/retire", {"reason": "registered by mistake"}, "/kit")
    return {"code": new.code, "go": go, "said": said, "undo": back}


@router.post("/kit/tin/{code:path}/tares", status_code=201)
def add_tare(its: TheShop, me: Me, code: str, new: NewTare) -> Made:
    """Weigh a tin empty."""
    with its.writing(me) as session:
        kit.add_tare(session, _item(session, "tin", code), new.mass_g, me.initials, its.now())
    return {"go": _page("tin", code)}


@router.post("/kit/cup/{code:path}/inspections", status_code=201)
def add_inspection(its: TheShop, me: Me, code: str, seen: CupInspection) -> Made:
    """Inspect a liquid limit device."""
    with its.writing(me) as session:
        event = kit.add_inspection(session, _item(session, "cup", code), seen, me.initials, its.now())
        passed = event.passed
    return {"passed": passed, "go": _page("cup", code)}


@router.post("/kit/balance/{code:path}/calibrations", status_code=201)
@body_up_to(PICTURE_BYTES)
def add_check(its: TheShop, me: Me, code: str, seen: BalanceCheck) -> Made:
    """Note a balance's check: its masses, what they read, and within what they have to."""
    with its.writing(me) as session:
        event = kit_papers.add_check(session, _item(session, "balance", code), seen, me.initials, its.now())
        passed = event.passed
    return {"passed": passed, "go": _page("balance", code)}


def _first_fault(error: ValidationError) -> FieldError:
    first = error.errors()[0]
    field = str(first["loc"][0]) if first["loc"] else "calibration"
    return FieldError(field, str(first["msg"]).removeprefix("Value error, "))


@router.post("/kit/{kind}/{code:path}/calibrations", status_code=201)
@body_up_to(PICTURE_BYTES)
def add_apparatus_calibration(its: TheShop, me: Me, kind: str, code: str, seen: dict[str, Any]) -> Made:
    """Note what a mould, ring, gauge, pycnometer, hydrometer, sieve or the like measures now, and what says so."""
    if kind not in CALIBRATIONS:
        raise Missing(f"there is no kind of kit {kind[:20]!r} with such a calibration")
    own = set(Certificate.model_fields)
    try:
        told = Certificate.model_validate({name: value for name, value in seen.items() if name in own})
        read = CALIBRATIONS[kind].model_validate({name: value for name, value in seen.items() if name not in own})
    except ValidationError as error:
        raise _first_fault(error) from None
    if isinstance(read, InstrumentSetup):
        if me.role != "manager":
            raise NotAllowed("an instrument's address is set by a manager")
        allowed_address(read.address, its.settings.instrument_hosts)
        profile(read.profile)
    with its.writing(me) as session:
        item = _item(session, kind, code)
        at = kit_papers.moment_of(told.done_on, its.now())
        paper = kit_papers.paper_of(session, item, told)
        passed = kit.add_calibration(session, item, read, me.initials, at, paper).passed
    return {"passed": passed, "go": _page(kind, code)}


@router.post("/kit/{kind}/{code}/retire", status_code=201)
def retire(its: TheShop, me: Me, kind: str, code: str, why: Why) -> Made:
    """Take a piece out of use."""
    with its.writing(me) as session:
        kit.retire(session, _item(session, kind, code), why.reason, me.initials, its.now())
    return {"go": _page(kind, code), "said": f"{code} retired.", "undo": undo(f"/kit/{kind}/{quote(code)}/back")}


@router.post("/kit/{kind}/{code}/back", status_code=201)
def take_back(its: TheShop, me: Me, kind: str, code: str) -> Made:
    """Take a retired piece into use again."""
    with its.writing(me) as session:
        kit.take_back(session, _item(session, kind, code), me.initials, its.now())
    return {"go": _page(kind, code)}


@router.get("/kit/{kind}/{code}/papers/{digest}")
def paper(me: Me, session: Reading, kind: str, code: str, digest: str) -> Response:
    """The paper of a calibration."""
    found = kit_papers.file_of(session, _item(session, kind, code), digest)
    if found is None:
        raise Missing("there is no such paper")
    headers = {
        "Content-Disposition": f"attachment; filename*=UTF-8''{quote(found.name)}",
        "Content-Security-Policy": "default-src 'none'; sandbox",
    }
    return Response(kit_papers.content_of(found), media_type=found.media_type, headers=headers)
