"""Falling-head cylinders: known soils come back, profile intervals hold, leaks are seen, sites are log-normal."""

import math
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from vadum.soil.methods.falling_head.facts import saturation
from vadum.soil.methods.falling_head.reduce import Site
from vadum.soil.register import METHODS
from vadum.soil.shared.infiltration import (
    Curve,
    Cylinder,
    by_slopes,
    early_excess,
    fit_both,
    fit_k,
    front_cm,
    rate_cm_s,
    series_of,
)

FALLING = METHODS["falling_head"]
NOON = datetime(2026, 5, 12, 12, tzinfo=UTC)
PLAIN = Cylinder(5.0, 5.0, 0.3, 40.0)


def drained(cylinder, k, suction, many=60, noise=0.0, seed=1, down_to=2.0):
    curve = Curve(cylinder, down_to)
    end = curve.times_of_one(suction)[-1] / k
    times = np.linspace(0, end, many)
    levels = curve.levels_at(times, k, suction) + np.random.default_rng(seed).normal(0, noise, many) * (times > 0)
    return series_of(times, levels)


@pytest.mark.parametrize("depth", [4.0, 5.0, 12.0])
def test_the_front_holds_the_water_that_went_in(depth):
    its = PLAIN._replace(depth_cm=depth)
    for level in (39.0, 25.0, 3.0):
        r, r0 = front_cm(its, level), its.source_cm
        volume = math.pi / 3 * (2 * r**3 + 3 * r**2 * depth - depth**3 - 4 * r0**3) * its.gains
        assert volume == pytest.approx(math.pi * its.radius_cm**2 * (its.start_cm - level), rel=1e-9)


@pytest.mark.parametrize(("k", "suction"), [(4e-3, 5.0), (2e-4, 25.0), (8e-3, 0.0)])
def test_the_integral_agrees_with_a_finer_integration_of_the_rate(k, suction):
    curve = Curve(PLAIN, 4.0)
    end = curve.times_of_one(suction)[-1] / k
    solved = solve_ivp(
        lambda t, h: [-rate_cm_s(PLAIN, k, suction, h[0])], (0, end), [PLAIN.start_cm], rtol=1e-10, atol=1e-10
    )
    assert solved.y[0][-1] == pytest.approx(4.0, abs=1e-3)


@pytest.mark.parametrize("suction", [0.0, 5.0, 30.0])
@pytest.mark.parametrize("k", [5e-5, 4e-3])
def test_known_conductivity_and_suction_come_back(k, suction):
    series = drained(PLAIN, k, suction)
    assert fit_k(PLAIN, series, suction).k_cm_s == pytest.approx(k, rel=1e-5)
    both = fit_both(PLAIN, series)
    assert both.fit.k_cm_s == pytest.approx(k, rel=0.01)
    assert both.fit.suction_cm == pytest.approx(suction, abs=0.15)
    assert by_slopes(PLAIN, series, suction).last_cm_s == pytest.approx(k, rel=0.02)


def test_time_taken_half_as_fast_is_half_the_conductivity():
    quick = drained(PLAIN, 4e-3, 8.0)
    slow = series_of(quick.times_s * 2, quick.levels_cm)
    assert fit_k(PLAIN, slow, 8.0).k_cm_s == pytest.approx(fit_k(PLAIN, quick, 8.0).k_cm_s / 2, rel=1e-6)


def test_profile_intervals_hold_what_a_bootstrap_finds():
    series = drained(PLAIN, 4e-3, 8.0, many=60, noise=0.08, seed=4)
    both = fit_both(PLAIN, series)
    curve = Curve(PLAIN, float(series.levels_cm.min()))
    told = curve.levels_at(series.times_s, both.fit.k_cm_s, both.fit.suction_cm)
    left = series.levels_cm - told
    dice = np.random.default_rng(8)
    found = []
    for _ in range(150):
        again = series_of(series.times_s, told + dice.choice(left, len(left)) * (series.times_s > 0))
        refit = fit_both(PLAIN, again)
        found.append((refit.fit.k_cm_s, refit.fit.suction_cm))
    for values, (low, high) in zip(zip(*found, strict=True), (both.k_interval, both.c_interval), strict=True):
        spread = np.quantile(values, 0.975) - np.quantile(values, 0.025)
        assert high - low == pytest.approx(spread, rel=0.3)
    assert both.correlation < -0.98


def test_an_early_leak_is_seen_and_a_sound_cylinder_is_not_accused():
    for seed in range(20):
        sound = drained(PLAIN, 3e-3, 11.0, many=50, noise=0.05, seed=seed)
        assert early_excess(PLAIN, sound) == pytest.approx(1.0, abs=0.11)
    leaking = drained(PLAIN, 3e-3, 11.0, many=50)
    lost = 9 * (1 - np.exp(-leaking.times_s / 90))
    keep = leaking.levels_cm - lost > 1
    assert early_excess(PLAIN, series_of(leaking.times_s[keep], (leaking.levels_cm - lost)[keep])) > 1.12


def test_a_place_of_many_cylinders_is_log_normal():
    site = Site([10.0, 40.0, 160.0])
    assert (site.geometric, site.arithmetic, site.least) == (pytest.approx(40.0), pytest.approx(70.0), 10.0)
    assert site.sd_ln == pytest.approx(math.log(4))
    assert site.factor == pytest.approx(math.exp(4.3027 * math.log(4) / math.sqrt(3)), rel=1e-4)


def outcome(record, school="by_texture"):
    return FALLING.outcome(record, FALLING.school(school))


def only(record, many):
    return record.model_copy(update={"cylinders": record.cylinders[:many], "cylinders_count": many})


def test_fewer_than_three_cylinders_stand_for_their_least_and_an_effective_mean_lies_between():
    made = FALLING.virtual(3, FALLING.school(), None).record
    alone = [outcome(made).value(f"c{n}_kfs_mm_h").value for n in (1, 2, 3)]
    assert outcome(only(made, 2)).value("kfs_mm_h").value == pytest.approx(min(alone[:2]))
    assert outcome(only(made, 1)).value("kfs_mm_h").value == pytest.approx(alone[0])
    effective = outcome(made, "effective").value("kfs_mm_h").value
    assert effective == pytest.approx(0.32 * sum(alone) / 3 + 0.68 * math.prod(alone) ** (1 / 3))


def test_cold_water_is_referred_to_twenty_degrees():
    made = FALLING.virtual(3, FALLING.school(), None).record
    cold = made.model_copy(
        update={"cylinders": tuple(c.model_copy(update={"temperature_c": 10.0}) for c in made.cylinders)}
    )
    found = outcome(cold)
    assert found.value("k20_mm_h").value == pytest.approx(1.305 * found.value("kfs_mm_h").value, rel=0.01)


def test_a_scale_of_ten_is_rounded_up_and_leaves_three_points_of_water_open():
    assert saturation(3.2, True) == 40.0
    made = FALLING.virtual(3, FALLING.school(), None).record
    facts = FALLING.facts(made, FALLING.school())
    assert facts.ones[0].gain.error == pytest.approx(0.03, abs=0.005)


def test_levels_count_from_the_soil_and_not_from_the_sensor():
    made = FALLING.virtual(3, FALLING.school(), None).record
    shifted = made.model_copy(
        update={
            "cylinders": tuple(
                c.model_copy(
                    update={
                        "zero_above_soil_mm": 25.0,
                        "readings": tuple(r.model_copy(update={"level_mm": r.level_mm - 25.0}) for r in c.readings),
                    }
                )
                for c in made.cylinders
            )
        }
    )
    assert outcome(shifted).value("kfs_mm_h").value == pytest.approx(outcome(made).value("kfs_mm_h").value, rel=1e-6)


def test_the_advice_sets_each_cylinder_reads_what_drains_and_asks_the_moisture_after():
    school = FALLING.school()
    given = {"texture": "loam", "moisture_by": "scale of 0 to 10", "cylinders_count": 2}
    bare = FALLING.Record.model_validate(given)
    asked = FALLING.judge(bare, school, NOON).advice
    assert asked.wants[0] == "cylinders[0].before_index"
    stands = {
        "infiltrometer": "M1",
        "cylinder_radius_mm": 50,
        "insertion_mm": 50,
        "zero_above_soil_mm": 0,
        "before_index": 3,
    }
    running = {**stands, "started_at": NOON, "readings": [{"level_mm": 400, "elapsed_s": 0}]}
    its = FALLING.Record.model_validate({**given, "cylinders": [running]})
    asked = FALLING.judge(its, school, NOON + timedelta(seconds=15)).advice
    assert asked.wants[0] == "cylinders[1].before_index"
    asked = FALLING.judge(its, school, NOON + timedelta(seconds=50)).advice
    assert asked.wants[0] == "cylinders[0].readings[1].level_mm"
    empty = {**running, "readings": [*running["readings"], {"level_mm": 2, "elapsed_s": 900}]}
    its = FALLING.Record.model_validate({**given, "cylinders": [empty]})
    asked = FALLING.judge(its, school, NOON + timedelta(minutes=16)).advice
    assert asked.wants[:2] == ("cylinders[0].after_index", "cylinders[0].temperature_c")
    assert "empty" in asked.headline


def test_a_slow_clay_may_stop_once_its_slope_is_known():
    school = FALLING.school()
    rows = [{"level_mm": 400 - 0.25 * i, "elapsed_s": 60.0 * i} for i in range(0, 260, 4)]
    standing = {"cylinder_radius_mm": 50, "insertion_mm": 50, "before_index": 3, "started_at": NOON, "readings": rows}
    its = FALLING.Record.model_validate({"texture": "clay", "moisture_by": "scale of 0 to 10", "cylinders": [standing]})
    assert FALLING.facts(its, school).ones[0].may_stop
