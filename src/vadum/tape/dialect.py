"""The one place that knows which database it is: pragmas, write locks, append-only triggers, live copies."""

import hashlib
import sqlite3
from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import closing
from datetime import datetime
from pathlib import Path
from typing import Any
from urllib.parse import quote

from sqlalchemy import Connection, Engine, Executable, Integer, Table, create_engine, event, func, select, text
from sqlmodel import Session

from vadum.tape.columns import UTCDateTime

APPEND_ONLY = ("entry", "kitevent")
_LEDGER_LOCK = 7106  # any number that nothing else of ours uses


def lock_ledger(connection: Connection) -> None:
    """One writer at a time at the ledger's end, until its transaction ends. SQLite has one writer anyway."""
    if connection.dialect.name != "sqlite":
        connection.connection.cursor().execute("SELECT pg_advisory_xact_lock(%s)", (_LEDGER_LOCK,))


def next_ids(connection: Connection, table: Table, many: int, above: int = 0) -> list[int]:
    """The ids that the next rows of a table will have. A server gives each away once; in a file they are those above
    the last, and above what was foreseen already, and whoever uses them looks again under the lock."""
    if connection.dialect.name == "sqlite":
        first = max(connection.execute(select(func.max(table.c.id))).scalar() or 0, above) + 1
        return list(range(first, first + many))
    sequence = f"pg_get_serial_sequence('\"{table.name}\"', 'id')"
    drawn = connection.exec_driver_sql(f"SELECT nextval({sequence}) FROM generate_series(1, {many})")
    return [int(row[0]) for row in drawn]


def hold_row(session: Session, row: Any) -> None:
    """Hold a row for this transaction, as it stands now. SQLite's writer holds everything already."""
    connection = session.connection()
    if connection.dialect.name != "sqlite":
        session.flush()
        session.refresh(row, with_for_update=True)


def lock_named(connection: Connection, name: str) -> None:
    """One transaction at a time for what is counted or made once (a method's next number), until it ends."""
    if connection.dialect.name != "sqlite":
        connection.connection.cursor().execute("SELECT pg_advisory_xact_lock(%s)", (advisory_key(name),))


def advisory_key(name: str) -> int:
    """The number under which a server's advisory lock of that name is held."""
    return int.from_bytes(hashlib.sha256(name.encode()).digest()[:7], "big")


def make_engine(url: str) -> Engine:
    """An engine whose commits are on disk when they return; SQLite in WAL with synchronous=FULL."""
    if not url.startswith("sqlite"):
        # A process answers ten requests at once (web/app.py), each with at most two connections; four processes stay
        # below the hundred that a server gives by default.
        return create_engine(url, pool_size=8, max_overflow=12, pool_pre_ping=True)
    engine = create_engine(url, connect_args={"check_same_thread": False}, pool_size=20, max_overflow=100)

    @event.listens_for(engine, "connect")
    def _pragmas(connection: Any, _record: Any) -> None:
        connection.isolation_level = None  # the begin hook below decides, not the driver
        for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "busy_timeout=5000"):
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
        text, positions = self._as_compiled(connection)
        cursor = connection.connection.cursor()
        cursor.execute(text, dict(values) if positions is None else tuple(values[name] for name in positions))
        return cursor

    def run_many(self, connection: Connection, rows: Sequence[Mapping[str, Any]]) -> None:
        """Execute it for each of many rows."""
        text, positions = self._as_compiled(connection)
        cursor = connection.connection.cursor()
        many: Any = [dict(row) if positions is None else tuple(row[name] for name in positions) for row in rows]
        cursor.executemany(text, many)

    def _as_compiled(self, connection: Connection) -> tuple[str, tuple[str, ...] | None]:
        dialect = connection.dialect
        if dialect.name not in self._compiled:
            compiled: Any = self._statement.compile(  # type: ignore[attr-defined]
                dialect=dialect, column_keys=list(self._keys) or None
            )
            positions = tuple(compiled.positiontup) if compiled.positiontup is not None else None
            self._compiled[dialect.name] = (str(compiled), positions)
        return self._compiled[dialect.name]


_MOMENT = UTCDateTime(timezone=True)


def stored(connection: Connection, at: datetime) -> Any:
    """A moment as this database's driver takes it."""
    processor = _MOMENT.bind_processor(connection.dialect)
    return processor(at) if processor else at


def loaded(connection: Connection, at: Any) -> datetime | None:
    """A moment as this database's driver hands it back, with its zone."""
    processor: Any = _MOMENT.dialect_impl(connection.dialect).result_processor(connection.dialect, None)
    found: datetime | None = processor(at) if processor else at
    return found


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


FOUND_BY = "to_tsvector('simple', words)"  # a server's index is used only where a query says the same


def make_findable(connection: Connection) -> None:
    """A full-text index over the words of `findable`, kept in step by the database itself."""
    if connection.dialect.name != "sqlite":
        connection.execute(text(f"CREATE INDEX ix_findable_words ON findable USING gin ({FOUND_BY})"))
        return
    connection.execute(
        text(
            "CREATE VIRTUAL TABLE findable_words USING fts5(kind, words, content='findable', content_rowid='id', "
            "prefix='1 2 3')"
        )
    )
    new = "INSERT INTO findable_words(rowid, kind, words) VALUES (new.id, new.kind, new.words);"
    old = (
        "INSERT INTO findable_words(findable_words, rowid, kind, words) VALUES('delete', old.id, old.kind, old.words);"
    )
    for verb, work in (("INSERT", new), ("DELETE", old), ("UPDATE", f"{old} {new}")):
        connection.execute(text(f"CREATE TRIGGER findable_{verb.lower()} AFTER {verb} ON findable BEGIN {work} END"))


def found_words(connection: Connection, kind: str, words: list[list[str]], most: int) -> list[int]:
    """Ids of the findable things of a kind whose words begin with all of these, newest first.

    Each of `words` is the pieces of one typed word, letters and digits only, which must follow each other.
    """
    if connection.dialect.name == "sqlite":
        asked = " AND ".join(f'"{" ".join(pieces)}"*' for pieces in words)
        query = text(
            "SELECT rowid FROM findable_words WHERE findable_words MATCH :asked ORDER BY rowid DESC LIMIT :most"
        )
        values = {"asked": f'kind : "{kind}" AND words : ({asked})', "most": most}
    else:
        asked = " & ".join("(" + " <-> ".join([*pieces[:-1], f"{pieces[-1]}:*"]) + ")" for pieces in words)
        query = text(
            f"SELECT id FROM findable WHERE kind = :kind AND {FOUND_BY} @@ to_tsquery('simple', :asked) "
            "ORDER BY id DESC LIMIT :most"
        )
        values = {"asked": asked, "kind": kind, "most": most}
    return [int(row[0]) for row in connection.execute(query, values)]


def copy_live(source: Path, target: Path) -> None:
    """A consistent copy of a SQLite database that may be in use."""
    address = f"file:{quote(str(source))}?mode=ro"
    with closing(sqlite3.connect(address, uri=True)) as origin, closing(sqlite3.connect(target)) as copy:
        origin.backup(copy)


Schema = Sequence[tuple[str, str, str, str]]


def schema_of(connection: Connection) -> Schema:
    """Kind, name, table and text of everything in a SQLite file's schema."""
    found = connection.exec_driver_sql("SELECT type, name, tbl_name, coalesce(sql, '') FROM sqlite_master")
    return sorted((r[0], r[1], r[2], " ".join(r[3].split())) for r in found)


def storage_faults(connection: Connection, expected: Callable[[], Schema]) -> list[str]:
    """What is wrong below the rows: damage, broken references, a schema or triggers that are not the program's own."""
    if connection.dialect.name == "sqlite":
        damage = [str(r[0]) for r in connection.exec_driver_sql("PRAGMA integrity_check(5)") if r[0] != "ok"]
        lost = [
            f"{r[0]} row {r[1]} points to no {r[2]}" for r in connection.exec_driver_sql("PRAGMA foreign_key_check")
        ]
        wanted, found = set(expected()), set(schema_of(connection))
        differs = sorted({f"{kind} {name}" for kind, name, *_ in wanted ^ found})
        return [*damage, *lost, *(f"the schema: {what} is not the program's own" for what in differs)]
    held = connection.exec_driver_sql(
        "SELECT c.relname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid JOIN pg_proc p ON p.oid = t.tgfoid "
        "WHERE NOT t.tgisinternal AND t.tgenabled IN ('O', 'A') AND p.proname = 'refuse_change' "
        "AND p.prosrc LIKE '%%RAISE EXCEPTION%%append only%%'"
    )
    guarded = {row[0] for row in held}
    wanted_tables = {*APPEND_ONLY, "trace", "ledger"}
    return [f"the schema: nothing keeps table {name} append-only" for name in sorted(wanted_tables - guarded)]


def after_move(connection: Connection, tables: Iterable[Table]) -> None:
    """Let a server's counters go on behind the numbers that were carried in."""
    if connection.dialect.name == "sqlite":
        return
    for table in tables:
        key = next(iter(table.primary_key))
        if isinstance(key.type, Integer) and key.autoincrement is not False:
            connection.exec_driver_sql(
                f"SELECT setval(pg_get_serial_sequence('\"{table.name}\"', '{key.name}'), "
                f'greatest((SELECT coalesce(max({key.name}), 0) FROM "{table.name}"), 1))'
            )
