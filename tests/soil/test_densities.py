"""Specific gravity, ring and pit: by hand, at their edges, and what a wrong reading does to them."""

import itertools
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vadum.soil.methods.pit_density import METHOD as PIT
from vadum.soil.methods.ring_density import METHOD as RING
from vadum.soil.methods.specific_gravity import METHOD as GRAVITY
from vadum.soil.shared.phases import dry_density_mg_m3, saturation_percent, void_ratio, zero_air_mg_m3
from vadum.soil.shared.physics import WATER_20_MG_M3, water_density_mg_m3

# Worked by hand: the pycnometer holds exactly 500 cm3; 54 g of solids of 2.70 displace 20 cm3 of water at 20 °C.
PYCNOMETER = {"mass_pycnometer_g": 170.0, "full_at_c": 20.0, "temperature_c": 20.0, "mass_dry_soil_g": 54.0}
FULL = 170 + 500 * water_density_mg_m3(20)
WITH_SOIL = FULL + 54 - 20 * water_density_mg_m3(20)


def gravity(*rows, school="astm", **fields):
    record = GRAVITY.Record.model_validate({"determinations": rows, **fields})
    return GRAVITY.outcome(record, GRAVITY.school(school))


def row(**changes):
    return {**PYCNOMETER, "mass_full_g": FULL, "mass_with_soil_g": WITH_SOIL, **changes}


def test_solids_of_a_known_volume_have_their_own_gravity():
    # 54 g / 20 cm3 = 2.70 Mg/m3 over water of 0.99820 at 20 °C is 2.7049.
    found = gravity(row(), row()).value("specific_gravity_ratio")
    assert found.value == pytest.approx(2.70 / water_density_mg_m3(20), abs=1e-6)
    assert found.reported == "2.70"


@given(st.floats(12, 30))
def test_the_temperature_of_the_slurry_is_corrected_for(temperature):
    """The same solids in the same glass, weighed warmer or colder, keep their gravity."""
    now = water_density_mg_m3(temperature)
    with_soil = 170 + 480 * now + 54
    found = gravity(row(temperature_c=temperature, mass_with_soil_g=with_soil)).working[0].value
    assert found == pytest.approx(2.70 / water_density_mg_m3(20), rel=2e-6)


def test_one_pycnometer_is_provisional_and_a_third_is_asked_for_when_two_disagree():
    assert gravity(row()).value("specific_gravity_ratio").provisional
    apart = [row(), row(mass_with_soil_g=WITH_SOIL + 0.4)]
    outcome = gravity(*apart)
    assert "redo" in {v.level for v in outcome.verdicts if v.rule == "determinations agree"}
    record = GRAVITY.Record.model_validate({"determinations": apart})
    assert "disagree" in GRAVITY.judge(record, GRAVITY.school(), datetime(2026, 5, 12, tzinfo=UTC)).advice.headline
    kept = gravity(*apart, row(excluded_because="air seen"))
    assert len([w for w in kept.working if w.gives.startswith("specific_gravity_") and w.symbol != "G_s"]) == 2


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"mass_with_soil_g": FULL - 5}, "full of water"),
        ({"mass_with_soil_g": FULL + 60}, "water + soil"),
        ({"mass_full_g": 160.0}, "empty"),
        ({"temperature_c": 70.0}, "temperature"),
        ({"mass_dry_soil_g": float("nan")}, "dry soil"),
    ],
)
def test_masses_out_of_their_order_are_named(changes, words):
    outcome = gravity(row(**changes), row())
    stops = [v for v in outcome.verdicts if v.level == "stop"]
    assert any(words in v.found for v in stops), [v.found for v in stops]
    assert outcome.value("specific_gravity_ratio") is None or outcome.value("specific_gravity_ratio").withheld


@given(st.floats(1.1, 2.0), st.floats(2, 40), st.floats(2.5, 2.9))
def test_solids_water_and_air_fill_the_volume(dry, water, particle):
    n = 100 * (1 - dry / particle)
    volumetric = water * dry / WATER_20_MG_M3
    saturation = saturation_percent(water, dry, particle)
    assert saturation == pytest.approx(100 * volumetric / n, rel=1e-9)
    assert void_ratio(dry, particle) == pytest.approx(n / (100 - n), rel=1e-9)
    assert dry_density_mg_m3(dry * (1 + water / 100), water) == pytest.approx(dry)


@given(st.floats(5, 30), st.floats(2.55, 2.8), st.floats(0, 12))
def test_the_air_lines_hold_the_air_that_they_say(water, particle_gravity, air):
    dry = zero_air_mg_m3(water, particle_gravity, air)
    solids = 100 * dry / (particle_gravity * WATER_20_MG_M3)
    assert 100 - solids - water * dry / WATER_20_MG_M3 == pytest.approx(air, abs=1e-9)


def ring(school="headspace", seed=3, **changes):
    record = RING.virtual(seed, RING.school(school), None).record.model_copy(update=changes)
    return RING.outcome(record, RING.school(school))


def test_a_ring_reads_its_headspaces_at_both_ends():
    record = RING.virtual(3, RING.school(), None).record
    top = record.headspaces[0]
    turned = (*record.headspaces, top.model_copy(update={"end": "bottom", "headspace_mm": 3.0}))
    more = RING.outcome(record.model_copy(update={"headspaces": turned}), RING.school())
    lines = {w.gives: w for w in more.working}
    assert lines["volume_cm3"].inputs["h_bottom"] == 3.0
    assert more.value("density_mg_m3").value > ring().value("density_mg_m3").value


def test_too_few_headspaces_leave_the_density_provisional():
    record = RING.virtual(3, RING.school(), None).record
    outcome = RING.outcome(record.model_copy(update={"headspaces": record.headspaces[:2]}), RING.school())
    assert outcome.value("dry_density_mg_m3").provisional
    assert any("2 more headspaces" in m.waits_for for m in outcome.missing)


def test_more_water_than_pores_makes_the_phases_provisional_and_says_what_was_assumed():
    outcome = ring(particle_density_mg_m3=2.0, particle_density_from="assumed")
    [verdict] = [v for v in outcome.verdicts if v.rule.startswith("saturation")]
    assert verdict.level == "redo"
    assert "assumed: measure it" in verdict.remedy
    assert not outcome.value("saturation_percent").reportable
    assert outcome.value("water_content_percent").reportable


def test_without_a_particle_density_the_dry_density_stands_alone():
    outcome = ring(particle_density_mg_m3=None)
    assert outcome.value("dry_density_mg_m3").reportable
    assert outcome.value("void_ratio") is None
    assert outcome.series["phases"] == ()


def test_the_phases_of_the_picture_add_up():
    rows = ring().series["phases"]
    assert [r["phase"] for r in rows] == ["solids", "water", "air"]
    assert rows[0]["from"] == 0
    assert rows[-1]["to"] == pytest.approx(100)
    assert all(a["to"] == b["from"] for a, b in itertools.pairwise(rows))


def test_sand_water_and_a_typed_volume_measure_the_same_hole():
    sand = {"sand_density_mg_m3": 1.42, "mass_sand_before_g": 9000, "mass_sand_after_g": 3980, "mass_sand_cone_g": 1470}
    soil = {"mass_coarse_g": 900, "mass_fines_g": 3300, "mass_tin_g": 20.0, "mass_wet_g": 65.0, "mass_dry_g": 63.65}
    found = {}
    for name, volume in (("sand", sand), ("water", {"water_poured_ml": 2500}), ("typed", {"volume_cm3": 2500})):
        record = PIT.Record.model_validate({**soil, **volume})
        found[name] = PIT.outcome(record, PIT.school(name)).value("dry_density_mg_m3").value
    assert found["sand"] == pytest.approx(found["water"]) == pytest.approx(found["typed"])


def test_both_densities_are_always_given_and_the_wanted_one_first():
    separated = PIT.virtual(3, PIT.school("fine_earth"), None).record
    for name, first in (("water", "dry_density_mg_m3"), ("fine_earth", "fine_earth_density_mg_m3")):
        keys = [v.key for v in PIT.outcome(separated, PIT.school(name)).values]
        assert next(k for k in keys if k in ("dry_density_mg_m3", "fine_earth_density_mg_m3")) == first
        assert {"dry_density_mg_m3", "fine_earth_density_mg_m3"} <= set(keys)


def test_the_fine_earth_is_lighter_than_the_whole_where_stones_are_heavy():
    school = PIT.school("fine_earth")
    outcome = PIT.outcome(PIT.virtual(5, school, None).record, school)
    assert outcome.value("fine_earth_density_mg_m3").value < outcome.value("dry_density_mg_m3").value
    none = PIT.virtual(5, school, None).record.model_copy(update={"mass_coarse_g": 0.0})
    equal = PIT.outcome(none, school)
    assert equal.value("fine_earth_density_mg_m3").value == pytest.approx(equal.value("dry_density_mg_m3").value)


def test_a_stone_density_that_was_measured_takes_the_place_of_the_usual_one():
    school = PIT.school("fine_earth")
    record = PIT.virtual(5, school, None).record
    usual = PIT.outcome(record, school).value("coarse_volume_percent").value
    light = PIT.outcome(record.model_copy(update={"stone_density_mg_m3": 2.0}), school)
    assert light.value("coarse_volume_percent").value == pytest.approx(usual * 2.65 / 2.0)


def test_gas_measures_the_volume_that_water_measures():
    # From 120 to 56 kPa into 90 cm3, out of a cell of 150 cm3, leaves 47.142857 cm3 of solids.
    gas = {"mass_dry_soil_g": 127.0, "cell_cm3": 150.0, "expansion_cm3": 90.0, "gas_first_kpa": 120.0}
    rows = [{**gas, "gas_second_kpa": 56.0}] * 3
    found = gravity(*rows, school="gas")
    assert found.value("particle_density_mg_m3").value == pytest.approx(127.0 / 47.142857, rel=1e-6)
    assert not found.missing


def test_a_statement_of_conformity_is_made_only_where_a_rule_for_it_is_chosen():
    record = PIT.virtual(3, PIT.school("sand"), None).record
    record = record.model_copy(update={"reference_density_mg_m3": 1.8, "required_percent": 50.0})
    school = PIT.school("sand")
    assert PIT.outcome(record, school).value("conformity") is None
    stated = school.model_copy(update={"conformity": "guard band"})
    assert PIT.outcome(record, stated).value("conformity").reported == "conforms to 50 % or more; guard band 2 %"


def test_a_half_goes_up_or_to_the_even_digit_as_the_laboratory_has_it():
    rows = [{**PYCNOMETER, "mass_full_g": FULL, "mass_with_soil_g": FULL + 54 - 54 / 2.705}] * 2
    record = GRAVITY.Record.model_validate({"determinations": rows})
    astm = GRAVITY.school("astm")
    exact = GRAVITY.outcome(record, astm).value("specific_gravity_ratio").value
    half = astm.model_copy(update={"report_to": 2 * exact / 5})  # the value lies two and a half steps up
    even = half.model_copy(update={"half_to_even": True})
    up, to_even = (float(GRAVITY.outcome(record, s).value("specific_gravity_ratio").reported) for s in (half, even))
    assert up == pytest.approx(1.2 * exact)
    assert to_even == pytest.approx(0.8 * exact)
