"""Signing in and out, the one-time link, the people."""

from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy import select
from sqlmodel import col

from vadum.tape import people
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import Person
from vadum.web.context import COOKIE, Me, Reading, Shop, TheShop, page

router = APIRouter(include_in_schema=False)


def _with_cookie(its: Shop, person: Person, to: str) -> Response:
    with its.database.writing() as session:
        token = people.open_session(session, person, its.now())
    answer = RedirectResponse(to, 303)
    answer.set_cookie(
        COOKIE,
        token,
        max_age=int(people.SESSION_LENGTH.total_seconds()),
        httponly=True,
        samesite="lax",
        secure=its.settings.secure_cookie,
        path="/",
    )
    return answer


def _inside(to: str) -> str:
    """Only a path of our own: a sign-in page must not forward to another site."""
    return to if to.startswith("/") and not to.startswith(("//", "/\\")) else "/bench"


@router.get("/")
def door() -> Response:
    """The start page is the bench."""
    return RedirectResponse("/bench", 303)


@router.get("/signin")
def sign_in_page(request: Request, to: str = "/bench") -> Any:
    """Name and pass-phrase."""
    return page(request, "signin.html", None, to=_inside(to), message="", login="")


@router.post("/signin")
def sign_in(
    request: Request,
    its: TheShop,
    login: Annotated[str, Form(max_length=80)],
    passphrase: Annotated[str, Form(max_length=400)],
    to: Annotated[str, Form(max_length=300)] = "/bench",
) -> Any:
    """Begin a session, or say that it did not match."""
    address = request.client.host if request.client else ""
    try:
        with its.database.writing() as session:
            person = people.authenticate(session, login, passphrase, address, its.now())
            session.expunge(person)
    except people.SignInError as error:
        return page(request, "signin.html", None, 403, to=_inside(to), message=str(error), login=login)
    return _with_cookie(its, person, _inside(to))


@router.get("/enter/{token}")
def enter(its: TheShop, token: str, to: str = "/bench") -> Response:
    """Use up a one-time link."""
    with its.database.writing() as session:
        person = people.redeem(session, token[:200], its.now())
        session.expunge(person)
    return _with_cookie(its, person, _inside(to))


@router.post("/signout")
def sign_out(request: Request, its: TheShop) -> Response:
    """End the session."""
    token = request.cookies.get(COOKIE)
    if token:
        with its.database.writing() as session:
            people.close_session(session, token)
    answer = RedirectResponse("/signin", 303)
    answer.delete_cookie(COOKIE, path="/")
    return answer


@router.get("/people")
def people_page(request: Request, me: Me, session: Reading) -> Any:
    """Accounts; a manager adds them."""
    if me.role != "manager":
        raise NotAllowed("accounts are a manager's work")
    everyone = list(session.execute(select(Person).order_by(col(Person.name))).scalars())
    return page(request, "people.html", me, everyone=everyone, roles=people.ROLES, least=people.LEAST_PASSPHRASE)
