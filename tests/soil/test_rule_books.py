"""What the rule books ask of a number or a judgement, each with a record that shows it and a figure worked by hand."""

import json
from pathlib import Path

import pytest

from vadum.soil.contract.outcome import LEVELS
from vadum.soil.register import METHODS
from vadum.soil.soil_card.card import card
from vadum.soil.soil_card.evidence import Told

RECORDS = json.loads((Path(__file__).parents[1] / "examples/rule_books/records.json").read_text("utf-8"))


def reduced(name, **changed):
    case = RECORDS[name]
    method = METHODS[case["method"]]
    school = method.school(case["school"])
    return method.outcome(method.Record.model_validate({**case["record"], **changed}), school)


def carded(name):
    told = []
    for i, case in enumerate(RECORDS[name]):
        method = METHODS[case["method"]]
        school = method.school(case["school"])
        record = method.Record.model_validate(case["record"])
        told.append(Told(f"R{i}", method.outcome(record, school), school, record))
    return card(told)


def classed(name):
    return {c.system: c for c in carded(name).classes}


def reported(outcome, key):
    return outcome.value(key).reported


def verdict(outcome, rule):
    """The gravest verdict of that rule."""
    found = [v for v in outcome.verdicts if v.rule == rule]
    assert found, f"no verdict {rule!r} among {[v.rule for v in outcome.verdicts]}"
    return min(found, key=lambda v: LEVELS.index(v.level))


def missing(outcome):
    return " ".join(f"{m.name} waits for {m.waits_for}" for m in outcome.missing)


def test_a_limit_of_49_7_is_50_for_its_class_and_is_not_clear_of_the_boundary():
    found = classed("limit_at_50")["USCS"]
    assert (found.symbol, found.name) == ("CH", "fat clay")
    assert any(f.figure == "liquid limit" and f.becomes == "CL" for f in found.flips)


@pytest.mark.parametrize(
    ("name", "system", "symbol"),
    [
        ("index_of_whole_limits", "AASHTO", "A-4(5)"),
        ("silty_clay_by_whole_limits", "USCS", "CL-ML"),
        ("half_fines", "USCS", "CL"),
        ("a_third_cobbles", "USCS", "CL"),
        ("a_third_cobbles", "AASHTO", "A-6(9)"),
        ("a_tenth_cobbles", "AASHTO", "A-6(3)"),
    ],
)
def test_classes_are_decided_on_reported_figures_of_the_part_below_75_mm(name, system, symbol):
    assert classed(name)[system].symbol == symbol


def test_cobbles_stay_in_the_name():
    found = classed("a_third_cobbles")["USCS"]
    assert found.name == "sandy lean clay with gravel and cobbles"
    assert "30 %" in " ".join(found.notes)


def test_a_sand_without_a_finer_sieve_gets_its_class_with_the_curve_carried_on():
    found = classed("sand_with_eleven_fines")["USCS"]
    assert found.symbol.startswith("S")
    assert "#" in " ".join(found.notes)


def test_fragments_are_named_by_volume():
    found = classed("stony_loam")["USDA"]
    assert found.name == "gravelly loam"
    assert "33 % by volume" in " ".join(found.notes)


@pytest.mark.parametrize(("name", "symbol"), [("organic_clay", "OL"), ("peat", "PT")])
def test_organic_soil_and_peat_can_be_reached(name, symbol):
    assert classed(name)["USCS"].symbol == symbol


def test_the_card_never_mixes_an_index_of_another_liquid_limit():
    found = carded("two_liquid_limits")
    facts = {f.key: f for f in found.consistency}
    assert facts["plasticity_index_percent"].reported == "30"
    assert facts["plasticity_index_percent"].code == "R0 − R1"


def test_whole_limits_that_are_equal_are_nonplastic_without_indices():
    for name in ("equal_whole_limits", "equal_whole_limits_with_water"):
        outcome = reduced(name)
        assert reported(outcome, "plasticity_index_percent") == "NP"
        assert not {v.key for v in outcome.values} & {"liquidity_index", "consistency_index", "activity"}


def test_a_liquidity_index_beyond_sense_is_remarked_on_in_the_run_itself():
    outcome = reduced("equal_whole_limits_with_water", liquid_limit_percent=40, natural_water_content_percent=60)
    assert verdict(outcome, "liquidity index is that of soil in place").level == "watch"


def test_stones_are_taken_out_of_the_water_that_a_liquidity_index_is_formed_with():
    given = {"liquid_limit_percent": 44, "natural_water_content_percent": 12}
    outcome = reduced("equal_whole_limits_with_water", **given, finer_than_425um_percent=40)
    assert outcome.value("fine_water_content_percent").value == pytest.approx(30)
    assert reported(outcome, "liquidity_index") == "0.30"
