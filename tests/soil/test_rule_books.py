"""What the rule books ask of a number or a judgement, each with a record that shows it and a figure worked by hand."""

import json
import math
from pathlib import Path

import pytest

from vadum.soil.contract.outcome import LEVELS
from vadum.soil.register import METHODS
from vadum.soil.soil_card.card import card
from vadum.soil.soil_card.evidence import Told

RECORDS = json.loads((Path(__file__).parents[1] / "examples/rule_books/records.json").read_text("utf-8"))


def reduced(name, **changed):
    case = RECORDS[name]
    method = METHODS[case["method"]]
    school = method.school(case["school"])
    return method.outcome(method.Record.model_validate({**case["record"], **changed}), school)


def carded(name):
    told = []
    for i, case in enumerate(RECORDS[name]):
        method = METHODS[case["method"]]
        school = method.school(case["school"])
        record = method.Record.model_validate(case["record"])
        told.append(Told(f"R{i}", method.outcome(record, school), school, record))
    return card(told)


def classed(name):
    return {c.system: c for c in carded(name).classes}


def reported(outcome, key):
    return outcome.value(key).reported


def verdict(outcome, rule):
    """The gravest verdict of that rule."""
    found = [v for v in outcome.verdicts if v.rule == rule]
    assert found, f"no verdict {rule!r} among {[v.rule for v in outcome.verdicts]}"
    return min(found, key=lambda v: LEVELS.index(v.level))


def missing(outcome):
    return " ".join(f"{m.name} waits for {m.waits_for}" for m in outcome.missing)


def test_a_limit_of_49_7_is_50_for_its_class_and_is_not_clear_of_the_boundary():
    found = classed("limit_at_50")["USCS"]
    assert (found.symbol, found.name) == ("CH", "fat clay")
    assert any(f.figure == "liquid limit" and f.becomes == "CL" for f in found.flips)


@pytest.mark.parametrize(
    ("name", "system", "symbol"),
    [
        ("index_of_whole_limits", "AASHTO", "A-4(5)"),
        ("silty_clay_by_whole_limits", "USCS", "CL-ML"),
        ("half_fines", "USCS", "CL"),
        ("a_third_cobbles", "USCS", "CL"),
        ("a_third_cobbles", "AASHTO", "A-6(9)"),
        ("a_tenth_cobbles", "AASHTO", "A-6(3)"),
    ],
)
def test_classes_are_decided_on_reported_figures_of_the_part_below_75_mm(name, system, symbol):
    assert classed(name)[system].symbol == symbol


def test_cobbles_stay_in_the_name():
    found = classed("a_third_cobbles")["USCS"]
    assert found.name == "sandy lean clay with gravel and cobbles"
    assert "30 %" in " ".join(found.notes)


def test_a_sand_without_a_finer_sieve_gets_its_class_with_the_curve_carried_on():
    found = classed("sand_with_eleven_fines")["USCS"]
    assert found.symbol.startswith("S")
    assert "#" in " ".join(found.notes)


def test_fragments_are_named_by_volume():
    found = classed("stony_loam")["USDA"]
    assert found.name == "gravelly loam"
    assert "33 % by volume" in " ".join(found.notes)


@pytest.mark.parametrize(("name", "symbol"), [("organic_clay", "OL"), ("peat", "PT")])
def test_organic_soil_and_peat_can_be_reached(name, symbol):
    assert classed(name)["USCS"].symbol == symbol


def test_the_card_never_mixes_an_index_of_another_liquid_limit():
    found = carded("two_liquid_limits")
    facts = {f.key: f for f in found.consistency}
    assert facts["plasticity_index_percent"].reported == "30"
    assert facts["plasticity_index_percent"].code == "R0 − R1"


def test_whole_limits_that_are_equal_are_nonplastic_without_indices():
    for name in ("equal_whole_limits", "equal_whole_limits_with_water"):
        outcome = reduced(name)
        assert reported(outcome, "plasticity_index_percent") == "NP"
        assert not {v.key for v in outcome.values} & {"liquidity_index", "consistency_index", "activity"}


def test_a_liquidity_index_beyond_sense_is_remarked_on_in_the_run_itself():
    outcome = reduced("equal_whole_limits_with_water", liquid_limit_percent=40, natural_water_content_percent=60)
    assert verdict(outcome, "liquidity index is that of soil in place").level == "watch"


def test_stones_are_taken_out_of_the_water_that_a_liquidity_index_is_formed_with():
    given = {"liquid_limit_percent": 44, "natural_water_content_percent": 12}
    outcome = reduced("equal_whole_limits_with_water", **given, finer_than_425um_percent=40)
    assert outcome.value("fine_water_content_percent").value == pytest.approx(30)
    assert reported(outcome, "liquidity_index") == "0.30"


def test_aashto_calls_gravel_what_stays_on_2_mm_and_has_no_medium_sand():
    outcome = reduced("aashto_gravel")
    found = {k: reported(outcome, f"{k}_percent") for k in ("gravel", "coarse_sand", "fine_sand", "fines")}
    assert found == {"gravel": "30", "coarse_sand": "30", "fine_sand": "19", "fines": "21"}
    assert outcome.value("medium_sand_percent") is None


def test_a_fine_sieve_is_overloaded_by_the_schools_own_table_and_an_assumed_diameter_only_warns():
    seen = {(v.level, v.limit) for v in reduced("overloaded").verdicts if v.rule == "sieve not overloaded"}
    assert ("watch", "25 g on 200 mm (#)") in seen
    assert "redo" not in {level for level, _ in seen}
    rows = [{**r, "sieve_diameter_mm": 200} for r in RECORDS["overloaded"]["record"]["sieves"]]
    assert verdict(reduced("overloaded", sieves=rows), "sieve not overloaded").level == "redo"
    rows[-1]["in_portions"] = rows[1]["in_portions"] = rows[2]["in_portions"] = "yes"
    assert verdict(reduced("overloaded", sieves=rows), "sieve not overloaded").level == "fine"
    assert verdict(reduced("sieve_diameter_assumed"), "sieve not overloaded").level == "watch"


@pytest.mark.parametrize(
    ("school", "grain", "least_g"),
    [("astm_soil", 50, 25000), ("astm_aggregate", 50, 20000), ("astm_aggregate", 63, 35000), ("bs_soil", 3.35, 150)],
)
def test_least_mass_by_largest_grain_is_each_schools_own(school, grain, least_g):
    method = METHODS["sieve"]
    its = method.school(school)
    for mass, level in ((least_g, "fine"), (0.99 * least_g, "watch")):
        record = method.Record.model_validate({"largest_particle_mm": grain, "mass_total_g": mass})
        assert verdict(method.outcome(record, its), "soil enough for its largest grain").level == level


def test_the_coarse_part_of_a_split_weighs_what_it_weighs():
    parts = {row["part"]: row["dry_g"] for row in reduced("split_parts").series["parts"]}
    assert parts == {"the coarse part": 1000, "the finer part": 400}


def test_soil_said_to_be_moist_waits_for_its_water():
    outcome = reduced("aashto_gravel", weighed_as="moist")
    assert outcome.value("fines_percent") is None
    assert "water content" in missing(outcome)
    assert verdict(reduced("aashto_gravel"), "dry or moist is said").level == "watch"


def test_a_gap_in_the_grading_is_named_with_its_sizes():
    sieves = [(20, 0), (10, 200), (4.75, 100), (2, 10), (0.6, 10), (0.15, 380), (0.075, 200)]
    rows = [{"aperture_mm": a, "mass_retained_g": m} for a, m in sieves]
    outcome = reduced("aashto_gravel", sieves=rows, mass_total_g=1000, mass_washed_g=900, mass_pan_g=0)
    assert reported(outcome, "gap") == "2 % between 0.6 and 4.75 mm"
    assert reduced("aashto_gravel").value("gap") is None


def test_a_share_that_is_not_known_is_no_hundred_per_cent():
    outcome = reduced("share_not_known")
    assert outcome.value("finer_than_2um_percent").name == "finer than 2 µm of the specimen below 2 mm"
    assert "percent of the whole soil waits for the share" in missing(outcome)
    known_share = reduced("share_not_known", passing_percent=55)
    assert known_share.value("finer_than_2um_percent").name == "finer than 2 µm"
    of_both = [o.value("finer_than_2um_percent").value for o in (known_share, outcome)]
    assert of_both[0] == pytest.approx(0.55 * of_both[1])


def test_thirty_grams_of_clay_are_what_the_school_asks_for():
    assert verdict(reduced("thirty_grams_of_clay"), "soil in the cylinder").level == "fine"
    assert 120 not in METHODS["hydrometer"].school("d7928").schedule_min


def test_the_depth_counts_from_the_surface_in_the_schools_that_say_so():
    def size(school, **more):
        method = METHODS["hydrometer"]
        record = method.Record.model_validate({**RECORDS["share_not_known"]["record"], **more})
        return method.outcome(record, method.school(school)).series["readings"][-1]["size_mm"]

    for school in ("d7928", "iso"):
        assert 0.990 < size(school, meniscus_g_l=1.0) / size(school) < 0.998
    for school in ("d422", "aashto"):
        assert size(school, meniscus_g_l=1.0) == size(school)


def test_a_water_content_is_reported_to_the_step_that_its_mass_allows():
    outcome = reduced("mass_for_whole_percent", oven_temperature_c=110)
    assert reported(outcome, "water_content_percent") == "23"
    assert verdict(outcome, "specimen large enough for its largest grain").level == "fine"
    finer = verdict(
        reduced("mass_for_whole_percent", report_to_percent=0.1), "specimen large enough for its largest grain"
    )
    assert (finer.level, finer.limit) == ("watch", "100 g or more, reporting to 0.1 % (20 g to 1 %)")


def test_an_oven_beyond_its_band_is_no_remark():
    assert verdict(reduced("mass_for_whole_percent"), "oven temperature within its band").level == "redo"


@pytest.mark.parametrize(
    ("school", "grain", "least_g"),
    [("oven_t265", 25, 500), ("oven_t265", 0.425, 10), ("microwave", 2, 100), ("oven_bs", 20, 300)],
)
def test_each_school_of_drying_has_its_own_masses(school, grain, least_g):
    method = METHODS["water_content"]
    its = method.school(school)
    for mass, level in ((least_g, "fine"), (0.99 * least_g, "watch")):
        record = {"mass_tin_g": 20, "mass_wet_g": 20 + mass, "largest_particle_mm": grain}
        outcome = method.outcome(method.Record.model_validate(record), its)
        assert verdict(outcome, "specimen large enough for its largest grain").level == level


def test_two_weighings_minutes_apart_are_no_constant_mass():
    base = RECORDS["mass_for_whole_percent"]["record"] | {"oven_temperature_c": 110}
    second = [*base["weighings"], {"mass_dry_g": 41.2, "weighed_at": "2026-05-13T09:05"}]
    assert verdict(reduced("mass_for_whole_percent", weighings=second), "dry mass constant").level == "redo"


@pytest.mark.parametrize("name", ["cup_line_rising", "cone_line_falling"])
def test_a_flow_line_of_the_wrong_slope_is_no_liquid_limit(name):
    outcome = reduced(name)
    assert verdict(outcome, "the line runs as physics has it").level == "stop"
    assert outcome.value("liquid_limit_percent").withheld


def test_points_that_span_nothing_are_no_line():
    seen = verdict(reduced("cone_points_together"), "the points span the range")
    assert seen.level == "redo"
    assert "near" in seen.remedy


def fitted(**changes):
    """Four good points of a cup, with some of them changed."""
    rows = [{"blows": n, "mass_tin_g": 20.0, "mass_dry_g": 30.0} for n in (17, 22, 28, 33)]
    for row in rows:
        row["mass_wet_g"] = round(30 + 10 * (0.45 - 0.11 * math.log10(row["blows"] / 25)), 3)
    for name, change in changes.items():
        rows[int(name[1:])].update(change)
    method = METHODS["liquid_limit"]
    return method.outcome(method.Record.model_validate({"trials": rows}), method.school("four_bands"))


def test_exchanged_tins_are_named_both():
    good = fitted()
    assert verdict(good, "points lie on the line").level == "fine"
    wet = [30 + 10 * (0.45 - 0.11 * math.log10(n / 25)) for n in (17, 33)]
    seen = verdict(fitted(t0={"mass_wet_g": wet[1]}, t3={"mass_wet_g": wet[0]}), "points lie on the line")
    assert "trials 1 and 4" in seen.found


def test_one_point_off_is_blamed_by_the_line_of_the_others_and_no_good_one():
    for row in range(4):
        wet = 30 + 10 * (0.49 - 0.11 * math.log10((17, 22, 28, 33)[row] / 25))
        seen = verdict(fitted(**{f"t{row}": {"mass_wet_g": wet}}), "points lie on the line")
        assert seen.at == (f"trials[{row}]",), seen
        assert "the line of the others" in seen.found


def test_a_limit_typed_with_its_point_in_the_wrong_place_is_not_nonplastic():
    outcome = reduced("equal_whole_limits", liquid_limit_percent=4.45)
    assert outcome.value("plasticity_index_percent") is None
    assert verdict(outcome, "a liquid limit that belongs to this plastic limit").level == "stop"


def test_the_rule_books_of_the_mould_are_not_lent_to_each_other():
    outcome = reduced("soaked_mould")
    assert verdict(outcome, "seating load of the ratio's class").level == "redo"
    ten = verdict(reduced("soaked_mould", top_seating_n=10), "seating load of the ratio's class")
    assert (ten.level, ten.limit) == ("fine", "the least, at most 44 N")
    assert verdict(outcome, "surcharge enough").level == "watch"
    assert reported(outcome, "surcharge_kpa") == "1.1"
    soaked = verdict(reduced("soaked_mould", specimen_height_mm=116.4), "soaked for its days")
    assert soaked.level == "watch"
    assert "91.5 h" in soaked.found
    assert reported(outcome, "swell_percent") == "1.0"
    assert verdict(outcome, "height that swell is told of measured").level == "watch"


def test_which_ratio_governs_falls_with_the_ratios():
    below = reduced("dial_below_zero")
    assert verdict(below, "ring within its calibration").level == "watch"
    assert not [v for v in below.verdicts if v.level == "stop"]
    rows = [dict(r) for r in RECORDS["dial_below_zero"]["record"]["top"]]
    rows[1]["ring_div"] = -5
    stopped = reduced("dial_below_zero", top=rows)
    assert stopped.value("governs").withheld
    assert not stopped.value("governs").final


def test_ends_exactly_at_ten_per_cent_of_their_mean_have_a_mean():
    outcome = reduced("ends_at_ten_percent")
    assert reported(outcome, "bearing_ratio_percent") == "7.0"
    assert verdict(outcome, "both ends agree").level == "fine"


def test_a_force_that_stands_still_is_not_taken_for_the_ground():
    hidden = reduced("standstill_unknown_axle")
    assert verdict(hidden, "reaction held").level == "watch"
    assert all(hidden.value(k).withheld for k in ("first_percent", "second_percent", "bearing_ratio_percent"))
    assert hidden.value("governs") is None
    lifted = reduced("standstill_known_axle")
    assert verdict(lifted, "reaction held").level == "redo"
    assert all(lifted.value(k).withheld for k in ("first_percent", "second_percent"))
    assert reported(lifted, "bearing_ratio_percent") == "> 38 %"
    assert reported(lifted, "governs").startswith("Greater than 37.9 %")
    own = reduced("standstill_unknown_axle", axle_kn=40)
    assert verdict(own, "reaction held").level == "fine"
    assert own.value("first_percent").value > 30


def test_an_optimum_is_reported_as_the_schools_rule_book_does():
    assert reported(reduced("optimum_two_figures"), "optimum_water_percent") == "9.3"
    method = METHODS["compaction"]
    assert method.school("light_litre").water_step(16.3) == 1.0
    assert method.school("standard_944").water_step(16.3) == 0.1
    assert method.school("standard_944").unit_weight_to_kn_m3 == 0.02
    assert method.school("standard_944").mould_tolerance_percent == 1.5
    assert method.school("standard_2124").mould_tolerance_percent == 1.2


def test_stones_are_few_enough_by_the_moulds_own_sieve_and_few_want_no_correction():
    method = METHODS["compaction"]
    rule = "stones few enough for the correction"
    assert verdict(reduced("oversize_of_fine_mould"), rule).level == "fine"
    coarse = method.outcome(method.Record(oversize_percent=35.0), method.school("standard_2124"))
    assert verdict(coarse, rule).level == "watch"
    few = reduced("optimum_two_figures", oversize_percent=4, oversize_gravity_ratio=2.65)
    assert few.value("corrected_dry_density_mg_m3") is None
    assert "no correction is needed" in verdict(few, rule).limit


def test_no_optimum_is_read_off_a_flat_curve():
    rows = [
        {**p, "mass_with_soil_g": 2000 + 1000 * 1.80 * (1 + w / 100), "mass_wet_g": 20 + 100 + w, "mass_dry_g": 120}
        for p, w in zip(RECORDS["optimum_two_figures"]["record"]["points"], (4, 6, 8, 10, 12), strict=True)
    ]
    outcome = reduced("optimum_two_figures", points=rows)
    assert outcome.value("optimum_water_percent") is None
    assert verdict(outcome, "the soil holds its water").level == "watch"


def test_the_sand_replacement_test_needs_a_tin_and_no_separation():
    outcome = reduced("sand_hole")
    found = {k: reported(outcome, k) for k in ("density_mg_m3", "water_content_percent", "dry_density_mg_m3")}
    assert found == {"density_mg_m3": "1.92", "water_content_percent": "11.1", "dry_density_mg_m3": "1.73"}
    assert not outcome.missing
    assert outcome.value("dry_density_mg_m3").reportable
    more = reduced("sand_hole", particle_density_mg_m3=2.695, reference_density_mg_m3=1.82, required_percent=98)
    assert reported(more, "relative_compaction_percent") == "95.0"
    assert verdict(more, "compacted as the job requires").level == "watch"
    stony = {"reference_density_mg_m3": 1.82, "field_oversize_percent": 20, "oversize_gravity_ratio": 2.65}
    assert reduced("sand_hole", **stony).value("relative_compaction_percent").value < 90


def test_particle_density_is_gravity_times_water_everywhere():
    wanted = "particle_density_mg_m3"
    takers = [m.takes[wanted].key for m in METHODS.values() if wanted in m.takes]
    assert len(takers) > 1
    assert set(takers) == {wanted}
    method = METHODS["specific_gravity"]
    outcome = method.outcome(method.virtual(3, method.school(), None).record, method.school())
    gravity, density = (outcome.value(k) for k in ("specific_gravity_ratio", "particle_density_mg_m3"))
    assert density.value == pytest.approx(gravity.value * 0.9982, rel=1e-4)
    assert len(gravity.reported.partition(".")[2]) == 2


def test_a_specific_gravity_in_another_liquid_is_told_of_water():
    # 60.00 g of 2.70 displace 22.22 cm3, which is 17.47 g of a liquid of 0.786 Mg/m3 (water 0.9982).
    method = METHODS["specific_gravity"]
    displaced = 60 / 2.70 / 0.9982 * 0.786
    row = {"mass_dry_soil_g": 60.0, "mass_full_g": 400.0, "mass_with_soil_g": 460 - displaced}
    record = method.Record.model_validate({"liquid_density_mg_m3": 0.786, "determinations": [row, row]})
    assert method.outcome(record, method.school()).value("specific_gravity_ratio").value == pytest.approx(
        2.70, abs=1e-3
    )
