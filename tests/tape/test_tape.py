"""The tape: append only, chained, idempotent, folded; signatures, checking, audit, backup."""

import sqlite3
import threading
import uuid
from datetime import timedelta

import pytest
from sqlalchemy.exc import DatabaseError as SqlError

from vadum.soil.contract.errors import FieldError
from vadum.tape import audit, copies, runs, signatures
from vadum.tape.clock import FrozenClock
from vadum.tape.database import Database, DatabaseError
from vadum.tape.entries import NewEntry, StrikeError, TapeError, append_to, broken_link
from vadum.tape.fold import fold
from vadum.tape.runs import SlipError


def finished_water_content(lab) -> str:
    code = lab.start("water_content")
    for path, value in (("tin", "12"), ("mass_wet_g", "168,92"), ("in_oven_at", "2026-05-11T08:00:00+02:00")):
        lab.post(code, path, value)
    lab.post(code, "weighings[]", {"mass_dry_g": "139.38"})
    return code


def end(session, code):
    """What somebody who looks now will have seen."""
    return signatures.tape_end(session, runs.find(session, code))


def signed(lab) -> str:
    code = finished_water_content(lab)
    lab.sign(code)
    return code


def test_the_digits_stay_as_typed_and_both_decimal_signs_are_read(lab):
    code = lab.start("water_content")
    entry = lab.post(code, "mass_wet_g", "168,920")
    assert entry.value == "168,920"
    assert lab.read(code).folded.record.mass_wet_g == 168.92


def test_a_tins_number_brings_its_tare_as_an_entry_of_its_own(lab):
    code = lab.start("liquid_limit")
    lab.post(code, "trials[].tin", "31")
    brought = lab.read(code).entries[-1]
    assert (brought.path, brought.value, brought.source) == ("trials[0].mass_tin_g", 23.28, "kit: tin 31")


def test_a_tin_weighed_today_is_held_against_its_register(lab):
    code = lab.start("water_content")
    lab.post(code, "mass_tin_g", "21.50")
    lab.post(code, "tin", "12")
    read = lab.read(code)
    assert (read.folded.record.mass_tin_g, read.folded.record.mass_tin_register_g) == (21.5, 21.37)
    verdict = next(v for v in read.outcome.verdicts if v.rule == "tin agrees with its register")
    assert verdict.level == "redo"
    assert "0.13 g apart" in verdict.found


def test_an_unknown_tin_is_kept_and_its_mass_is_asked_for(lab):
    code = lab.start("water_content")
    lab.post(code, "tin", "777")
    advice = lab.read(code).at(lab.clock.now()).advice
    assert "mass_tin_g" in advice.wants


def test_sending_twice_keeps_one(lab):
    code = lab.start("water_content")
    known = str(uuid.uuid4())
    first = lab.post(code, "mass_wet_g", "60.0", id=known)
    again = lab.post(code, "mass_wet_g", "61.0", id=known)
    assert again == first
    assert len(lab.read(code).entries) == 2


def test_a_correction_strikes_with_a_reason_and_the_struck_reading_stays(lab):
    code = lab.start("water_content")
    wrong = lab.post(code, "mass_wet_g", "60.0")
    with pytest.raises(StrikeError, match="reason"):
        lab.post(code, "mass_wet_g", "66.0", strikes=[wrong.id])
    lab.post(code, "mass_wet_g", "66.0", strikes=[wrong.id], reason="digits")
    read = lab.read(code)
    assert read.folded.record.mass_wet_g == 66.0
    assert wrong.id in read.folded.struck
    assert any(e.id == wrong.id for e in read.entries)
    with pytest.raises(StrikeError, match="already"):
        lab.post(code, "mass_wet_g", None, strikes=[wrong.id], reason="again")


def test_a_struck_row_keeps_its_number(lab):
    code = lab.start("water_content")
    row = lab.post(code, "weighings[]", {"mass_dry_g": "50"})
    lab.post(code, "weighings[]", {"mass_dry_g": "51"})
    lab.post(code, "weighings[0]", None, strikes=[row.id], reason="other tin")
    record = lab.read(code).folded.record
    assert [w.mass_dry_g for w in record.weighings] == [None, 51.0]


def test_the_moment_of_a_reading_is_its_entrys_unless_typed(lab):
    code = lab.start("water_content")
    lab.post(code, "weighings[].mass_dry_g", "50")
    assert lab.read(code).folded.record.weighings[0].weighed_at == lab.clock.now()


def test_a_reading_that_waited_to_be_sent_keeps_its_own_time(lab):
    code = lab.start("water_content")
    began = lab.clock.now()
    lab.clock.step(minutes=60)
    read_at = lab.clock.now() - timedelta(minutes=40)
    entry = lab.post(code, "weighings[].mass_dry_g", "50", read_at=read_at)
    assert (entry.at, entry.arrived_at) == (read_at, lab.clock.now())
    with pytest.raises(FieldError, match="older than the run"):
        lab.post(code, "mass_wet_g", "50", read_at=began - timedelta(minutes=3))
    with pytest.raises(FieldError, match="ahead"):
        lab.post(code, "mass_wet_g", "50", read_at=lab.clock.now() + timedelta(hours=1))


@pytest.mark.parametrize(
    ("path", "value", "field", "words"),
    [
        ("mass_wet_g", "12,3,4", "mass_wet_g", "not a number"),
        ("mass_wet_g", "1.234,5", "mass_wet_g", "decimal sign"),
        ("mass_wet_g", "   ", "mass_wet_g", "empty"),
        ("mass_wet_g", {"a": 1}, "mass_wet_g", "one value"),
        ("no_such", "1", "no_such", "no such field"),
        ("weighings[0].nothing", "1", "weighings[0].nothing", "no such field"),
        ("weighings", "1", "weighings", "which row"),
        ("weighings[5].mass_dry_g", "1", "weighings[5].mass_dry_g", "the next is number"),
        ("weighings[0]", "1", "weighings[0]", "object"),
        ("weighings[]", {"mass_dry_g": "x"}, "weighings[].mass_dry_g", "not a number"),
        ("mass_wet_g[0].x", "1", "mass_wet_g[0].x", "not a list"),
        ("in_oven_at", "later", "in_oven_at", "not a time"),
        ("sealed", "perhaps", "sealed", "'yes' or 'no'"),
        ("@signed", "x", "@signed", "no such field"),
        ("__class__", "x", "__class__", "no such field"),
    ],
)
def test_the_door_refuses_and_names_the_field(lab, path, value, field, words):
    code = lab.start("water_content")
    with pytest.raises(FieldError) as refused:
        lab.post(code, path, value)
    assert refused.value.field == field
    assert words in refused.value.problem
    assert len(lab.read(code).entries) == 1, "nothing half kept"


def test_a_slip_is_refused_once_and_kept_when_insisted_on(lab):
    code = lab.start("water_content")
    lab.post(code, "mass_wet_g", "38.9")
    with pytest.raises(SlipError, match=r"dry mass above wet mass: 41\.2 > 38\.9 g"):
        lab.post(code, "weighings[].mass_dry_g", "41.2", insist=False)
    assert len(lab.read(code).entries) == 2
    lab.post(code, "weighings[].mass_dry_g", "41.2", insist=True)
    read = lab.read(code)
    assert read.outcome.worst() == "stop"
    assert not any(v.reportable for v in read.outcome.values)


def test_two_people_at_once_keep_both_readings_in_one_order(lab):
    code = lab.start("liquid_limit")
    gate = threading.Barrier(8)
    failures = []

    def enter(n: int) -> None:
        gate.wait()
        try:
            for k in range(5):
                lab.post(code, "trials[].blows", str(16 + n), by="AT" if n % 2 else "BL", id=str(uuid.uuid4()))
                lab.post(code, "remarks", f"{n} {k}", by="AT", id=str(uuid.uuid4()))
        except Exception as error:
            failures.append(error)

    threads = [threading.Thread(target=enter, args=(n,)) for n in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not failures
    read = lab.read(code)
    assert len(read.entries) == 81
    assert broken_link(list(read.entries)) == ""
    assert len(read.folded.record.trials) == 40
    assert len(read.folded.collisions) == 39
    assert any(v.rule == "one reading for one place" and v.level == "redo" for v in read.outcome.verdicts)


def test_the_tape_cannot_be_changed_through_the_database(lab):
    code = lab.start("water_content")
    lab.post(code, "mass_wet_g", "60.0")
    for statement in ("UPDATE entry SET value = '1'", "DELETE FROM entry", "UPDATE kitevent SET data = '{}'"):
        with pytest.raises(SqlError, match="append only"), lab.database.writing() as session:
            session.connection().exec_driver_sql(statement)


@pytest.mark.sqlite_file
def test_a_changed_or_missing_entry_breaks_the_chain_and_check_says_where(lab):
    code = signed(lab)
    assert audit.audit(lab.database) == (1, [])
    raw = sqlite3.connect(lab.file)
    raw.execute("DROP TRIGGER entry_no_update")
    raw.execute("""UPDATE entry SET value = '"168,93"' WHERE path = 'mass_wet_g'""")
    raw.commit()
    _, faults = audit.audit(lab.database)
    assert f"{code}: entry 4 (mass_wet_g) was changed" in faults
    assert "the schema: trigger entry_no_update is not the program's own" in faults
    raw.execute("DROP TRIGGER entry_no_delete")
    raw.execute("DELETE FROM entry WHERE seq = 2")
    raw.commit()
    raw.close()
    assert any("entry 2 is missing" in fault for fault in audit.audit(lab.database)[1])


def test_unknown_kinds_fail_loudly_in_the_fold(lab):
    code = lab.start("water_content")
    read = lab.read(code)
    odd = read.entries[0].model_copy(update={"path": "@nonsense"})
    with pytest.raises(TapeError, match="unknown kind"):
        fold([odd], read.method.Record)


@pytest.mark.sqlite_file
def test_backup_copies_a_live_database_and_restore_checks_it_first(lab, tmp_path):
    signed(lab)
    copy = tmp_path / "copy.db"
    copies.backup(lab.database, copy)
    with pytest.raises(DatabaseError, match="never overwrites"):
        copies.backup(lab.database, copy)
    other = tmp_path / "other" / "new.db"
    number, kept = copies.restore(copy, f"sqlite:///{other}", FrozenClock(lab.clock.now()).now())
    assert (number, kept) == (1, None)
    restored = Database(f"sqlite:///{other}")
    assert audit.audit(restored) == (1, [])
    restored.close()
    raw = sqlite3.connect(copy)
    raw.execute("DROP TRIGGER entry_no_update")
    raw.execute("UPDATE entry SET by = 'XX' WHERE seq = 3")
    raw.commit()
    raw.close()
    with pytest.raises(DatabaseError, match="hold together"):
        copies.restore(copy, f"sqlite:///{other}", lab.clock.now())
    junk = tmp_path / "junk.db"
    junk.write_text("this is no database, it only looks long enough to be one " * 30)
    with pytest.raises(DatabaseError):
        copies.restore(junk, f"sqlite:///{other}", lab.clock.now())
    again = Database(f"sqlite:///{other}")
    assert audit.audit(again) == (1, []), "a refused restore leaves the database as it was"
    again.close()


def test_a_second_entry_id_of_another_run_is_refused(lab):
    one, two = lab.start("water_content"), lab.start("water_content")
    known = str(uuid.uuid4())
    lab.post(one, "mass_wet_g", "60", id=known)
    with pytest.raises(FieldError, match="another run"):
        lab.post(two, "mass_wet_g", "60", id=known)
    assert NewEntry(path="x", value="1").id != NewEntry(path="x", value="1").id


def test_the_balances_state_when_it_was_used_goes_on_the_tape(lab):
    from vadum.tape import kit
    from vadum.tape.kit import NewItem

    with lab.database.writing() as session:
        new = NewItem(kind="balance", code="B9", interval_days=365, readability_g=0.01)
        item = kit.add_item(session, new)
        kit.add_event(session, item, "calibration", {"mass_g": 200.0}, "BL", lab.clock.now() - timedelta(days=400))
    code = lab.start("plastic_limit")
    lab.post(code, "balance", "B9")
    record = lab.read(code).folded.record
    assert (record.balance_in_date, record.balance_readability_g) == ("no", 0.01)
    verdict = next(v for v in lab.read(code).outcome.verdicts if v.rule == "balance check in date")
    assert verdict.level == "watch"


def test_readings_by_the_hundred_are_chained_without_a_session(lab):
    code = lab.start("water_content")
    with lab.database.reading() as session:
        run_id = runs.find(session, code).id
    with lab.database.writing_connection() as connection:
        for n in range(100):
            append_to(
                connection, run_id, NewEntry(path="weighings[]", value={"mass_dry_g": n + 1}), "AT", lab.clock.now()
            )
    read = lab.read(code)
    assert broken_link(list(read.entries)) == ""
    assert read.run.last_seq == 101
    assert read.folded.record.weighings[99].mass_dry_g == 100

    def fails_half_way() -> None:
        with lab.database.writing_connection() as connection:
            append_to(connection, run_id, NewEntry(path="remarks", value="half"), "AT", lab.clock.now())
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        fails_half_way()
    assert lab.read(code).run.last_seq == 101, "a transaction that fails keeps nothing"


def test_a_clock_that_went_back_is_noted_before_what_came_after_and_told(lab):
    code = lab.start("water_content")
    lab.post(code, "mass_wet_g", "61.2")
    lab.clock.step(minutes=-7)
    lab.post(code, "mass_tin_g", "20.1")
    read = lab.read(code)
    noted = [e for e in read.entries if e.path == "@clock"]
    assert [e.value for e in noted] == [{"back_s": 420.0}]
    assert read.entries[-1].path == "mass_tin_g"
    told = [v for v in read.outcome.verdicts if v.rule == "the clock goes forward"]
    assert [(v.level, v.found) for v in told] == [("watch", f"it went back by 7 min before entry {noted[0].seq + 1}")]
