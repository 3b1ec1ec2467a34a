"""What goes wrong, as an answer: one table of status codes, a broken run's page, trouble with the disk."""

import logging
import sqlite3
import sys

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.exc import SQLAlchemyError
from starlette.exceptions import HTTPException

from vadum.soil.contract.errors import VadumError
from vadum.tape.fence import BrokenRun
from vadum.tape.trouble import WaitedTooLong, trouble_of
from vadum.web.broken import broken_values
from vadum.web.context import NotSignedIn, PassphraseFirst, page, visitor
from vadum.web.plain import PlainJSON
from vadum.web.refusals import refusal

LOG = logging.getLogger(__name__)
RETRY_S = "5"


def wants_json(request: Request) -> bool:
    """Whether a program asks, and not a person's browser for a page."""
    return request.url.path.startswith("/api/") or "text/html" not in request.headers.get("accept", "")


def answer(
    request: Request,
    status: int,
    field: str,
    message: str,
    *,
    slip: bool = False,
    asks_why: bool = False,
    headers: dict[str, str] | None = None,
) -> Response:
    """A refusal, as a page or as JSON."""
    if wants_json(request):
        told = {"field": field, "message": message, "slip": slip} | ({"asks_why": True} if asks_why else {})
        return PlainJSON(told, status, headers=headers)
    try:
        me = visitor(request)
    except Exception:  # the page of an error needs nobody to be known: the database itself may be what failed
        me = None
    shown: Response = page(request, "error.html", me, status, shown_status=status, message=message)
    shown.headers.update(headers or {})
    return shown


def _vadum_error(request: Request, error: Exception) -> Response:
    assert isinstance(error, VadumError)
    if isinstance(error, NotSignedIn) and not wants_json(request):
        return RedirectResponse(f"/signin?to={request.url.path}", 303)
    if isinstance(error, PassphraseFirst) and not wants_json(request):
        return RedirectResponse("/me", 303)
    found = refusal(error)
    wait = getattr(error, "retry_s", None)
    headers = {"Retry-After": str(wait)} if wait else None
    slip, why = found["slip"], bool(found.get("asks_why"))
    return answer(request, found["status"], found["field"], found["message"], slip=slip, asks_why=why, headers=headers)


def _broken(request: Request, error: Exception) -> Response:
    """A run that cannot be shown: for a person a page of its own, from which its readings can be struck."""
    assert isinstance(error, BrokenRun)
    if wants_json(request):
        body = {"field": "", "message": str(error), "slip": False, "broken": error.code, "entry": error.seq}
        return PlainJSON(body, 409)
    shown: Response = page(request, "broken.html", visitor(request), **broken_values(error))
    shown.headers["Vadum-Broken"] = error.code  # so that a browser does not keep this page as the run's desk
    return shown


def _malformed(request: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    where = [str(part) for part in first["loc"] if part not in ("body", "query", "path")]
    message = str(first["msg"]).removeprefix("Value error, ")
    return answer(request, 422, ".".join(where) or "body", message)


def _unwritable(request: Request, error: Exception) -> Response:
    return answer(request, 422, "text", "holds a character that cannot be written")


def _http(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    words = {404: "There is no such page.", 405: "This cannot be done here."}
    return answer(request, error.status_code, "", words.get(error.status_code, str(error.detail)))


def _database(request: Request, error: Exception) -> Response:
    """What the database or the disk says: from the driver itself on the hot path, wrapped elsewhere."""
    trouble = trouble_of(error)
    if trouble is not None:
        LOG.warning("storage: %s", str(getattr(error, "orig", error))[:200])
        return answer(request, 503 if trouble.passes else 507, "", trouble.words, headers={"Retry-After": RETRY_S})
    kinds = {kind.__name__ for kind in type(getattr(error, "orig", error)).__mro__}
    if "IntegrityError" in kinds:  # two hands made the same at one moment: the second is told, nothing is half kept
        return answer(request, 409, "", "Somebody else made the same at this moment: look again.")
    if "DataError" in kinds or isinstance(error, OverflowError):
        if "NUL" in str(error):  # a sign that no text holds: as part of an address it names nothing
            return answer(request, 404 if request.method == "GET" else 422, "text", "There is no such page.")
        return answer(request, 422, "value", "is beyond what can be kept")
    raise error


def add_handlers(app: FastAPI) -> None:
    """Every error that a person can meet, with its answer."""
    app.add_exception_handler(BrokenRun, _broken)
    app.add_exception_handler(VadumError, _vadum_error)
    app.add_exception_handler(RequestValidationError, _malformed)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(UnicodeEncodeError, _unwritable)
    ours = (OSError, OverflowError, WaitedTooLong)
    kinds: tuple[type[Exception], ...] = (*ours, SQLAlchemyError, sqlite3.Error, *_server_errors())
    for kind in kinds:
        app.add_exception_handler(kind, _database)


def _server_errors() -> tuple[type[Exception], ...]:
    """The errors of the server's driver, where it is loaded."""
    psycopg = sys.modules.get("psycopg")
    return () if psycopg is None else (psycopg.Error,)
