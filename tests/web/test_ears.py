"""An ear without a page: what it keeps, what it leaves to the hand, and what happens after a restart."""

import time

import pytest
from sqlalchemy import select, text

from vadum.instruments.simulated import Simulator
from vadum.instruments.simulated_setting import setting
from vadum.instruments.transport import Heard
from vadum.soil.contract.errors import FieldError
from vadum.tape import instrument_log, kit, runs, signatures
from vadum.tape.kit import NewItem
from vadum.tape.tables import Trace
from vadum.web import attached_instruments
from vadum.web.context import Shop
from vadum.web.settings import Settings

READY = (
    ("ring_factor_n_div", 12.6),
    ("ring_most_div", 4000),
    ("expected_percent", 40),
    ("axle_kn", 38),
    ("springs", "raised clear"),
    ("stands", "bear"),
    ("surcharge_kg", 4),
    ("seating_n", 250),
    ("seated_div", 20),
)


def until(true, seconds=10.0):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if true():
            return True
        time.sleep(0.03)
    return False


@pytest.fixture
def shop(lab):
    its = Shop(Settings(database_url=lab.database.url, clock=lab.clock))
    yield its
    for code in list(its.recorders):
        attached_instruments.leave(its, code)
    its.stations.close()
    its.database.close()


@pytest.fixture
def simulator(lab):
    made = Simulator(setting({"speed": "60", "samples_per_s": "100", "seated_div": "20", "percent": "40"})).start()
    with lab.database.writing() as session:
        item = kit.add_item(session, NewItem(kind="instrument", code="F1"))
        kit.add_event(
            session, item, "calibration", {"address": made.address, "profile": "frame"}, "MR", lab.clock.now()
        )
    yield made
    made.close()


def spot(lab):
    code = lab.start("field_cbr")
    for path, value in READY:
        lab.post(code, path, value)
    return code


def attached(its, lab, code):
    with its.database.writing() as session:
        run = runs.find(session, code)
        ear = attached_instruments.attach(its, session, run, "F1", "AT")
        instrument_log.note_instrument(session, run, "F1", "listening", "AT", lab.clock.now())
    ear.open()
    assert until(lambda: ear.station.state == "connected")
    return ear


def rows(lab, code):
    return lab.read(code).folded.record.readings


def test_readings_are_entries_of_the_person_who_let_it_listen(lab, shop, simulator):
    code = spot(lab)
    ear = attached(shop, lab, code)
    assert ear.begin(True)
    assert until(lambda: len(rows(lab, code)) >= 6)
    taken = [e for e in lab.read(code).entries if e.path.startswith("readings")]
    assert {e.source for e in taken} == {"instrument: F1"}
    assert {e.by for e in taken} == {"AT"}
    assert [e.path for e in taken] == [f"readings[{i}]" for i in range(len(taken))]


def test_a_plunger_is_wound_back_before_it_is_started_and_the_zero_is_read_standing(lab, shop, simulator):
    simulator.body.true_mm = 6.0
    code = spot(lab)
    ear = attached(shop, lab, code)
    assert ear.begin(True)
    assert until(lambda: len(rows(lab, code)) >= 2)
    assert rows(lab, code)[0].ring_div == pytest.approx(20, abs=0.5)
    assert rows(lab, code)[0].penetration_mm is None
    assert ear.offset_mm == pytest.approx(0, abs=0.01)


def test_a_run_that_is_not_told_to_take_only_listens(lab, shop, simulator):
    code = spot(lab)
    ear = attached(shop, lab, code)
    simulator.body.command("start")
    assert until(lambda: ear.station.newest and ear.station.newest[-1].values["penetration"] > 0.6)
    assert rows(lab, code) == ()
    assert ear.live(ear.station.newest[-1])["pace"]["word"] == "right", "the gauge's pace by the instrument's own clock"


def test_it_cannot_begin_before_the_plunger_is_seated_or_while_nothing_is_heard(lab, shop, simulator):
    code = lab.start("field_cbr")
    ear = attached(shop, lab, code)
    with pytest.raises(FieldError, match="no called series is ready"):
        ear.begin(False)
    for path, value in READY:
        lab.post(code, path, value)
    ear.refresh()
    simulator.close()
    assert until(lambda: ear.station.state == "lost")
    with pytest.raises(FieldError, match="not heard"):
        ear.begin(False)


def test_the_gauge_counts_from_where_it_stood_at_the_zero(lab, shop, simulator):
    simulator.body.true_mm = 3.2
    code = spot(lab)
    ear = attached(shop, lab, code)
    assert until(lambda: ear.station.newest and ear.station.newest[-1].values["penetration"] > 3)
    assert not ear.begin(False), "a machine that a person starts"
    simulator.body.command("start")
    assert until(lambda: len(rows(lab, code)) >= 4)
    assert ear.offset_mm == pytest.approx(3.2, abs=0.01)
    raw = kept(shop, lab, code)
    assert float(raw[0].split(",")[2]) >= 3.19, "raw samples are kept as they came"


def test_an_instrument_without_penetrations_takes_no_called_readings(lab, shop, simulator):
    ear = attached(shop, lab, spot(lab))
    ear.station.newest.append(Heard(1, 1.0, {"ring": 20.0}, 0.0))
    newest = ear.station.newest[-1]
    ear.station.newest = [newest]
    with pytest.raises(FieldError, match="reads no penetration"):
        ear.begin(False)


def test_a_zero_stands_on_the_tape_and_outlives_the_ear(lab, shop, simulator):
    simulator.body.true_mm = 3.2
    code = spot(lab)
    ear = attached(shop, lab, code)
    ear.begin(False)
    simulator.body.command("start")
    assert until(lambda: len(rows(lab, code)) >= 4)
    simulator.body.command("stop")
    attached_instruments.leave(shop, code)
    many = len(rows(lab, code))
    zero = instrument_log.zero_mm(lab.read(code), "F1", "readings")
    assert zero == pytest.approx(3.2, abs=0.01)
    assert instrument_log.zero_mm(lab.read(code), "F2", "readings") is None
    assert instrument_log.zero_mm(lab.read(code), "F1", "top") is None
    again = attached(shop, lab, code)  # as after a restart of the program
    assert again.offset_mm == zero
    again.begin(True)
    assert until(lambda: len(rows(lab, code)) >= many + 3)
    assert all(r.missed is None for r in rows(lab, code)[:many]), "no call was taken for one that lies behind"


def test_a_push_begun_by_hand_is_taken_over_only_by_a_gauge_that_stands_there(lab, shop, simulator):
    code = spot(lab)
    for i, divisions in enumerate((20, 60, 95)):
        lab.post(code, f"readings[{i}].ring_div", divisions)
    simulator.body.true_mm = 6.0
    ear = attached(shop, lab, code)
    assert until(lambda: ear.station.newest and ear.station.newest[-1].values["penetration"] > 5.9)
    with pytest.raises(FieldError, match=r"gauge stands at 6\.00 mm, the last call was 0\.50 mm"):
        ear.begin(False)
    assert not ear.takes
    assert len(rows(lab, code)) == 3
    simulator.body.true_mm = 0.6
    assert until(lambda: ear.station.newest[-1].values["penetration"] < 0.7)
    ear.begin(True)
    assert until(lambda: len(rows(lab, code)) >= 6)
    assert not any(r.missed for r in rows(lab, code))


def kept(its, lab, code):
    assert until(lambda: its.recorders[code].kept > 0)
    with lab.database.reading() as session:
        run = runs.find(session, code)
        return [line for t in instrument_log.traces(session, run.id) for line in t.data.splitlines()]


def test_traces_are_append_only(lab, shop, simulator):
    code = spot(lab)
    attached(shop, lab, code)
    assert kept(shop, lab, code)
    for statement in ("UPDATE trace SET data = ''", "DELETE FROM trace"):
        with pytest.raises(Exception, match="append only"), lab.database.writing() as session:
            session.execute(text(statement))
    with lab.database.reading() as session:
        assert session.execute(select(Trace)).first()


def test_a_run_listens_again_after_a_restart_until_it_is_left(lab, shop, simulator):
    code = spot(lab)
    attached(shop, lab, code)
    attached_instruments.close(shop)  # as when its process ends: the tape still says that it listens
    other = Shop(Settings(database_url=lab.database.url, clock=lab.clock))
    with other.database.reading() as session:
        read = other.shelf.read(session, runs.find(session, code))
        ear = attached_instruments.resume(other, session, read)
        assert ear is not None
        assert ear.by == "AT"
        assert attached_instruments.resume(other, session, read) is ear
    assert attached_instruments.leave(other, code) == "F1"
    assert attached_instruments.leave(other, code) is None
    other.stations.close()
    with lab.database.writing() as session:
        instrument_log.note_instrument(session, runs.find(session, code), "F1", "left", "AT", lab.clock.now())
    assert instrument_log.listens_to(lab.read(code)) is None
    other.database.close()


def test_an_ear_of_a_signed_run_keeps_listening_and_writes_no_reading(lab, shop, simulator):
    code = spot(lab)
    ear = attached(shop, lab, code)
    ear.begin(True)
    assert until(lambda: len(rows(lab, code)) >= 13)
    lab.sign(code, reason="called off")
    many, heard = len(rows(lab, code)), ear.heard
    assert until(lambda: ear.heard > heard + 50)
    assert len(rows(lab, code)) == many


def test_live_figures_carry_their_units_and_the_digits_of_their_gauge(lab, shop, simulator):
    code = spot(lab)
    ear = attached(shop, lab, code)
    shown = ear.live(Heard(7, 1.0, {"penetration": 1.23456, "ring": 271.44}, 0.0))
    assert shown["values"] == {"penetration": ["1.235", "mm"], "ring": ["271.4", "div"]}
    assert shown["seq"] == 7
    status = ear.status("lost", "gone")
    assert (status["state"], status["why"], status["commands"]) == (
        "lost",
        "gone",
        ["back", "faster", "slower", "start", "stop"],
    )
    assert status["simulated"] is False, "a socket is a socket: only the program's own are called simulated"


@pytest.mark.sqlite_file
def test_a_disk_that_refuses_for_a_while_loses_neither_a_reading_nor_a_sample(lab, shop, simulator):
    code = spot(lab)
    ear = attached(shop, lab, code)
    assert ear.begin(True)
    assert until(lambda: len(rows(lab, code)) >= 2)
    refuse = "CREATE TRIGGER refuse_{0} BEFORE INSERT ON {0} BEGIN SELECT RAISE(ABORT, 'no room'); END"
    with lab.database.writing() as session:
        for table in ("entry", "trace"):
            session.execute(text(refuse.format(table)))
    many, at = len(rows(lab, code)), ear.station.newest[-1].values["penetration"]
    assert until(lambda: ear.station.newest[-1].values["penetration"] > at + 0.8)
    assert len(rows(lab, code)) == many
    with lab.database.writing() as session:
        for table in ("entry", "trace"):
            session.execute(text(f"DROP TRIGGER refuse_{table}"))
    assert until(lambda: len(rows(lab, code)) >= many + 4)
    assert all(r.ring_div is not None for r in rows(lab, code))
    heard = ear.heard
    attached_instruments.leave(shop, code)
    with lab.database.reading() as session:
        run = runs.find(session, code)
        numbers = [int(x.split(",")[0]) for t in instrument_log.traces(session, run.id) for x in t.data.splitlines()]
    assert numbers == list(range(numbers[0], numbers[0] + len(numbers)))
    assert len(numbers) >= heard


def test_readings_of_a_simulated_instrument_are_marked_and_never_signed(lab):
    from vadum.paper.sheet import sheet_of
    from vadum.tape import people

    code = spot(lab)
    entry = lab.post(code, "readings[0].ring_div", "20", source="simulated: FR-1")
    for i in range(1, 13):
        lab.post(code, f"readings[{i}].ring_div", f"{20 + 9 * i}")
    with lab.database.writing() as session, pytest.raises(runs.NotAllowed, match="simulated instrument"):
        signatures.sign(
            session,
            runs.find(session, code),
            lab.person("AT"),
            lab.clock.now(),
            signatures.tape_end(session, runs.find(session, code)),
            "early",
        )
    read = lab.read(code)
    with lab.database.reading() as session:
        sheet = sheet_of(read, runs.place_of(session, read.run), people.by_initials(session), lab.clock.now())
    assert "not a result" in sheet.mark
    lab.post(code, "readings[0].ring_div", "20", strikes=[entry.id], reason="read by eye")
    lab.sign(code, reason="early")
