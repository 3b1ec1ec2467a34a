"""Strengths of one soil: cross-readings of one run, and several runs in one picture and one fit."""

import math

import pytest

from tests.soil.test_story import BOX, CORE, QUICK, said, told
from vadum.figures.joined_envelope import named_clear
from vadum.soil.register import METHODS
from vadum.soil.shared.joined_envelope import SERIES, Failure, drawn, failures_of, joined
from vadum.soil.soil_card import friction
from vadum.soil.soil_card.evidence import Evidence


@pytest.mark.parametrize(("run", "key"), [(CORE, "unconfined_compression__e50_mpa"), (QUICK, "triaxial__t1_e50_mpa")])
def test_a_modulus_is_held_against_its_own_strength(run, key):
    assert said(told(run))["modulus against strength"].level == "fine"
    assert said(told(run, **{key: 900.0}))["modulus against strength"].level == "watch"


def test_a_sand_is_held_against_its_group_and_has_no_cohesion_when_clean():
    rule, none = "friction angle against the grading", "no cohesion in a clean sand"
    sand = told(BOX, direct_shear__phi_peak_degrees=36.0)
    assert [said(sand, "SP")[r].level for r in (rule, none)] == ["fine", "fine"]
    bound = said(told(BOX, direct_shear__phi_peak_degrees=55.0, direct_shear__c_peak_kpa=12.0), "SP")
    assert [bound[r].level for r in (rule, none)] == ["watch", "watch"]
    assert none not in said(told(BOX, direct_shear__c_peak_kpa=12.0), "SM")
    assert rule not in said(told(BOX), "CL")


def with_ground(run, stress):
    (one,) = told(run)
    return [one._replace(record=one.record.model_copy(update={"in_situ_kpa": stress}))]


def test_undrained_strength_against_the_stress_in_the_ground():
    rule = "undrained strength against the stress in the ground"
    assert said(with_ground(QUICK, 120.0))[rule].level == "fine"
    assert said(with_ground(QUICK, 20.0))[rule].level == "watch"
    assert rule not in said(told(QUICK))


def test_a_consolidated_run_gives_a_strength_at_the_stress_of_the_ground():
    ratios = {"triaxial": {"t1_su_ratio": 0.40, "t2_su_ratio": 0.44}}
    (known,) = friction.consolidated(Evidence(with_ground(ratios, 100.0)))
    assert known.value == pytest.approx(42.0)
    assert friction.consolidated(Evidence(told(ratios))) == []


@pytest.mark.parametrize("method", ["field_vane", "unconfined_compression", "triaxial", "direct_shear"])
def test_what_a_cross_reading_asks_for_is_what_the_method_gives(method):
    keys = {key for name, key in ((n, "shear_strength_kpa") for n, _ in friction.UNDRAINED) if name == method}
    keys |= {k for name, *asked in friction.DRAINED if name == method for k in asked}
    its = METHODS[method]
    given = set()
    for name in its.schools:
        school = its.school(name)
        given |= {v.key for v in its.outcome(its.virtual(3, school, None).record, school).values}
    assert keys <= given


def on_a_line(code, phi, c, *normals, kind="plane"):
    slope = math.tan(math.radians(phi))
    return [Failure(code, i, kind, n, c + n * slope) for i, n in enumerate(normals, 1)]


def test_two_runs_of_one_soil_are_one_line():
    (found,) = joined(on_a_line("DS-01", 33.0, 4.0, 50, 100) + on_a_line("DS-02", 33.0, 4.0, 200, 400))
    assert (found.n, found.range_words()) == (4, "50 to 400 kPa")
    assert (found.strength.phi_degrees, found.strength.c_kpa) == pytest.approx((33.0, 4.0))


@pytest.mark.parametrize(
    ("c", "words"), [(4.0, "4.0 kPa"), (-0.04, "0.0 kPa"), (-2.0, "0 kPa, held (free fit: 35.0°, −2.0 kPa)")]
)
def test_a_cohesion_below_zero_is_held_and_said(c, words):
    (found,) = joined(on_a_line("A", 35.0, c, 50, 100, 200))
    assert found.cohesion_words() == words
    if c < 0:  # the angle is that of the line through zero: sum of sigma tau over sum of sigma squared
        by_hand = sum(n * (c + n * math.tan(math.radians(35))) for n in (50, 100, 200)) / (50**2 + 100**2 + 200**2)
        assert math.tan(math.radians(found.strength.phi_degrees)) == pytest.approx(by_hand)
        assert found.line.at(0) == 0


def test_circles_tops_are_no_points_of_a_plane():
    sine = math.sin(math.radians(28.0))
    tops = [Failure("TX-01", i, "top", s, s * sine) for i, s in enumerate((80.0, 160.0, 320.0), 1)]
    lines = {j.kind: j for j in joined(on_a_line("DS-01", 33.0, 4.0, 50, 100, 200) + tops)}
    assert lines["plane"].strength.phi_degrees == pytest.approx(33.0)
    assert lines["top"].strength.phi_degrees == pytest.approx(28.0)


def test_one_left_out_does_not_count_and_says_how_it_would_move_the_line():
    some = on_a_line("DS-01", 33.0, 0.0, 50, 100, 200)
    odd = Failure("DS-02", 1, "plane", 200.0, 300.0, "a pebble at the wall")
    (found,) = joined([*some, odd])
    assert found.strength.phi_degrees == pytest.approx(33.0)
    ((name, by),) = found.moves
    assert (name, by > 3) == ("DS-02:1", True)


def test_the_order_of_runs_and_specimens_does_not_matter():
    some = on_a_line("A", 30.0, 3.0, 50, 100) + on_a_line("B", 36.0, 0.0, 150, 75, 300)
    (one,), (other,) = joined(some), joined(some[::-1])
    assert one.strength.phi_degrees == pytest.approx(other.strength.phi_degrees, rel=1e-12)


def test_a_single_failure_makes_no_line_but_is_drawn():
    some = on_a_line("A", 30.0, 3.0, 50)
    assert joined(some) == []
    assert len(drawn(some, [])["points"]) == 1


def test_names_that_would_lie_over_each_other_are_written_under_each_other_once():
    near = [
        *on_a_line("A", 30.0, 3.0, 50, 200),
        Failure("B", 1, "top", 204.0, 119.0),
        Failure("B", 2, "top", 190.0, 20.0),
    ]
    points = named_clear(drawn(near, [])["points"])
    assert [p["names"] for p in points] == [["A:1"], ["A:2", "B:1"], [], ["B:2"]]


@pytest.mark.parametrize(("method", "kind"), [("direct_shear", "plane"), ("triaxial", "top")])
def test_a_run_tells_its_failures(method, kind):
    its = METHODS[method]
    outcome = its.outcome(its.virtual(3, its.school(), None).record, its.school())
    assert outcome.series[SERIES]
    found = failures_of("X-1", outcome, {"X-1:2": "tilted cap"})
    assert {f.kind for f in found} == {kind}
    assert [f.left_out for f in found] == ["", "tilted cap", ""]
    (line,) = joined([f._replace(left_out="") for f in found])
    own = outcome.value("phi_peak_degrees" if method == "direct_shear" else "phi_degrees")
    assert line.strength.phi_degrees == pytest.approx(own.value, abs=0.1)
