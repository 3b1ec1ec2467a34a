"""Mistakes put right: nothing that holds a reading is deleted, and what is set aside comes back whole."""

import pytest
from sqlalchemy import select

from tests.serving import AT
from vadum.soil.contract.errors import FieldError
from vadum.tape import ground, put_right, runs, schedule
from vadum.tape.audit import audit
from vadum.tape.entries import RunClosed
from vadum.tape.ground import NewJob, NewSample, NewSpot
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import Job, LedgerLine, Sample, Spot


def aside(lab, code, reason="the wrong bag"):
    with lab.database.writing() as session:
        put_right.set_aside(session, runs.find(session, code, to_write=True), lab.person("AT"), lab.clock.now(), reason)


def back(lab, code):
    with lab.database.writing() as session:
        put_right.bring_back(session, runs.find(session, code, to_write=True), lab.person("BL"), lab.clock.now())


def state(lab, code):
    with lab.database.reading() as session:
        return runs.find(session, code).state


def test_a_run_set_aside_is_out_of_sight_takes_nothing_and_comes_back_whole(lab):
    code = lab.start("water_content")
    lab.post(code, "tin", "12")
    before = [e.hash for e in lab.read(code).entries]
    aside(lab, code)
    assert state(lab, code) == "aside"
    with lab.database.reading() as session:
        assert runs.listed(session, *runs.STATES) == []
    with pytest.raises(RunClosed):
        lab.post(code, "mass_wet_g", "60")
    back(lab, code)
    assert [e.hash for e in lab.read(code).entries][: len(before)] == before
    lab.post(code, "mass_wet_g", "60")
    assert audit(lab.database) == (1, [])


@pytest.mark.parametrize("reason", ["", "   "])
def test_a_run_is_set_aside_with_a_reason_only(lab, reason):
    code = lab.start("sieve")
    with pytest.raises(FieldError, match="say why"):
        aside(lab, code, reason)
    assert state(lab, code) == "open"


def test_only_an_open_run_is_set_aside_and_only_such_a_one_brought_back(lab):
    code = lab.start("sieve")
    with pytest.raises(NotAllowed, match="was not set aside"):
        back(lab, code)
    aside(lab, code)
    with pytest.raises(NotAllowed, match="only an open run"):
        aside(lab, code)


def test_an_index_that_hides_a_run_behind_its_tape_is_found(lab):
    lab.start("sieve")
    with lab.database.writing() as session:
        session.connection().exec_driver_sql("UPDATE run SET state = 'aside'")
    assert any("its tape says open" in fault for fault in audit(lab.database)[1])


def rows(session):
    job = session.execute(select(Job)).scalars().first()
    spot = session.execute(select(Spot)).scalars().first()
    return job, spot, session.get(Sample, spot.id)


def test_ground_is_deleted_only_where_nothing_hangs_on_it(lab):
    lab.start("sieve")
    with lab.database.writing() as session:
        job, spot, sample = rows(session)
        for row, holds in ((job, "1 spot"), (spot, "1 sample"), (sample, "1 run")):
            assert put_right.hangs_on(session, row) == holds
            with pytest.raises(NotAllowed, match=f"holds {holds}"):
                put_right.delete_empty(session, row)
        fresh = ground.add_job(session, NewJob(code="VAIN", title="made by mistake"), AT)
        pit = ground.add_spot(session, fresh, NewSpot(code="P"))
        bag = ground.add_sample(session, pit, NewSample(code="B"))
        schedule.ask(session, bag, "sieve", AT.date())
        for row in (bag, pit, fresh):
            put_right.delete_empty(session, row)
    with lab.database.reading() as session:
        assert [j.code for j in session.execute(select(Job)).scalars()] == ["J1"]
    assert audit(lab.database) == (1, [])


@pytest.mark.parametrize("which", [0, 1, 2])
def test_nothing_is_begun_on_ground_that_is_closed(lab, which):
    with lab.database.writing() as session:
        put_right.close(session, rows(session)[which], AT)
    with pytest.raises(NotAllowed, match="is closed"):
        lab.start("sieve")
    with lab.database.writing() as session:
        put_right.close(session, rows(session)[which], None)
    assert lab.start("sieve") == "SV-01"


def test_a_changed_name_is_noted_with_who_changed_it(lab):
    with lab.database.writing("MR") as session:
        job, spot, sample = rows(session)
        put_right.change_job(session, job, NewJob(code="J-2", title="A job", client="The valley"))
        put_right.change_sample(
            session, sample, NewSample(code="B1", depth_top_m=1.2, mass_g=1800, received_on=AT.date())
        )
        put_right.change_spot(session, spot, NewSpot(code="TP9"))
    with lab.database.reading() as session:
        lines = session.execute(select(LedgerLine).where(LedgerLine.by == "MR")).scalars()
        said = {line.kind: line.words for line in lines}
        assert ground.place(session, lab.sample_id).words == "TP9 1.2 m · B1"
    assert said["job"] == "changed code, client"
    assert "mass g" in said["sample"]
    assert said["spot"] == "changed code"


def test_a_name_is_not_changed_into_one_that_is_taken_or_looks_like_it(lab):
    with lab.database.writing() as session:
        job, spot, _ = rows(session)
        ground.add_spot(session, job, NewSpot(code="TP2"))
        ground.add_job(session, NewJob(code="J2", title="Another"), AT)
        for change in (
            lambda: put_right.change_spot(session, spot, NewSpot(code="TP2")),
            lambda: put_right.change_job(session, job, NewJob(code="J2", title="A job")),
            lambda: put_right.change_job(session, job, NewJob(code="practice", title="A job")),
        ):
            with pytest.raises(FieldError) as refused:
                change()
            assert refused.value.field == "code"
        put_right.change_spot(session, spot, NewSpot(code="TP1", note="its own code is free for itself"))


@pytest.mark.parametrize(
    ("given", "field"),
    [
        ({"depth_top_m": 2, "depth_bottom_m": 1}, "depth_bottom_m"),
        ({"mass_g": 0}, "mass_g"),
        ({"mass_g": -3}, "mass_g"),
        ({"largest_grain_mm": 0}, "largest_grain_mm"),
        ({"sampled_at": "2026-05-10T08:00+02:00", "received_on": "2026-05-01"}, "received_on"),
    ],
)
def test_a_sample_that_cannot_be_is_refused_by_its_field(given, field):
    with pytest.raises(FieldError) as refused:
        NewSample(code="B1", **given)
    assert refused.value.field == field
