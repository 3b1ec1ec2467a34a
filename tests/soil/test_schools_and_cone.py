"""Schools that differ: cone and cup, one point and line, oven and microwave; what each asks and gives."""

import contextlib
import math
from datetime import UTC, datetime, timedelta

import pytest
from pydantic import ValidationError

from vadum.soil.contract.school import settings_of
from vadum.soil.methods.liquid_limit import METHOD as LIQUID
from vadum.soil.methods.liquid_limit.advice import nearest_band
from vadum.soil.methods.liquid_limit.points import missing_bands
from vadum.soil.methods.liquid_limit.record import Record
from vadum.soil.methods.liquid_limit.school import PRINTED_FACTORS, SCHOOLS
from vadum.soil.methods.plastic_limit import METHOD as PLASTIC
from vadum.soil.methods.water_content import METHOD as WATER
from vadum.soil.register import METHODS
from vadum.soil.school_check import far_off
from vadum.soil.shared.device_check import CupInspection, inspect_cup

NOW = datetime(2026, 5, 12, 10, 21, tzinfo=UTC)


def cone(depths_and_w, school="cone_80g"):
    trials = [
        {"penetration_mm": d, "mass_tin_g": 20.0, "mass_dry_g": 30.0, "mass_wet_g": 30.0 + w / 10}
        for d, w in depths_and_w
    ]
    return LIQUID.outcome(Record.model_validate({"trials": trials}), SCHOOLS[school])


def test_a_straight_cone_line_is_read_at_twenty_millimetres():
    outcome = cone([(d, 40 + 1.2 * (d - 20)) for d in (15.5, 18, 22, 24.5)])
    assert outcome.value("liquid_limit_percent").value == pytest.approx(40.0, abs=1e-9)
    assert outcome.value("flow_index") is None


def test_a_log_log_cone_line_is_read_at_twenty_millimetres():
    outcome = cone([(d, 52 * (d / 20) ** 0.3) for d in (15.5, 18, 22, 24.5)], "cone_80g_log")
    assert outcome.value("liquid_limit_percent").value == pytest.approx(52.0, abs=1e-9)
    assert outcome.value("liquid_limit_percent").uncertainty == pytest.approx(0.7), (
        "no better than one operator repeats"
    )


def test_the_light_cone_is_read_at_ten_millimetres():
    outcome = cone([(d, 60 + 2 * (d - 10)) for d in (7.5, 9.5, 11.5, 14)], "cone_60g")
    assert outcome.value("liquid_limit_percent").value == pytest.approx(60.0, abs=1e-9)


def test_three_cone_points_are_too_few_and_four_anywhere_in_the_range_do():
    assert cone([(d, 40 + d) for d in (16, 18, 22)]).value("liquid_limit_percent").provisional
    assert not cone([(d, 40 + d) for d in (16, 18, 19, 23)]).value("liquid_limit_percent").provisional


def test_a_cone_that_sinks_too_little_wants_water():
    record = Record.model_validate(
        {
            "device": "cone",
            "dry_soil_g": 100,
            "seasoned_from_at": NOW - timedelta(days=2),
            "trials": [{"water_added_ml": 40, "penetration_mm": 12.0}],
        }
    )
    told = LIQUID.judge(record, SCHOOLS["cone_80g"], NOW).advice
    assert "too dry for 15–17.5" in told.headline
    assert told.amount.endswith("mL")
    assert told.wants[-1] == "trials[1].penetration_mm"


@pytest.mark.parametrize(("drops", "factor"), PRINTED_FACTORS.items())
def test_the_printed_factors_are_the_formula_to_three_decimals(drops, factor):
    assert factor == pytest.approx((drops / 25) ** 0.121, abs=0.0006)


def one_point(school, *trials):
    rows = [
        {"blows": n, "verification_blows": v, "mass_tin_g": 20.0, "mass_dry_g": 30.0, "mass_wet_g": 30.0 + w / 10}
        for n, v, w in trials
    ]
    return LIQUID.outcome(Record.model_validate({"trials": rows}), SCHOOLS[school])


def test_two_one_point_trials_must_agree_within_a_point():
    good = one_point("one_point", (22, None, 41.0), (28, None, 40.2))
    limits = [41.0 * (22 / 25) ** 0.121, 40.2 * (28 / 25) ** 0.121]
    assert good.value("liquid_limit_percent").value == pytest.approx(sum(limits) / 2)
    assert good.value("spread_percent").value == pytest.approx(limits[1] - limits[0])
    bad = one_point("one_point", (22, None, 41.0), (28, None, 43.0))
    assert bad.value("liquid_limit_percent").provisional
    assert any(v.rule == "trials agree" and v.level == "redo" for v in bad.verdicts)


def test_an_unverified_closure_is_kept_and_not_used():
    outcome = one_point("one_point_verified", (22, 25, 41.0))
    assert outcome.value("liquid_limit_percent") is None
    assert any(v.rule == "second closure verifies the first" and v.level == "watch" for v in outcome.verdicts)


def test_verification_is_asked_for_before_the_tin():
    start = {"device": "cup", "dry_soil_g": 100, "seasoned_from_at": NOW - timedelta(hours=1)}
    school = SCHOOLS["one_point_verified"]

    def wants(trial):
        record = Record.model_validate({**start, "trials": [{"water_added_ml": 40, "mass_dish_g": 200, **trial}]})
        return LIQUID.judge(record, school, NOW).advice.wants

    assert wants({}) == ("trials[0].verification_blows",)
    assert wants({"verification_blows": 24}) == ("trials[0].blows",)
    assert wants({"verification_blows": 24, "blows": 25})[0] == "trials[0].tin"


def test_the_nearest_open_band_is_next_and_of_two_as_near_the_wetter():
    bands = [(15, 20), (30, 35)]
    assert nearest_band(21, bands) == (15, 20)
    assert nearest_band(29, bands) == (30, 35)
    middle = math.sqrt(math.sqrt(15 * 20) * math.sqrt(30 * 35))
    assert nearest_band(middle, bands) == (15, 20)


def test_a_left_out_trial_opens_its_band_again():
    trials = [{"blows": n} for n in (17, 22, 27, 32)]
    four = SCHOOLS["four_bands"]
    assert missing_bands(Record.model_validate({"trials": trials}), four) == []
    trials[3]["excluded_because"] = "torn"
    assert missing_bands(Record.model_validate({"trials": trials}), four) == [(30, 35)]


def test_a_lapsed_device_is_asked_about_before_anything_else():
    record = Record.model_validate({"device": "cup 2", "device_due_on": "2026-04-01", "tested_on": "2026-05-12"})
    told = LIQUID.judge(record, SCHOOLS["four_bands"], NOW).advice
    assert told.wants == ("device_reason",)
    assert "lapsed on 01 Apr 2026" in told.headline
    told = LIQUID.judge(
        record.model_copy(update={"device_reason": "the other is away"}), SCHOOLS["four_bands"], NOW
    ).advice
    assert "dry_soil_g" in told.wants


def test_schools_of_the_oven_differ_in_time_heat_and_second_weighing():
    tin = {"tin": "8", "mass_tin_g": 20.0, "mass_wet_g": 70.0, "in_oven_at": NOW}
    waits = {}
    for name, school in WATER.schools.items():
        due = WATER.judge(WATER.Record.model_validate(tin), school, NOW).advice.due[0].at
        waits[name] = (due - NOW) / timedelta(minutes=1)
    assert waits["oven_110"] == 16 * 60
    assert waits["oven_105_day"] == 18 * 60
    assert waits["oven_100_half_day"] == 12 * 60
    assert waits["microwave"] == 3


def test_the_second_spell_in_the_heat_is_counted_from_the_last_weighing():
    row = {"mass_dry_g": 60.0, "weighed_at": NOW}
    record = WATER.Record.model_validate(
        {
            "tin": "8",
            "mass_tin_g": 20.0,
            "mass_wet_g": 70.0,
            "in_oven_at": NOW - timedelta(hours=17),
            "weighings": [row],
        }
    )
    due = WATER.judge(record, WATER.school("oven_105"), NOW).advice.due[0]
    assert due.at == NOW + timedelta(hours=1)
    assert due.path == "weighings[1].mass_dry_g"


def test_a_growing_dry_mass_is_not_constant():
    rows = [{"mass_dry_g": m, "weighed_at": NOW + timedelta(hours=i)} for i, m in enumerate((60.0, 60.4))]
    record = WATER.Record.model_validate(
        {"mass_tin_g": 20.0, "mass_wet_g": 70.0, "in_oven_at": NOW - timedelta(hours=17), "weighings": rows}
    )
    outcome = WATER.outcome(record, WATER.school())
    assert any(v.rule == "dry mass does not grow" and v.level == "redo" for v in outcome.verdicts)


def test_a_field_school_asks_for_five_hundred_grams_always():
    record = WATER.Record.model_validate({"mass_tin_g": 20.0, "mass_wet_g": 400.0})
    verdict = WATER.outcome(record, WATER.school("oven_110_500g")).verdicts[0]
    assert (verdict.level, verdict.limit) == ("watch", "500 g or more")


def test_a_particle_beyond_the_table_is_said():
    record = WATER.Record.model_validate({"mass_tin_g": 20.0, "mass_wet_g": 4000.0, "largest_particle_mm": 100})
    assert any("ends at 75 mm" in v.limit for v in WATER.outcome(record, WATER.school()).verdicts)


def test_weighed_before_the_oven_is_impossible():
    row = {"mass_dry_g": 60.0, "weighed_at": NOW - timedelta(hours=1)}
    record = WATER.Record.model_validate(
        {"mass_tin_g": 20.0, "mass_wet_g": 70.0, "in_oven_at": NOW, "weighings": [row]}
    )
    outcome = WATER.outcome(record, WATER.school())
    assert outcome.worst() == "stop"
    assert outcome.value("water_content_percent").withheld
    assert outcome.value("water_content_percent").value is None


@pytest.mark.parametrize(
    ("school", "reported"),
    [("astm", "25"), ("iso", "24")],
)
def test_the_index_is_rounded_by_the_schools_rule(school, reported):
    rows = [
        {"mass_tin_g": 23.03, "mass_wet_g": 31.96, "mass_dry_g": 30.34},
        {"mass_tin_g": 18.73, "mass_wet_g": 28.88, "mass_dry_g": 27.01},
    ]
    record = PLASTIC.Record.model_validate({"liquid_limit_percent": 46.8, "determinations": rows})
    outcome = PLASTIC.outcome(record, PLASTIC.school(school))
    index = outcome.value("plasticity_index_percent")
    assert index.reported == reported
    assert outcome.series["point"][0]["label"] == f"LL 47, PI {reported}", "the chart says what the sheet says"
    assert index.value == pytest.approx(24.42702, abs=0.001)


def test_the_plastic_limit_goes_through_threads_oven_and_scale():
    school = PLASTIC.school()

    def told(**record):
        return PLASTIC.judge(PLASTIC.Record.model_validate(record), school, NOW).advice

    one = {"tin": "3", "mass_tin_g": 20.0, "mass_wet_g": 28.0}
    other = {**one, "tin": "4"}
    assert told().wants[0] == "determinations[0].tin"
    assert told(determinations=[one]).wants[0] == "determinations[1].tin"
    assert told(determinations=[one, other]).wants == ("in_oven_at",)
    waiting = told(determinations=[one, other], in_oven_at=NOW)
    assert "in the oven until tomorrow 02:21" in waiting.headline
    dry = {**one, "mass_dry_g": 26.5}
    done = told(determinations=[dry, {**dry, "tin": "4"}], in_oven_at=NOW - timedelta(days=1))
    assert done.finished
    assert "waits for the liquid limit" in done.headline


def test_without_a_liquid_limit_the_soil_is_nonplastic_and_said_so():
    record = PLASTIC.Record(liquid_limit_unobtainable="yes")
    outcome = PLASTIC.judge(record, PLASTIC.school(), NOW)
    assert [v.reported for v in outcome.values] == ["NP"]
    assert outcome.advice.finished


GOOD_CUP = {
    "drop_mm": "10,0",
    "contact_spot_mm": 8,
    "cup_thickness_percent": 80,
    "groove_felt": "no",
    "feet_count": 4,
    "tool_tip_mm": 2.0,
    "tool_depth_mm": 10.0,
    "tape_removed": "yes",
}


@pytest.mark.parametrize(
    ("field", "value", "rule"),
    [
        ("drop_mm", 10.21, "drop height"),
        ("drop_mm", 9.79, "drop height"),
        ("contact_spot_mm", 13.1, "contact spot"),
        ("cup_thickness_percent", 49, "cup wall"),
        ("groove_felt", "yes", "no groove in the cup"),
        ("feet_count", 3, "four feet"),
        ("tool_tip_mm", 2.2, "tool tip"),
        ("tool_depth_mm", 9.4, "tool depth"),
        ("tape_removed", "no", "tape removed"),
    ],
)
def test_each_rule_of_the_device_check_is_tripped_by_its_own_fault(field, value, rule):
    assert all(v.level == "fine" for v in inspect_cup(CupInspection.model_validate(GOOD_CUP)))
    seen = CupInspection.model_validate({**GOOD_CUP, field: value})
    failed = [v for v in inspect_cup(seen) if v.level != "fine"]
    assert [v.rule for v in failed] == [rule]
    assert failed[0].remedy


def stretched(school):
    """A school with each of its numbers in turn sixty times as great and as small: minutes taken for hours."""
    for name, _ in settings_of(type(school)):
        usual = getattr(school, name)
        if usual and isinstance(usual, int | float) and not isinstance(usual, bool):
            for by in (60, 1 / 60):
                with contextlib.suppress(ValidationError):
                    yield type(school).model_validate({**school.model_dump(), name: type(usual)(usual * by)})


@pytest.mark.parametrize("its", METHODS.values(), ids=METHODS)
def test_a_trial_ends_whatever_number_a_school_sets(its):
    """A loop that waits for what a setting never lets come would not end here."""
    for school in stretched(its.school()):
        if not far_off(its, school):
            with contextlib.suppress(Exception):  # a fault of its numbers, and said as one
                its.judge(its.virtual(1, school, None).record, school, NOW)


@pytest.mark.parametrize("its", METHODS.values(), ids=METHODS)
def test_no_shipped_school_is_far_off_and_a_mistaken_unit_is(its):
    assert [far_off(its, school) for school in its.schools.shipped.values()] == [{}] * len(its.schools.shipped)
    school = its.school()
    for name, field in settings_of(type(school)):
        if field.annotation is float:
            made = type(school).model_construct(**{**school.model_dump(), name: 1e9})
            assert list(far_off(its, made)) == [name]


# What is measured by, and is no limit: nought of it is a slip of the hand, and would divide or wait for ever.
@pytest.mark.parametrize(
    ("method", "setting"),
    [
        ("cbr", "rate_mm_min"),
        ("cbr", "soak_h"),
        ("liquid_limit", "oven_min"),
        ("sieve", "sieve_diameter_mm"),
        ("ring_density", "stone_density_mg_m3"),
        ("triaxial", "membrane_modulus_kpa"),
        ("field_vane", "vane_shape_ratio"),
    ],
)
def test_nought_is_no_rate_no_density_no_size(method, setting):
    its = METHODS[method]
    school = its.school()
    made = type(school).model_construct(**{**school.model_dump(), setting: 0})
    assert far_off(its, made) == {setting: "cannot be 0"}


def test_nought_may_be_a_limit():
    its = METHODS["cbr"]
    made = type(its.school()).model_construct(**{**its.school().model_dump(), "most_missed": 0})
    assert far_off(its, made) == {}
