"""The program as several processes over one PostgreSQL database, begun by its own command."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

import httpx2

from tests.serving import free_port, prepared_on_a_server
from vadum.tape import people
from vadum.tape.database import Database
from vadum.tape.tables import Person


class Several:
    """A running command with its workers."""

    def __init__(self, url: str, ids: dict[str, int], process: subprocess.Popen, port: int) -> None:
        self.url, self.ids, self.process = url, ids, process
        self.address = f"http://127.0.0.1:{port}"
        self.database = Database(url)

    def browser(self, initials: str) -> httpx2.Client:
        """A browser that has signed in by a one-time link."""
        with self.database.writing() as session:
            person = session.get(Person, self.ids[initials])
            token = people.one_time_link(session, person, datetime.now(UTC))
        client = httpx2.Client(base_url=self.address, follow_redirects=True, timeout=30)
        client.get(f"/enter/{token}")
        return client

    def workers(self) -> list[int]:
        """The processes that answer: children of the command that run the program (a helper of Python's runs none)."""
        found = []
        for folder in Path("/proc").glob("[0-9]*"):
            try:
                parent = int((folder / "stat").read_text().rpartition(")")[2].split()[1])
                words = (folder / "cmdline").read_bytes()
            except (OSError, ValueError, IndexError):
                continue
            if parent == self.process.pid and b"spawn_main" in words:
                found.append(int(folder.name))
        return sorted(found)

    def kill_one(self, worker: int | None = None) -> int:
        """A worker dies without a word; which."""
        worker = self.workers()[0] if worker is None else worker
        os.kill(worker, signal.SIGKILL)
        return worker


def until(true: object, seconds: float = 40.0) -> bool:
    """Whether it becomes true within a time that no machine of today needs."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        try:
            if true():
                return True
        except httpx2.HTTPError:
            pass
        time.sleep(0.1)
    return False


STARTED_S = 120.0  # four processes begin at once, on whatever machine


@contextmanager
def several(workers: int) -> Iterator[Several]:
    """The demo's job, served by so many processes."""
    url, ids = prepared_on_a_server()
    port = free_port()
    words = ["serve", "--db", url, "--port", str(port), "--workers", str(workers)]
    process = subprocess.Popen(
        [sys.executable, "-m", "vadum.cli", *words], stderr=subprocess.PIPE, stdout=subprocess.PIPE
    )
    running = Several(url, ids, process, port)
    try:
        assert until(lambda: httpx2.get(f"{running.address}/signin").status_code == 200, STARTED_S), process.stderr
        yield running
    finally:
        running.database.close()
        process.terminate()
        try:
            process.wait(15)
        except subprocess.TimeoutExpired:
            process.kill()
