"""The bearing ratio's curve against an independent reference, the standard curve, shifted curves, and seatings."""

import json
import math
import random
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vadum.soil.contract.errors import ReductionError
from vadum.soil.shared.bearing.curve import (
    STANDARD_CURVE,
    bearing_ratio_by_stress_percent,
    bearing_ratio_percent,
    curve_of,
    force_at_kn,
    lifts_at_percent,
    reaction_kn,
    seating_n,
    slopes_kn_mm,
    standard_force_kn,
    zero_correction,
)

CASES = Path(__file__).parents[1] / "examples/bearing"
LABORATORY = {c["id"]: c for c in json.loads((CASES / "laboratory.json").read_text("utf-8"))["cases"]}
IN_PLACE = json.loads((CASES / "in_place.json").read_text("utf-8"))["cases"][0]
CALLED = [0.25 * i for i in range(31)]


def read(divisions, factor_n, zero=0.0):
    return curve_of(CALLED, [(d - zero) * factor_n / 1000 for d in divisions])


def ratios(curve):
    shift = zero_correction(curve).shift_mm
    return [bearing_ratio_percent(force_at_kn(curve, p, shift), p) for p in (2.5, 5.0)]


@pytest.mark.parametrize("end", ["top", "bottom"])
def test_an_independent_curve_that_bends_over_from_its_start(end):
    case = LABORATORY["cbr-01-convex-ends-averaged"]
    given_, expected = case["inputs"], case["expected"]
    zero = given_[f"{end}_reading_after_seating_divisions"]
    curve = read(given_[f"{end}_ring_divisions"], given_["ring_factor_newton_per_division"], zero)
    found = zero_correction(curve)
    assert (found.shift_mm, found.why) == (0.0, "bends over from the start")
    for ratio, at in zip(ratios(curve), ("2.5", "5.0"), strict=True):
        wanted = expected[f"{end}_cbr_percent_at_{at}_mm"]
        assert ratio == pytest.approx(wanted["value"], abs=wanted["abs_tol"])


def test_an_independent_curve_that_still_steepens_gets_no_correction():
    case = LABORATORY["cbr-05-still-steepening"]
    curve = read(case["inputs"]["ring_divisions"], case["inputs"]["ring_factor_newton_per_division"])
    found = zero_correction(curve)
    assert (found.shift_mm, found.why) == (0.0, "still steepening at its end")
    wanted = [case["expected"][f"cbr_percent_at_{at}_mm"] for at in ("2.5", "5.0")]
    for ratio, one in zip(ratios(curve), wanted, strict=True):
        assert ratio == pytest.approx(one["value"], abs=one["abs_tol"])


def test_seating_and_reaction_agree_with_an_independent_reference():
    expected = IN_PLACE["expected"]
    for ratio in IN_PLACE["inputs"]["expected_cbr_percent"]:
        assert seating_n(ratio) == expected[f"seating_load_newton_for_cbr_{ratio}"]["value"]
        wanted = expected[f"least_reaction_kN_for_cbr_{ratio}"]
        assert reaction_kn(ratio) == pytest.approx(wanted["value"], abs=wanted["abs_tol"])


def test_forces_on_the_standard_curve_are_a_hundred_percent():
    for penetration, force in STANDARD_CURVE[1:]:
        assert bearing_ratio_percent(force, penetration) == pytest.approx(100)
    for penetration, stress in ((2.54, 6.9), (5.08, 10.3)):
        force = stress * math.pi * 49.63**2 / 4 / 1000
        assert bearing_ratio_by_stress_percent(force, penetration) == pytest.approx(100)


@pytest.mark.parametrize("shift", [0.3, 0.5, 0.8, 1.2])
@pytest.mark.parametrize("ratio", [6, 25, 70])
def test_a_shifted_curve_comes_back_by_its_shift(shift, ratio):
    """The standard curve, scaled, begun only after a soft first part: the ratio is its scale again."""

    def force(p):
        if p < shift:
            return ratio / 100 * 0.25 * (p / shift) ** 2
        return ratio / 100 * (0.25 + standard_force_kn(p - shift))

    curve = curve_of(CALLED, [force(p) for p in CALLED])
    found = zero_correction(curve)
    assert found.why == "steepens, then bends over"
    assert found.shift_mm == pytest.approx(shift, abs=0.16)
    assert ratios(curve)[1] == pytest.approx(ratio, rel=0.06)


@given(st.floats(3, 90), st.integers(0, 200))
def test_noise_of_a_gauge_does_not_shift_a_sound_curve(ratio, seed):
    dice = random.Random(seed)
    forces = [ratio / 100 * standard_force_kn(p) * (1 + dice.gauss(0, 0.004)) for p in CALLED]
    found = zero_correction(curve_of(CALLED, forces))
    assert found.shift_mm < 0.1


def test_the_slope_of_a_parabola_is_exact_at_every_reading():
    curve = curve_of(CALLED, [2 * p - 0.1 * p * p for p in CALLED])
    assert slopes_kn_mm(curve) == pytest.approx([2 - 0.2 * p for p in CALLED], abs=1e-9)


def test_a_short_record_is_read_no_further_than_it_goes():
    curve = curve_of([0, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0], [0, 1, 1.8, 2.4, 2.9, 3.3, 3.6])
    assert force_at_kn(curve, 2.5) == pytest.approx(3.3)
    assert force_at_kn(curve, 5.0) is None
    assert force_at_kn(curve, 2.5, shift_mm=0.6) is None
    assert zero_correction(curve_of([0, 1, 2], [0, 1, 2])).why == "too short"


@pytest.mark.parametrize(
    "call",
    [
        lambda: curve_of([0, 1, 1], [0, 1, 2]),
        lambda: curve_of([0, 1], [0]),
        lambda: curve_of([0], [0]),
        lambda: standard_force_kn(13),
        lambda: bearing_ratio_by_stress_percent(5, 2.5),
        lambda: seating_n(0),
    ],
)
def test_what_cannot_be_is_refused(call):
    with pytest.raises(ReductionError):
        call()


@given(st.floats(2, 40), st.floats(0, 50))
def test_the_vehicle_lifts_where_its_reaction_is_used_up(axle, margin):
    ratio = lifts_at_percent(axle, margin)
    assert reaction_kn(ratio) == pytest.approx(axle * (1 - margin / 100))
