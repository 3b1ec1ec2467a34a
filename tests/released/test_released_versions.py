"""The databases of every released version: put back, checked and computed by this one, their values as they were.

Each file was made by its own version's program: the demonstration job, one run with readings of every test, and a run
begun by every procedure; beside it the values that its version computed.
"""

import json
import lzma
from datetime import UTC, datetime
from pathlib import Path

import pytest
from sqlmodel import select

from vadum.soil.contract.fields import RecordPart, reading
from vadum.soil.contract.paths import as_named_now, rows_model
from vadum.soil.register import METHODS
from vadum.tape import runs
from vadum.tape.audit import audit
from vadum.tape.copies import restore
from vadum.tape.database import Database
from vadum.tape.entries import read_tape
from vadum.tape.tables import Run

HERE = Path(__file__).parent
VERSIONS = sorted(HERE.glob("*.db.xz"), key=lambda f: [int(n) for n in f.name.removesuffix(".db.xz").split(".")])
NOW = datetime(2026, 5, 13, 8, 0, tzinfo=UTC)


def called(file: Path) -> str:
    return file.name.removesuffix(".db.xz")


@pytest.mark.parametrize("file", VERSIONS, ids=called)
def test_a_released_database_is_restored_checked_and_computes_as_it_did(file, tmp_path):
    backup = tmp_path / "backup.db"
    backup.write_bytes(lzma.decompress(file.read_bytes()))
    url = f"sqlite:///{tmp_path / 'lab.db'}"
    many, _ = restore(backup, url, NOW)
    database = Database(url)
    formerly = json.loads(lzma.decompress((HERE / f"{called(file)}.json.xz").read_bytes()))
    try:
        assert audit(database) == (many, [])
        assert many == len(formerly)
        changed = {}
        with database.reading() as session:
            for run in session.exec(select(Run)).all():
                read = runs.compute(run, read_tape(session, run.id or 0))
                now = {v.key: v.value for v in read.outcome.values}
                then = formerly[run.code]["values"]
                other = {k: (v, now.get(k)) for k, v in then.items() if not alike(v, now.get(k))}
                if other:
                    changed[run.code] = other
        assert not changed
    finally:
        database.close()


def alike(then: object, now: object) -> bool:
    both = isinstance(then, float) and isinstance(now, float)
    return now == pytest.approx(then, rel=1e-6) if both else then == now


def test_the_figures_of_every_version_are_kept():
    assert [called(f) for f in VERSIONS][:2] == ["0.1.0", "0.2.0"]
    assert len(VERSIONS) >= 10


def test_every_setting_that_a_version_wrote_is_read_and_one_that_none_had_is_refused():
    """What a tape tells of its procedure: each name is a setting of today, or it says what became of it."""
    for its in METHODS.values():
        kind = type(its.school())
        told = json.loads(its.school().model_dump_json())
        for name in kind.RETIRED:
            assert name not in kind.model_fields
        with pytest.raises(ValueError, match="nobody_s_setting"):
            kind.model_validate(told | {"nobody_s_setting": 1})


def test_a_soaking_told_in_days_is_read_in_hours():
    kind = type(METHODS["cbr"].school())
    told = json.loads(METHODS["cbr"].school().model_dump_json())
    old = {k: v for k, v in told.items() if k not in ("soak_h", "soak_within_h")}
    read = kind.model_validate_json(json.dumps(old | {"soak_days": 4.0, "least_soak_share": 0.95}))
    assert (read.soak_h, round(read.soak_within_h, 6)) == (96, 4.8)


class OldRow(RecordPart):
    RETIRED = {"mass_old_g": "mass_g", "colour_of_the_day": ""}
    mass_g: float | None = reading("mass")


class OldRecord(RecordPart):
    RETIRED = {"pats": "rows"}
    rows: tuple[OldRow, ...] = ()


@pytest.mark.parametrize(
    ("formerly", "now"),
    [
        ("pats[2].mass_old_g", "rows[2].mass_g"),
        ("rows[0].mass_g", "rows[0].mass_g"),
        ("pats[1]", "rows[1]"),
        ("rows[0].colour_of_the_day", ""),
        ("nothing_like_it", "nothing_like_it"),
    ],
)
def test_a_reading_of_a_former_name_stands_under_its_name_of_today(formerly, now):
    assert rows_model(OldRecord, "rows") is OldRow
    assert as_named_now(OldRecord, formerly) == now
