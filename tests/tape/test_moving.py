"""A laboratory moved to a server and back: ids, chains, ledger and signatures are the same."""

import pytest

from tests import postgres
from tests.tape.test_tape import signed
from vadum.tape import copies, ledger, runs
from vadum.tape.audit import audit, sealed
from vadum.tape.database import Database, DatabaseError

pytestmark = pytest.mark.sqlite_file


def test_a_laboratory_moves_to_a_server_and_back_whole(lab, tmp_path):
    code = signed(lab)
    lab.check(code)
    seal = sealed(lab.database, lab.clock.now())
    there = Database(postgres.server().url(postgres.server().create()), lab.clock)
    assert copies.move(lab.database, there) == (1, seal.seq)
    assert audit(there, seal) == (1, [])
    with pytest.raises(DatabaseError, match="already"):
        copies.move(lab.database, there)
    with there.writing() as session:  # the counters go on behind what was carried in
        run = runs.start(session, lab.place(), "sieve", None, lab.person("AT"), lab.clock.now())
        assert (run.id, run.code) == (2, "SV-01")
    back = Database(f"sqlite:///{tmp_path / 'back.db'}", lab.clock)
    copies.move(there, back)
    assert audit(back, seal) == (2, [])
    with there.reading() as one, back.reading() as other:
        assert ledger.head(one.connection()) == ledger.head(other.connection())
        for code in ("WC-01", "SV-01"):
            tapes = [runs.read_tape(s, runs.find(s, code).id) for s in (one, other)]
            assert tapes[0] == tapes[1]
    there.close()
    back.close()


def test_what_does_not_hold_together_is_not_moved(lab, tmp_path):
    code = signed(lab)
    with lab.database.engine.connect() as connection:
        connection.exec_driver_sql("UPDATE run SET state = 'open'")
        connection.commit()
    target = Database(f"sqlite:///{tmp_path / 'target.db'}")
    with pytest.raises(DatabaseError, match=code):
        copies.move(lab.database, target)
    target.close()


def test_a_guard_that_a_server_lost_is_found():
    database = Database(postgres.empty_database())
    assert audit(database) == (0, [])
    with database.engine.connect() as connection:
        connection.exec_driver_sql("ALTER TABLE entry DISABLE TRIGGER entry_append_only")
        connection.commit()
    assert audit(database)[1] == ["the schema: nothing keeps table entry append-only"]
    database.close()
