"""The true application on a real socket, for tests, pictures and measurements."""

import fcntl
import json
import socket
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from functools import cache
from pathlib import Path

import uvicorn

from tests import postgres
from vadum.demo.job import build
from vadum.tape import people
from vadum.tape.clock import Clock, FrozenClock
from vadum.tape.database import Database
from vadum.tape.dialect import copy_live
from vadum.tape.tables import Person
from vadum.web.app import create_app
from vadum.web.connections import BoundedConnection
from vadum.web.settings import Settings

AT = datetime.fromisoformat("2026-05-12T10:21:18+02:00")


class Served:
    """A running application: its address, its database, its clock, its people. It can go away and come back."""

    def __init__(self, url: str, database: Database, clock: Clock, ids: dict[str, int]) -> None:
        self.url, self.database, self.clock, self.ids = url, database, clock, ids
        self._port = 0
        self.come()

    @property
    def address(self) -> str:
        """Where it answers."""
        return f"http://127.0.0.1:{self._port}"

    def come(self) -> None:
        """Start to answer: at first on a port of its own, later on the same again."""
        # The socket is bound here and handed over: two test processes can never be given the same port.
        # Its protocol is named, else asyncio leaves small answers to wait 40 ms for the next.
        self._door = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
        self._door.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        self._door.bind(("127.0.0.1", self._port))
        self._door.listen(100)
        self._port = self._door.getsockname()[1]
        app = create_app(Settings(database_url=self.url, clock=self.clock, demo=True, body_s=3.0))
        self._server = uvicorn.Server(
            uvicorn.Config(
                app,
                http=BoundedConnection,
                log_level="warning",
                timeout_graceful_shutdown=1,
                timeout_keep_alive=75,
                proxy_headers=False,
            )
        )
        self._thread = threading.Thread(target=self._server.run, kwargs={"sockets": [self._door]}, daemon=True)
        self._thread.start()
        while not self._server.started:
            time.sleep(0.02)

    def go(self) -> None:
        """Stop answering: who asks now finds nobody."""
        self._server.should_exit = True
        self._thread.join(10)
        self._door.close()

    def link(self, initials: str) -> str:
        """A fresh one-time link."""
        with self.database.writing() as session:
            person = session.get(Person, self.ids[initials])
            assert person is not None
            return f"{self.address}/enter/{people.one_time_link(session, person, self.clock.now())}"


_FOLDERS: list[tempfile.TemporaryDirectory[str]] = []
shared: list[Path] = []  # a folder that the processes of one test run have together


@cache
def _postgres_template() -> tuple[str, dict[str, int]]:
    name = postgres.server().create()
    made = Database(postgres.server().url(name))
    made.migrate()
    ids = build(made, AT)
    made.close()
    return name, ids


@cache
def _template() -> tuple[Path, dict[str, int]]:
    """The frozen demo's file and its people, built by whoever of the test processes asks first."""
    if not shared:
        _FOLDERS.append(tempfile.TemporaryDirectory(prefix="vadum-template-"))
    folder = shared[0] if shared else Path(_FOLDERS[0].name)
    file, people_file = folder / "demo.db", folder / "demo.json"
    with (folder / "demo.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not people_file.exists():
            file.unlink(missing_ok=True)
            made = Database(f"sqlite:///{file}")
            made.migrate()
            people_file.write_text(json.dumps(build(made, AT)))
            made.close()
    return file, json.loads(people_file.read_text())


def prepared(target: Path) -> dict[str, int]:
    """A copy of the frozen demo; its people's ids by their initials."""
    file, ids = _template()
    copy_live(file, target)
    return dict(ids)


def prepared_on_a_server() -> tuple[str, dict[str, int]]:
    """The address of a copy of the frozen demo on the tests' PostgreSQL; its people's ids by their initials."""
    name, ids = _postgres_template()
    return postgres.server().url(postgres.server().create(name)), dict(ids)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def served(folder: Path, clock: Clock | None = None, kind: str = "sqlite") -> Iterator[Served]:
    """The demo, served from a folder or a server's database. The frozen demo is built once a process and copied."""
    clock = clock or FrozenClock(AT)
    url = f"sqlite:///{folder / 'demo.db'}"
    if kind == "postgres":
        url, ids = prepared_on_a_server()
        database = Database(url, clock)
    elif clock.now() == AT:
        ids = prepared(folder / "demo.db")
        database = Database(url)
    else:
        database = Database(url)
        database.migrate()
        ids = build(database, clock.now())
    running = Served(url, database, clock, ids)
    try:
        yield running
    finally:
        running.go()
        database.close()
