"""Signing in and out, and the one-time link."""

import asyncio
from datetime import timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import RedirectResponse, Response

from vadum.tape import people
from vadum.tape.tables import Person
from vadum.web.context import COOKIE, Shop, TheShop, page

router = APIRouter(include_in_schema=False)
BROWSER = "vadum_browser"
HOLD_BACK_S, MOST_HELD_BACK = 1.0, 200


def _cookie(its: Shop, answer: Response, name: str, value: str, length: timedelta) -> None:
    answer.set_cookie(
        name,
        value,
        max_age=int(length.total_seconds()),
        httponly=True,
        samesite="lax",
        secure=its.settings.secure_cookie,
        path="/",
    )


def _with_cookie(its: Shop, person: Person, to: str, browser: str, resets: bool = False) -> Response:
    with its.database.writing(person.initials) as session:
        token = people.open_session(session, person, its.now(), resets=resets)
        known = people.know_browser(session, person, browser, its.now())
    answer = RedirectResponse(to, 303)
    _cookie(its, answer, COOKIE, token, people.SESSION_LENGTH)
    _cookie(its, answer, BROWSER, known, people.BROWSER_LENGTH)
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
async def sign_in(
    request: Request,
    its: TheShop,
    login: Annotated[str, Form(max_length=80)],
    passphrase: Annotated[str, Form(max_length=400)],
    to: Annotated[str, Form(max_length=300)] = "/bench",
) -> Any:
    """Begin a session, or say that it did not match. The pass-phrase is looked at outside of any lock."""
    address = request.client.host if request.client else ""
    browser = request.cookies.get(BROWSER, "")[:100]
    try:
        asked = await run_in_threadpool(ask_in, its, login, address, browser)
        right = await its.hashing.verified(passphrase, asked.stored)
        person = await run_in_threadpool(answered, its, asked, right)
        if person is None:
            raise people.SignInError("Name and pass-phrase do not match.")
    except (people.SignInError, people.TooManySignIns) as error:
        wait = getattr(error, "retry_s", None)
        if wait is not None:
            await _held_back(its)
        status = 403 if wait is None else (503 if isinstance(error, people.TooManySignIns) else 429)
        shown = page(request, "signin.html", None, status, to=_inside(to), message=str(error), login=login)
        if wait is not None:
            shown.headers["Retry-After"] = str(wait)
        return shown
    return await run_in_threadpool(_with_cookie, its, person, _inside(to), browser)


async def _held_back(its: Shop) -> None:
    """Who comes too often waits for the answer too: a loop of tries costs its sender time, and the laboratory none."""
    if its.held_back >= MOST_HELD_BACK:
        return
    its.held_back += 1
    try:
        await asyncio.sleep(HOLD_BACK_S)
    finally:
        its.held_back -= 1


def ask_in(its: Shop, login: str, address: str, browser: str) -> people.Asked:
    """A try of a pass-phrase begins: what is kept of it is to be compared with; raises TooManyTries."""
    with its.database.reading() as session:
        return people.ask_in(session, login, address, browser, its.now())


def answered(its: Shop, asked: people.Asked, right: bool) -> Person | None:
    """The person where the try was right; a wrong one counts against whoever tries."""
    with its.database.writing() as session:
        person = people.answered(session, asked, right, its.now())
        session.flush()
        if person is not None:
            session.expunge(person)
        return person


@router.get("/enter/{token}")
def enter(request: Request, its: TheShop, token: str, to: str = "/bench") -> Response:
    """Use up a one-time link; one that resets leads to the new pass-phrase."""
    with its.database.writing() as session:
        person, resets = people.redeem(session, token[:200], its.now())
        session.flush()
        session.expunge(person)
    browser = request.cookies.get(BROWSER, "")[:100]
    return _with_cookie(its, person, "/me" if resets else _inside(to), browser, resets)


@router.post("/signout")
def sign_out(request: Request, its: TheShop) -> Response:
    """End the session."""
    token = request.cookies.get(COOKIE)
    if token:
        with its.database.writing() as session:
            people.close_session(session, token)
        its.listeners.sessions_changed()
    answer = RedirectResponse("/signin", 303)
    answer.delete_cookie(COOKIE, path="/")
    return answer
