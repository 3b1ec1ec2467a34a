"""A lime demand: which rule decides, how near it is to another, what a bottle is told, what the clock calls."""

from datetime import UTC, datetime, timedelta

import pytest

from vadum.soil.methods.lime_demand.decision import Limits, Point, decide, flip
from vadum.soil.register import METHODS

LIME = METHODS["lime_demand"]
NOON = datetime(2026, 5, 12, 12, tzinfo=UTC)
LIMITS = Limits(12.40, 12.30, 0.05, 0.02, True)
LIMES = (2.0, 3.0, 4.0, 5.0, 6.0)


def points(*phs):
    return [Point(i, lime, ph) for i, (lime, ph) in enumerate(zip(LIMES, phs, strict=False))]


@pytest.mark.parametrize(
    ("phs", "only", "rule", "lime"),
    [
        ((11.9, 12.2, 12.44, 12.47, 12.48), 12.46, "reaches", 4.0),
        ((11.9, 12.2, 12.40, 12.41, 12.42), 12.45, "reaches", 4.0),
        ((12.0, 12.2, 12.42, 12.50, 12.50), 12.45, "reaches", 4.0),  # 0.05 above the lime-only bottle is no rise
        ((12.0, 12.42, 12.50, 12.56, 12.57), 12.45, "no longer rises", 5.0),
        ((12.0, 12.42, 12.50, 12.56, 12.59), 12.45, "still rises", None),
        ((11.9, 12.1, 12.31, 12.35, 12.36), 12.45, "two near", 4.0),
        ((11.9, 12.1, 12.2, 12.29, 12.31), 12.45, "more lime", None),
        ((11.9, 12.30, 12.2, 12.31, 12.29), 12.45, "more lime", None),
    ],
)
def test_the_rule_that_decides(phs, only, rule, lime):
    found = decide(points(*phs), only, LIMITS)
    assert (found.rule, found.lime_percent) == (rule, lime)


def test_without_the_plateau_rules_only_the_first_decides():
    bare = LIMITS._replace(plateau=False)
    assert decide(points(12.0, 12.42, 12.50, 12.56, 12.57), 12.45, bare).lime_percent == 3.0
    assert decide(points(11.9, 12.1, 12.31, 12.35, 12.36), 12.45, bare).rule == "more lime"


@pytest.mark.parametrize(
    ("phs", "change", "other"),
    [
        ((11.9, 12.27, 12.38, 12.44, 12.45), 0.02, 4.0),
        ((11.9, 12.27, 12.41, 12.48, 12.48), -0.02, 5.0),
    ],
)
def test_the_distance_to_another_decision_is_that_of_the_nearest_reading(phs, change, other):
    found = flip(points(*phs), 12.45, LIMITS)
    assert found.change_ph == pytest.approx(change)
    assert found.lime_percent == other


def bottles(phs, only=12.45, temperature=25.0):
    rows = [{"holds": "lime only", "read_ph": only, "temperature_c": temperature}]
    return [
        *rows,
        *(
            {"holds": "soil and lime", "lime_percent": lime, "read_ph": ph, "temperature_c": temperature}
            for lime, ph in zip(LIMES, phs, strict=False)
        ),
    ]


def outcome(school="d6276", **record):
    return LIME.outcome(LIME.Record.model_validate(record), LIME.school(school))


def test_a_warm_bottle_that_comes_to_the_limit_by_its_correction_counts():
    rows = bottles((11.9, 12.1, 12.28, 12.32, 12.33), only=12.33, temperature=29.0)
    found = outcome(bottles=rows)
    assert found.value("b4_ph25").value == pytest.approx(12.40)
    assert found.value("demand_percent").value == 4.0


@pytest.mark.parametrize(
    ("school", "only", "level", "withheld"),
    [
        ("d6276", 12.39, "stop", True),
        ("d6276", 12.40, "fine", False),
        ("d6276", 12.50, "fine", False),
        ("d6276", 12.51, "redo", False),
        ("bs1924", 12.34, "stop", True),
        ("bs1924", 12.35, "watch", False),
        ("bs1924", 12.39, "watch", False),
        ("bs1924", 12.40, "fine", False),
        ("bs1924", 12.46, "redo", False),
    ],
)
def test_the_lime_only_bottle_decides_whether_any_other_counts(school, only, level, withheld):
    found = outcome(school, bottles=bottles((11.9, 12.2, 12.44, 12.45, 12.45), only=only))
    assert {v.rule: v.level for v in found.verdicts}["lime-only bottle"] == level
    assert found.value("demand_percent").withheld is withheld


def test_quicklime_in_the_bottles_is_more_of_it_as_hydrated_lime():
    rows = bottles((11.9, 12.2, 12.44, 12.45, 12.45))
    found = outcome(bottles=rows, lime_kind="quicklime, crushed", finer_0425_percent=60)
    assert found.value("demand_quicklime_percent").value == 4.0
    assert found.value("demand_hydrated_percent").value == pytest.approx(4.0 / 0.757)
    assert found.value("demand_whole_percent").value == pytest.approx(2.4)


def prepared(**more):
    school = LIME.school()
    made = LIME.virtual(3, school, None).record.model_dump()
    cleared = [{**b, "read_ph": None, "read_at": None, "temperature_c": None} for b in made["bottles"]]
    empty = {"shakes": (), "buffers": (), "bath_c": None, "ph_meter": None, "water_in_at": None}
    return LIME.Record.model_validate({**made, **empty, "bottles": cleared, **more})


def advice(record, now):
    return LIME.judge(record, LIME.school(), now).advice


def test_too_much_sulphate_stops_it_before_anything_is_weighed_until_a_reason_is_given():
    its = LIME.Record(sulphate_known="measured", sulphate_mg_kg=4200.0)
    asked = advice(its, NOON)
    assert asked.wants == ("sulphate_reason",)
    assert asked.grave
    told = its.model_copy(update={"sulphate_reason": "trial of the engineer"})
    assert advice(told, NOON).wants[0] == "drying"
    said = [v for v in LIME.outcome(told, LIME.school()).verdicts if v.rule == "soluble sulphate"]
    assert said[0].level == "watch"
    assert "trial of the engineer" in said[0].found


def test_each_bottle_is_told_its_masses_from_the_water_content():
    fresh = [{"holds": "lime only"}, *({"holds": "soil and lime", "lime_percent": lime} for lime in LIMES)]
    its = prepared(bottles=fresh, water_percent=18.4)
    assert advice(its, NOON).amount == "2.000 g"
    fresh[0]["lime_g"] = 2.0
    its = prepared(bottles=fresh, water_percent=18.4)
    asked = advice(its, NOON)
    assert (asked.amount, asked.wants) == ("29.60 g", ("bottles[1].soil_g", "bottles[1].lime_g"))


def test_the_hour_calls_shakes_and_the_quarter_behind_it_the_readings_in_their_order():
    its = prepared(water_in_at=NOON)
    dues = advice(its, NOON + timedelta(minutes=1)).due
    at = [round((d.at - NOON).total_seconds() / 60, 1) for d in dues if d.at]
    assert at[:5] == [10, 20, 30, 40, 50]
    assert at[5:] == [60, 61.5, 63, 64.5, 66, 67.5]
    assert advice(its, NOON + timedelta(minutes=1)).wants == ("ph_meter",)
    assert advice(its, NOON + timedelta(minutes=9)).wants == ("shakes[0].shaken_at",)
    shaken = [{"shaken_at": NOON + timedelta(minutes=10 * i)} for i in range(1, 6)]
    meter = {"ph_meter": "P1", "bath_c": 25.0, "buffers": LIME.virtual(3, LIME.school(), None).record.buffers}
    its = prepared(water_in_at=NOON, shakes=shaken, **meter)
    asked = advice(its, NOON + timedelta(minutes=60, seconds=10))
    assert asked.wants == ("bottles[0].read_ph",)


def test_the_british_result_is_named_initial_consumption_and_takes_twenty_grams():
    school = LIME.school("bs1924")
    found = LIME.outcome(LIME.virtual(4, school, None).record, school)
    assert found.value("demand_percent").name.startswith("initial consumption of lime")
    told = next(line for line in found.working if line.gives == "told_soil_g")
    assert told.inputs["m_d"] == 20.0


def test_while_bottles_are_still_to_be_read_the_decision_is_said_to_be_open_between_the_next():
    made = LIME.virtual(3, LIME.school(), None).record
    read = [b if i < 3 else b.model_copy(update={"read_ph": None, "read_at": None}) for i, b in enumerate(made.bottles)]
    its = made.model_copy(update={"bottles": tuple(read)})
    found = LIME.outcome(its, LIME.school())
    assert found.value("open_percent").reported == "4 or 5"
    assert LIME.outcome(made, LIME.school()).value("open_percent") is None
