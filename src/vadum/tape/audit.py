"""Checking, backing up and restoring: every chain verified, every signed value computed again."""

import os
import shutil
import sqlite3
from datetime import datetime
from pathlib import Path

from sqlalchemy import select
from sqlmodel import Session, col

from vadum.soil.errors import VadumError
from vadum.tape.database import Database, DatabaseError, file_of
from vadum.tape.dialect import copy_live
from vadum.tape.entries import broken_link, read_tape
from vadum.tape.runs import compute, reported, signed_values
from vadum.tape.tables import Run


def faults_of(session: Session, run: Run) -> list[str]:
    """What does not hold in one run."""
    entries = read_tape(session, run.id or 0)
    broken = broken_link(entries)
    if broken:
        return [f"{run.code}: {broken}"]
    faults = []
    if not entries:
        return [f"{run.code}: its tape is empty"]
    if entries[-1].seq != run.last_seq:
        faults.append(f"{run.code}: the tape ends at {entries[-1].seq}, the index says {run.last_seq}")
    for place, entry in enumerate(entries):
        if entry.path != "@signed":
            continue
        try:
            now = reported(compute(run, entries[:place]))
        except VadumError as error:
            faults.append(f"{run.code}: cannot be recomputed: {error}")
            continue
        for key, value in signed_values(entry).items():
            if now.get(key) != value:
                faults.append(f"{run.code}: {key} was signed as {value}, computes to {now.get(key)}")
    return faults


def audit(database: Database) -> tuple[int, list[str]]:
    """How many runs were looked at, and every fault found."""
    faults: list[str] = []
    number = 0
    with database.reading() as session:
        for run in session.execute(select(Run).order_by(col(Run.id)).execution_options(yield_per=200)).scalars():
            faults += faults_of(session, run)
            number += 1
    return number, faults


def backup(database: Database, target: Path) -> None:
    """A consistent copy of the live database; never over an existing file."""
    if target.exists():
        raise DatabaseError(f"{target.name} exists; a backup never overwrites")
    source = file_of(database.url)
    if not source.exists():
        raise DatabaseError("there is no database to back up yet")
    unfinished = target.with_name(target.name + ".part")
    copy_live(source, unfinished)
    os.replace(unfinished, target)


def restore(source: Path, url: str, now: datetime) -> tuple[int, Path | None]:
    """Put a checked backup in the place of the database, which is kept aside; raises DatabaseError on any fault."""
    if not source.is_file():
        raise DatabaseError(f"{source.name} is no file")
    target = file_of(url)
    if target.exists() and target.samefile(source):
        raise DatabaseError("the backup and the database are the same file")
    target.parent.mkdir(parents=True, exist_ok=True)
    arriving = target.with_name(target.name + ".arriving")
    shutil.copyfile(source, arriving)
    candidate = Database(f"sqlite:///{arriving}")
    try:
        if not candidate.has_tables():
            raise DatabaseError(f"{source.name} holds no Vadum database")
        candidate.migrate()
        number, faults = audit(candidate)
        with candidate.engine.connect() as connection:
            connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
    except (sqlite3.DatabaseError, OSError) as error:
        candidate.close()
        arriving.unlink(missing_ok=True)
        raise DatabaseError(f"{source.name} cannot be read: {error}") from error
    except Exception as error:
        candidate.close()
        arriving.unlink(missing_ok=True)
        if isinstance(error, VadumError):
            raise
        raise DatabaseError(f"{source.name} cannot be read as a database: {type(error).__name__}") from error
    candidate.close()
    for tail in ("-wal", "-shm"):
        arriving.with_name(arriving.name + tail).unlink(missing_ok=True)
    if faults:
        arriving.unlink()
        raise DatabaseError(f"{source.name} does not hold together: {faults[0]}")
    kept = None
    if target.exists():
        kept = target.with_name(f"{target.stem}.before-restore-{now:%Y%m%d-%H%M%S}{target.suffix}")
        copy_live(target, kept)
    for tail in ("-wal", "-shm"):
        target.with_name(target.name + tail).unlink(missing_ok=True)
    os.replace(arriving, target)
    return number, kept
