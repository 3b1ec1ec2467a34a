"""Make the files of a release for `tests/released`: this program's database and the values that it computes.

`python tools/released_database.py VERSION`, run with the program of that version: its demonstration, one run with
readings of every test, and a run begun by every procedure.
"""

import json
import lzma
import sqlite3
import sys
import tempfile
import uuid
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from sqlmodel import Session, select

from vadum.demo.job import build
from vadum.soil.contract.errors import VadumError
from vadum.soil.register import METHODS
from vadum.tape import posting, runs
from vadum.tape.database import Database
from vadum.tape.entries import NewEntry, read_tape
from vadum.tape.ground import place
from vadum.tape.tables import Person, Run, Sample

AT = datetime(2026, 5, 12, 10, 21, tzinfo=ZoneInfo("Europe/Zurich"))
MOST_READINGS, SEED = 150, 5
INTO = Path(__file__).parents[1] / "tests" / "released"


def flat(data: dict[str, Any], way: str = "") -> Iterator[tuple[str, Any]]:
    """Every reading of a record's data by its path."""
    for name, value in data.items():
        if isinstance(value, list):
            for number, row in enumerate(value):
                yield from flat(row, f"{way}{name}[{number}].")
        else:
            yield f"{way}{name}", value


def fill(session: Session) -> None:
    """A run by every procedure of every test; the first of each test with the readings of a virtual soil."""
    person = session.exec(select(Person)).first()
    sample = session.exec(select(Sample)).first()
    assert person is not None
    assert sample is not None
    for name, its in METHODS.items():
        for number, school in enumerate(its.schools.values()):
            where = place(session, sample.id or 0)
            assert where is not None
            run = runs.start(session, where, name, school.name, person, AT)
            if number:
                continue
            record = its.virtual(SEED, school, None).record.model_dump(mode="json", exclude_none=True)
            for path, value in list(flat(record))[:MOST_READINGS]:
                new = NewEntry(id=uuid.uuid4(), path=path, value=value if isinstance(value, bool) else str(value))
                try:
                    with session.begin_nested():
                        posting.post(session, run, new, person, AT, insist=True)
                except VadumError as error:
                    print(f"{run.code} {path}: {error}")


def computed(session: Session) -> dict[str, Any]:
    """The values of every run, as this program computes them."""
    return {
        run.code: {
            "values": {v.key: v.value for v in runs.compute(run, read_tape(session, run.id or 0)).outcome.values}
        }
        for run in session.exec(select(Run)).all()
    }


def main() -> None:
    (version,) = sys.argv[1:]
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "lab.db"
        database = Database(f"sqlite:///{file}")
        database.migrate()
        build(database, AT)
        with database.writing() as session:
            fill(session)
        with database.reading() as session:
            values = computed(session)
        database.close()
        whole = sqlite3.connect(file)
        whole.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        whole.execute("PRAGMA journal_mode=DELETE")
        whole.close()
        (INTO / f"{version}.db.xz").write_bytes(lzma.compress(file.read_bytes(), preset=6))
    (INTO / f"{version}.json.xz").write_bytes(lzma.compress(json.dumps(values).encode(), preset=6))


if __name__ == "__main__":
    main()
