"""What a reading brings with it and leaves behind: the kit's data, the time of a call, a tin that lies elsewhere."""

import pytest

from vadum.tape import runs
from vadum.tape.runs import SlipError


def masses(lab, code):
    record = lab.read(code).folded.record
    return record.tin, record.mass_tin_g


def test_a_corrected_tin_brings_its_own_tare_and_takes_the_other_back(lab):
    code = lab.start("ring_density")
    first = lab.post(code, "tin", "12")
    assert masses(lab, code) == ("12", 21.37)
    lab.post(code, "tin", "31", strikes=[first.id], reason="misread")
    assert masses(lab, code) == ("31", 23.28)


def test_a_corrected_tin_that_is_in_no_register_leaves_no_others_tare(lab):
    code = lab.start("ring_density")
    first = lab.post(code, "tin", "12")
    lab.post(code, "tin", "777", strikes=[first.id], reason="misread")
    assert masses(lab, code) == ("777", None)


def test_a_tare_that_was_weighed_stays_when_the_number_is_corrected(lab):
    code = lab.start("ring_density")
    first = lab.post(code, "tin", "12")
    brought = lab.read(code).entries[-1]
    lab.post(code, "mass_tin_g", "23.31", strikes=[brought.id], reason="weighed")
    lab.post(code, "tin", "31", strikes=[first.id], reason="misread")
    assert masses(lab, code) == ("31", 23.31)


def test_a_corrected_call_keeps_the_time_of_the_reading_it_replaces(lab):
    code, path, values = lab.start("field_cbr"), "readings[0].ring_div", ("0", "1")
    first = lab.post(code, path, values[0])
    then = lab.read(code).folded.record.readings[0].read_at
    lab.clock.step(minutes=4)
    second = lab.post(code, path, values[1], strikes=[first.id], reason="misread")
    assert lab.read(code).folded.record.readings[0].read_at == then
    lab.post(code, path, values[0], strikes=[second.id], reason="it was right")
    assert lab.read(code).folded.record.readings[0].read_at == then


def test_a_tin_that_lies_wet_in_another_open_run_is_asked_back(lab):
    one, other = lab.start("water_content"), lab.start("plastic_limit")
    lab.post(one, "tin", "12")
    lab.post(other, "determinations[].tin", "12")  # named in both: as long as it is empty nothing is wrong
    lab.post(one, "mass_wet_g", "60.0")
    third = lab.start("liquid_limit")
    with pytest.raises(SlipError, match=f"tin 12 lies in {one}"):
        lab.post(third, "trials[].tin", "12", insist=False)
    lab.post(third, "trials[].tin", "12", insist=True)
    lab.post(one, "weighings[0].mass_dry_g", "55.0")
    lab.post(lab.start("ring_density"), "tin", "12", insist=False)


def test_what_took_a_figure_says_when_it_is_another_there_now(lab):
    source = lab.start("liquid_limit", school="one_point")
    for i, tin in enumerate(("12", "31")):
        row = {"tin": tin, "mass_tin_g": "20", "mass_wet_g": "34", "mass_dry_g": "30", "blows": "25"}
        lab.post(source, f"trials[{i}]", row)
    taker = lab.start("plastic_limit")
    for i, tin in enumerate(("7", "9")):
        row = {"tin": tin, "mass_tin_g": "20", "mass_wet_g": "32", "mass_dry_g": "30"}
        lab.post(taker, f"determinations[{i}]", row)
    lab.post(taker, "liquid_limit_percent", "40", source=f"run: {source}")
    rule = "what was taken from another run still stands there"

    def told():
        with lab.database.reading() as session:
            read = runs.Shelf().read(session, runs.find(session, taker))
        return [v.found for v in read.outcome.verdicts if v.rule == rule]

    assert told() == []
    wrong = next(e for e in lab.read(source).entries if e.path == "trials[0]")
    row = {"tin": "12", "mass_tin_g": "20", "mass_wet_g": "34.2", "mass_dry_g": "30", "blows": "25"}
    lab.post(source, "trials[0]", row, strikes=[wrong.id], reason="misread")
    assert told() == [f"liquid limit 40 taken from {source}, 41 there now"]
