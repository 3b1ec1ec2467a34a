"""Copies: a backup taken, a backup put back, a laboratory moved to another database; each checked before it counts."""

import contextlib
import os
import shutil
import sqlite3
from datetime import datetime
from pathlib import Path

from sqlalchemy import Table, insert, select
from sqlalchemy.exc import DBAPIError
from sqlmodel import SQLModel

from vadum.soil.contract.errors import VadumError
from vadum.tape import ledger
from vadum.tape.audit import audit
from vadum.tape.database import Database, DatabaseError, file_of, private_file, private_folder
from vadum.tape.dialect import after_move, copy_live
from vadum.tape.hold import Held, hold
from vadum.tape.known_schema import refuse_unknown_file
from vadum.tape.tables import Attempt, KnownBrowser, OneTimeLink, SignIn

# What opens a door does not come back from a copy: whoever holds an old one could walk in.
DOORS: tuple[type[SQLModel], ...] = (SignIn, OneTimeLink, KnownBrowser, Attempt)
A_BATCH = 2000

TAILS = ("", "-wal", "-shm", "-journal")  # what SQLite leaves beside a file that it writes


def backup(database: Database, target: Path) -> None:
    """A consistent copy of the live database; never over an existing file, and nothing half done is left."""
    if target.exists():
        raise DatabaseError(f"{target.name} exists; a backup never overwrites")
    source = file_of(database.url)
    if not source.exists():
        raise DatabaseError("there is no database to back up yet")
    private_folder(target.parent)
    unfinished = target.with_name(target.name + ".part")
    try:
        unfinished.touch(mode=0o600)
        copy_live(source, unfinished)
        os.replace(unfinished, target)
    except (OSError, sqlite3.DatabaseError) as error:
        raise DatabaseError(f"the backup was not made: {_reason(error)}") from error
    finally:
        for tail in TAILS:
            unfinished.with_name(unfinished.name + tail).unlink(missing_ok=True)


def _reason(error: BaseException) -> str:
    """What went wrong, without the path of anything."""
    return (error.strerror or "it cannot be written") if isinstance(error, OSError) else str(error)


def restore(source: Path, url: str, now: datetime) -> tuple[int, Path | None]:
    """Put a checked backup in the place of the database, which is kept aside; raises DatabaseError on any fault.

    Refused while a server holds the database. Sessions and one-time links do not come back.
    """
    if not source.is_file():
        raise DatabaseError(f"{source.name} is no file")
    target = file_of(url)
    if target.exists() and target.samefile(source):
        raise DatabaseError("the backup and the database are the same file")
    private_folder(target.parent)
    try:
        held = hold(target, alone=True)
    except Held as error:
        raise DatabaseError("a server is running on this database: stop it first, then restore") from error
    arriving = target.with_name(target.name + ".arriving")
    try:
        number = _checked_copy(source, arriving)
        kept = _keep_aside(target, now)
        for tail in ("-wal", "-shm"):
            target.with_name(target.name + tail).unlink(missing_ok=True)
        os.replace(arriving, target)
    except OSError as error:
        raise DatabaseError(f"nothing was restored: {_reason(error)}") from error
    finally:
        for tail in TAILS:
            arriving.with_name(arriving.name + tail).unlink(missing_ok=True)
        held.close()
    return number, kept


def _checked_copy(source: Path, arriving: Path) -> int:
    """The backup beside the database, migrated and found whole; how many runs it has."""
    refuse_unknown_file(source)
    shutil.copyfile(source, arriving)
    private_file(arriving)
    candidate = Database(f"sqlite:///{arriving}")
    try:
        with contextlib.closing(sqlite3.connect(arriving)) as raw:
            damage = [str(row[0]) for row in raw.execute("PRAGMA integrity_check(3)") if row[0] != "ok"]
        if damage:
            raise DatabaseError(f"{source.name} is damaged: {damage[0]}")
        if not candidate.has_tables():
            raise DatabaseError(f"{source.name} holds no Vadum database")
        candidate.migrate()
        _shut_doors(candidate)
        number, faults = audit(candidate)
        with candidate.engine.connect() as connection:
            connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
    except (sqlite3.DatabaseError, DBAPIError, UnicodeDecodeError) as error:
        raise DatabaseError(f"{source.name} cannot be read: {getattr(error, 'orig', error)}") from error
    except Exception as error:
        if isinstance(error, VadumError | OSError):
            raise
        raise DatabaseError(f"{source.name} cannot be read as a database: {type(error).__name__}") from error
    finally:
        candidate.close()
    if faults:
        raise DatabaseError(f"{source.name} does not hold together: {faults[0]}")
    return number


def _shut_doors(database: Database) -> None:
    with database.writing() as session:
        for model in DOORS:
            session.connection().execute(model.__table__.delete())  # type: ignore[attr-defined]


def _keep_aside(target: Path, now: datetime) -> Path | None:
    if not target.exists():
        return None
    kept = target.with_name(f"{target.stem}.before-restore-{now:%Y%m%d-%H%M%S}{target.suffix}")
    kept.touch(mode=0o600)
    try:
        copy_live(target, kept)
    except sqlite3.DatabaseError:
        # What is replaced may itself be damaged, which is why somebody restores: then its bytes are kept as they are.
        shutil.copyfile(target, kept)
    return kept


def move(origin: Database, target: Database) -> tuple[int, int]:
    """Carry a laboratory whole into an empty database; how many runs and ledger lines. Raises DatabaseError.

    The origin must hold together, and what arrives is checked again; ids, chains, ledger and signatures are the same.
    """
    number, faults = audit(origin)
    if faults:
        raise DatabaseError(f"the laboratory to be moved does not hold together: {faults[0]}")
    target.migrate()
    if target.has_people():
        raise DatabaseError("the database to move into holds a laboratory already; an empty one is wanted")
    doors = {model.__tablename__ for model in DOORS}
    with origin.reading() as session, target.engine.connect().execution_options(write=True) as arriving:
        leaving = session.connection()
        for table in _in_order():
            if table.name in doors:
                continue
            rows: list[dict[str, object]] = []
            for row in leaving.execute(select(table).order_by(*table.primary_key)).mappings():
                rows.append(dict(row))
                if len(rows) >= A_BATCH:
                    arriving.execute(insert(table), rows)
                    rows = []
            if rows:
                arriving.execute(insert(table), rows)
        after_move(arriving, _in_order())
        arriving.commit()
        lines = ledger.head(leaving).seq
    moved, faults = audit(target)
    if faults or moved != number:
        raise DatabaseError(f"what arrived does not hold together: {faults[0] if faults else f'{moved} runs'}")
    return number, lines


def _in_order() -> list[Table]:
    """The program's tables, those that others point to first."""
    return list(SQLModel.metadata.sorted_tables)
