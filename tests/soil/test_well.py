"""A constant-head well: known soils come back, heads agree where they should, and what is said where they do not."""

import math
from datetime import UTC, datetime, timedelta

import pytest

from vadum.soil.methods.well_permeameter import well
from vadum.soil.register import METHODS
from vadum.soil.shared.steady import is_steady, last_of

WELL = METHODS["well_permeameter"]
NOON = datetime(2026, 5, 12, 12, tzinfo=UTC)
SANDY, CLAYEY = "structured or sandy loam", "unstructured fine soil"
AREA_CM2 = 35.4


def rate_mm_min(kfs_cm_s, head_cm, radius_cm, alpha):
    """The steady fall of a reservoir over a soil, by the one-head formula turned round."""
    shape = well.shape_factor(head_cm, radius_cm, alpha)
    whole = 2 * math.pi * head_cm**2 + math.pi * radius_cm**2 * shape + 2 * math.pi * head_cm / alpha
    return 600 * kfs_cm_s * whole / shape / AREA_CM2


def head(rate, head_mm, every_min=4.0, many=9, **more):
    rows = [{"elapsed_min": every_min * i, "level_mm": rate * every_min * i, "temperature_c": 20} for i in range(many)]
    return {"head_mm": head_mm, "reservoir_used": "both", "readings": rows, "steady": "taken as steady", **more}


def record(*heads, **more):
    own = {"ground": SANDY, "hole_radius_mm": 30, "both_area_cm2": AREA_CM2, "heads": heads, "enough": "two heads"}
    return WELL.Record.model_validate({**own, **more})


def outcome(its, school="band_10"):
    return WELL.outcome(its, WELL.school(school))


@pytest.mark.parametrize("kfs", [2e-5, 3e-4, 4e-3])
@pytest.mark.parametrize("ground", [SANDY, CLAYEY])
def test_two_heads_give_conductivity_and_alpha_of_the_soil_back(kfs, ground):
    alpha = well.CLASSES[ground]
    heads = [head(rate_mm_min(kfs, h, 3.0, alpha), 10 * h) for h in (5.0, 10.0)]
    found = outcome(record(*heads, ground=ground))
    assert found.value("kfs_mm_h").value == pytest.approx(36000 * kfs, rel=1e-6)
    assert found.value("alpha_per_cm").value == pytest.approx(alpha, rel=1e-6)
    assert found.value("h1_kfs_mm_h").value == pytest.approx(found.value("h2_kfs_mm_h").value, rel=1e-6)


def test_time_taken_half_as_fast_is_half_the_conductivity():
    rate = rate_mm_min(3e-4, 10.0, 3.0, 0.12)
    quick = outcome(record(head(rate, 100), enough="one head"))
    slow = outcome(record(head(rate / 2, 100, every_min=8.0), enough="one head"))
    assert slow.value("kfs_mm_h").value == pytest.approx(quick.value("kfs_mm_h").value / 2)


def test_heads_that_contradict_each_other_fall_back_to_their_mean_and_say_so():
    low, high = (rate_mm_min(k, h, 3.0, 0.12) for k, h in ((1e-4, 5.0), (6e-4, 10.0)))
    its = record(head(low, 50), head(high, 100))
    found = outcome(its)
    alone = [found.value(f"h{n}_kfs_mm_h").value for n in (1, 2)]
    assert found.value("kfs_mm_h").value == pytest.approx(sum(alone) / 2)
    assert "mean of single heads" in found.value("kfs_mm_h").name
    assert {v.rule: v.level for v in found.verdicts}["two heads agree"] == "watch"
    school = WELL.school("band_10").model_copy(update={"fall_back": "geometric"})
    assert WELL.outcome(its, school).value("kfs_mm_h").value == pytest.approx(math.sqrt(alone[0] * alone[1]))


def test_one_class_of_alpha_up_and_down_is_about_a_factor_of_two_either_way():
    found = outcome(record(head(rate_mm_min(3e-4, 10.0, 3.0, 0.12), 100), enough="one head"))
    low, high = (float(part) for part in found.value("kfs_range").reported.split(" to "))
    whole = found.value("kfs_mm_h").value
    assert 0.3 * whole < low < whole < high < 2.5 * whole


def test_cold_water_is_referred_to_twenty_degrees():
    cold = head(rate_mm_min(3e-4, 10.0, 3.0, 0.12), 100)
    cold["readings"] = [{**row, "temperature_c": 10} for row in cold["readings"]]
    found = outcome(record(cold, enough="one head"))
    assert found.value("k20_mm_h").value == pytest.approx(1.305 * found.value("kfs_mm_h").value, rel=0.01)


def test_the_design_takes_the_jobs_safety_before_the_tables():
    its = record(head(rate_mm_min(3e-4, 10.0, 3.0, 0.12), 100), enough="one head")
    whole = outcome(its).value("kfs_mm_h").value
    assert outcome(its).value("design_mm_h").value == pytest.approx(whole / 2.5)
    layered = its.model_copy(update={"layers_ratio": 12.0})
    assert outcome(layered).value("design_mm_h").value == pytest.approx(whole / 6.5)
    asked = layered.model_copy(update={"safety_ratio": 3.0})
    assert outcome(asked).value("design_mm_h").value == pytest.approx(whole / 3.0)
    by_relation = outcome(its, "design").value("design_mm_h").value
    assert by_relation == pytest.approx((3e-4 / 6e-11) ** (1 / 3.7363) / 2.5)


def test_a_level_that_is_read_downwards_is_the_same_fall():
    rate = rate_mm_min(3e-4, 10.0, 3.0, 0.12)
    up, down = head(rate, 100), head(rate, 100)
    down["readings"] = [{**row, "level_mm": 900 - row["level_mm"]} for row in down["readings"]]
    values = [outcome(record(h, enough="one head")).value("kfs_mm_h").value for h in (up, down)]
    assert values[0] == pytest.approx(values[1])


def test_a_rate_that_still_falls_is_not_steady_and_what_follows_is_provisional():
    falling = head(1.0, 100)
    falling["readings"] = [{"elapsed_min": 4.0 * i, "level_mm": 60 * math.sqrt(i)} for i in range(9)]
    found = outcome(record(falling, enough="one head"))
    assert {v.rule: v.level for v in found.verdicts}["fall is steady"] == "redo"
    assert found.value("kfs_mm_h").provisional


@pytest.mark.parametrize(("values", "steady"), [([8, 8.2, 7.9, 8.1, 8], True), ([8, 8.3, 8.6, 8.9, 9.2], False)])
def test_steady_is_a_band_about_the_mean_and_no_drift_through_it(values, steady):
    assert is_steady(last_of(values, 5), 5.0) is steady
    assert last_of(values[:4], 5) is None
    assert last_of([0.0] * 5, 5) is None


def test_the_advice_calls_the_level_and_then_offers_a_second_head():
    school = WELL.school("band_10")
    given = {"hole_radius_mm": 30, "wall": "brushed", "both_area_cm2": AREA_CM2, "plumb": "yes"}
    bare = WELL.Record.model_validate({"ground": SANDY, **given})
    assert WELL.judge(bare, school, NOON).advice.wants == ("heads[0].head_mm", "heads[0].reservoir_used")
    set_up = {"head_mm": 50, "reservoir_used": "both"}
    held = WELL.Record.model_validate({"ground": SANDY, **given, "heads": [{**set_up, "lifted_at": NOON}]})
    advice = WELL.judge(held, school, NOON + timedelta(seconds=2)).advice
    assert advice.wants[0] == "heads[0].readings[0].temperature_c"
    rate = rate_mm_min(3e-4, 5.0, 3.0, 0.12)
    steady = {k: v for k, v in head(rate, 50, every_min=2.0).items() if k != "steady"}
    done = WELL.Record.model_validate({"ground": SANDY, **given, "heads": [{**steady, "lifted_at": NOON}]})
    advice = WELL.judge(done, school, NOON + timedelta(minutes=20)).advice
    assert "second, higher head may begin" in advice.headline
    assert advice.wants == ("enough", "heads[1].head_mm")
    ended = done.model_copy(update={"enough": "one head"})
    assert WELL.facts(ended, school).hand is None
