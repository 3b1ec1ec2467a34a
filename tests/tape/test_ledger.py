"""What can be found in a file that somebody changed by hand: every change of a list, by computing again."""

import json
import sqlite3
from datetime import timedelta

import pytest
from alembic import command
from alembic.config import Config

from tests.tape.test_tape import finished_water_content, signed
from vadum.tape import copies, instrument_log, ledger, people, runs, signatures
from vadum.tape.audit import audit, sealed
from vadum.tape.database import Database, DatabaseError
from vadum.tape.entries import GENESIS, Taped, hash_of
from vadum.tape.known_schema import MIGRATIONS
from vadum.tape.runs import NotAllowed
from vadum.tape.seal import read_seal

pytestmark = pytest.mark.sqlite_file
GUARDS = ("entry", "kitevent", "trace", "photograph", "ledger")


def stocked(lab):
    """A laboratory with a checked run, an open one with raw samples, kit, and a person who left."""
    done = signed(lab)
    with lab.database.writing() as session:
        run = runs.find(session, done)
        signatures.check(session, run, lab.person("BL"), lab.clock.now(), signatures.tape_end(session, run))
    code = lab.start("water_content")
    for path, value in (("tin", "31"), ("mass_wet_g", "61.2"), ("remarks", "wet at the wall")):
        lab.post(code, path, value)
    with lab.database.writing() as session:
        instrument_log.keep_trace(
            session, runs.find(session, code).id, "F1", "seq,seconds,mass", ["1,0.1,20.1", "2,0.2,20.2"]
        )
        people.change_role(session, people.named(session, "ana"), "checker", "MR")
        people.change_role(session, people.named(session, "ana"), "technician", "MR")
    assert audit(lab.database) == (2, [])
    return done, code


@pytest.fixture
def raw(lab):
    connection = sqlite3.connect(lab.file)
    connection.row_factory = sqlite3.Row
    yield connection
    connection.close()


def opened_up(raw):
    """As whoever has the file would: the guards taken off, and put back afterwards as they were."""
    guards = raw.execute("SELECT name, sql FROM sqlite_master WHERE type = 'trigger'").fetchall()
    for guard in guards:
        raw.execute(f"DROP TRIGGER {guard['name']}")
    return guards


def closed_up(raw, guards):
    for guard in guards:
        raw.execute(guard["sql"])
    raw.commit()


def chained_again(raw, run_id):
    """Every hash of a tape made right again after a change, by the program's own rule."""
    previous = GENESIS
    for row in raw.execute("SELECT * FROM entry WHERE run_id = ? ORDER BY seq", (run_id,)).fetchall():
        content = {"arrived_at": None, **dict(row), "previous_hash": previous}
        content["value"], content["strikes"] = json.loads(row["value"]), json.loads(row["strikes"])
        previous = hash_of(Taped.model_validate(content))
        raw.execute(
            "UPDATE entry SET previous_hash = ?, hash = ? WHERE id = ?", (content["previous_hash"], previous, row["id"])
        )


SIMPLE = {
    "a value": "UPDATE entry SET value = '\"61.3\"' WHERE path = 'mass_wet_g' AND run_id = 2",
    "who read it": "UPDATE entry SET by = 'XX' WHERE path = 'tin' AND run_id = 2",
    "when it was read": "UPDATE entry SET at = '2026-05-11 00:00:00.000000' WHERE path = 'tin' AND run_id = 2",
    "when it arrived": "UPDATE entry SET arrived_at = '2026-05-11 00:00:00.000000' WHERE path = 'tin' AND run_id = 2",
    "its source": "UPDATE entry SET source = 'instrument: B1' WHERE path = 'mass_wet_g' AND run_id = 2",
    "its path": "UPDATE entry SET path = 'mass_dry_g' WHERE path = 'mass_wet_g' AND run_id = 2",
    "a reason": "UPDATE entry SET reason = 'x' WHERE path = 'tin' AND run_id = 2",
    "what it strikes": "UPDATE entry SET strikes = '[\"x\"]' WHERE path = 'remarks' AND run_id = 2",
    "no JSON in a value": "UPDATE entry SET value = '{' WHERE path = 'remarks' AND run_id = 2",
    "a deleted tail": "DELETE FROM entry WHERE run_id = 2 AND seq = (SELECT max(seq) FROM entry WHERE run_id = 2)",
    "a deleted tail, index too": (
        "DELETE FROM entry WHERE run_id = 2 AND seq = (SELECT max(seq) FROM entry WHERE run_id = 2);"
        "UPDATE run SET last_seq = last_seq - 1 WHERE id = 2"
    ),
    "a deleted entry in the middle": "DELETE FROM entry WHERE run_id = 2 AND seq = 2",
    "a deleted run": "DELETE FROM trace; DELETE FROM entry WHERE run_id = 2; DELETE FROM run WHERE id = 2",
    "a run without its tape": "DELETE FROM entry WHERE run_id = 2",
    "a tape without its run": "DELETE FROM run WHERE id = 2",
    "exchanged tapes": (
        "UPDATE entry SET run_id = 99 WHERE run_id = 1; UPDATE entry SET run_id = 1 WHERE run_id = 2;"
        "UPDATE entry SET run_id = 2 WHERE run_id = 99"
    ),
    "a moved sample": "INSERT INTO sample (id, spot_id, code, kind, description, quality, container, condition, note)"
    " SELECT 9, spot_id, 'B9', kind, '', '', '', '', '' FROM sample LIMIT 1;"
    " UPDATE run SET sample_id = 9 WHERE id = 1",
    "a sample's depth": "UPDATE sample SET depth_top_m = 3.0",
    "a spot's code": "UPDATE spot SET code = 'TP7'",
    "a job's title": "UPDATE job SET title = 'another'",
    "a job's client": "UPDATE job SET client = 'another'",
    "a sample's mass": "UPDATE sample SET mass_g = 3.0",
    "a laboratory's mark": "INSERT INTO laboratorymark (key, media_type, hash, data) VALUES ('mark', 'a', 'b', 'c')",
    "a job's school": "INSERT INTO jobschool (job_id, method, school) SELECT id, 'sieve', 'astm' FROM job",
    "a retired balance": "UPDATE kititem SET retired_at = '2026-01-01 00:00:00'",
    "the index's state": "UPDATE run SET state = 'open' WHERE id = 1",
    "the index's last entry": "UPDATE run SET last_seq = 2 WHERE id = 2",
    "the index's method": "UPDATE run SET method = 'sieve' WHERE id = 2",
    "the index's school": "UPDATE run SET school = 'oven_60' WHERE id = 2",
    "a run's code": "UPDATE run SET code = 'WC-09' WHERE id = 2",
    "when a run began": "UPDATE run SET started_at = '2020-01-01 00:00:00.000000' WHERE id = 2",
    "a tare": "UPDATE kitevent SET data = '{\"mass_g\": 20.5}' WHERE id = 1",
    "a calibration that passed": "UPDATE kitevent SET passed = 0 WHERE id = 1",
    "a deleted tare": "DELETE FROM kitevent WHERE id = 1",
    "an added tare": "INSERT INTO kitevent SELECT 99, item_id, at, by, kind, data, passed FROM kitevent LIMIT 1",
    "a piece's number": "UPDATE kititem SET code = '99' WHERE id = 1",
    "a raw sample": "UPDATE trace SET data = replace(data, '20.1', '20.9')",
    "a deleted trace": "DELETE FROM trace",
    "a role": "UPDATE person SET role = 'manager' WHERE login = 'ana'",
    "a pass-phrase": "UPDATE person SET passphrase_hash = 'x' WHERE login = 'bo'",
    "a person's initials": "UPDATE person SET initials = 'ZZ' WHERE login = 'ana'",
    "an added person": (
        "INSERT INTO person SELECT 99, 'eve', name, 'EV', role, passphrase_hash, active FROM person LIMIT 1"
    ),
    "a setting": "INSERT INTO laboratorysetting VALUES ('checker_read_nothing', 'no')",
    "a ledger line": "UPDATE ledger SET digest = 'x' WHERE seq = 5",
    "a ledger's words": "UPDATE ledger SET words = 'nothing' WHERE kind = 'account'",
    "a deleted ledger line": "DELETE FROM ledger WHERE seq = 5",
    "the ledger's deleted tail": "DELETE FROM ledger WHERE seq > 20",
    "a table of one's own": "CREATE TABLE mine (id INTEGER)",
    "a deleted index": "DROP INDEX ix_run_state_started",
}


@pytest.mark.parametrize("statements", SIMPLE.values(), ids=SIMPLE)
def test_a_change_by_hand_is_found(lab, raw, statements):
    stocked(lab)
    guards = opened_up(raw)
    raw.execute("PRAGMA foreign_keys = OFF")
    for statement in statements.split(";"):
        raw.execute(statement)
    closed_up(raw, guards)
    assert audit(lab.database)[1]


@pytest.mark.parametrize("name", [f"{table}_no_{verb}" for table in GUARDS for verb in ("update", "delete")])
def test_a_guard_taken_off_is_found(lab, raw, name):
    raw.execute(f"DROP TRIGGER {name}")
    raw.commit()
    assert audit(lab.database)[1] == [f"the schema: trigger {name} is not the program's own"]


def test_a_guard_made_harmless_is_found(lab, raw):
    raw.execute("DROP TRIGGER entry_no_update")
    raw.execute("CREATE TRIGGER entry_no_update BEFORE UPDATE ON entry BEGIN SELECT 1; END")
    raw.commit()
    assert any("entry_no_update" in fault for fault in audit(lab.database)[1])


def test_a_history_chained_again_is_found(lab, raw):
    stocked(lab)
    guards = opened_up(raw)
    raw.execute("UPDATE entry SET value = '\"61.9\"' WHERE path = 'mass_wet_g' AND run_id = 2")
    chained_again(raw, 2)
    closed_up(raw, guards)
    faults = audit(lab.database)[1]
    assert any("another than the ledger noted" in fault for fault in faults), faults


def test_a_forged_signature_with_a_right_chain_is_found(lab, raw):
    stocked(lab)
    guards = opened_up(raw)
    last = raw.execute("SELECT * FROM entry WHERE run_id = 2 ORDER BY seq DESC LIMIT 1").fetchone()
    value = {"tape": last["hash"], "version": "1", "values": "", "unfinished": True}
    forged = {**dict(last), "id": "f", "seq": last["seq"] + 1, "path": "@signed", "value": json.dumps(value)}
    marks = ", ".join("?" for _ in forged)
    raw.execute(f"INSERT INTO entry ({', '.join(forged)}) VALUES ({marks})", tuple(forged.values()))
    chained_again(raw, 2)
    raw.execute("UPDATE run SET state = 'signed', last_seq = last_seq + 1 WHERE id = 2")
    closed_up(raw, guards)
    assert any("the ledger does not know entry" in fault for fault in audit(lab.database)[1])


def test_a_signature_by_the_readers_own_checker_is_found(lab):
    code = finished_water_content(lab)
    with lab.database.writing() as session:
        run = runs.find(session, code)
        signatures.sign(session, run, lab.person("AT"), lab.clock.now(), signatures.tape_end(session, run))
        end = signatures.tape_end(session, run)
        runs.append(session, run, runs.NewEntry(path="@checked", value={"tape": end}), "AT", lab.clock.now())
        run.state = "checked"
    assert f"{code}: checked by AT without another's signature" in audit(lab.database)[1]


def test_a_seal_kept_elsewhere_finds_an_old_copy_and_a_rewritten_history(lab, tmp_path):
    stocked(lab)
    old = tmp_path / "old.db"
    copies.backup(lab.database, old)
    lab.post("WC-02", "oven_temperature_c", "108")
    seal = read_seal(sealed(lab.database, lab.clock.now()).text())
    assert audit(lab.database, seal) == (2, [])
    former = Database(f"sqlite:///{old}")
    assert audit(former) == (2, [])
    assert any("an older copy" in fault for fault in audit(former, seal)[1])
    with former.writing() as session:  # and goes on from there: whole in itself, but not what was sealed
        for value in ("109", "110", "111"):
            new = runs.NewEntry(path="remarks", value=value)
            runs.append(session, runs.find(session, "WC-02"), new, "AT", lab.clock.now())
    former.close()
    again = Database(f"sqlite:///{old}")
    assert any("the history was rewritten" in fault for fault in audit(again, seal)[1])
    again.close()


def test_everything_a_session_writes_is_in_the_ledger_with_who_did_it(lab):
    with lab.database.reading() as session:
        before = ledger.head(session.connection())
    with lab.database.writing("MR") as session:
        people.change_role(session, people.named(session, "bo"), "manager", "MR")
    with lab.database.reading() as session:
        rows = session.connection().exec_driver_sql(
            f"SELECT kind, subject, by, words FROM ledger WHERE seq > {before.seq} ORDER BY seq"
        )
        assert [tuple(row) for row in rows] == [
            ("person", "2", "MR", "changed role"),
            ("account", "person/2", "MR", "bo: role checker became manager"),
        ]


def test_an_undone_transaction_leaves_no_line(lab):
    code = lab.start("water_content")
    with lab.database.reading() as session:
        before = ledger.head(session.connection())

    def half_done():
        with lab.database.writing() as session:
            people.change_role(session, people.named(session, "bo"), "manager", "MR")
            signatures.reopen(session, runs.find(session, code), lab.person("BL"), lab.clock.now(), "", "")

    with pytest.raises(NotAllowed):
        half_done()
    with lab.database.reading() as session:
        assert ledger.head(session.connection()) == before
    assert audit(lab.database)[1] == []


def back_to(database, revision):
    """The tables as an older program had them."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with database.engine.connect().execution_options(write=True) as connection:
        config.attributes["connection"] = connection
        command.downgrade(config, revision)
        connection.commit()


def test_a_database_older_than_its_ledger_is_taken_into_it(lab, raw):
    stocked(lab)
    back_to(lab.database, "0007")
    guards = opened_up(raw)
    for table in (
        "specimenphotograph",
        "specimenuse",
        "specimen",
        "photograph",
        "ledger",
        "laboratorysetting",
        "knownbrowser",
    ):
        raw.execute(f"DROP TABLE {table}")
    for table in ("signin", "onetimelink"):
        raw.execute(f"ALTER TABLE {table} DROP COLUMN resets")
    raw.execute("ALTER TABLE entry DROP COLUMN arrived_at")
    raw.execute("UPDATE alembic_version SET version_num = '0003'")
    for run_id in (1, 2):
        chained_again(raw, run_id)  # as an older program hashed: without the time of arrival
    raw.execute("DELETE FROM entry WHERE path IN ('@signed', '@checked')")  # whose hashes spoke of the newer chain
    raw.execute("UPDATE run SET state = 'open', last_seq = (SELECT max(seq) FROM entry WHERE run_id = run.id)")
    closed_up(raw, [g for g in guards if not g["name"].startswith(("ledger", "photograph"))])
    lab.database.migrate()
    with lab.database.reading() as session:
        lines = ledger.head(session.connection()).seq
    assert lines > raw.execute("SELECT count(*) FROM entry").fetchone()[0]
    assert audit(lab.database) == (2, [])


def test_restore_is_refused_while_a_server_holds_the_database(lab, tmp_path):
    stocked(lab)
    copy = tmp_path / "copy.db"
    copies.backup(lab.database, copy)
    held = lab.database.hold()
    with pytest.raises(DatabaseError, match="server is running"):
        copies.restore(copy, lab.url, lab.clock.now())
    held.close()
    with lab.database.writing() as session:
        token = people.open_session(session, lab.person("AT"), lab.clock.now() + timedelta(hours=1))
    fresh = tmp_path / "fresh.db"
    copies.backup(lab.database, fresh)
    number, kept = copies.restore(fresh, lab.url, lab.clock.now())
    assert (number, kept.exists()) == (2, True)
    again = Database(lab.url)
    with again.reading() as session:
        assert people.who(session, token, lab.clock.now()) is None, "sessions do not come back"
    assert audit(again) == (2, [])
    again.close()
    for file in (lab.file, kept, fresh):
        assert file.stat().st_mode & 0o077 == 0


def damaged(data, place, how):
    """The file as a bad disk or cable would hand it back."""
    if how == "truncated":
        return data[:place]
    if how == "zeroed":
        return data[:place] + b"\0" * 4096 + data[place + 4096 :]
    return data[:place] + bytes([data[place] ^ 0x55]) + data[place + 1 :]


@pytest.mark.parametrize("how", ["truncated", "zeroed", "flipped"])
def test_a_damaged_backup_is_refused_or_holds_the_very_same(lab, tmp_path, how):
    stocked(lab)
    copy, bad = tmp_path / "copy.db", tmp_path / "bad.db"
    copies.backup(lab.database, copy)
    data = copy.read_bytes()
    wanted = rows_of(copy)
    refused = 0
    many = 60 if how == "flipped" else 14
    for i in range(1, many):
        place = len(data) * i // many // 4096 * 4096 + (0 if how == "zeroed" else 4096 - 30 - i)
        bad.write_bytes(damaged(data, place, how))
        target = tmp_path / f"restored-{i}.db"
        try:
            copies.restore(bad, f"sqlite:///{target}", lab.clock.now())
        except DatabaseError:
            refused += 1
            assert not list(tmp_path.glob(f"restored-{i}.db*.arriving")), "nothing half done is left"
            assert not target.exists()
        else:
            assert rows_of(target) == wanted, f"{how} at {place}"
    assert refused >= 3, "a flip in the unused room of a page changes no row"
    assert audit(lab.database) == (2, [])


def rows_of(file):
    with sqlite3.connect(file) as raw:
        found = {
            t: raw.execute(f"SELECT * FROM {t}").fetchall() for t in ("entry", "ledger", "run", "person", "kitevent")
        }
    raw.close()
    return found
