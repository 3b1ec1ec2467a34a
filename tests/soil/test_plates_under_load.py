"""Plates step by step: zero, lever, parts of the test, rest by each rule, and from a plate to its footing."""

from datetime import UTC, datetime, timedelta

import pytest

from vadum.soil.methods.plate_bearing.curve import settlement_factor
from vadum.soil.register import METHODS
from vadum.soil.shared.plate import load as loads

NOON = datetime(2026, 5, 12, 12, tzinfo=UTC)
MODULUS, BEARING = METHODS["plate_modulus"], METHODS["plate_bearing"]
ROUND = loads.area_mm2(300, False)


def held(kpa, *readings, **more):
    """A step of a 300 mm plate by a load cell, its readings as (minutes, mm of each gauge)."""
    rows = [{"elapsed_min": t, **dict(zip(("a_mm", "b_mm", "c_mm"), mm, strict=False))} for t, *mm in readings]
    return {"force_kn": kpa * ROUND / 1e6, "readings": rows, "loaded_at": NOON, **more}


def bearing(steps, school="is1888", **more):
    head = {"plate_width_mm": 300, "plate_shape": "round", "force_by": "load cell", "zeroed": "set to zero"}
    record = BEARING.Record.model_validate({**head, "steps": steps, **more})
    return record, BEARING.school(school)


def curve(*points, **more):
    """A finished test by its settled values: kPa and mm."""
    steps = [{"force_kn": q * ROUND / 1e6, "settlement_mm": s, "held_min": 30} for q, s in points]
    return bearing(steps, stopped="at the planned load", **more)


def test_the_parts_of_a_test_follow_from_its_loads():
    kpa = (10, 80, 160, 240, 320, 420, 500, 250, 125, 10, 80, 160)
    steps = [{"force_kn": k * ROUND / 1e6, "settlement_mm": 0.1 * i} for i, k in enumerate(kpa)]
    record = MODULUS.Record.model_validate({"plate_width_mm": 300, "force_by": "load cell", "steps": steps})
    parts = [s.cycle for s in MODULUS.facts(record, MODULUS.school("din")).steps]
    assert parts == ["preload", *["first"] * 6, *["down"] * 3, *["again"] * 2]


def test_gauges_that_were_left_to_stand_count_from_the_preload():
    steps = [held(7, (0.5, 1.2, 0.9)), held(50, (1, 2.2, 1.7), (2, 2.3, 1.8))]
    stands, school = bearing(steps, gauges_count=2, zeroed="read as they stand")
    assert BEARING.facts(stands, school).steps[1].settlement_mm == pytest.approx(1.0)
    zeroed = stands.model_copy(update={"zeroed": "set to zero"})
    assert BEARING.facts(zeroed, school).steps[1].settlement_mm == pytest.approx(2.05)


def test_a_lever_turns_the_gauges_travel_into_the_plates():
    steps = [{"force_kn": 0.7, "settlement_mm": 0}, held(80, (2, 0.4))]
    head = {"plate_width_mm": 300, "force_by": "load cell", "lever_plate_mm": 1200, "lever_gauge_mm": 800}
    record = MODULUS.Record.model_validate({**head, "steps": steps})
    assert MODULUS.facts(record, MODULUS.school("din")).steps[1].settlement_mm == pytest.approx(0.6)


def test_a_pump_a_piston_and_a_load_cell_agree():
    steps = [{"pump_bar": 99.0}]
    by_pump = MODULUS.Record.model_validate({"plate_width_mm": 300, "piston_cm2": 20, "steps": steps})
    by_cell = MODULUS.Record.model_validate(
        {"plate_width_mm": 300, "force_by": "load cell", "steps": [{"force_kn": 19.8}]}
    )
    school = MODULUS.school("din")
    assert MODULUS.facts(by_pump, school).steps[0].kpa == pytest.approx(MODULUS.facts(by_cell, school).steps[0].kpa)


@pytest.mark.parametrize(
    ("school", "last", "rests"),
    [("is1888", (16, 1.20), True), ("is1888", (10, 1.20), False), ("is1888_hour", (16, 1.20), False)],
)
def test_a_step_rests_by_its_schools_rate(school, last, rests):
    record, used = bearing([held(7, (0.5, 0.0)), held(50, (1, 0.8), (4, 1.0), (9, 1.15), last)], school)
    assert BEARING.facts(record, used).rest.at_rest is rests


def test_a_step_on_clay_rests_at_a_share_of_its_time_curve_or_after_a_day():
    readings = [(t, 2.0 * t / (t + 5.0)) for t in (0.01, 1.0, 2.25, 4.0, 9.0)]
    record, school = bearing([held(7, (0.5, 0.0)), held(50, *readings)], "is1888_clay")
    assert not BEARING.facts(record, school).rest.at_rest
    longer = [*readings, (16.0, 2 * 16 / 21), (25.0, 2 * 25 / 30)]
    record, school = bearing([held(7, (0.5, 0.0)), held(50, *longer)], "is1888_clay")
    assert BEARING.facts(record, school).rest.at_rest
    record, school = bearing([held(7, (0.5, 0.0)), held(50, (1, 1.0), (1500, 4.0))], "is1888_clay")
    assert BEARING.facts(record, school).rest.words == "held 24 h"


def test_a_reading_that_arrives_late_stands_in_its_own_place():
    """What a device held back without a network comes behind what was read later."""
    rows = [held(7, (0.5, 0.0)), held(50, (1, 0.8), (3, 1.0), (2, 0.92))]
    record, school = bearing(rows)
    facts = BEARING.facts(record, school)
    assert [r.minutes for r in facts.steps[1].readings] == [1, 2, 3]
    assert facts.steps[1].settlement_mm == pytest.approx(1.0)
    assert facts.steps[1].rate_mm_min == pytest.approx(0.08)


def test_the_next_reading_and_then_the_next_load_are_advised():
    head = {"reaction_kn": 60, "supports_mm": 2600, "datum_legs_mm": 2600, "behaves_as": "clay", "water_depth_m": 2}
    kit = {"plate_width_mm": 300, "force_by": "load cell", "gauges_count": 1, "expected_ultimate_kpa": 300}
    school = BEARING.school("is1888")

    def advised(*steps, minutes=0.0):
        record = BEARING.Record.model_validate({**head, **kit, "zeroed": "set to zero", "steps": steps})
        return BEARING.judge(record, school, NOON + timedelta(minutes=minutes)).advice

    assert advised().wants == ("steps[0].force_kn",)
    seated = held(7, (0.5, 0.0))
    moving = advised(seated, held(50, (1, 0.8), (2.25, 1.2)), minutes=3)
    assert moving.wants[0] == "steps[1].readings[2].a_mm"
    assert {d.by for d in moving.due} == {"load"}
    rested = advised(seated, held(50, (1, 0.8), (2.25, 0.81)), minutes=3)
    assert rested.headline.startswith("At rest: ")
    assert rested.wants == ("steps[2].force_kn",)


def test_settlement_governs_a_wide_footing_on_sand_and_strength_a_narrow_one_on_clay():
    bends = [(50, 2.0), (100, 4.0), (150, 6.0), (200, 8.0), (250, 16.0), (300, 24.0), (350, 32.0)]
    more = {"permissible_mm": 25.0, "safety_ratio": 3.0}
    record, school = curve(*bends, behaves_as="sand", footing_width_m=2.0, **more)
    wide = BEARING.outcome(record, school)
    assert wide.value("governs").reported == "settlement"
    assert wide.value("footing_ultimate_kpa").value == pytest.approx(wide.value("ultimate_kpa").value * 2.0 / 0.3)
    times = settlement_factor(0.3, 2.0, True)
    assert wide.value("plate_permissible_mm").value == pytest.approx(25.0 / times)
    record, school = curve(*bends, behaves_as="clay", footing_width_m=0.6, **more)
    narrow = BEARING.outcome(record, school)
    assert narrow.value("governs").reported == "shear"
    assert narrow.value("allowable_kpa").value == pytest.approx(narrow.value("ultimate_kpa").value / 3)
    assert narrow.value("footing_settlement_mm").value < 25.0


def test_without_a_footing_nothing_is_allowed_and_it_is_named():
    record, school = curve(*[(50.0 * i, 1.0 * i) for i in range(1, 8)], behaves_as="clay")
    outcome = BEARING.outcome(record, school)
    assert not [v for v in outcome.values if v.key.startswith("allowable")]
    assert "the width of the footing" in {m.waits_for for m in outcome.missing}


def test_an_ultimate_beyond_the_last_load_is_said_as_greater_than():
    record, school = curve(*[(50.0 * i, 1.0 * i) for i in range(1, 8)], behaves_as="clay", footing_width_m=1.0)
    outcome = BEARING.outcome(record, school)
    assert outcome.value("width_share_kpa").reported == "greater than 350"
    assert outcome.value("width_share_kpa").value is None
    assert {v.rule: v.level for v in outcome.verdicts}["ultimate reached"] == "watch"


def test_an_ultimate_drawn_by_hand_counts_beside_what_the_rules_read():
    bends = [(50, 2.0), (100, 4.0), (150, 6.0), (200, 8.0), (250, 16.0), (300, 24.0), (350, 32.0)]
    record, school = curve(*bends, behaves_as="clay", ultimate_hand_kpa=180.0, ultimate_because="a crack was heard")
    outcome = BEARING.outcome(record, school)
    assert outcome.value("ultimate_kpa").value == 180.0
    assert outcome.value("two_lines_kpa").value == pytest.approx(200.0, abs=2.0)
    back = record.model_copy(update={"ultimate_by": "two lines"})
    assert BEARING.outcome(back, school).value("ultimate_kpa").value == pytest.approx(200.0, abs=2.0)


def test_bedding_in_is_taken_off_once_and_said():
    shifted = [(50, 2.6), (100, 4.6), (150, 6.6), (200, 8.6), (250, 16.6), (300, 24.6), (350, 32.6)]
    record, school = curve(*shifted, behaves_as="clay")
    facts = BEARING.facts(record, school)
    assert facts.origin_mm == pytest.approx(0.6)
    assert BEARING.outcome(record, school).value("settlement_mm").value == pytest.approx(32.0)


def test_a_load_that_fell_is_named_unless_it_was_topped_up():
    def levels(**more):
        steps = [held(7, (0.5, 0.0)), held(50, (1, 0.8), (16, 1.0), **more), held(100, (1, 1.9))]
        record, school = bearing(steps)
        return {v.rule: v.level for v in BEARING.outcome(record, school).verdicts}.get("load held")

    force = 50 * ROUND / 1e6
    assert levels() is None
    assert levels(lowest_kn=0.9 * force) == "redo"
    assert levels(top_ups=[{"from_kn": 0.95 * force}]) == "fine"
