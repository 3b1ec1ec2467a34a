"""The fence around a run: what went wrong, since which entry, logged once; the others go on."""

import logging

import pytest

from vadum.tape import runs
from vadum.tape.entries import NewEntry, append
from vadum.tape.fence import BrokenRun, apart, fenced
from vadum.tape.runs import Shelf


def a_run(lab, values=("1", "2", "bad", "4")):
    """A run with these remarks, each struck by the next; the run and its entries."""
    code = lab.start("water_content")
    for value in values:
        lab.post(code, "remarks", value)
    with lab.database.reading() as session:
        run = runs.find(session, code)
        session.expunge(run)
    return run, lab.read(code).entries


@pytest.mark.parametrize("error", [ZeroDivisionError, ValueError, KeyError, RecursionError, AssertionError])
def test_whatever_goes_wrong_is_the_runs_trouble_and_names_its_entry(lab, error, caplog):
    run, entries = a_run(lab)
    bad = next(e for e in entries if e.value == "bad")

    def work(some):
        if any(e.value == "bad" for e in some):
            raise error("within")
        return len(some)

    for doing in ("drawn", "drawn", "printed"):
        with caplog.at_level(logging.ERROR), pytest.raises(BrokenRun, match=f"cannot be {doing}") as broken:
            fenced(run, entries, doing, work)
    assert (broken.value.seq, broken.value.blamed) == (bad.seq, bad)
    told = [r for r in caplog.records if r.name == "vadum.tape.fence"]
    assert len(told) == 2, "once for each thing that cannot be done"
    assert all(run.code in r.getMessage() and str(bad.seq) in r.getMessage() and r.exc_info for r in told)


def test_a_list_of_runs_goes_on_past_a_broken_one(lab):
    good, bad = lab.start("water_content"), lab.start("water_content")
    with lab.database.writing() as session:
        append(session, runs.find(session, bad), NewEntry(path="colour", value="grey"), "AT", lab.clock.now())
    shelf = Shelf()
    with lab.database.reading() as session:
        found = [runs.find(session, code) for code in (bad, good)]
        sound, broken = shelf.judged(session, found, lab.clock.now())
        assert [one.read.run.code for one in sound] == [good]
        assert [one.code for one in broken] == [bad]
        assert shelf.judged(session, found, lab.clock.now())[1][0] is broken[0], "found once, told to everyone"


def test_what_is_made_of_several_stands_apart():
    def work(number):
        if number == 2:
            raise BrokenRun("X-02", "shown", "", (), 0)
        return number * number

    squares, broken = apart([1, 2, 3], work)
    assert squares == [1, 9]
    assert [b.code for b in broken] == ["X-02"]


def test_striking_mends_a_run_that_cannot_be_folded(lab):
    code = lab.start("water_content")
    with lab.database.writing() as session:
        run = runs.find(session, code)
        bad, _ = append(session, run, NewEntry(path="colour", value="grey"), "AT", lab.clock.now())
    kept = lab.post(code, "mass_wet_g", "61.2", insist=False)
    assert kept.value == "61.2", "a reading is kept, whatever else is on the tape"
    lab.post(code, "colour", None, strikes=[bad.id], reason="no such field")
    assert lab.read(code).folded.record.mass_wet_g == 61.2
