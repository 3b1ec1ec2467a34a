"""What stands before every route: body size, cross-site posts, the security headers."""

import contextlib
import json
from collections.abc import Awaitable, Callable, MutableMapping
from typing import Any
from urllib.parse import urlsplit

POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)
HEADERS = {
    b"content-security-policy": POLICY.encode(),
    b"x-content-type-options": b"nosniff",
    b"referrer-policy": b"same-origin",
    b"x-frame-options": b"DENY",
    b"cross-origin-opener-policy": b"same-origin",
    b"permissions-policy": b"camera=(), microphone=(), geolocation=(self)",
}
MOST_BYTES = 256 * 1024
SAFE = ("GET", "HEAD", "OPTIONS")

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]


class TooLarge(Exception):
    """The body is larger than any reading."""


def _header(scope: Scope, name: bytes) -> str:
    return next((value.decode("latin-1") for key, value in scope["headers"] if key == name), "")


def crosses_sites(scope: Scope) -> bool:
    """Whether a changing request was sent by another site's page."""
    if scope["method"] in SAFE:
        return False
    fetched_from = _header(scope, b"sec-fetch-site")
    if fetched_from and fetched_from not in ("same-origin", "none"):
        return True
    origin = _header(scope, b"origin")
    return bool(origin) and urlsplit(origin).netloc != _header(scope, b"host")


class Guard:
    """ASGI middleware: plain, because a wrapped response would hold back the event stream."""

    def __init__(self, app: App) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Refuse, or pass on with headers."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        if crosses_sites(scope):
            await _refuse(send, 403, "This came from another site's page and was refused.")
            return
        length = _header(scope, b"content-length")
        if length and (not length.isdigit() or int(length) > MOST_BYTES):
            await _refuse(send, 413, "This is larger than any reading; nothing was kept.")
            return
        seen = 0
        overflowed = begun = False

        async def counted() -> Message:
            nonlocal seen, overflowed
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > MOST_BYTES:
                overflowed = True
                raise TooLarge
            return message

        async def headed(message: Message) -> None:
            nonlocal begun
            if overflowed and not begun:
                return  # whatever the framework makes of it, the answer is ours
            if message["type"] == "http.response.start":
                begun = True
                present = {key.lower() for key, _ in message["headers"]}
                extra = [(k, v) for k, v in HEADERS.items() if k not in present]
                message["headers"] = [*message["headers"], *extra]
            await send(message)

        with contextlib.suppress(TooLarge):
            await self.app(scope, counted, headed)
        if overflowed and not begun:
            await _refuse(send, 413, "This is larger than any reading; nothing was kept.")


async def _refuse(send: Send, status: int, message: str) -> None:
    body = json.dumps({"field": "", "message": message}).encode()
    headers = [(b"content-type", b"application/json"), *HEADERS.items()]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
