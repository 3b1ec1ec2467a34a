"""Accounts: one's own pass-phrase and sessions; for a manager roles, closing, resetting, the laboratory's choices."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlmodel import col

from vadum.soil.contract.errors import FieldError
from vadum.tape import identity, laboratory, ledger, people
from vadum.tape.people import NewPerson
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import Person
from vadum.web.context import COOKIE, Me, Reading, Shop, TheShop, page
from vadum.web.routes.signin import BROWSER, answered, ask_in

router = APIRouter()


class NewPassphrase(BaseModel):
    """A pass-phrase to be set; the former one proves who asks, unless a reset link did."""

    model_config = ConfigDict(extra="forbid")
    former: str = Field("", max_length=400)
    passphrase: str = Field(max_length=400)


class RoleAsked(BaseModel):
    """The role an account is given."""

    model_config = ConfigDict(extra="forbid")
    role: str = Field(max_length=20)


class ActiveAsked(BaseModel):
    """Whether an account is open."""

    model_config = ConfigDict(extra="forbid")
    active: bool


class SettingAsked(BaseModel):
    """A choice of the laboratory."""

    model_config = ConfigDict(extra="forbid")
    key: str = Field(max_length=40)
    value: str = Field(max_length=200)


def _token(request: Request) -> str:
    return request.cookies.get(COOKIE, "")


@router.get("/me", include_in_schema=False)
def me_page(request: Request, its: TheShop, me: Me, session: Reading) -> Any:
    """One's own account: the pass-phrase, and the other sessions."""
    sessions = people.sessions_of(session, its.now()).get(me.id or 0, 0)
    resets = people.resets(session, _token(request))
    told = None if resets else people.reset_told(session, me, its.now())
    chosen: dict[str, Any] = {"liked": identity.LIKED, "chosen": identity.liked(session, me)}
    chosen |= {"sessions": sessions, "resets": resets, "told": told, "least": people.LEAST_PASSPHRASE}
    return page(request, "me.html", me, **chosen)


@router.post("/api/v1/me/passphrase", tags=["people"])
async def change_passphrase(request: Request, its: TheShop, me: Me, asked: NewPassphrase) -> dict[str, str]:
    """A new pass-phrase of one's own; every other session ends."""
    people.new_passphrase(asked.passphrase)
    token = _token(request)
    if not await run_in_threadpool(_begun_by_reset, its, token):
        # A try of the former one is a try like that at the door: whoever found a screen open does not guess for ever.
        address, browser = request.client.host if request.client else "", request.cookies.get(BROWSER, "")[:100]
        tried = await run_in_threadpool(ask_in, its, me.login, address, browser)
        right = await its.hashing.verified(asked.former, tried.stored)
        if await run_in_threadpool(answered, its, tried, right) is None:
            raise FieldError("former", "is not your present pass-phrase")
    stored = await run_in_threadpool(its.hashing.hashed, asked.passphrase)
    ended = await run_in_threadpool(_set_passphrase, its, me, stored, token)
    return {"go": "/signin" if ended else "/bench"}


def _begun_by_reset(its: Shop, token: str) -> bool:
    with its.database.reading() as session:
        return people.resets(session, token)


def _set_passphrase(its: Shop, me: Person, stored: str, token: str) -> bool:
    """Whether the session, begun by a reset link, has ended with it: whoever holds the new pass-phrase signs in."""
    with its.writing(me) as session:
        people.set_passphrase(session, people.named(session, me.login), stored, me.initials, keep=token)
        ended = people.end_after_reset(session, token)
    its.listeners.sessions_changed()
    return ended


@router.post("/api/v1/me/sessions/end", tags=["people"])
def end_my_sessions(request: Request, its: TheShop, me: Me) -> dict[str, Any]:
    """End every other session of one's own."""
    with its.writing(me) as session:
        ended = people.end_sessions(session, people.named(session, me.login), me.initials, keep=_token(request))
    its.listeners.sessions_changed()
    return {"ended": ended, "go": "/me"}


def _manages(me: Person, words: str = "accounts are a manager's work") -> None:
    if me.role != "manager":
        raise NotAllowed(words)


@router.get("/people", include_in_schema=False)
def people_page(request: Request, its: TheShop, me: Me, session: Reading) -> Any:
    """Accounts, and the laboratory's own choices; a manager's work."""
    _manages(me)
    everyone = list(session.execute(select(Person).order_by(col(Person.name))).scalars())
    return page(
        request,
        "people.html",
        me,
        everyone=everyone,
        sessions=people.sessions_of(session, its.now()),
        roles=people.ROLES,
        least=people.LEAST_PASSPHRASE,
        settings=laboratory.choices(session),
        choices=laboratory.CHOICES,
        bands=laboratory.band_fields(session),
        sealed=ledger.head(session.connection()),
    )


@router.post("/api/v1/people/{login}/role", tags=["people"])
def change_role(its: TheShop, me: Me, login: str, asked: RoleAsked) -> dict[str, str]:
    """Give an account another role."""
    _manages(me)
    with its.writing(me) as session:
        people.change_role(session, people.named(session, login), asked.role, me.initials)
    return {"go": "/people"}


@router.post("/api/v1/people/{login}/active", tags=["people"])
def set_active(its: TheShop, me: Me, login: str, asked: ActiveAsked) -> dict[str, str]:
    """Close an account, or open it again."""
    _manages(me)
    with its.writing(me) as session:
        people.set_active(session, people.named(session, login), asked.active, me.initials)
    its.listeners.sessions_changed()
    return {"go": "/people"}


@router.post("/api/v1/people/{login}/reset", tags=["people"])
def make_reset_link(request: Request, its: TheShop, me: Me, login: str) -> dict[str, str]:
    """A link with which the person sets a new pass-phrase, once."""
    _manages(me)
    with its.writing(me) as session:
        token = people.reset_link(session, people.named(session, login), me.initials, its.now())
    its.listeners.sessions_changed()
    return {
        "link": f"{str(request.base_url).rstrip('/')}/enter/{token}",
        "hours": str(people.LINK_LENGTH.seconds // 3600),
    }


@router.post("/api/v1/people/{login}/sessions/end", tags=["people"])
def end_their_sessions(its: TheShop, me: Me, login: str) -> dict[str, Any]:
    """End every session of a person."""
    _manages(me)
    with its.writing(me) as session:
        ended = people.end_sessions(session, people.named(session, login), me.initials)
    its.listeners.sessions_changed()
    return {"ended": ended, "go": "/people"}


@router.post("/api/v1/settings", tags=["people"])
def choose(its: TheShop, me: Me, asked: SettingAsked) -> dict[str, str]:
    """Set one of the laboratory's own choices."""
    _manages(me, "the laboratory's choices are a manager's work")
    with its.writing(me) as session:
        laboratory.choose(session, asked.key, asked.value)
    return {"go": "/people"}


@router.post("/api/v1/people", tags=["people"], status_code=201)
def add_person(its: TheShop, me: Me, new: NewPerson) -> dict[str, str]:
    """Make an account; a manager's work. Its pass-phrase is hashed before anything is locked."""
    _manages(me)
    stored = its.hashing.hashed(new.passphrase)
    with its.writing(me) as session:
        people.add(session, new, stored)
    return {"go": "/people"}
