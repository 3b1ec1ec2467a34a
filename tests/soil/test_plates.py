"""Plates: moduli of known curves, their errors, rest and its duration, the next step, an instrument's samples."""

import random
import re
from datetime import UTC, datetime, timedelta
from urllib.parse import parse_qsl, urlsplit

import pytest

from vadum.instruments.simulated_bodies import BODIES
from vadum.instruments.simulated_setting import setting
from vadum.recording.loading import LoadTaker
from vadum.soil.methods.plate_bearing.curve import of_two_plates, two_lines
from vadum.soil.methods.plate_modulus.modulus import error_of_modulus, parabola, strain_modulus
from vadum.soil.methods.plate_modulus.virtual import ground_of
from vadum.soil.register import METHODS
from vadum.soil.shared.plate.control import by_layer, control_of, drawn
from vadum.soil.shared.plate.rest import probable_mm, rests_at_min
from vadum.soil.shared.plate.steps import gauge_places, tilt_mm_m
from vadum.soil.shared.plate.virtual_plate import plate_address
from vadum.soil.soil_card.evidence import Evidence, Told
from vadum.soil.soil_card.stiffness import plate_readings

NOON = datetime(2026, 5, 12, 12, tzinfo=UTC)
MODULUS, BEARING = METHODS["plate_modulus"], METHODS["plate_bearing"]
SIGMA = (0.08, 0.16, 0.24, 0.32, 0.42, 0.50)


def typed_steps(pairs, start=0.01):
    """Load steps as from paper: stress in MN/m² and settlement in mm on a 300 mm plate."""
    rows = [{"cycle": "preload", "force_kn": start * 70.6858, "settlement_mm": 0.0, "held_min": 0.5}]
    return [*rows, *({"force_kn": s * 70.6858, "settlement_mm": mm, "held_min": 2.0} for s, mm in pairs)]


def record_of(steps, **more):
    head = {"plate_width_mm": 300, "plate_shape": "round", "force_by": "load cell", "zeroed": "set to zero"}
    return MODULUS.Record.model_validate({**head, "steps": steps, **more})


@pytest.mark.parametrize(("a1", "a2"), [(3.0, 2.0), (6.5, 0.5), (2.2, 4.0)])
def test_a_curve_of_known_terms_gives_its_modulus_back(a1, a2):
    steps = typed_steps([(s, a1 * s + a2 * s * s) for s in SIGMA])
    outcome = MODULUS.outcome(record_of(steps, stopped="all steps"), MODULUS.school("din"))
    assert outcome.value("ev1_mn_m2").value == pytest.approx(1.5 * 150 / (a1 + a2 * 0.5), rel=1e-6)
    assert outcome.value("first_a1").value == pytest.approx(a1, rel=1e-6)
    assert outcome.value("first_a2").value == pytest.approx(a2, rel=1e-6)


def test_the_error_of_a_modulus_is_what_scattered_readings_show():
    dice, found, told = random.Random(7), [], []
    for _ in range(4000):
        settled = [3.9 * s + 1.8 * s * s + dice.gauss(0, 0.01) for s in SIGMA]
        fit = parabola(SIGMA, settled)
        found.append(strain_modulus(150, fit, 0.5))
        told.append(error_of_modulus(150, fit, 0.5) ** 2)
    mean = sum(found) / len(found)
    scatter = (sum((f - mean) ** 2 for f in found) / (len(found) - 1)) ** 0.5
    assert (sum(told) / len(told)) ** 0.5 == pytest.approx(scatter, rel=0.05)


def test_a_choice_of_points_changes_a_modulus_by_a_few_percent_only():
    rows = [(0.08, 0.45), (0.16, 0.81), (0.24, 1.16), (0.32, 1.59), (0.42, 2.11), (0.5, 2.56)]
    record = record_of(typed_steps(rows), stopped="all steps")
    school = MODULUS.school("din")
    without = MODULUS.outcome(record, school).value("ev1_mn_m2").value
    within = MODULUS.outcome(record, school.model_copy(update={"fit_preload": True})).value("ev1_mn_m2").value
    assert 0.03 < abs(within / without - 1) < 0.08


def test_a_rate_sixty_times_stricter_takes_sixty_times_as_long():
    assert rests_at_min(0.5, 0.02 / 60) == pytest.approx(60 * rests_at_min(0.5, 0.02))
    by_minute, by_hour = BEARING.school("is1888"), BEARING.school("is1888_hour")
    clay = BEARING.Record(ground="clay")
    quick = BEARING.facts(clay, by_minute).plan.minutes
    slow = BEARING.facts(clay, by_hour).plan.minutes
    assert slow > 30 * quick
    assert "clay" in BEARING.lasts(by_hour)


def test_a_hyperbola_of_time_gives_its_end_back():
    times = [1.0, 2.25, 4.0, 9.0, 16.0, 25.0]
    assert probable_mm(times, [2.0 * t / (t + 5.0) for t in times]) == pytest.approx(2.0)


def test_the_plane_through_the_gauges_has_the_slope_it_was_made_of():
    for many in (2, 3, 4):
        read = [5.0 + 0.0012 * x - 0.0007 * y for x, y in gauge_places(many, 260)]
        slope = tilt_mm_m(read, 260)
        assert slope[1] == pytest.approx(-0.7)
        if many > 2:
            assert slope[0] == pytest.approx(1.2)


def test_smaller_steps_are_advised_where_the_settlement_will_end_the_loading():
    soft = typed_steps([(s, 9.0 * s + 8.0 * s * s) for s in (0.08, 0.16, 0.24)])
    facts = MODULUS.facts(record_of(soft), MODULUS.school("din"))
    assert facts.next_words.startswith("5 mm will come at about 0.4")
    steps = [t for t in facts.ahead if t.cycle == "first"]
    assert len(steps) >= 3
    assert steps[0].kpa < 320


def test_the_stress_that_was_reached_stands_for_the_greatest():
    rows = [(s, 9.0 * s + 10.0 * s * s) for s in (0.08, 0.16, 0.24, 0.3, 0.36, 0.4)]
    downs = [(0.2, 4.8), (0.1, 4.4), (0.01, 3.2)]
    again = [(s, 3.2 + 4.2 * s) for s in (0.08, 0.16, 0.24, 0.3, 0.36)]
    outcome = MODULUS.outcome(record_of(typed_steps([*rows, *downs, *again])), MODULUS.school("din"))
    assert outcome.value("sigma_0max_mn_m2").value == pytest.approx(0.4, rel=1e-3)
    assert any(v.rule == "loaded to its greatest stress" and v.level == "watch" for v in outcome.verdicts)


def test_a_short_reaction_keeps_the_test_from_starting_without_a_reason():
    school = MODULUS.school("din")
    head = {"reaction_kn": 30, "supports_mm": 900, "datum_legs_mm": 1600, "levelling": "none", "frozen": "no"}
    kit = {"plate_width_mm": 300, "piston_cm2": 20, "force_by": "pump gauge", "gauges_count": 1}
    record = MODULUS.Record.model_validate(head | kit)
    outcome = MODULUS.judge(record, school, NOON)
    assert [v.level for v in outcome.verdicts if v.rule == "reaction enough"] == ["stop"]
    assert "begun_because" in outcome.advice.wants
    begun = record.model_copy(update={"begun_because": "half the stress only"})
    outcome = MODULUS.judge(begun, school, NOON)
    assert [v.level for v in outcome.verdicts if v.rule == "reaction enough"] == ["watch"]
    assert outcome.advice.wants == ("steps[0].pump_bar",)


def test_a_job_waives_its_ratio_where_the_first_modulus_is_high():
    rows = [(s, 3.9 * s + 1.8 * s * s) for s in SIGMA]
    again = [(0.25, 2.1), (0.01, 1.4), *((s, 1.4 + 1.0 * s) for s in SIGMA[:-1])]
    limits = {"least_ev2_mn_m2": 100, "most_ev_ratio": 2.2}
    record = record_of(typed_steps([*rows, *again]), **limits)
    words = MODULUS.outcome(record, MODULUS.school("din")).value("job_limits").reported
    assert words.startswith("not held")
    waived = record.model_copy(update={"ratio_waived_from_ev1_mn_m2": 45.0})
    assert MODULUS.outcome(waived, MODULUS.school("din")).value("job_limits").reported.startswith("held")


def test_two_plates_at_one_settlement_give_area_and_edge_apart():
    q, s = 120.0, 14.0
    small, wide = (0.09, 1.2), (0.36, 2.4)
    loads = [a * q + p * s for a, p in (small, wide)]
    assert of_two_plates(loads[0], *small, loads[1], *wide) == (pytest.approx(q), pytest.approx(s))


def test_two_lines_find_the_knee_of_a_bilinear_curve_wherever_it_lies():
    for knee in (130.0, 210.0, 260.0):
        x = [40.0 * i for i in range(1, 11)]
        y = [0.02 * q + max(0.0, q - knee) * 0.1 for q in x]
        assert two_lines(x, y, 3).x == pytest.approx(knee, abs=12.0)


def listened(school, trouble="", speed_s=1.0, tops=()):
    """A whole test read by a taker from the simulated jack, one sample a second of the instrument's time."""
    bare = MODULUS.virtual(3, school, None).record.model_copy(update={"steps": (), "stopped": None})
    facts = MODULUS.facts(bare, school)
    address = urlsplit(plate_address(ground_of(3, 300.0, 0.5), facts, 3, 1))
    its = setting({"kind": address.netloc, **dict(parse_qsl(address.query)), "trouble": trouble})
    body, taker = BODIES["plate"](its, random.Random(1)), LoadTaker(facts.ladder, facts.holding)
    data = {**bare.model_dump(exclude_none=True), "steps": []}
    for second in range(1, 9000):
        body.advance(speed_s)
        if second in tops:
            body.command("top")
        figures = {k: float(v) for k, v in (part.split("=") for part in body.figures().split())}
        for path, value in taker.hear(second * speed_s, figures):
            step, field, rows = re.fullmatch(r"steps\[(\d+)\]\.(\w+)(\[\])?", path).groups()
            while len(data["steps"]) <= int(step):
                data["steps"].append({})
            part = data["steps"][int(step)]
            if rows:
                part.setdefault(field, []).append(value)
            else:
                part |= {field: value, "loaded_at": NOON + timedelta(seconds=second * speed_s)}
            facts = MODULUS.facts(MODULUS.Record.model_validate(data), school)
            taker.follow(facts.ladder, facts.holding)
            if facts.rest is not None and facts.rest.at_rest:
                body.command("start")
        if facts.over:
            break
    return MODULUS.Record.model_validate(data)


@pytest.mark.parametrize("name", ["din", "din_rest", "din_road"])
def test_an_instruments_samples_become_the_steps_and_readings_of_the_school(name):
    school = MODULUS.school(name)
    record = listened(school)
    outcome = MODULUS.outcome(record, school)
    assert not [v for v in outcome.verdicts if v.level in ("stop", "redo")]
    truth = MODULUS.virtual(3, school, None).truth["ev1_mn_m2"]
    assert outcome.value("ev1_mn_m2").value == pytest.approx(truth, rel=0.06)
    assert len(record.steps) == 1 + 6 + 3 + 5 or name != "din"
    least = school.hold_min if school.rest_by == "time" else 1.0
    assert all(max(r.elapsed_min for r in s.readings) >= 0.97 * least for s in record.steps[1:])


def test_a_load_that_was_topped_up_is_noted_and_is_no_new_step():
    record = listened(MODULUS.school("din_rest"), "leaking", tops=range(400, 9000, 45))
    ups = [up for s in record.steps for up in s.top_ups]
    assert ups
    assert all(0 < up.from_bar < 180 for up in ups)


def test_plates_stand_in_their_layer_with_the_jobs_corner():
    made = MODULUS.virtual(3, MODULUS.school("din"), None).record
    some = made.model_copy(update={"least_ev2_mn_m2": 100.0, "most_ev_ratio": 2.5, "chainage_m": 20.0})
    other = made.model_copy(update={"least_ev2_mn_m2": 150.0, "most_ev_ratio": 2.5, "chainage_m": 5.0})
    controls = [
        control_of(code, "A1", r, MODULUS.outcome(r, MODULUS.school("din")))
        for code, r in (("P1", some), ("P2", other))
    ]
    assert [c.held for c in controls] == [True, False]
    assert [c.code for c in by_layer(controls)["frost blanket"]] == ["P2", "P1"]
    assert {row["held"] for row in drawn(controls)["plates"]} == {"held", "not held"}
    assert control_of("P3", "A1", made, MODULUS.outcome(MODULUS.Record(), MODULUS.school("din"))) is None


def told(method, record, school=None):
    its = METHODS[method]
    used = its.school(school)
    return Told(f"{its.code}-01", its.outcome(record, used), used, record)


def test_a_plate_is_held_against_the_bearing_ratio_and_the_compaction_beside_it():
    plate = MODULUS.virtual(3, MODULUS.school("din"), None).record
    push = METHODS["field_cbr"].virtual(3, METHODS["field_cbr"].school(), None).record
    dense = plate.model_copy(update={"compaction_beside_percent": 99.0})
    found = {v.rule: v for v in plate_readings(Evidence((told("plate_modulus", dense), told("field_cbr", push))))}
    assert found["plate modulus against the bearing ratio"].level == "fine"
    assert found["plate against the compaction"].level == "fine"
    stiff = MODULUS.school("din").model_copy(update={"name": "din"})
    odd = dense.model_copy(update={"plate_width_mm": 300.0, "piston_cm2": 200.0, "jack_most_bar": 9000.0})
    read = Evidence((Told("PM-01", MODULUS.outcome(odd, stiff), stiff, odd), told("field_cbr", push)))
    levels = {v.rule: v.level for v in plate_readings(read)}
    assert levels["plate modulus against the bearing ratio"] == "watch"
