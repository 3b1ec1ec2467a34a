"""What a browser needs to go on without a network: its service worker, and the page shown where nothing was kept."""

import json
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from vadum.web.context import HERE, TheShop, page

router = APIRouter(include_in_schema=False)
WORKER = (HERE / "static/js/worker.js").read_text("utf-8")
# The files that the page at AWAY is made of.
SHELL = (
    "look.css",
    "places.css",
    "mark.svg",
    *(f"js/{name}.js" for name in ("ask", "away", "button", "clock", "find", "forms", "frame", "kept", "notice")),
    *(f"js/{name}.js" for name in ("outbox", "readable", "send", "sounds", "unsaved")),
    *(f"vendor/{name}" for name in ("alpine-csp.min.js", "bootstrap.min.css")),
    *(f"vendor/IBMPlexSans-{weight}.woff2" for weight in ("Regular", "Medium", "SemiBold")),
    "vendor/IBMPlexSansCondensed-Regular.woff2",
)


@router.get("/worker.js")
def worker(its: TheShop) -> Response:
    """The service worker, at the root because it stands before every page; a new version is a new worker."""
    shell = ["/away", *(f"/static/{its.version}/{name}" for name in SHELL)]
    head = f"const VERSION = {json.dumps(its.version)};\nconst SHELL = {json.dumps(shell)};\n"
    return Response(head + WORKER, media_type="text/javascript", headers={"Cache-Control": "no-cache"})


@router.get("/away")
def away(request: Request) -> Any:
    """No network, and nothing kept of the page that was asked for."""
    return page(request, "away.html", None)
