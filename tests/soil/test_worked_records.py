"""Records with results worked out by hand or by a closed formula, outside of this program: each file says how."""

import json
from pathlib import Path

import pytest

from vadum.soil.register import METHODS

FOLDER = Path(__file__).parents[1] / "examples/worked"
CASES = {file.stem: json.loads(file.read_text("utf-8")) for file in sorted(FOLDER.glob("*.json"))}
ORDER = ("fine", "watch", "redo", "stop")


@pytest.mark.parametrize("case", CASES.values(), ids=CASES)
def test_a_worked_record_comes_to_what_was_worked_out(case):
    its = METHODS[case["method"]]
    school = its.school(case["school"])
    school = type(school).model_validate(school.model_dump() | case.get("settings", {}))
    outcome = its.outcome(its.Record.model_validate(case["record"]), school)
    values = {v.key: v for v in outcome.values}
    expected = case["expected"]
    for key, wanted in expected["values"].items():
        assert values[key].value == pytest.approx(wanted["value"], abs=wanted["tolerance"]), key
    assert {key: values[key].reported for key in expected["reported"]} == expected["reported"]
    assert not set(expected["absent"]) & set(values)
    worst = {}
    for v in outcome.verdicts:
        worst[v.rule] = max(worst.get(v.rule, "fine"), v.level, key=ORDER.index)
    assert {rule: worst.get(rule, "fine") for rule in expected["verdicts"]} == expected["verdicts"]
    if expected["at_worst"]:
        graver = [v for v in outcome.verdicts if ORDER.index(v.level) > ORDER.index(expected["at_worst"])]
        assert [(v.rule, v.found) for v in graver] == []
    if expected["at_worst"] in ("fine", "watch"):
        unsettled = [key for key in expected["values"] if not values[key].final]
        assert unsettled == []
