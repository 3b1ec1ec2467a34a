"""A PostgreSQL server of the tests' own, from Debian's binaries: begun when it is first asked for, gone at the end."""

import atexit
import os
import shutil
import subprocess
import tempfile
import uuid
from functools import cache
from pathlib import Path

import psycopg

from vadum.tape.database import Database


def binaries() -> Path:
    """Where the server's programs are."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"))
    if found:
        return found[-1].parent
    on_path = shutil.which("initdb")
    assert on_path, "PostgreSQL is missing: make test installs it"
    return Path(on_path).parent


class Server:
    """A running cluster in a folder of its own, on a socket of its own."""

    def __init__(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="vpg-", dir="/tmp"))  # short: a socket's path has few characters
        self._as: list[str] = []
        if os.geteuid() == 0:  # it refuses to run as root
            shutil.chown(self.folder, "postgres", "postgres")
            self._as = ["runuser", "-u", "postgres", "--"]
        data = str(self.folder / "data")
        self._run(
            "initdb", "-D", data, "-U", "vadum", "--auth=trust", "--encoding=UTF8", "--locale=C.UTF-8", "--no-sync"
        )
        options = f"-k {self.folder} -h '' -c fsync=off -c full_page_writes=off -c max_connections=300"
        self._run("pg_ctl", "-D", data, "-w", "-l", str(self.folder / "log"), "-o", options, "start")
        atexit.register(self.stop)

    def _run(self, program: str, *words: str) -> None:
        subprocess.run(
            [*self._as, str(binaries() / program), *words], check=True, stdout=subprocess.DEVNULL, cwd=self.folder
        )

    def url(self, name: str) -> str:
        """The address of one of its databases."""
        return f"postgresql+psycopg://vadum@/{name}?host={self.folder}"

    def create(self, like: str = "") -> str:
        """A fresh database, or a copy of one that nobody is connected to; its name."""
        name = f"t{uuid.uuid4().hex[:12]}"
        with psycopg.connect(f"postgresql://vadum@/postgres?host={self.folder}", autocommit=True) as connection:
            connection.execute(f"CREATE DATABASE {name}" + (f" TEMPLATE {like}" if like else ""))
        return name

    def stop(self) -> None:
        """End it and throw its folder away."""
        data = str(self.folder / "data")
        subprocess.run(
            [*self._as, str(binaries() / "pg_ctl"), "-D", data, "-m", "immediate", "stop"], stdout=subprocess.DEVNULL
        )
        shutil.rmtree(self.folder, ignore_errors=True)


@cache
def server() -> Server:
    """The one server of this test process."""
    return Server()


@cache
def _empty() -> str:
    name = server().create()
    made = Database(server().url(name))
    made.migrate()
    made.close()
    return name


def empty_database() -> str:
    """The address of a database that holds the program's tables and nothing else."""
    return server().url(server().create(_empty()))
