"""Water and lime beside the other tests of their soil, and conductivities of a job as one."""

import math

import pytest

from tests.soil.test_story import LIMITS, PLASTIC, told
from vadum.soil.contract.outcome import Outcome, Value
from vadum.soil.register import METHODS
from vadum.soil.shared.grading import GradePoint
from vadum.soil.shared.water_in_job import Conducts, conducts_of, drawn, together
from vadum.soil.soil_card.evidence import Evidence
from vadum.soil.soil_card.merged import Merged
from vadum.soil.soil_card.water import AT_33_KPA, water_readings

SAND = Merged((GradePoint(2.0, 100.0), GradePoint(0.2, 40.0), GradePoint(0.06, 10.0)), ("SV-1",), None, None)
CLAYEY = Merged((GradePoint(2.0, 100.0), GradePoint(0.06, 70.0), GradePoint(0.002, 30.0)), ("HY-1",), None, None)
WELL = {"well_permeameter": {"kfs_mm_h": 100.0}}
CURVE = {"retention": {"saturated_percent": 44.0, "theta_33_percent": 25.0}}
GROUND = {"ring_density": {"dry_density_mg_m3": 1.42}, "specific_gravity": {"specific_gravity_ratio": 2.66}}
LIME = {"lime_demand": {"demand_hydrated_percent": 4.0}}


def said(runs, grading=None, texture=""):
    return {v.rule: v for v in water_readings(Evidence(runs), grading, texture)}


@pytest.mark.parametrize(
    ("rule", "tests", "changes", "grading", "texture"),
    [
        ("conductivity against the grading", (WELL,), {"well_permeameter__kfs_mm_h": 2.0}, SAND, ""),
        ("conductivity against the grading", (WELL,), {"well_permeameter__kfs_mm_h": 4000.0}, SAND, ""),
        (
            "saturated water against the pores of the ground",
            (CURVE, GROUND),
            {"retention__saturated_percent": 60.0},
            None,
            "",
        ),
        ("water at 33 kPa against the texture", (CURVE,), {"retention__theta_33_percent": 45.0}, None, "loam"),
        ("lime demand against clay", (LIME,), {"lime_demand__demand_hydrated_percent": 13.0}, CLAYEY, ""),
        (
            "lime demand against plasticity",
            (LIME, LIMITS, PLASTIC),
            {"lime_demand__demand_hydrated_percent": 6.0, "plastic_limit__plastic_limit_percent": 41.0},
            None,
            "",
        ),
    ],
)
def test_each_reading_holds_and_speaks_and_is_silent_without_its_test(rule, tests, changes, grading, texture):
    assert said(told(*tests), grading, texture)[rule].level == "fine"
    verdict = said(told(*tests, **changes), grading, texture)[rule]
    assert verdict.level == "watch"
    assert verdict.remedy
    assert rule not in said(told(LIMITS), grading, texture)


def test_a_hands_texture_is_held_against_the_gradings():
    (run,) = told({"falling_head": {"kfs_mm_h": 20.0}})
    own = run._replace(record=run.record.model_copy(update={"texture": "loam"}))
    rule = "texture by hand against the grading"
    assert said([own], None, "loam")[rule].level == "fine"
    assert said([own], None, "clay")[rule].level == "watch"
    assert rule not in said([own], None, "")


def test_every_texture_that_a_hand_can_say_has_its_water():
    school = METHODS["falling_head"].school()
    assert {row[0] for row in school.textures} <= set(AT_33_KPA)


@pytest.mark.parametrize("method", ["well_permeameter", "falling_head", "double_ring", "retention", "lime_demand"])
def test_what_is_asked_of_a_method_is_what_it_gives(method):
    from vadum.soil.soil_card.card import WATER

    its = METHODS[method]
    school = its.school()
    given = {v.key for v in its.outcome(its.virtual(3, school, None).record, school).values}
    assert set(dict(WATER)[method]) <= given


def found(k, u=None, **state):
    value = Value(key="kfs_mm_h", symbol="K", name="K", value=k, unit="mm/h", reported=f"{k:g}", uncertainty=u, **state)
    outcome = Outcome(method="well_permeameter", school="x", values=(value,))
    record = METHODS["well_permeameter"].Record(hole_depth_m=0.45)
    return conducts_of("WP-1", "Constant-head well", "M1", 0.2, record, outcome)


def test_a_conductivity_stands_at_its_holes_depth_with_its_interval():
    one = found(20.0, 5.0)
    assert (one.depth_m, one.k_mm_h) == (0.45, 20.0)
    assert one.low == pytest.approx(20 / math.exp(0.25))
    assert one.high == pytest.approx(20 * math.exp(0.25))
    assert found(20.0, estimate=True) is None
    assert found(20.0, withheld=True) is None


def many(*values):
    return [Conducts(f"R{i}", "", "", 0.1 * i, k, None, None, False) for i, k in enumerate(values)]


def test_a_jobs_conductivities_are_log_normal():
    made = together(many(10.0, 40.0, 160.0))
    assert (made.many, made.geometric, made.arithmetic, made.least) == (3, pytest.approx(40.0), 70.0, 10.0)
    assert made.sd_ln == pytest.approx(math.log(4))
    assert together([]) is None
    assert together(many(5.0)).sd_ln is None


def test_log_normal_conductivities_lie_on_a_line_in_the_picture():
    rows = drawn(many(160.0, 10.0, 40.0), [("RC-1", ({"suction": 10.0, "water": 40.0},))])
    assert [r["k"] for r in rows["conducts"]] == [10.0, 40.0, 160.0]
    normals = [r["normal"] for r in rows["conducts"]]
    assert normals[1] == pytest.approx(0.0)
    assert normals[2] == pytest.approx(-normals[0])
    assert rows["curves"][0]["code"] == "RC-1"
