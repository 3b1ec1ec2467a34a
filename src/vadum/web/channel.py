"""What the processes of one program tell each other: what grew, what an instrument says, and who hears it.

One process needs none of it. Several share a PostgreSQL database, and speak through its LISTEN and NOTIFY; an
instrument is heard by the one that holds its lock there, which the database lets go when that process dies.
"""

import json
import logging
import threading
import uuid
from collections.abc import Callable
from typing import Any

from vadum.soil.contract.errors import FieldError, VadumError
from vadum.tape.database import Database
from vadum.tape.dialect import advisory_key

LOG = logging.getLogger(__name__)
NAME = "vadum"
PATIENCE_S = 8.0
MOST_BYTES = 7500  # a notification holds 8000
Told = Callable[[str, str, str], None]
Answerer = Callable[[str, str, dict[str, Any]], dict[str, Any] | None]


class Unheard(VadumError):
    """No process hears the instrument at this moment."""


class Channel:
    """Of a single process: nobody else is there, and every instrument may be heard."""

    def open(self, told: Told, answerer: Answerer) -> None:
        """Begin: `told` hears what others say, `answerer` does what is asked of an instrument that is heard here."""

    def say(self, code: str, event: str, data: str) -> None:
        """Tell the others."""

    def ask(self, code: str, what: str, **more: Any) -> dict[str, Any]:
        """Have something done by whoever hears the run's instrument; raises Unheard."""
        raise Unheard(f"{code} listens to no instrument")

    def take(self, code: str) -> bool:
        """Become the one that hears for this run; False when another is."""
        return True

    def let_go(self, code: str) -> None:
        """Let another hear for it."""

    @property
    def shared(self) -> bool:
        """Whether other processes may be there."""
        return False

    def close(self) -> None:
        """End."""


class PostgresChannel(Channel):
    """Over PostgreSQL: one connection listens, one speaks, one holds the locks of the instruments heard here."""

    def __init__(self, url: str) -> None:
        import psycopg

        self._psycopg = psycopg
        self._url = url
        self._me = uuid.uuid4().hex
        self._lock = threading.Lock()
        self._speaker: Any = None
        self._holder: Any = None
        self._held: set[str] = set()
        self._awaited: dict[str, tuple[threading.Event, list[dict[str, Any]]]] = {}
        self._closing = threading.Event()
        self._told: Told = lambda code, event, data: None
        self._answerer: Answerer = lambda code, what, more: None
        self._thread = threading.Thread(target=self._listen, name="channel", daemon=True)

    @property
    def shared(self) -> bool:
        return True

    def open(self, told: Told, answerer: Answerer) -> None:
        self._told, self._answerer = told, answerer
        self._thread.start()

    def _connect(self) -> Any:
        return self._psycopg.connect(self._url, autocommit=True, connect_timeout=5)

    def _send(self, message: dict[str, Any]) -> None:
        text = json.dumps({**message, "from": self._me})
        if len(text.encode()) > MOST_BYTES:
            LOG.warning("too long for the channel: %s", text[:80])
            return
        with self._lock:
            for tried in (1, 2):
                try:
                    if self._speaker is None or self._speaker.closed:
                        self._speaker = self._connect()
                    self._speaker.execute("SELECT pg_notify(%s, %s)", (NAME, text))
                    return
                except self._psycopg.Error:
                    self._speaker = None
                    if tried == 2:
                        LOG.warning("the channel to the other processes is down")

    def say(self, code: str, event: str, data: str) -> None:
        self._send({"say": [code, event, data]})

    def ask(self, code: str, what: str, **more: Any) -> dict[str, Any]:
        known = uuid.uuid4().hex
        came, answers = threading.Event(), list[dict[str, Any]]()
        self._awaited[known] = (came, answers)
        try:
            self._send({"ask": [known, code, what, more]})
            if not came.wait(PATIENCE_S):
                raise Unheard(f"{code} listens to no instrument, or what hears it does not answer")
        finally:
            self._awaited.pop(known, None)
        answer = answers[0]
        if "problem" in answer:
            raise FieldError(str(answer.get("field", "instrument")), str(answer["problem"]))
        found: dict[str, Any] = answer["did"]
        return found

    def _listen(self) -> None:
        while not self._closing.is_set():
            try:
                with self._connect() as connection:
                    connection.execute(f"LISTEN {NAME}")
                    while not self._closing.is_set():
                        for notice in connection.notifies(timeout=0.5):
                            self._heard(notice.payload)
            except self._psycopg.Error:
                self._closing.wait(0.5)  # the database is gone for a moment: it is looked for again

    def _heard(self, text: str) -> None:
        try:
            message = json.loads(text)
            if message["from"] == self._me:
                return
            if "say" in message:
                self._told(*message["say"])
            elif "ask" in message:
                threading.Thread(target=self._answer, args=message["ask"], daemon=True).start()
            elif message["to"] in self._awaited:
                came, answers = self._awaited[message["to"]]
                answers.append(message)
                came.set()
        except Exception:
            LOG.exception("the channel: %s", text[:200])

    def _answer(self, known: str, code: str, what: str, more: dict[str, Any]) -> None:
        try:
            did = self._answerer(code, what, more)
        except FieldError as error:
            self._send({"to": known, "field": error.field, "problem": error.problem})
            return
        except VadumError as error:
            self._send({"to": known, "problem": str(error)})
            return
        if did is not None:
            self._send({"to": known, "did": did})

    def take(self, code: str) -> bool:
        with self._lock:
            if code in self._held and self._holder is not None and not self._holder.closed:
                return True
            try:
                if self._holder is None or self._holder.closed:
                    self._holder, self._held = self._connect(), set()
                row = self._holder.execute("SELECT pg_try_advisory_lock(%s)", (advisory_key(f"ear {code}"),)).fetchone()
            except self._psycopg.Error:
                self._holder, self._held = None, set()
                return False
            if row[0]:
                self._held.add(code)
            return bool(row[0])

    def let_go(self, code: str) -> None:
        with self._lock:
            if code not in self._held or self._holder is None:
                return
            self._held.discard(code)
            try:
                self._holder.execute("SELECT pg_advisory_unlock(%s)", (advisory_key(f"ear {code}"),))
            except self._psycopg.Error:
                self._holder = None  # its end lets every lock go

    def close(self) -> None:
        self._closing.set()
        if self._thread.is_alive():
            self._thread.join(2)
        for connection in (self._speaker, self._holder):
            if connection is not None:
                connection.close()


def channel_of(database: Database) -> Channel:
    """The channel that this database allows."""
    if database.engine.dialect.name == "sqlite":
        return Channel()
    url = database.engine.url.set(drivername="postgresql").render_as_string(hide_password=False)
    return PostgresChannel(url)
