"""Both bearing ratios end to end in the core: the standard curve, shifts, seatings, ends, partial curves, practice."""

import json
import random
import re
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.soil.test_following_advice import flat, with_reading
from vadum.soil import practice
from vadum.soil.bearing.calling import Sample, call_advice, next_call, pace, taken
from vadum.soil.bearing.curve import STANDARD_CURVE, Curve, force_at_kn
from vadum.soil.bearing.ends import all_found, governing
from vadum.soil.bearing.ground import called_rows, ground_of
from vadum.soil.bearing.record import CalledRow
from vadum.soil.bearing.ring import Ring, divisions_of, ring_force_kn, table_of
from vadum.soil.bearing.taking import Taker
from vadum.soil.errors import ReductionError
from vadum.soil.register import METHODS

CBR, SPOT = METHODS["cbr"], METHODS["field_cbr"]
BS = CBR.school("bs_light")
IN_PLACE = SPOT.school("bs_in_place")
NOON = datetime(2026, 5, 12, 12, 0, tzinfo=UTC)
STANDARD = Curve(tuple(p for p, _ in STANDARD_CURVE), tuple(f for _, f in STANDARD_CURVE))


def rows_of(force, factor=10.0, seated=0.0, called=BS.called_mm):
    return [{"ring_div": seated + 1000 * force(p) / factor} for p in called]


def mould(rows, **more):
    data = {"ring_factor_n_div": 10.0, "top": rows, "top_seated_div": 0, "top_seating_n": 250, **more}
    return CBR.Record.model_validate(data)


def spot(rows, **more):
    data = {"ring_factor_n_div": 10.0, "readings": rows, "seated_div": 0, **more}
    return SPOT.Record.model_validate(data)


def level(outcome, rule):
    return next(v.level for v in outcome.verdicts if v.rule == rule)


@pytest.mark.parametrize("school", ["bs_light", "bs_heavy", "en_13286", "steps_of_five"])
def test_the_standard_material_is_a_hundred_percent(school):
    its = CBR.school(school)
    record = mould(rows_of(lambda p: force_at_kn(STANDARD, p)), expected_percent=100)
    outcome = CBR.outcome(record, its)
    for key in ("top_first_percent", "top_second_percent"):
        assert outcome.value(key).value == pytest.approx(100)
    assert outcome.value("top_zero_correction_mm").value == 0


@given(st.floats(0.2, 1.2), st.floats(8, 90))
def test_a_shifted_curve_comes_back_by_its_shift(shift, percent):
    # Loose by `shift`: almost nothing until then, the same sound ground after it.
    ground = ground_of(percent, 13.2, 2.5, 3.2, 0.0)
    shifted = mould(rows_of(lambda p: ground.force_kn(p - shift) + 0.002 * min(p, shift)))
    (found,) = all_found(shifted, BS)
    assert found.computed.why == "steepens, then bends over"
    # A called curve has a corner every quarter millimetre: the tangent finds the shift to well under half of it.
    assert found.shift_mm == pytest.approx(shift, abs=0.11)
    assert found.ratios[0].percent == pytest.approx(percent, rel=0.05)


@pytest.mark.parametrize(
    ("percent", "newtons", "level_wanted"),
    [
        (4, 10, "fine"),
        (4, 50, "redo"),
        (18, 50, "fine"),
        (18, 10, "watch"),
        (18, 250, "redo"),
        (48, 250, "fine"),
        (48, 50, "watch"),
    ],
)
def test_every_seating_class_is_held_against_the_ratio_found(percent, newtons, level_wanted):
    ground = ground_of(percent, 13.2, 2.5, 2.6, 0.0)
    outcome = SPOT.outcome(spot(rows_of(ground.force_kn), seating_n=newtons, expected_percent=percent), IN_PLACE)
    verdict = next(v for v in outcome.verdicts if v.rule == "seating load of the ratio's class")
    assert verdict.level == level_wanted
    assert "divisions" in verdict.limit, "the class is told in newtons and in ring divisions"


def test_ends_that_agree_are_averaged_and_ends_that_do_not_are_both_reported():
    top, near, far = (ground_of(p, 13.2, 2.5, 2.6, 0.0) for p in (40, 44, 60))
    more = {"bottom_seated_div": 0, "bottom_seating_n": 250}
    both = CBR.outcome(mould(rows_of(top.force_kn), bottom=rows_of(near.force_kn), **more), BS)
    assert both.value("bearing_ratio_percent").value == pytest.approx(42, abs=0.1)
    assert both.value("governs").reported.startswith("The mean, as each end lies within 4.8 % of it")
    apart = CBR.outcome(mould(rows_of(top.force_kn), bottom=rows_of(far.force_kn), **more), BS)
    assert apart.value("bearing_ratio_percent").reported == "40 and 60 %"
    assert level(apart, "both ends agree") == "watch"


def test_a_missed_reading_stays_empty_and_is_told():
    ground = ground_of(40, 13.2, 2.5, 2.6, 0.0)
    rows = rows_of(ground.force_kn)
    rows[7] = {"missed": "missed"}
    outcome = CBR.outcome(mould(rows), BS)
    assert level(outcome, "no called reading missed") == "watch"
    assert len(outcome.series["readings"]) == 30
    rows[9] = rows[10] = rows[11] = {"missed": "missed"}
    assert level(CBR.outcome(mould(rows), BS), "no called reading missed") == "redo"


def test_a_ring_is_never_read_beyond_its_table():
    ring = Ring(table_of("0 0; 100 1.26; 200 2.56"), None, None)
    assert ring_force_kn(ring, divisions_of(ring, 1.9)) == pytest.approx(1.9)
    for beyond in (-1, 200.5):
        with pytest.raises(ReductionError):
            ring_force_kn(ring, beyond)
    rows = [{"ring_div": 8 * i} for i in range(31)]
    record = mould(rows, ring_factor_n_div=None, ring_table="0 0; 100 1.26; 200 2.56")
    outcome = CBR.outcome(record, BS)
    assert level(outcome, "ring within its calibration") == "stop"
    assert outcome.value("bearing_ratio_percent") is None or outcome.value("top_percent").withheld


@pytest.mark.parametrize("wrong", ["0 0", "0 0; 100", "0 0; 100 2; 50 3", "a b; c d"])
def test_a_table_that_is_none_is_refused(wrong):
    with pytest.raises(ValueError, match=r"pair|points|rise|number"):
        table_of(wrong)


@pytest.mark.parametrize(
    ("upto", "stopped", "reported", "words"),
    [
        (8, "reaction lifted", "> ", "Greater than"),
        (14, "called off", "", "alone"),
        (14, "stone under the plunger", "", "stone under the plunger"),
        (18, "ring at its limit", "", "alone"),
    ],
)
def test_a_partial_curve_says_what_it_proves_and_why(upto, stopped, reported, words):
    ground = ground_of(60, 13.2, 2.5, 2.6, 0.0)
    outcome = SPOT.outcome(spot(rows_of(ground.force_kn)[:upto], stopped=stopped), IN_PLACE)
    value = outcome.value("bearing_ratio_percent")
    assert value.reported.startswith(reported)
    assert words in outcome.value("governs").reported
    assert level(outcome, "read to 5 mm") == "watch"


def test_nothing_is_said_of_a_record_too_short_and_not_at_its_limit():
    ground = ground_of(60, 13.2, 2.5, 2.6, 0.0)
    outcome = SPOT.outcome(spot(rows_of(ground.force_kn)[:6], stopped="called off"), IN_PLACE)
    assert outcome.value("bearing_ratio_percent") is None
    assert level(outcome, "read to 5 mm") == "redo"


def test_a_second_ratio_that_is_higher_asks_for_a_repeat_and_is_taken_after_it():
    school = CBR.school("astm_standard")
    rows = rows_of(lambda p: 2.4 * p, called=school.called_mm)
    first = CBR.outcome(mould(rows, top_seating_n=44), school)
    assert first.value("bearing_ratio_percent").provisional
    assert "repeat" in first.value("governs").reported
    again = CBR.outcome(mould(rows, top_seating_n=44, repeated="yes"), school)
    assert level(again, "second ratio not above the first") == "fine"
    assert "5.08" in again.value("governs").reported


def test_an_analysts_zero_stands_beside_the_computed_one():
    ground = ground_of(40, 13.2, 2.5, 2.6, 0.4)
    rows = rows_of(ground.force_kn)
    computed = CBR.outcome(mould(rows), BS)
    drawn = CBR.outcome(mould(rows, top_zero_mm=0.9, top_zero_because="the first three are slack"), BS)
    assert drawn.value("top_zero_correction_mm").value == 0.9
    (mark,) = drawn.series["zeros"]
    assert mark["by"] == "analyst"
    assert f"computed {computed.value('top_zero_correction_mm').value:.2f}" in mark["label"]
    assert drawn.value("top_first_percent").value > computed.value("top_first_percent").value
    worked = {line.gives: line for line in drawn.working}
    assert "slack" in worked["top_zero_correction_mm"].note
    assert level(drawn, "drawn zero near the computed one, with its reason") == "watch"


def test_a_lifted_vehicle_is_told_from_ground_that_yields():
    ground = ground_of(40, 13.2, 2.5, 2.6, 0.0)
    flat = [{"ring_div": min(r["ring_div"], 400)} for r in rows_of(ground.force_kn)]
    quiet = SPOT.outcome(spot(flat), IN_PLACE)
    assert level(quiet, "reaction held") == "fine", "no gauge on the vehicle, no axle load: nothing says that it lifted"
    lifted = SPOT.outcome(spot([*flat[:-1], {**flat[-1], "vehicle_mm": 4.0}], vehicle_zero_mm=0.0), IN_PLACE)
    assert level(lifted, "reaction held") == "redo"
    heavy = SPOT.outcome(spot(flat, axle_kn=5.2, expected_percent=30), IN_PLACE)
    assert level(heavy, "reaction held") == "redo", "the force stands at what the axle gives"


def test_the_pace_is_of_the_last_strokes_and_the_next_call_has_its_time():
    dice = random.Random(1)
    ground = ground_of(40, 13.2, 2.5, 2.6, 0.0)
    rows = called_rows(ground, IN_PLACE, 10.0, 0.0, NOON, dice, upto=9)
    (end,) = spot([r.model_dump() for r in rows]).ends()
    assert pace(end, IN_PLACE).word == "right"
    assert next_call(end, IN_PLACE) == (9, 2.25)
    advice = call_advice(end, IN_PLACE, NOON + timedelta(seconds=123))
    assert advice.due[0].at == rows[-1].read_at + timedelta(seconds=15)
    later = call_advice(end, IN_PLACE, NOON + timedelta(minutes=20))
    assert later.due[0].at is None, "a push that stands still is no reading that falls due"
    hurried = called_rows(ground, IN_PLACE, 10.0, 0.0, NOON, dice, pace=1.6, upto=9)
    (end,) = spot([r.model_dump() for r in hurried]).ends()
    assert pace(end, IN_PLACE).word == "too fast"


def test_readings_between_samples_only_where_the_school_allows():
    before, after = Sample(10.0, 2.495, 300.0), Sample(10.5, 2.503, 302.0)
    assert taken(2.5, before, after, True).penetration_mm == 2.5
    assert taken(2.5, before, after, True).reading == pytest.approx(301.25)
    assert taken(2.5, before, after, False) == after
    with pytest.raises(ValueError, match="between"):
        taken(2.6, before, after, True)


def samples(*parts):
    """Samples at 10 a second from (mm/min, seconds) parts."""
    out, t, p = [], 0.0, 0.0
    for rate, seconds in parts:
        for _ in range(int(10 * seconds)):
            out.append(Sample(round(t, 3), round(p, 4), 20 + 100 * p))
            t, p = t + 0.1, p + rate / 600
    return out


def test_a_taker_takes_each_call_once_and_makes_nothing_up():
    taker = Taker(BS)
    events = [e for s in samples((1.0, 200)) for e in taker.hear(s)]
    assert [e.row for e in events] == list(range(14))
    assert all(e.what == "taken" and e.sample.penetration_mm == BS.called_mm[e.row] for e in events)
    steady = samples((1.0, 200))
    gone = [s for s in steady if not 40 < s.seconds < 80]
    lost = Taker(BS)
    events = [e for s in gone for e in lost.hear(s)]
    missed = [e for e in events if e.what == "missed"]
    assert [BS.called_mm[e.row] for e in missed] == [0.75, 1.0, 1.25]
    assert {e.note for e in missed} == {"line lost"}


def test_a_taker_notes_a_datum_that_jumps_and_a_gauge_that_sticks():
    steady = samples((1.0, 120))
    jumped = [s if s.seconds < 60 else s._replace(penetration_mm=s.penetration_mm - 0.6) for s in steady]
    taker = Taker(BS)
    assert [e.note for s in jumped for e in taker.hear(s) if e.what == "noted"] == ["datum jumped"]
    stuck = [s if not 40 < s.seconds < 70 else s._replace(penetration_mm=0.6667) for s in steady]
    taker = Taker(BS)
    events = [e for s in stuck for e in taker.hear(s)]
    assert "gauge stuck" in [e.note for e in events if e.what == "noted"]
    assert [BS.called_mm[e.row] for e in events if e.what == "missed"] == [0.75, 1.0]


def test_both_gauges_leave_their_calibration_on_the_record_only_when_due():
    late = CBR.outcome(mould([], proving_ring="R3", proving_ring_in_date="no", gauge_in_date="yes"), BS)
    assert level(late, "proving ring in date") == "watch"
    assert level(late, "penetration gauge in date") == "fine"


def test_four_days_of_soaking_are_led_by_the_bench():
    record = CBR.virtual(3, BS, None).record.model_copy(
        update={"swell": (), "soak_ended_at": None, "top": (), "bottom": (), "soak_started_at": NOON}
    )
    for day in range(1, 5):
        advice = CBR.judge(record, BS, NOON + timedelta(days=day - 1, hours=2)).advice
        due = next(d for d in advice.due if d.path.startswith("swell"))
        assert due.at == NOON + timedelta(days=day)
        row = {"gauge_mm": 1.0 + 0.1 * day, "read_at": due.at}
        swell = [*(s.model_dump() for s in record.swell), row]
        record = CBR.Record.model_validate({**record.model_dump(), "swell": swell})
    advice = CBR.judge(record, BS, NOON + timedelta(days=4, minutes=1)).advice
    assert advice.wants == ("soak_ended_at",)
    assert CBR.outcome(record, BS).value("swell_percent").value == pytest.approx(100 * 0.4 / 127, abs=1e-6)


@pytest.mark.parametrize("name", ["cbr", "field_cbr"])
def test_practice_names_late_calls_a_wrong_seating_and_a_tangent_drawn_elsewhere(name):
    method = METHODS[name]
    school = method.school()
    seed = next(s for s in range(40) if practice.ground_under(name, s, school, "top")[1].loose_mm > 0.3)
    percent, ground = practice.ground_under(name, seed, school, "top" if name == "cbr" else "spot")
    record = method.virtual(seed, school, None).record
    factor = record.ring_factor_n_div
    (rows, prefix) = ("top", "top_") if name == "cbr" else ("readings", "")
    late = [
        CalledRow(ring_div=1000 * ground.force_kn(p + (0.12 if 3 <= i <= 8 else 0)) / factor)
        for i, p in enumerate(school.called_mm)
    ]
    good = {rows: late, f"{prefix}seated_div": 0.0}
    bad = {**good, f"{prefix}seating_n": 10.0, f"{prefix}zero_mm": 1.9, f"{prefix}zero_because": "x"}
    if name == "cbr":
        bad |= {"bottom": (), "bottom_seating_n": None}
    seen = {
        m.name: m.seen
        for m in practice.mistakes(
            method, school, seed, record.model_copy(update=bad), method.outcome(record.model_copy(update=bad), school)
        )
    }
    assert "6 calls" in seen["calls late or early"]
    assert "s late" in seen["calls late or early"]
    assert f"{percent:.2g}" in seen["seating of the wrong class"]
    assert "1.9 mm" in seen["tangent drawn elsewhere"]


@pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)
def test_every_method_can_be_practised_and_its_own_readings_are_no_mistake(method):
    school = method.school()
    record = method.virtual(11, school, None).record
    outcome = method.judge(record, school, NOON)
    if not method.decides:  # else its readings answer to the water that was chosen: tried below
        assert all(m.name != "misread" for m in practice.mistakes(method, school, 11, record, outcome))
    found = practice.compared(method, school, 11, outcome)
    assert found
    assert all(c.found is not None for c in found)
    wants = method.judge(method.Record(), school, NOON).advice.wants
    shown = practice.answers(method, school, 11, method.Record(), wants)
    assert shown or all(practice.decided(w, method) for w in wants), wants
    json.dumps([a._asdict() for a in shown])


def test_a_number_written_otherwise_than_shown_is_named():
    method = METHODS["ring_density"]
    school = method.school()
    record = method.virtual(11, school, None).record
    wrong = record.model_copy(update={"mass_wet_g": record.mass_wet_g + 10})
    seen = practice.mistakes(method, school, 11, wrong, method.outcome(wrong, school))
    assert any(m.name == "misread" and "tin + wet soil" in m.seen for m in seen)


def test_governing_is_one_sentence_while_it_grows():
    ground = ground_of(40, 13.2, 2.5, 2.6, 0.0)
    for upto in (4, 12, 22, 31):
        record = spot(rows_of(ground.force_kn)[:upto])
        (found,) = all_found(record, IN_PLACE)
        its = governing(found, record, IN_PLACE)
        assert (its is None) == (upto < 11)
        if its:
            assert its.sentence.count(".") >= 1
            assert "so far" in its.sentence or "governs" in its.sentence


def test_a_load_cell_needs_no_ring():
    ground = ground_of(40, 13.2, 2.5, 2.6, 0.0)
    rows = [{"force_kn": ground.force_kn(p)} for p in BS.called_mm]
    data = {"force_by": "load cell", "readings": rows, "seating_n": 250, "expected_percent": 40}
    record = SPOT.Record.model_validate(data)
    assert SPOT.outcome(record, IN_PLACE).value("bearing_ratio_percent").value == pytest.approx(40, rel=0.01)
    more = {"axle_kn": 38, "springs": "raised clear", "stands": "bear", "surcharge_kg": 4, "readings": rows[:3]}
    part = SPOT.Record.model_validate({**data, **more})
    assert SPOT.judge(part, IN_PLACE, NOON).advice.wants == ("readings[3].force_kn",)


def test_where_the_school_allows_nothing_between_samples_the_nearer_one_is_taken_as_it_is():
    taker = Taker(SPOT.school("bs_steps"))
    events = [e for s in samples((1.0, 60)) for e in taker.hear(s) if e.what == "taken" and e.row]
    heard = {s.penetration_mm: s.reading for s in samples((1.0, 60))}
    assert len(events) == 3
    for event in events:
        assert heard[event.sample.penetration_mm] == event.sample.reading
        assert event.sample.penetration_mm == pytest.approx(0.25 * event.row, abs=0.0009)


def practised(method, school, seed, chosen):
    """A practice from nothing to its end, the water as `chosen` makes it of the advice."""
    record, now = method.Record(), NOON
    for _ in range(120):
        outcome = method.judge(record, school, now)
        advice = outcome.advice
        if advice.finished:
            return record, outcome
        path = next(p for p in advice.wants if p not in flat(record))
        if path.endswith("_at"):
            value, now = now, now + timedelta(hours=20)
        elif practice.decided(path, method):
            told = re.search(r"[\d.]+", advice.amount)
            value = chosen(float(told[0]) if told else 25.0)
            value = -value if "lose" in advice.amount_note else value
        else:
            shown = practice.answers(method, school, seed, record, (path,))
            if not shown:
                return record, outcome
            value = shown[0].value
        record = with_reading(method, record, path, value)
    raise AssertionError(advice.headline)


@pytest.mark.parametrize(("name", "within"), [("liquid_limit", 2.0), ("compaction", 0.8)])
def test_practice_answers_to_the_water_that_was_chosen(name, within):
    method = METHODS[name]
    school = method.school()
    key = "liquid_limit_percent" if name == "liquid_limit" else "optimum_water_percent"
    for seed in (2, 8):
        record, outcome = practised(method, school, seed, lambda ml: round(ml, 1))
        truth = practice.truth_of(method, school, seed).truth[key]
        assert outcome.value(key).value == pytest.approx(truth, abs=within)
        assert not [m for m in practice.mistakes(method, school, seed, record, outcome) if m.name == "misread"]
    rows = "trials" if name == "liquid_limit" else "points"
    record = with_reading(method, practised(method, school, 2, lambda ml: ml)[0], "remarks", "one more")
    first = getattr(record, rows)[0].water_added_ml
    fields = ("mass_dish_g", "blows") if name == "liquid_limit" else ("mass_with_soil_g",)
    wetter = [dict(r) for r in record.model_dump()[rows]]
    wetter[0]["water_added_ml"] = first + 4
    other = method.Record.model_validate({**record.model_dump(), rows: wetter})
    for field in fields:
        path = f"{rows}[0].{field}"
        assert method.answers(2, school, other, path) != method.answers(2, school, record, path)
