"""Whether a database is this program's at all, and of a version that this program knows: looked at before a byte of it
is touched."""

import sqlite3
from contextlib import closing
from pathlib import Path
from urllib.parse import quote

from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, inspect

from vadum.tape.database import DatabaseError

MIGRATIONS = Path(__file__).parent / "migrations"
OURS = "alembic_version"


class UnknownSchema(DatabaseError):
    """The database is not this program's, or a newer program wrote it; nothing of it was changed."""


def scripts() -> Config:
    """Where the migrations lie."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return config


def refuse_unknown_file(file: Path) -> None:
    """Raise UnknownSchema for a file that is no SQLite database, is another program's, or a newer version's."""
    if not file.is_file() or file.stat().st_size == 0:
        return
    try:
        with closing(sqlite3.connect(f"file:{quote(str(file))}?mode=ro", uri=True)) as connection:
            tables = {r[0] for r in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            found = connection.execute(f"SELECT version_num FROM {OURS}").fetchall() if OURS in tables else []
    except sqlite3.DatabaseError as error:
        if "not a database" in str(error) or "malformed" in str(error):
            raise UnknownSchema(f"{file.name} is not a database of Vadum, or it is damaged: {error}") from None
        return  # held by another program, or unreadable: opening it says so in its own words
    _refuse(tables, [str(r[0]) for r in found], file.name)


def refuse_unknown_server(connection: Connection) -> None:
    """The same for a database on a server."""
    tables = set(inspect(connection).get_table_names())
    found = connection.exec_driver_sql(f"SELECT version_num FROM {OURS}").fetchall() if OURS in tables else []
    _refuse(tables, [str(r[0]) for r in found], "the database")


def _refuse(tables: set[str], found: list[str], name: str) -> None:
    if tables - {"sqlite_sequence"} and not found:
        raise UnknownSchema(f"{name} holds tables of another program: give Vadum a database of its own")
    known = {script.revision for script in ScriptDirectory.from_config(scripts()).walk_revisions()}
    newer = [revision for revision in found if revision not in known]
    if newer:
        raise UnknownSchema(
            f"{name} was written by a newer version of Vadum (schema {newer[0][:40]}). Install that version, or "
            "restore a backup that was taken before it; nothing was changed."
        )
