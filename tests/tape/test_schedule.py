"""The schedule of tests: put on, pasted, withdrawn with a reason; owed, running, done; soil that is short."""

from datetime import date, timedelta

import pytest

from tests.serving import AT
from vadum.soil.contract.errors import FieldError, UnknownName
from vadum.soil.register import METHODS
from vadum.tape import ground, put_right, runs, schedule
from vadum.tape.ground import NewSample
from vadum.tape.tables import Sample

DAY = date(2026, 5, 20)


@pytest.fixture
def places(lab):
    with lab.database.writing() as session:
        spot = ground.place(session, lab.sample_id).spot
        ground.add_sample(session, spot, NewSample(code="B2", depth_top_m=2.0, mass_g=9000))
        ground.add_sample(session, spot, NewSample(code="T1", depth_top_m=2.5))
    with lab.database.reading() as session:
        found = ground.places(session, ground.place(session, lab.sample_id).job.id)
        session.expunge_all()
        return found


def asked(lab, *tests):
    with lab.database.writing() as session:
        for name in tests:
            schedule.ask(session, session.get(Sample, lab.sample_id), name, DAY)


def owed(lab):
    with lab.database.reading() as session:
        return [o.method for o, _ in schedule.owed(session)]


def cell(lab, name):
    with lab.database.reading() as session:
        return schedule.grid(session, [ground.place(session, lab.sample_id)])[lab.sample_id, name]


def test_a_test_is_owed_until_it_is_begun_and_again_when_the_run_is_set_aside(lab):
    asked(lab, "sieve", "liquid_limit")
    assert owed(lab) == ["sieve", "liquid_limit"]
    code = lab.start("sieve")
    assert owed(lab) == ["liquid_limit"]
    assert cell(lab, "sieve").state == "running"
    with lab.database.writing() as session:
        put_right.set_aside(session, runs.find(session, code), lab.person("AT"), lab.clock.now(), "wrong bag")
    assert owed(lab) == ["sieve", "liquid_limit"]


def test_what_is_withdrawn_is_owed_no_more_and_may_be_asked_again(lab):
    asked(lab, "sieve")
    with lab.database.writing() as session:
        row = schedule.on_sample(session, lab.sample_id, "sieve")
        with pytest.raises(FieldError, match="say why"):
            schedule.withdraw(session, row, lab.person("BL"), " ")
        schedule.withdraw(session, row, lab.person("BL"), "the client needs it no more")
    assert owed(lab) == []
    assert (cell(lab, "sieve").state, cell(lab, "sieve").owed.withdrawn_by) == ("withdrawn", "BL")
    asked(lab, "sieve")
    assert owed(lab) == ["sieve"]


def test_asked_twice_is_owed_once_by_the_later_day(lab):
    asked(lab, "sieve")
    with lab.database.writing() as session:
        schedule.ask(session, session.get(Sample, lab.sample_id), "sieve", DAY + timedelta(days=3))
    assert owed(lab) == ["sieve"]
    assert cell(lab, "sieve").owed.due_on == DAY + timedelta(days=3)


def test_a_test_that_does_not_exist_is_not_asked_for(lab):
    with pytest.raises(UnknownName):
        asked(lab, "alchemy")


def test_soil_that_is_asked_for_stands_beside_what_came_in(lab, places):
    with lab.database.writing() as session:
        bag = session.get(Sample, places[1].sample.id)
        schedule.ask(session, bag, "compaction", DAY)
        schedule.ask(session, bag, "sieve", DAY, wanted_g=500)
        cells = schedule.grid(session, [places[1]]).values()
        soil = schedule.soil_asked(bag, cells)
    assert soil.wanted_g == schedule.FOR_REPEATS * METHODS["compaction"].least_soil_g + 500
    assert soil.short_g == soil.wanted_g - 9000
    assert schedule.Soil(1000.0, None).short_g == 0, "what was not weighed is not said to be short"
    assert AT.date() < DAY
