"""Connections that say nothing are closed, and so are those beyond a number; log lines have an end."""

import asyncio
import logging
import threading
import time
from typing import Any

from uvicorn.protocols.http.h11_impl import H11Protocol

REQUEST_S = 15.0  # from a connection's opening, or a request's first byte, to the end of its head
MOST_CONNECTIONS = 3000
# Taken in at one go. Python 3.11 tries as often to take in a connection for which no file is left, and logs each try.
BACKLOG = 100
KEPT_FREE = 64 + BACKLOG  # files for the database, for pages' own needs, and for what comes in at one go
MOST_LINE = 2000
SAME_LINES, SAME_LINES_S = 5, 60.0
MOST_LINES_KNOWN = 1000
MOST_TRACE = 8000


class BoundedConnection(H11Protocol):
    """A connection of HTTP that does not wait for ever for a request, and gives way when there are too many."""

    most = MOST_CONNECTIONS  # fewer where the system allows fewer files, see `most_connections`
    _head_timer: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Begin to wait for a request."""
        super().connection_made(transport)
        self._wait()
        if len(self.connections) > self.most:
            idle = next((c for c in self.connections if c is not self and c.idle), self)  # type: ignore[union-attr]
            idle.transport.close()

    @property
    def idle(self) -> bool:
        """Whether no request is being answered on it."""
        return self.cycle is None or self.cycle.response_complete

    def data_received(self, data: bytes) -> None:
        """Bytes came: once a request's head is whole it is waited for no more."""
        super().data_received(data)
        if not self.idle:
            self._rest()
        elif self._head_timer is None:
            self._wait()

    def on_response_complete(self) -> None:
        """Answered: from here the keep-alive time counts, and at the next byte ours again."""
        super().on_response_complete()
        self._rest()

    def connection_lost(self, exc: Exception | None) -> None:
        """Gone."""
        self._rest()
        super().connection_lost(exc)

    def _wait(self) -> None:
        self._rest()
        self._head_timer = self.loop.call_later(REQUEST_S, self._give_up)

    def _rest(self) -> None:
        if self._head_timer is not None:
            self._head_timer.cancel()
            self._head_timer = None

    def _give_up(self) -> None:
        self._head_timer = None
        if self.idle and not self.transport.is_closing():
            self.transport.close()


class BoundedFormatter(logging.Formatter):
    """One line for a message, however long or broken into lines; a traceback with an end."""

    def format(self, record: logging.LogRecord) -> str:
        """The record as text."""
        message = record.getMessage()
        if len(message) > MOST_LINE or not message.isprintable():
            record = logging.makeLogRecord(record.__dict__)
            shown = "".join(c if c.isprintable() else "\N{REPLACEMENT CHARACTER}" for c in message[:MOST_LINE])
            record.msg, record.args = shown + ("…" if len(message) > MOST_LINE else ""), ()
        text = super().format(record)
        return text if len(text) <= MOST_TRACE else f"{text[: MOST_TRACE // 2]}\n…\n{text[-MOST_TRACE // 2 :]}"


class SameLines(logging.Filter):
    """The same message, over and over, is written a few times a minute, and then counted."""

    def __init__(self) -> None:
        super().__init__()
        self._lock = threading.Lock()
        self._seen: dict[str, tuple[float, int]] = {}

    def filter(self, record: logging.LogRecord) -> bool:
        """Whether the record is written."""
        line = f"{record.name} {str(record.msg)[:200]}"
        now = time.monotonic()
        with self._lock:
            since, many = self._seen.get(line, (now, 0))
            if now - since > SAME_LINES_S:
                if many > SAME_LINES:
                    record.msg = f"{record.msg} ({many - SAME_LINES} more like this within {now - since:.0f} s)"
                since, many = now, 0
            if len(self._seen) > MOST_LINES_KNOWN:
                self._seen.clear()
            self._seen[line] = (since, many + 1)
        if many:
            record.exc_info, record.exc_text = None, None  # its traceback was written with the first
        return many < SAME_LINES


def most_connections() -> int:
    """As many open files as the system allows, each connection being one; how many connections that leaves room for."""
    try:
        import resource
    except ImportError:  # a system without such limits
        return MOST_CONNECTIONS
    limits: Any = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (limits[1], limits[1]))
    unbounded = limits[1] == resource.RLIM_INFINITY
    return MOST_CONNECTIONS if unbounded else max(BACKLOG, min(MOST_CONNECTIONS, limits[1] - KEPT_FREE))
