"""Stages of one quick specimen, and what is effective: the specimen goes on, its calls begin anew."""

import copy
import json
from pathlib import Path

import pytest

from vadum.soil.register import METHODS

TRIAXIAL = METHODS["triaxial"]
WORKED = Path(__file__).parents[1] / "examples/worked"


def worked(name):
    return copy.deepcopy(json.loads((WORKED / f"{name}.json").read_text("utf-8")))


def judged(case):
    return TRIAXIAL.read(TRIAXIAL.Record.model_validate(case["record"]), TRIAXIAL.school(case["school"]))


def test_the_second_stage_is_called_from_its_own_start_on():
    case = worked("quick_stages_of_one_specimen")
    second = case["record"]["specimens"][1]
    case["record"]["specimens"] = case["record"]["specimens"][:2]
    case["record"]["enough"] = None
    second["stopped"], second["shear"], second["rate_mm_min"] = None, second["shear"][:1], 1.0
    case["record"]["specimens"][0]["rate_mm_min"] = 1.0
    facts = judged(case).facts
    assert facts.hand == 1
    assert facts.tested[1].points[0].strain == pytest.approx(0.05), "it was shortened by 5 % before"
    assert [t.at for t in facts.shearing.taken] == [0.0]
    assert facts.shearing.at[0] == 0.0
    assert facts.shearing.next_row <= 1


def test_a_later_stage_has_no_modulus_from_its_start():
    keys = {v.key for v in judged(worked("quick_stages_of_one_specimen")).outcome.values}
    assert "t1_e50_mpa" in keys
    assert "t2_e50_mpa" not in keys


@pytest.mark.parametrize("field", ["phi_degrees", "c_kpa"])
def test_no_effective_strength_without_a_pore_pressure(field):
    case = worked("anisotropic_consolidation")
    for specimen in case["record"]["specimens"]:
        for row in specimen["shear"]:
            row["pore_kpa"] = None
    values = {v.key: v for v in judged(case).outcome.values}
    assert values[field].withheld


@pytest.mark.parametrize(
    ("through", "cv"),
    [("radial", 1.66), ("radial and one end", 1.33), ("radial and both ends", 1.06)],
)
def test_where_the_water_leaves_decides_the_coefficient_of_consolidation(through, cv):
    """pi D^2 / (lambda t100), lambda 64, 80, 100; D 50 mm and t100 74 min."""
    case = worked("cv_with_side_drains")
    case["record"]["drains_through"] = through
    values = {v.key: v.value for v in judged(case).outcome.values}
    assert values["t1_cv_mm2_min"] == pytest.approx(cv, abs=0.01)


@pytest.mark.parametrize(("through", "factor"), [("one end", 0.53), ("both ends", 2.1), ("radial", 1.43)])
def test_where_the_water_leaves_decides_the_permitted_rate(through, factor):
    """4 % in F t100, and in 120 min at the least."""
    case = worked("cv_with_side_drains")
    case["record"]["drains_through"] = through
    values = {v.key: v.value for v in judged(case).outcome.values}
    assert values["t1_most_percent_min"] == pytest.approx(4.0 / max(factor * 74, 120.0))
