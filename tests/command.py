"""The program's own command over a SQLite file: begun, killed, begun again."""

import resource
import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path

import httpx2

from tests.serving import free_port, prepared
from tests.several import until
from vadum.tape import people
from vadum.tape.database import Database
from vadum.tape.tables import Person


class Command:
    """`vadum serve` on a file with the demo's job."""

    def __init__(self, folder: Path, most_files: int = 0) -> None:
        self.most_files = most_files
        self.log = folder / "server.log"
        self.file = folder / "lab.db"
        self.ids = prepared(self.file)
        self.database = Database(f"sqlite:///{self.file}")
        self.port = free_port()
        self.process: subprocess.Popen | None = None

    @property
    def address(self) -> str:
        """Where it answers."""
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> "Command":
        """Begin, and wait until it answers; gives itself back."""
        words = ["serve", "--db", str(self.file), "--port", str(self.port)]
        with self.log.open("ab") as log:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "vadum.cli", *words], stderr=log, preexec_fn=self._within_limits
            )
        assert until(lambda: httpx2.get(f"{self.address}/signin", timeout=5).status_code == 200, 60)
        return self

    def _within_limits(self) -> None:
        if self.most_files:
            resource.setrlimit(resource.RLIMIT_NOFILE, (self.most_files, self.most_files))

    def browser(self, initials: str) -> httpx2.Client:
        """A browser that has signed in by a one-time link."""
        with self.database.writing() as session:
            person = session.get(Person, self.ids[initials])
            token = people.one_time_link(session, person, datetime.now(UTC))
        client = httpx2.Client(base_url=self.address, follow_redirects=True, timeout=60)
        client.get(f"/enter/{token}")
        return client

    def kill(self) -> None:
        """kill -9."""
        assert self.process
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        """End it as a person would."""
        assert self.process
        self.process.terminate()
        try:
            self.process.wait(15)
        except subprocess.TimeoutExpired:
            self.kill()
        self.database.close()
