"""The one place that knows which database it is: pragmas, write locks, append-only triggers, live copies."""

import sqlite3
from collections.abc import Mapping
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, Executable, create_engine, event, text

from vadum.tape.columns import UTCDateTime

APPEND_ONLY = ("entry", "kitevent")


def make_engine(url: str) -> Engine:
    """An engine whose commits are on disk when they return; SQLite in WAL with synchronous=FULL."""
    if not url.startswith("sqlite"):
        return create_engine(url)
    engine = create_engine(url, connect_args={"check_same_thread": False})

    @event.listens_for(engine, "connect")
    def _pragmas(connection: Any, _record: Any) -> None:
        connection.isolation_level = None  # the begin hook below decides, not the driver
        for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "busy_timeout=10000"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        # A writer takes its lock first: a read that later turns into a write could meet another writer and fail.
        # On the driver itself: a statement run through the engine costs more than the whole transaction.
        raw: Any = connection.connection.dbapi_connection
        raw.execute("BEGIN IMMEDIATE" if connection.get_execution_options().get("write") else "BEGIN")

    return engine


class Prepared:
    """A statement compiled once per database and run on the driver's own cursor, for the one path that is hot.

    Values are passed as the driver takes them; moments go through `stored`.
    """

    def __init__(self, statement: Executable, *keys: str) -> None:
        self._statement, self._keys = statement, keys
        self._compiled: dict[str, tuple[str, tuple[str, ...] | None]] = {}

    def run(self, connection: Connection, values: Mapping[str, Any]) -> Any:
        """Execute it; the cursor, to fetch from."""
        dialect = connection.dialect
        if dialect.name not in self._compiled:
            compiled: Any = self._statement.compile(  # type: ignore[attr-defined]
                dialect=dialect, column_keys=list(self._keys) or None
            )
            positions = tuple(compiled.positiontup) if compiled.positiontup is not None else None
            self._compiled[dialect.name] = (str(compiled), positions)
        text, positions = self._compiled[dialect.name]
        cursor = connection.connection.cursor()
        cursor.execute(text, dict(values) if positions is None else tuple(values[name] for name in positions))
        return cursor


_MOMENT = UTCDateTime(timezone=True)


def stored(connection: Connection, at: datetime) -> Any:
    """A moment as this database's driver takes it."""
    processor = _MOMENT.bind_processor(connection.dialect)
    return processor(at) if processor else at


def refuse_changes(connection: Connection, tables: tuple[str, ...] = APPEND_ONLY) -> None:
    """Triggers that refuse updates and deletes on append-only tables."""
    if connection.dialect.name == "sqlite":
        for table in tables:
            for verb in ("UPDATE", "DELETE"):
                connection.execute(
                    text(
                        f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
                        f"BEGIN SELECT RAISE(ABORT, '{table} is append only'); END"
                    )
                )
        return
    connection.execute(
        text(
            "CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS "
            "$$ BEGIN RAISE EXCEPTION '% is append only', TG_TABLE_NAME; END $$"
        )
    )
    for table in tables:
        connection.execute(
            text(
                f"CREATE TRIGGER {table}_append_only BEFORE UPDATE OR DELETE ON {table} "
                "FOR EACH ROW EXECUTE FUNCTION refuse_change()"
            )
        )


def copy_live(source: Path, target: Path) -> None:
    """A consistent copy of a SQLite database that may be in use."""
    with sqlite3.connect(f"file:{source}?mode=ro", uri=True) as origin, sqlite3.connect(target) as copy:
        origin.backup(copy)
    copy.close()
    origin.close()
