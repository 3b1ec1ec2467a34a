"""What stands before every route: the host's name, body size and pace, cross-site posts, the security headers."""

import asyncio
import json
import logging
from collections.abc import Awaitable, Callable, MutableMapping
from typing import Any
from urllib.parse import urlsplit

from vadum.tape.codes import whole_number
from vadum.web.body_limits import READING_BYTES, BodyLimit

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
# What says nothing else of itself is one person's, of this moment: no browser and no proxy keeps it.
UNLESS_SAID = (b"cache-control", b"no-store")
LOG = logging.getLogger(__name__)
SAFE = ("GET", "HEAD", "OPTIONS")

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]


class Refused(Exception):
    """The request's body is larger than any reading, or does not come."""

    def __init__(self, status: int, message: str) -> None:
        self.status, self.message = status, message
        super().__init__(message)


TOO_LARGE = "This is larger than what is taken here; nothing was saved."
TOO_SLOW = "The rest of this did not come; nothing was kept."
FAULT = "The program has a fault here, which is in its log. What was kept before stays kept."


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


def _host_of(scope: Scope) -> str:
    host = _header(scope, b"host").strip().lower()
    if host.startswith("["):
        return host.partition("]")[0].removeprefix("[")
    return host.partition(":")[0].rstrip(".")


class Guard:
    """ASGI middleware: plain, because a wrapped response would hold back the event stream."""

    def __init__(
        self, app: App, hosts: tuple[str, ...] = (), body_s: float = 20.0, limits: tuple[BodyLimit, ...] = ()
    ) -> None:
        self.app, self.body_s, self.limits = app, body_s, limits
        self.hosts = frozenset(h.lower() for h in hosts)

    def most_of(self, scope: Scope) -> int:
        """How many bytes the body of a request may have: what its route declares, else a reading's."""
        path = str(scope.get("path", ""))
        return next((limit.most for limit in self.limits if limit.path.match(path)), READING_BYTES)

    def refused_at_once(self, scope: Scope, most: int) -> "Refused | None":
        """What the head of a request alone is refused for."""
        if self.hosts and _host_of(scope) not in self.hosts:
            return Refused(421, "This program does not answer to that name (vadum serve --host-name).")
        if crosses_sites(scope):
            return Refused(403, "This came from another site's page and was refused.")
        length = _header(scope, b"content-length")
        told = whole_number(length)
        if length and (told is None or told > most):
            return Refused(413, TOO_LARGE)
        return None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Refuse, or pass on with headers; whatever goes wrong behind is answered here, with the same headers."""
        if scope["type"] == "http":
            await self._answer(scope, receive, send)
        else:
            await self.app(scope, receive, send)

    async def _answer(self, scope: Scope, receive: Receive, send: Send) -> None:
        most = self.most_of(scope)
        at_once = self.refused_at_once(scope, most)
        if at_once:
            await _refuse(send, at_once.status, at_once.message)
            return
        seen, whole = 0, False
        refused: Refused | None = None
        begun = False

        async def counted() -> Message:
            nonlocal seen, whole, refused
            if whole:
                return await receive()  # a stream waits here for its page to leave, for as long as that takes
            try:
                message = await asyncio.wait_for(receive(), self.body_s)
            except TimeoutError:
                refused = Refused(408, TOO_SLOW)
                raise refused from None
            seen += len(message.get("body", b""))
            whole = not message.get("more_body", False)
            if seen > most:
                refused = Refused(413, TOO_LARGE)
                raise refused
            return message

        async def headed(message: Message) -> None:
            nonlocal begun
            if refused and not begun:
                return  # whatever the framework makes of it, the answer is ours
            if message["type"] == "http.response.start":
                begun = True
                _add_headers(message)
            await send(message)

        try:
            await self.app(scope, counted, headed)
        except Refused:
            pass
        except Exception:
            LOG.exception("%s %s", scope["method"], scope["path"][:200])
            if not begun and refused is None:
                refused = Refused(500, FAULT)
        if refused and not begun:
            await _refuse(send, refused.status, refused.message)


def _add_headers(message: Message) -> None:
    present = {key.lower() for key, _ in message["headers"]}
    extra = [(k, v) for k, v in (*HEADERS.items(), UNLESS_SAID) if k not in present]
    message["headers"] = [*message["headers"], *extra]


async def _refuse(send: Send, status: int, message: str) -> None:
    body = json.dumps({"field": "", "message": message}).encode()
    headers = [(b"content-type", b"application/json"), (b"connection", b"close"), *HEADERS.items(), UNLESS_SAID]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
