"""The application: routes, errors and static files put together."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import partial
from typing import Any

import anyio.to_thread
from fastapi import FastAPI
from fastapi.responses import Response
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles

from vadum.soil.contract.school import OWN
from vadum.web import attached_instruments
from vadum.web.body_limits import body_limits
from vadum.web.context import HERE, Shop
from vadum.web.errors import add_handlers
from vadum.web.guard import Guard
from vadum.web.plain import PlainJSON
from vadum.web.routes import (
    api,
    bench,
    dossiers,
    ground,
    instruments,
    kit,
    kit_api,
    labels,
    laboratory,
    offline,
    oven,
    pasted,
    people,
    photographs,
    plates,
    practice,
    putting_right,
    rack,
    run_list,
    runs,
    schools,
    sheets,
    signin,
    strength,
    table_import,
    water,
)
from vadum.web.settings import Settings

AT_ONCE = 10  # requests of one of several processes; its pool of connections is made for them


class CachedStatic(StaticFiles):
    """Static files that never change under their versioned name."""

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        """With a year's cache."""
        response = super().file_response(*args, **kwargs)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def create_app(settings: Settings) -> FastAPI:
    """The application on these settings; its tables are brought up to date first."""
    its = Shop(settings)
    its.database.migrate()
    its.look_at_zone()
    OWN.folder = settings.schools_folder

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        held = its.database.hold()
        if its.channel.shared:
            anyio.to_thread.current_default_thread_limiter().total_tokens = AT_ONCE
        its.channel.open(partial(attached_instruments.hear_others, its), partial(attached_instruments.answer, its))
        keeper = attached_instruments.Housekeeper(its).start()
        try:
            yield
        finally:
            keeper.close()
            attached_instruments.close(its)
            its.channel.close()
            its.stations.close()
            its.close()
            if held:
                held.close()

    app = FastAPI(
        title="Vadum",
        version="1",
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/v1/openapi.json",
        default_response_class=PlainJSON,
        lifespan=life,
        description="Runs, readings and results of soils tests. Sign in first; the session cookie carries it.",
    )
    app.state.shop = its
    add_handlers(app)
    app.mount(f"/static/{its.version}", CachedStatic(directory=HERE / "static"), name="static")
    rooms = (
        signin,
        bench,
        rack,
        table_import,
        run_list,
        runs,
        sheets,
        instruments,
        practice,
        pasted,
        ground,
        kit,
        kit_api,
        labels,
        laboratory,
        oven,
        dossiers,
        people,
        schools,
        api,
        putting_right,
        offline,
        photographs,
        plates,
        strength,
        water,
    )
    for room in rooms:
        app.include_router(room.router)
    app.add_middleware(GZipMiddleware, minimum_size=1000)
    limits = body_limits(room.router for room in rooms)
    app.add_middleware(Guard, hosts=settings.hosts, body_s=settings.body_s, limits=limits)
    return app
