"""Opening the database: its address, its migrations, its sessions for reading and for writing."""

import os
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Connection, Engine, inspect
from sqlalchemy.exc import ArgumentError, NoSuchModuleError, OperationalError
from sqlmodel import Session

from vadum.soil.contract.errors import VadumError
from vadum.tape import find, ledger
from vadum.tape.clock import Clock
from vadum.tape.dialect import make_engine
from vadum.tape.hold import Hold, hold
from vadum.tape.trouble import WaitedTooLong

PATIENCE_S = 10.0
FOLLOWED_BY = (find, ledger)  # what listens to every session that writes, once it is imported


class DatabaseError(VadumError):
    """The database cannot be used as it is."""


def default_url() -> str:
    """VADUM_DATABASE_URL, or a SQLite file in VADUM_HOME (by default ~/.vadum)."""
    url = os.environ.get("VADUM_DATABASE_URL")
    if url:
        return url
    home = Path(os.environ.get("VADUM_HOME") or Path.home() / ".vadum")
    if home.is_dir() and home.stat().st_mode & 0o077:
        home.chmod(0o700)  # its backups lie in it too
    return f"sqlite:///{home / 'vadum.db'}"


def beside(url: str) -> Path:
    """The folder beside the data: that of a SQLite file, else VADUM_HOME."""
    if url.startswith("sqlite:///"):
        return file_of(url).parent
    return Path(os.environ.get("VADUM_HOME") or Path.home() / ".vadum")


def file_of(url: str) -> Path:
    """The file behind a SQLite address; raises DatabaseError for a server."""
    if not url.startswith("sqlite:///"):
        raise DatabaseError("backup and restore copy a SQLite file; a server has its own tools for that")
    return Path(url.removeprefix("sqlite:///"))


def private_folder(folder: Path) -> None:
    """Make the folder, where it is missing, for its owner only."""
    if not folder.is_dir():
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)


def private_file(file: Path) -> None:
    """Its owner alone may read it."""
    if file.exists() and file.stat().st_mode & 0o077:
        file.chmod(0o600)


class Database:
    """An engine and its two kinds of session."""

    def __init__(self, url: str, clock: Clock | None = None) -> None:
        if url.startswith("sqlite:///"):
            private_folder(file_of(url).parent)
        self.url = url
        self.clock = clock or Clock()
        self._writers = threading.Lock() if url.startswith("sqlite") else None
        try:
            self.engine: Engine = make_engine(url)
        except (ArgumentError, NoSuchModuleError, ImportError):
            raise DatabaseError("the address names no database that Vadum can use: SQLite or PostgreSQL") from None

    def migrate(self) -> None:
        """Bring the tables to the newest revision; raises UnknownSchema, DatabaseError."""
        from alembic import command

        from vadum.tape.known_schema import refuse_unknown_file, refuse_unknown_server, scripts

        config = scripts()
        if self.url.startswith("sqlite:///"):
            refuse_unknown_file(file_of(self.url))
        with self._connected() as connection:
            if not self.url.startswith("sqlite"):
                refuse_unknown_server(connection)
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
            connection.commit()
        if self.url.startswith("sqlite:///"):
            for tail in ("", "-wal", "-shm"):
                private_file(file_of(self.url + tail))

    def _connected(self) -> Connection:
        """A connection that writes; raises DatabaseError where the server has no such database, or none is there."""
        try:
            return self.engine.connect().execution_options(write=True)
        except OperationalError as error:
            if self._writers is not None:
                raise
            words = str(error.orig).strip().splitlines() or [""]
            raise DatabaseError(f"the database server cannot be used: {words[0][:200]}") from None

    def has_tables(self) -> bool:
        """Whether the database has been migrated at all."""
        return inspect(self.engine).has_table("entry")

    @contextmanager
    def _turn(self) -> Iterator[None]:
        """Wait for one's turn among this process's writers.

        SQLite has one writer; threads that wait inside it sleep and try again, and under load the same one may lose
        every time. A server holds rows instead, and lets many write at once.
        """
        if self._writers is None:
            yield
            return
        if not self._writers.acquire(timeout=PATIENCE_S):
            raise WaitedTooLong("the database is locked by another hand of this program")
        try:
            yield
        finally:
            self._writers.release()

    def has_people(self) -> bool:
        """Whether a laboratory is in it."""
        with self.engine.connect() as connection:
            return connection.exec_driver_sql("SELECT 1 FROM person LIMIT 1").first() is not None

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only reads."""
        with Session(self.engine) as session:
            yield session

    @contextmanager
    def writing(self, by: str = "") -> Iterator[Session]:
        """A session that holds the write lock from its start and commits at its end, or not at all.

        `by` are the initials that the ledger names for changes whose rows do not say who made them.
        """
        with (
            self._turn(),
            self.engine.connect().execution_options(write=True) as connection,
            Session(bind=connection) as session,
        ):
            ledger.begin(connection, by)
            yield session
            session.flush()
            ledger.write(connection, self.clock.now())
            session.commit()

    @contextmanager
    def writing_connection(self, by: str = "") -> Iterator[Connection]:
        """As `writing`, without a session: for readings that come by the hundred."""
        with self._turn(), self.engine.connect().execution_options(write=True) as connection, connection.begin():
            ledger.begin(connection, by)
            yield connection
            ledger.write(connection, self.clock.now())

    def hold(self, *, alone: bool = False) -> Hold | None:
        """Hold the file as a server does, so that nothing is restored over it meanwhile, or alone; raises Held."""
        return hold(file_of(self.url), alone=alone) if self.url.startswith("sqlite:///") else None

    def close(self) -> None:
        """Give the connections back."""
        self.engine.dispose()
