"""A database that is not this program's, or is a newer one's, is refused in a sentence and stays as it is."""

import hashlib
import sqlite3
from contextlib import closing

import pytest
from typer.testing import CliRunner

from vadum.cli import app as command
from vadum.soil.contract.errors import VadumError
from vadum.tape.copies import restore
from vadum.tape.database import Database, DatabaseError
from vadum.tape.known_schema import UnknownSchema

pytestmark = pytest.mark.sqlite_file


def foreign(file):
    with closing(sqlite3.connect(file)) as other:
        other.execute("CREATE TABLE invoice (id INTEGER)")
        other.commit()


def newer(file):
    made = Database(f"sqlite:///{file}")
    made.migrate()
    made.close()
    with closing(sqlite3.connect(file)) as other:
        other.execute("UPDATE alembic_version SET version_num = '0999_of_tomorrow'")
        other.commit()


def no_database(file):
    file.write_bytes(b"minutes of a meeting\n" * 400)


KINDS = {"another program's": (foreign, "another program"), "a newer one's": (newer, "newer version of Vadum")}
KINDS["no database"] = (no_database, "not a database of Vadum")


@pytest.mark.parametrize(("make", "words"), KINDS.values(), ids=KINDS.keys())
def test_what_this_program_does_not_know_is_refused_and_not_touched(tmp_path, lab, make, words):
    file = tmp_path / "found.db"
    make(file)
    before = hashlib.sha256(file.read_bytes()).hexdigest()
    with pytest.raises(UnknownSchema, match=words):
        Database(f"sqlite:///{file}").migrate()
    for asked in (["serve"], ["check"], ["person", "ann", "--name", "Ann", "--initials", "AN"]):
        said = CliRunner().invoke(command, [*asked, "--db", str(file)], env={"VADUM_PASSPHRASE": "a long enough one"})
        assert said.exit_code != 0
        assert isinstance(said.exception, VadumError), "a sentence, no traceback"
    with pytest.raises(VadumError, match=words):
        restore(file, f"sqlite:///{tmp_path / 'target.db'}", lab.clock.now())
    assert hashlib.sha256(file.read_bytes()).hexdigest() == before


@pytest.mark.parametrize("url", ["mysql://localhost/x", "nothing", "postgresql://127.0.0.1:1/nothing"])
def test_an_address_that_leads_nowhere_is_said_in_a_sentence(url):
    with pytest.raises(DatabaseError, match="database"):
        Database(url).migrate()
