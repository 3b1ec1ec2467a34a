"""A double ring: volumes over their own intervals, both areas, steadiness, bottles, what the clock calls."""

from datetime import UTC, datetime, timedelta

import pytest

from vadum.soil.register import METHODS

RINGS = METHODS["double_ring"]
NOON = datetime(2026, 5, 12, 12, tzinfo=UTC)
SIZES = {"inner_diameter_mm": 300, "inner_outside_diameter_mm": 306, "outer_diameter_mm": 600}
INNER_CM2 = 706.8583


def record(*rows, **more):
    return RINGS.Record.model_validate({**SIZES, "readings": rows, **more})


def rows(rate_mm_h, times, annulus=1.1):
    made, before = [], 0
    for at in times:
        inner = rate_mm_h / 10 * (at - before) / 60 * INNER_CM2
        made.append({"elapsed_min": at, "inner_ml": inner, "annulus_ml": inner * 2.9596 * annulus})
        before = at
    return made


def outcome(its, school="d3385"):
    return RINGS.outcome(its, RINGS.school(school))


def test_a_rate_is_that_of_its_own_interval_however_long():
    its = record(*rows(24.0, (15, 30, 45, 60, 90, 120, 180, 300, 360)), ended="time is over")
    found = RINGS.facts(its, RINGS.school())
    assert [r.inner_mm_h for r in found.rates] == pytest.approx([24.0] * 9)
    assert [r.ratio for r in found.rates] == pytest.approx([1.1] * 9, rel=1e-3)


def test_the_water_of_an_interval_left_out_belongs_to_no_other():
    made = rows(24.0, (15, 30, 45, 60))
    made[1]["excluded_because"] = "spilt"
    found = RINGS.facts(record(*made), RINGS.school())
    assert [(r.row, r.lasted_min) for r in found.rates] == [(0, 15), (2, 15), (3, 15)]
    assert [r.inner_mm_h for r in found.rates] == pytest.approx([24.0] * 3)


def test_constant_level_bottles_give_the_volume_by_their_area():
    made = [
        {"elapsed_min": t, "inner_bottle_mm": 500 - 4 * t, "annulus_bottle_mm": 500 - 4 * t} for t in (15, 30, 45, 60)
    ]
    areas = {"inner_bottle_area_cm2": 100.0, "annulus_bottle_area_cm2": 300.0}
    found = RINGS.facts(record(*made, water_added="constant-level bottles", **areas), RINGS.school())
    assert [r.inner_cm3 for r in found.rates] == pytest.approx([600.0] * 3)  # the first has no level before it


def test_it_is_never_called_a_conductivity():
    found = outcome(record(*rows(24.0, (60, 120, 180, 240, 300, 360)), ended="time is over"))
    assert all("conductivity" not in v.name for v in found.values)
    line = next(line for line in found.working if line.gives == "rate_mm_h")
    assert "no conductivity" in line.note
    assert "no conductivity" in RINGS.limits_of_use


@pytest.mark.parametrize(("hours", "rates", "level"), [(2, (60, 40, 30), "redo"), (6, (60, 40, 30), "watch")])
def test_not_steady_is_a_redo_until_the_hours_are_over(hours, rates, level):
    many = len(rates)
    made, before = [], 0
    for n, rate in enumerate(rates, 1):
        at = 60 * hours * n / many
        made += rows(rate, (at - before,))
        made[-1]["elapsed_min"] = at
        before = at
    found = outcome(record(*made, ended="called off"))
    assert {v.rule: v.level for v in found.verdicts}["rate is steady"] == level


def test_the_rate_at_twenty_degrees_stands_beside_where_the_school_asks_for_it():
    made = [{**row, "temperature_c": 10.0} for row in rows(24.0, (60, 120, 180, 240, 300, 360))]
    its = record(*made, ended="time is over")
    assert outcome(its).value("rate20_mm_h") is None
    assert outcome(its, "d3385_20c").value("rate20_mm_h").value == pytest.approx(24 * 1.305, rel=0.01)


def test_the_clock_calls_both_rings_and_the_end_is_offered_once_it_is_steady():
    school = RINGS.school()
    given = {"place": "meadow", "water_added": "measured by hand", "head_mm": 100, "started_at": NOON}
    its = record(**given)
    asked = RINGS.judge(its, school, NOON + timedelta(minutes=2)).advice
    assert asked.wants[:3] == ("readings[0].temperature_c", "readings[0].inner_ml", "readings[0].annulus_ml")
    assert [round((d.at - NOON).total_seconds() / 60) for d in asked.due][:7] == [15, 30, 45, 60, 90, 120, 180]
    its = record(*rows(24.0, (15, 30, 45)), **given)
    asked = RINGS.judge(its, school, NOON + timedelta(minutes=46)).advice
    assert asked.wants[-1] == "ended"
    assert "may stop" in asked.detail
