"""The true application on a real socket, for tests, pictures and measurements."""

import socket
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path

import uvicorn

from vadum.demo.job import build
from vadum.tape import people
from vadum.tape.clock import Clock, FrozenClock
from vadum.tape.database import Database
from vadum.tape.dialect import copy_live
from vadum.tape.tables import Person
from vadum.web.app import create_app
from vadum.web.settings import Settings

AT = datetime.fromisoformat("2026-05-12T10:21:18+02:00")


class Served:
    """A running application: its address, its database, its clock, its people."""

    def __init__(self, address: str, database: Database, clock: Clock, ids: dict[str, int]) -> None:
        self.address, self.database, self.clock, self.ids = address, database, clock, ids

    def link(self, initials: str) -> str:
        """A fresh one-time link."""
        with self.database.writing() as session:
            person = session.get(Person, self.ids[initials])
            assert person is not None
            return f"{self.address}/enter/{people.one_time_link(session, person, self.clock.now())}"


_IDS: dict[str, int] = {}
_TEMPLATE: list[tempfile.TemporaryDirectory[str]] = []


def _prepared(target: Path) -> None:
    if not _TEMPLATE:
        _TEMPLATE.append(tempfile.TemporaryDirectory(prefix="vadum-template-"))
        made = Database(f"sqlite:///{_TEMPLATE[0].name}/demo.db")
        made.migrate()
        _IDS.update(build(made, AT))
        made.close()
    copy_live(Path(_TEMPLATE[0].name) / "demo.db", target)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def served(folder: Path, clock: Clock | None = None) -> Iterator[Served]:
    """The demo, served from a folder. The frozen demo is built once a process and copied."""
    clock = clock or FrozenClock(AT)
    url = f"sqlite:///{folder / 'demo.db'}"
    if clock.now() == AT:
        _prepared(folder / "demo.db")
        database = Database(url)
        ids = dict(_IDS)
    else:
        database = Database(url)
        database.migrate()
        ids = build(database, clock.now())
    # The socket is bound here and handed over: two test processes can never be given the same port.
    door = socket.create_server(("127.0.0.1", 0))
    config = uvicorn.Config(
        create_app(Settings(database_url=url, clock=clock, demo=True)), log_level="warning", timeout_graceful_shutdown=1
    )
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, kwargs={"sockets": [door]}, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    try:
        yield Served(f"http://127.0.0.1:{door.getsockname()[1]}", database, clock, ids)
    finally:
        server.should_exit = True
        thread.join(10)
        door.close()
        database.close()
