"""The advice and the properties of the liquid limit."""

import math
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vadum.soil.methods.liquid_limit import METHOD
from vadum.soil.methods.liquid_limit.dish import followed
from vadum.soil.methods.liquid_limit.points import bands_filled
from vadum.soil.methods.liquid_limit.record import Record
from vadum.soil.methods.liquid_limit.school import SCHOOLS

NOW = datetime(2026, 5, 12, 10, 21, tzinfo=UTC)
FOUR = SCHOOLS["four_bands"]
START = {"device": "cup 1", "dry_soil_g": 100.0, "seasoned_from_at": NOW - timedelta(hours=1)}


def advice(trials, school=FOUR, **more):
    record = Record.model_validate({**START, "trials": trials, **more})
    return METHOD.judge(record, school, NOW).advice


def tinned(blows, **more):
    return {"blows": blows, "tin": "1", "mass_tin_g": 20.0, "mass_wet_g": 35.0, **more}


def test_a_dry_closure_is_told_how_much_water_to_add():
    one_point = SCHOOLS["one_point_verified"]
    told = advice([{"water_added_ml": 35, "verification_blows": 39, "blows": 39}], one_point)
    assert told.amount == "1.9 mL"
    assert "too dry" in told.headline
    assert told.wants[0] == "trials[1].water_added_ml"


def test_a_wet_closure_is_told_the_dish_mass_to_stir_down_to():
    told = advice([{"water_added_ml": 46, "mass_dish_g": 233.0, "blows": 13}])
    lost = 46 * (1 - (13 / math.sqrt(15 * 20)) ** 0.121)
    assert told.amount == f"{233.0 - lost:.1f} g"
    assert told.amount_note.startswith("now 233.0")
    assert "Never dry soil" in told.detail
    assert told.wants[0] == "trials[1].mass_dish_g"


def test_without_the_soils_mass_only_the_share_is_told():
    told = advice([{"water_added_ml": 46, "blows": 45}], dry_soil_g=None)
    assert told.amount == ""
    assert "%" in told.detail


def test_much_water_is_added_in_steps_of_three_millilitres():
    told = advice([{"water_added_ml": 40, "blows": 120}])
    assert told.amount == "3.0 mL"
    assert "in all" in told.detail


def test_a_kept_closure_asks_for_its_tin_before_anything_else():
    assert advice([{"water_added_ml": 40, "blows": 28}]).wants == (
        "trials[0].tin",
        "trials[0].mass_tin_g",
        "trials[0].mass_wet_g",
    )


def test_seasoning_waits_and_then_asks_for_the_first_trial():
    record = Record.model_validate({**START, "trials": [{"water_added_ml": 40}], "seasoned_from_at": NOW})
    waiting = METHOD.judge(record, FOUR, NOW).advice
    assert waiting.due[0].at == NOW + timedelta(minutes=30)
    assert "Seasoning until 10:51" in waiting.headline
    later = METHOD.judge(record, FOUR, NOW + timedelta(hours=1)).advice
    assert later.headline.startswith("Seasoned")


def test_the_oven_is_opened_after_sixteen_hours_and_not_before():
    trials = [tinned(n, water_added_ml=2) for n in (17, 22, 27, 32)]
    told = advice(trials, in_oven_at=NOW - timedelta(hours=10))
    assert told.due[0].at == NOW + timedelta(hours=6)
    assert told.wants == tuple(f"trials[{i}].mass_dry_g" for i in range(4))
    assert "is dry" in advice(trials, in_oven_at=NOW - timedelta(hours=17)).headline


def test_a_soil_without_a_limit_is_said_early():
    told = advice([], cannot_be_found="yes")
    assert told.finished
    assert "nonplastic" in told.headline


def test_estimates_stand_until_the_tins_are_dry_and_are_never_reported():
    trials = [tinned(n, water_added_ml=w) for n, w in ((32, 40), (27, 0.8), (22, 0.8), (17, 1.0))]
    outcome = METHOD.outcome(Record.model_validate({**START, "trials": trials}), FOUR)
    limit = outcome.value("liquid_limit_percent")
    assert limit.estimate
    assert limit.reported.startswith("about")
    assert not limit.reportable
    assert {p["state"] for p in outcome.series["points"]} == {"about"}


def test_a_point_off_the_line_is_seen_by_water_added_alone():
    trials = [tinned(n, water_added_ml=w) for n, w in ((32, 40), (27, 3.0), (22, 0.8), (17, 1.0))]
    outcome = METHOD.outcome(Record.model_validate({**START, "trials": trials}), FOUR)
    verdict = next(v for v in outcome.verdicts if v.rule == "points lie on the line")
    assert verdict.level == "watch"
    assert "by water added" in verdict.found
    assert verdict.at in (("trials",), ("trials[0]",)), "no good trial is blamed"


def test_the_dish_is_followed_through_water_slices_and_stirring():
    record = Record.model_validate(
        {
            "dry_soil_g": 112.0,
            "air_dry_water_percent": 12.0,
            "trials": [
                {"water_added_ml": 33.0, "mass_dish_g": 250.0, **tinned(20)},
                {"mass_dish_g": 233.5, "blows": 30},
            ],
        }
    )
    estimates, dish = followed(record)
    assert estimates[0] == pytest.approx(45.0)
    dry, water = 100 - 15 / 1.45, 45 - 15 * 0.45 / 1.45 - 1.5
    assert estimates[1] == pytest.approx(100 * water / dry)
    assert dish.reading_g == 233.5


def test_one_trial_never_fills_two_bands():
    assert bands_filled([25.0], FOUR.bands).count(None) == 3
    assert bands_filled([20.0, 25.0, 30.0, 30.0], FOUR.bands).count(None) == 0


@given(
    limit=st.floats(25, 90),
    slope=st.floats(3, 20),
    blows=st.lists(st.integers(15, 35), min_size=3, max_size=8, unique=True).filter(lambda n: min(n) < 25 < max(n)),
    seed=st.randoms(use_true_random=False),
)
def test_data_made_from_a_known_line_give_it_back_in_any_order(limit, slope, blows, seed):
    trials = []
    for n in blows:
        w = limit - slope * math.log10(n / 25)
        trials.append({"blows": n, "mass_tin_g": 20.0, "mass_dry_g": 30.0, "mass_wet_g": 30.0 + w / 10})
    seed.shuffle(trials)
    outcome = METHOD.outcome(Record.model_validate({"trials": trials}), SCHOOLS["three_bands"])
    assert outcome.value("liquid_limit_percent").value == pytest.approx(limit, abs=1e-6)
    assert outcome.value("flow_index").value == pytest.approx(slope, abs=1e-5)
