"""The application: routes, errors and static files put together."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, RedirectResponse, Response
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles

from vadum.soil.errors import FieldError, UnknownName, VadumError
from vadum.tape.entries import RunClosed, StrikeError
from vadum.tape.importing import TableError
from vadum.tape.people import SignInError
from vadum.tape.runs import NotAllowed, SlipError
from vadum.web import listening
from vadum.web.context import HERE, Missing, NotSignedIn, Shop, page, visitor
from vadum.web.guard import Guard
from vadum.web.routes import (
    api,
    away,
    bench,
    dossiers,
    entering,
    ground,
    importing,
    instruments,
    kit,
    practice,
    rack,
    runs,
)
from vadum.web.routes.importing import NotBroughtIn
from vadum.web.settings import Settings

STATUS: tuple[tuple[type[VadumError], int], ...] = (
    (NotSignedIn, 401),
    (Missing, 404),
    (SlipError, 409),
    (RunClosed, 409),
    (StrikeError, 422),
    (TableError, 422),
    (NotBroughtIn, 422),
    (FieldError, 422),
    (UnknownName, 422),
    (NotAllowed, 403),
    (SignInError, 403),
    (VadumError, 409),
)


class CachedStatic(StaticFiles):
    """Static files that never change under their versioned name."""

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        """With a year's cache."""
        response = super().file_response(*args, **kwargs)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def _wants_json(request: Request) -> bool:
    return request.url.path.startswith("/api/") or "text/html" not in request.headers.get("accept", "")


def _answer(request: Request, status: int, field: str, message: str, slip: bool = False) -> Response:
    if _wants_json(request):
        return JSONResponse({"field": field, "message": message, "slip": slip}, status)
    shown: Response = page(request, "error.html", visitor(request), status, shown_status=status, message=message)
    return shown


def _vadum_error(request: Request, error: Exception) -> Response:
    status = next(code for kind, code in STATUS if isinstance(error, kind))
    if isinstance(error, NotSignedIn) and not _wants_json(request):
        return RedirectResponse(f"/signin?to={request.url.path}", 303)
    field = getattr(error, "field", getattr(error, "path", getattr(error, "kind", "")))
    message = getattr(error, "problem", "") or (error.found if isinstance(error, SlipError) else str(error))
    return _answer(request, status, field, message, isinstance(error, SlipError))


def _malformed(request: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    where = [str(part) for part in first["loc"] if part not in ("body", "query", "path")]
    message = str(first["msg"]).removeprefix("Value error, ")
    return _answer(request, 422, ".".join(where) or "body", message)


def _unwritable(request: Request, error: Exception) -> Response:
    return _answer(request, 422, "text", "holds a character that cannot be written")


def _http(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    words = {404: "There is no such page.", 405: "This cannot be done here."}
    return _answer(request, error.status_code, "", words.get(error.status_code, str(error.detail)))


def create_app(settings: Settings) -> FastAPI:
    """The application on these settings; its tables are brought up to date first."""
    its = Shop(settings)
    its.database.migrate()

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        yield
        for code in list(its.ears):
            listening.leave(its, code)
        its.stations.close()
        its.database.close()

    app = FastAPI(
        title="Vadum",
        version="1",
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/v1/openapi.json",
        lifespan=life,
        description="Runs, readings and results of soils tests. Sign in first; the session cookie carries it.",
    )
    app.state.shop = its
    app.add_exception_handler(VadumError, _vadum_error)
    app.add_exception_handler(RequestValidationError, _malformed)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(UnicodeEncodeError, _unwritable)
    app.mount(f"/static/{its.version}", CachedStatic(directory=HERE / "static"), name="static")
    for room in (entering, bench, rack, importing, runs, instruments, practice, ground, kit, dossiers, api, away):
        app.include_router(room.router)
    app.add_middleware(GZipMiddleware, minimum_size=1000)
    app.add_middleware(Guard)
    return app
