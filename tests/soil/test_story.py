"""Cross-readings: each speaks when two tests bear on each other, holds when they agree, and says when they do not."""

import pytest

from vadum.soil.contract.outcome import Outcome, Value, Verdict
from vadum.soil.register import METHODS
from vadum.soil.soil_card.card import card
from vadum.soil.soil_card.cross_readings import cross_readings, liquidity, relative_compaction
from vadum.soil.soil_card.evidence import Evidence, Told
from vadum.soil.soil_card.groups import several_rings, three_efforts, three_in_place

LIMITS = {"liquid_limit": {"liquid_limit_percent": 46.0}}
PLASTIC = {"plastic_limit": {"plastic_limit_percent": 22.0, "plasticity_index_percent": 24.0}}
WATER = {"water_content": {"water_content_percent": 38.0}}
CLAY = {"hydrometer": {"finer_than_2um_percent": 34.0}}
GRAVITY = {"specific_gravity": {"specific_gravity_ratio": 2.70}}
RING = {"ring_density": {"dry_density_mg_m3": 1.30, "water_content_percent": 37.0}}
PIT = {"pit_density": {"dry_density_mg_m3": 1.94, "water_content_percent": 6.0}}
MOULD = {"cbr": {"bearing_ratio_percent": 9.0, "swell_percent": 0.4}}
SPOT = {"field_cbr": {"bearing_ratio_percent": 7.0}}
MOST = {"compaction": {"maximum_dry_density_mg_m3": 2.06, "corrected_dry_density_mg_m3": 2.10}}
VANE = {"field_vane": {"shear_strength_kpa": 40.0}}
CORE = {"unconfined_compression": {"shear_strength_kpa": 34.0, "e50_mpa": 6.8}}
QUICK = {"triaxial": {"shear_strength_kpa": 36.0, "t1_e50_mpa": 5.0, "t2_e50_mpa": 6.0}}
CELL = {"triaxial": {"phi_degrees": 27.0, "c_kpa": 3.0}}
BOX = {"direct_shear": {"phi_peak_degrees": 28.0, "c_peak_kpa": 2.0, "s1_dry_mg_m3": 1.3, "s2_dry_mg_m3": 1.31}}


def told(*tests, **changes):
    """Runs that gave these values; a change is method__key=value."""
    runs = []
    for test in tests:
        for name, values in test.items():
            method = METHODS[name]
            found = {**values, **{k.split("__")[1]: v for k, v in changes.items() if k.split("__")[0] == name}}
            shown = tuple(
                Value(key=k, symbol=k[:2], name=k, value=v, unit="", reported=f"{v:g}", uncertainty=None)
                for k, v in found.items()
            )
            outcome = Outcome(method=name, school="x", values=shown)
            runs.append(Told(f"{method.code}-1", outcome, method.school(), method.Record()))
    return runs


def said(runs, symbol="CL"):
    return {v.rule: v for v in cross_readings(Evidence(runs), symbol)}


CROSS = [
    (
        "water content against the limits",
        (LIMITS, PLASTIC, WATER),
        {"water_content__water_content_percent": 60.0},
        "watch",
    ),
    ("plasticity against clay content", (LIMITS, PLASTIC, CLAY), {"hydrometer__finer_than_2um_percent": 4.0}, "watch"),
    ("point below the U-line", (LIMITS, PLASTIC), {"plastic_limit__plastic_limit_percent": 8.0}, "watch"),
    ("saturation in the ground", (GRAVITY, RING), {"ring_density__dry_density_mg_m3": 1.5}, "redo"),
    ("ground against the compaction maximum", (PIT, MOST), {"pit_density__dry_density_mg_m3": 2.3}, "watch"),
    ("bearing ratio in place against the mould", (MOULD, SPOT), {"field_cbr__bearing_ratio_percent": 31.0}, "watch"),
    (
        "swell against plasticity",
        (LIMITS, PLASTIC, MOULD),
        {"plastic_limit__plastic_limit_percent": 41.0, "cbr__swell_percent": 4.0},
        "watch",
    ),
    ("undrained strength by two tests", (VANE, QUICK), {"triaxial__shear_strength_kpa": 90.0}, "watch"),
    ("undrained strength by two tests", (CORE, QUICK), {"triaxial__shear_strength_kpa": 10.0}, "watch"),
    (
        "strength against the liquidity index",
        (LIMITS, PLASTIC, WATER, QUICK),
        {"triaxial__shear_strength_kpa": 0.2},
        "watch",
    ),
    ("sheared at the density of the ground", (BOX, RING), {"direct_shear__s2_dry_mg_m3": 1.7}, "watch"),
    ("friction angle by two tests", (BOX, CELL), {"triaxial__phi_degrees": 33.0}, "watch"),
    ("friction angle against the plasticity", (LIMITS, PLASTIC, CELL), {"triaxial__phi_degrees": 38.0}, "watch"),
    ("water content by two tests", (WATER, RING), {"ring_density__water_content_percent": 20.0}, "watch"),
]


@pytest.mark.parametrize(("rule", "tests", "changes", "level"), CROSS, ids=[c[0] for c in CROSS])
def test_a_cross_reading_holds_and_speaks_and_is_silent_without_both(rule, tests, changes, level):
    assert said(told(*tests))[rule].level == "fine"
    verdict = said(told(*tests, **changes))[rule]
    assert verdict.level == level
    assert verdict.remedy
    for alone in tests:
        assert rule not in said(told(alone))


def test_the_gravest_cross_reading_comes_first():
    runs = told(GRAVITY, RING, WATER, LIMITS, PLASTIC, ring_density__dry_density_mg_m3=1.5)
    levels = [v.level for v in cross_readings(Evidence(runs))]
    assert levels[0] == "redo"
    assert levels[-1] == "fine"


def test_liquidity_by_hand():
    assert liquidity(Evidence(told(LIMITS, PLASTIC, WATER)))[0] == pytest.approx((38 - 22) / 24)
    assert liquidity(Evidence(told(LIMITS, PLASTIC, RING)))[0] == pytest.approx((37 - 22) / 24), "a ring's tin will do"


def test_relative_compaction_is_held_against_the_maximum_without_the_laboratorys_own_stones():
    [(dry, most, share)] = relative_compaction(Evidence(told(PIT, MOST)))
    assert (dry.code, most.code) == ("PD-1", "CP-1")
    assert share == pytest.approx(100 * 1.94 / 2.06)


def test_estimates_and_withheld_values_are_no_evidence_and_reportable_ones_come_first():
    method = METHODS["water_content"]

    def run(code, **state):
        value = Value(key="water_content_percent", symbol="w", name="w", value=30.0, unit="%", reported="30", **state)
        return Told(
            code, Outcome(method="water_content", school="x", values=(value,)), method.school(), method.Record()
        )

    known = Evidence([run("A", estimate=True), run("B", provisional=True), run("C")]).known
    assert known("water_content", "water_content_percent").code == "C"
    assert Evidence([run("A", estimate=True)]).known("water_content", "water_content_percent") is None
    assert Evidence([run("B", provisional=True)]).known("water_content", "water_content_percent").provisional


def test_a_grading_with_a_stop_is_no_evidence():
    method = METHODS["sieve"]
    record = method.virtual(3, method.school(), None).record
    outcome = method.outcome(record, method.school())
    stop = Verdict(rule="x", level="stop", found="x", limit="x", source="x", remedy="x")
    spoiled = outcome.model_copy(update={"verdicts": (*outcome.verdicts, stop)})
    assert Evidence([Told("A", outcome, method.school(), record)]).curve("sieve")
    assert Evidence([Told("A", spoiled, method.school(), record)]).curve("sieve") is None


def test_an_empty_card_and_a_card_of_one_run_say_what_they_wait_for():
    empty = card([])
    assert not any(c.symbol for c in empty.classes)
    assert all(c.missing for c in empty.classes)
    assert empty.readings == ()
    one = card(told(LIMITS))
    assert [f.reported for f in one.consistency] == ["46"]


def test_a_card_from_real_runs_has_its_classes_its_facts_and_its_pictures():
    runs = []
    for name, school in (("sieve", "astm_soil"), ("liquid_limit", None), ("plastic_limit", None), ("compaction", None)):
        method = METHODS[name]
        record = method.virtual(4, method.school(school), None).record
        its = method.school(school)
        runs.append(Told(f"{method.code}-1", method.outcome(record, its), its, record))
    known = card(runs)
    classes = {c.system: c for c in known.classes}
    assert classes["USCS"].symbol.startswith("S")
    assert classes["AASHTO"].symbol.startswith("A-")
    assert classes["USDA"].missing == ("silt and clay, by hydrometer",)
    assert {f.key for f in known.grading} >= {"d10_mm", "d60_mm", "C_u", "C_c"}
    shares = {f.key: float(f.reported) for f in known.shares["astm"]}
    assert sum(shares.values()) == pytest.approx(100, abs=1.5)
    assert known.series["curve"]
    assert known.series["point"]


def test_a_nonplastic_soil_is_classed_as_such():
    sieve, plastic = METHODS["sieve"], METHODS["plastic_limit"]
    record = sieve.virtual(4, sieve.school(), None).record
    flat = plastic.Record(cannot_be_rolled="yes")
    runs = [
        Told("SV-1", sieve.outcome(record, sieve.school()), sieve.school(), record),
        Told("PL-1", plastic.outcome(flat, plastic.school()), plastic.school(), flat),
    ]
    classes = {c.system: c for c in card(runs).classes}
    assert classes["AASHTO"].symbol
    assert "NP" in {f.reported for f in card(runs).consistency}


def test_a_bearing_ratio_is_held_against_the_class_of_its_soil():
    rule = "bearing ratio against the class"
    assert said(told(MOULD))[rule].level == "fine"
    dry = said(told(MOULD, cbr__bearing_ratio_percent=45.0))[rule]
    assert dry.level == "watch"
    assert "2 to 15 % are usual for CL" in dry.limit
    assert said(told(MOULD), symbol="SC-SM")[rule].limit.startswith("5 to 40 %"), "both halves of a dual group count"
    assert rule not in said(told(MOULD), symbol="PT")
    assert rule not in said(told(MOULD), symbol="")


def test_the_card_shows_a_proved_bound_in_its_words():
    method = METHODS["field_cbr"]
    school = method.school()
    good = method.virtual(2, school, None).record
    early = good.model_copy(update={"readings": good.readings[:9], "stopped": "reaction lifted"})
    facts = card([Told("FB-1", method.outcome(early, school), school, early)]).bearing
    assert facts[0].reported.startswith("> ")
    assert facts[0].code == "FB-1"
    whole = card([Told("FB-2", method.outcome(good, school), school, good)]).bearing
    assert float(whole[0].reported) > 0


def strengths(core_kpa, depth_m, vane_kpa, remoulded_kpa=5.0):
    """A core at a depth, and a vane test beside it at 2 m."""
    core, vane = METHODS["unconfined_compression"], METHODS["field_vane"]
    row = {"trial": 1, "depth_m": 2.0, "state": "counts", "label": ""}
    profile = (
        {**row, "strength_kpa": vane_kpa, "kind": "undisturbed"},
        {**row, "strength_kpa": remoulded_kpa, "kind": "remoulded"},
    )

    def value(key, found):
        return Value(key=key, symbol="s", name=key, value=found, unit="kPa", reported=f"{found:g}")

    values = (value("shear_strength_kpa", core_kpa),)
    whole = (value("shear_strength_kpa", vane_kpa),)
    return [
        Told("UC-1", Outcome(method=core.name, school="x", values=values), None, core.Record(depth_m=depth_m)),
        Told("FV-1", Outcome(method=vane.name, school="x", values=whole, series={"profile": profile}), None, None),
    ]


@pytest.mark.parametrize(("core_kpa", "level"), [(20.0, "fine"), (12.0, "watch"), (40.0, "watch")])
def test_a_core_is_held_against_the_vane_at_its_depth(core_kpa, level):
    verdict = said(strengths(core_kpa, 1.8, 28.0))["unconfined strength against the vane"]
    assert verdict.level == level
    assert "FV-1 28.0 kPa at 2 m" in verdict.found


def test_a_vane_far_from_the_core_says_nothing_of_it():
    assert "unconfined strength against the vane" not in said(strengths(20.0, 4.0, 28.0))


@pytest.mark.parametrize(("remoulded", "level"), [(8.0, "fine"), (0.9, "watch"), (90.0, "watch")])
def test_remoulded_strength_is_held_against_the_liquidity_index(remoulded, level):
    runs = strengths(20.0, 1.8, 100.0, remoulded) + told(LIMITS, PLASTIC, WATER)  # LI 0.67: some 8 kPa
    assert said(runs)["remoulded strength against the liquidity index"].level == level


def test_a_clay_weaker_than_remoulded_is_looked_at():
    runs = strengths(0.8, 1.8, 1.0) + told(LIMITS, PLASTIC, WATER)
    assert said(runs)["strength against the liquidity index"].level == "watch"


def several(method, rows, **record):
    """Runs of one method with these values, newest first."""
    its, runs = METHODS[method], []
    for i, (school, values) in enumerate(rows):
        shown = tuple(
            Value(key=k, symbol=k[:2], name=k, value=v, unit="", reported=f"{v:g}", uncertainty=None)
            for k, v in values.items()
        )
        outcome = Outcome(method=method, school="x", values=shown)
        runs.append(Told(f"{its.code}-{i + 1}", outcome, its.school(school), its.Record.model_validate(record)))
    return Evidence(runs)


def test_three_efforts_give_the_ratio_at_a_share_of_the_maximum_and_nothing_beyond_the_moulds():
    moulds = [
        ("aashto_t193", {"bearing_ratio_percent": r, "dry_density_mg_m3": d})
        for d, r in ((1.80, 6.0), (1.90, 12.0), (1.98, 20.0))
    ]
    [found] = three_efforts(several("cbr", moulds, maximum_dry_density_mg_m3=2.0, target_percent=95))
    assert (found.reported, found.codes) == ("12", "CB-1, CB-2, CB-3")
    [beyond] = three_efforts(several("cbr", moulds, maximum_dry_density_mg_m3=2.0, target_percent=100))
    assert beyond.reported == "not between the moulds, 1.80 to 1.98 Mg/m³"
    assert three_efforts(several("cbr", moulds[:1], maximum_dry_density_mg_m3=2.0)) == []


@pytest.mark.parametrize(
    ("ratios", "said"),
    [((8, 9, 10), "9"), ((8, 9, 12), "apart by 4 points: three more"), ((8,), "2 more at this spot")],
)
def test_three_pushes_at_one_spot_are_one_result_where_they_lie_together(ratios, said):
    pushes = [("astm_in_place", {"bearing_ratio_percent": float(r)}) for r in ratios]
    assert [j.reported for j in three_in_place(several("field_cbr", pushes))] == [said]


def test_several_rings_are_one_result_with_their_spread():
    rings = [("headspace", {"dry_density_mg_m3": d}) for d in (1.50, 1.54, 1.52)]
    assert [j.reported for j in several_rings(several("ring_density", rings))] == ["1.52 ± 0.02"]
