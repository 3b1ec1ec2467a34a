"""Where a tin, mould or cell lies, which field waits for it, and what is asked when it is taken for another soil."""

from datetime import timedelta

import pytest

from vadum.bench.foreman import Foreman
from vadum.bench.lying import in_the_oven, lying
from vadum.tape import kit, posting, runs
from vadum.tape.entries import NewEntry, append
from vadum.tape.kit import NewItem
from vadum.tape.runs import Shelf, SlipError


def found(lab, kind="tin"):
    with lab.database.reading() as session:
        every = lying(session, Foreman(Shelf()), lab.clock.now())
        return {one.code: one for one in every if one.kind == kind}


def wet_tin(lab, tin="12"):
    code = lab.start("water_content")
    for path, value in (("tin", tin), ("mass_wet_g", "61.2")):
        lab.post(code, path, value)
    return code


def test_a_tin_goes_from_to_be_filled_to_the_oven_and_is_free_when_it_is_dry(lab):
    code = lab.start("water_content")
    lab.post(code, "tin", "12")
    assert (found(lab)["12"].where, found(lab)["12"].path) == ("to be filled", "mass_wet_g")
    lab.post(code, "mass_wet_g", "61.2")
    assert found(lab)["12"].where == "wet on the bench"
    lab.post(code, "in_oven_at", lab.clock.now().isoformat())
    lies = found(lab)["12"]
    assert (lies.where, lies.path, lies.asks) == ("in the oven", "weighings[0].mass_dry_g", "tin + dry soil")
    assert lies.href == f"/runs/{code}?field=weighings[0].mass_dry_g"
    lab.clock.step(hours=30)
    assert found(lab)["12"].where == "may come out"
    lab.post(code, "weighings[0].mass_dry_g", "52.1")
    assert "12" not in found(lab), "by a school of one night it is weighed once"


def test_a_trial_that_was_left_out_holds_no_tin(lab):
    code = lab.start("liquid_limit")
    for path, value in (("trials[0].tin", "31"), ("trials[0].mass_wet_g", "40.1")):
        lab.post(code, path, value)
    assert "31" in found(lab)
    lab.post(code, "trials[0].excluded_because", "dried at the edge")
    assert "31" not in found(lab)


def test_the_oven_lists_what_may_come_out_first_and_says_the_shelf(lab):
    early = wet_tin(lab, "12")
    lab.post(early, "in_oven_at", (lab.clock.now() - timedelta(hours=40)).isoformat())
    late = wet_tin(lab, "31")
    lab.post(late, "in_oven_at", lab.clock.now().isoformat())
    with lab.database.writing() as session:
        run = runs.find(session, late)
        note = NewEntry(path="@shelf", value={"tin": "31", "shelf": "top"})
        append(session, run, note, "AT", lab.clock.now())
    with lab.database.reading() as session:
        tins = in_the_oven(lying(session, Foreman(Shelf()), lab.clock.now()))
    assert [(t.code, t.where, t.shelf) for t in tins] == [("12", "may come out", ""), ("31", "in the oven", "top")]


def post(lab, code, path, value, **more):
    with lab.database.writing() as session:
        new = NewEntry.model_validate({"path": path, "value": value, **more})
        run = runs.find(session, code)
        return posting.post(session, run, new, lab.person("AT"), lab.clock.now(), insist=True, by_hand=True)


@pytest.mark.parametrize("row", [False, True])
def test_a_tin_that_lies_elsewhere_is_taken_with_a_reason_only(lab, row):
    one, other = wet_tin(lab), lab.start("liquid_limit")
    path, value = ("trials[0]", {"tin": "12", "blows": "25"}) if row else ("trials[0].tin", "12")
    with pytest.raises(SlipError, match=f"tin 12 lies in {one}") as refused:
        post(lab, other, path, value)
    assert refused.value.asks_why
    assert len(lab.read(other).entries) == 1, "nothing half done"
    post(lab, other, path, value, reason="two tins have this number, one is marked red")
    rules = [v.found for v in lab.read(other).outcome.verdicts if v.level == "watch"]
    assert "tin 12: two tins have this number, one is marked red" in rules


def test_a_mould_holds_its_soil_until_only_the_oven_is_waited_for(lab):
    with lab.database.writing() as session:
        kit.add_item(session, NewItem(kind="mould", code="M1"))
    one, other = lab.start("compaction"), lab.start("compaction")
    lab.post(one, "mould", "M1")
    assert found(lab, "mould")["M1"].run_code == one
    with pytest.raises(SlipError, match=f"mould M1 lies in {one}"):
        post(lab, other, "mould", "M1")
    post(lab, other, "mould", "M1", reason="its soil is out, only its tins dry")


def test_kit_that_is_retired_brings_nothing_and_asks_why(lab):
    with lab.database.writing() as session:
        kit.retire(session, kit.find(session, "tin", "7"), "bent", "BL", lab.clock.now())
    code = lab.start("water_content")
    with pytest.raises(SlipError, match="tin 7 was retired"):
        post(lab, code, "tin", "7")
    post(lab, code, "tin", "7", reason="no other is left")
    assert lab.read(code).folded.typed("mass_tin_g") is None


def test_a_struck_number_is_corrected_without_being_asked_about(lab):
    wet_tin(lab)
    other = lab.start("water_content")
    entry = lab.post(other, "tin", "12")
    post(lab, other, "tin", "9", strikes=[entry.id], reason="wrong tin")
    assert lab.read(other).folded.typed("tin") == "9"
