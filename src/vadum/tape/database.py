"""Opening the database: its address, its migrations, its sessions for reading and for writing."""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Connection, Engine, inspect
from sqlmodel import Session

from vadum.soil.errors import VadumError
from vadum.tape.dialect import make_engine

MIGRATIONS = Path(__file__).parent / "migrations"


class DatabaseError(VadumError):
    """The database cannot be used as it is."""


def default_url() -> str:
    """VADUM_DATABASE_URL, or a SQLite file in VADUM_HOME (by default ~/.vadum)."""
    url = os.environ.get("VADUM_DATABASE_URL")
    if url:
        return url
    home = Path(os.environ.get("VADUM_HOME") or Path.home() / ".vadum")
    return f"sqlite:///{home / 'vadum.db'}"


def file_of(url: str) -> Path:
    """The file behind a SQLite address; raises DatabaseError for a server."""
    if not url.startswith("sqlite:///"):
        raise DatabaseError("backup and restore copy a SQLite file; a server has its own tools for that")
    return Path(url.removeprefix("sqlite:///"))


class Database:
    """An engine and its two kinds of session."""

    def __init__(self, url: str) -> None:
        if url.startswith("sqlite:///"):
            file_of(url).parent.mkdir(parents=True, exist_ok=True)
        self.url = url
        self.engine: Engine = make_engine(url)

    def migrate(self) -> None:
        """Bring the tables to the newest revision."""
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self.engine.connect().execution_options(write=True) as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
            connection.commit()

    def has_tables(self) -> bool:
        """Whether the database has been migrated at all."""
        return inspect(self.engine).has_table("entry")

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only reads."""
        with Session(self.engine) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session that holds the write lock from its start and commits at its end, or not at all."""
        with self.engine.connect().execution_options(write=True) as connection, Session(bind=connection) as session:
            yield session
            session.commit()

    @contextmanager
    def writing_connection(self) -> Iterator[Connection]:
        """As `writing`, without a session: for readings that come by the hundred."""
        with self.engine.connect().execution_options(write=True) as connection, connection.begin():
            yield connection

    def close(self) -> None:
        """Give the connections back."""
        self.engine.dispose()
