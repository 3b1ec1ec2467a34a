"""Both bearing ratios end to end in the core: the standard curve, shifts, seatings, ends, partial curves, calls."""

import random
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vadum.soil.contract.call_advice import travel_advice
from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.timetable import next_slot
from vadum.soil.contract.travel import rate_of
from vadum.soil.register import METHODS
from vadum.soil.shared.bearing.calls import called_of
from vadum.soil.shared.bearing.curve import STANDARD_CURVE, Curve, force_at_kn
from vadum.soil.shared.bearing.ends import governing, pushes_of
from vadum.soil.shared.bearing.virtual_push import called_rows
from vadum.soil.shared.load_curve import load_curve_of
from vadum.soil.shared.proving_ring import Ring, divisions_of, ring_force_kn, table_of

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
    ground = load_curve_of(percent, 13.2, 2.5, 3.2, 0.0)
    shifted = mould(rows_of(lambda p: ground.force_kn(p - shift) + 0.002 * min(p, shift)))
    (found,) = pushes_of(shifted, BS)
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
    ground = load_curve_of(percent, 13.2, 2.5, 2.6, 0.0)
    outcome = SPOT.outcome(spot(rows_of(ground.force_kn), seating_n=newtons, expected_percent=percent), IN_PLACE)
    verdict = next(v for v in outcome.verdicts if v.rule == "seating load of the ratio's class")
    assert verdict.level == level_wanted
    assert "divisions" in verdict.limit, "the class is told in newtons and in ring divisions"


def test_ends_that_agree_are_averaged_and_ends_that_do_not_are_both_reported():
    top, near, far = (load_curve_of(p, 13.2, 2.5, 2.6, 0.0) for p in (40, 44, 60))
    more = {"bottom_seated_div": 0, "bottom_seating_n": 250}
    both = CBR.outcome(mould(rows_of(top.force_kn), bottom=rows_of(near.force_kn), **more), BS)
    assert both.value("bearing_ratio_percent").value == pytest.approx(42, abs=0.1)
    assert both.value("governs").reported.startswith("The mean, as each end lies within 4.8 % of it")
    apart = CBR.outcome(mould(rows_of(top.force_kn), bottom=rows_of(far.force_kn), **more), BS)
    assert apart.value("bearing_ratio_percent").reported == "40 and 60 %"
    assert level(apart, "both ends agree") == "watch"


def test_a_missed_reading_stays_empty_and_is_told():
    ground = load_curve_of(40, 13.2, 2.5, 2.6, 0.0)
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
    ground = load_curve_of(60, 13.2, 2.5, 2.6, 0.0)
    outcome = SPOT.outcome(spot(rows_of(ground.force_kn)[:upto], stopped=stopped), IN_PLACE)
    value = outcome.value("bearing_ratio_percent")
    assert value.reported.startswith(reported)
    assert words in outcome.value("governs").reported
    assert level(outcome, "read to 5 mm") == "watch"


def test_nothing_is_said_of_a_record_too_short_and_not_at_its_limit():
    ground = load_curve_of(60, 13.2, 2.5, 2.6, 0.0)
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
    ground = load_curve_of(40, 13.2, 2.5, 2.6, 0.4)
    rows = rows_of(ground.force_kn)
    computed = CBR.outcome(mould(rows), BS)
    drawn = CBR.outcome(mould(rows, top_zero_mm=0.9, top_zero_because="the first three are slack"), BS)
    assert drawn.value("top_zero_correction_mm").value == 0.9
    (mark,) = drawn.series["handles"]
    assert mark["by"] == "analyst"
    assert f"computed {computed.value('top_zero_correction_mm').value:.2f}" in mark["label"]
    assert drawn.value("top_first_percent").value > computed.value("top_first_percent").value
    worked = {line.gives: line for line in drawn.working}
    assert "slack" in worked["top_zero_correction_mm"].note
    assert level(drawn, "drawn zero near the computed one, with its reason") == "watch"


def test_a_lifted_vehicle_is_told_from_ground_that_yields():
    ground = load_curve_of(40, 13.2, 2.5, 2.6, 0.0)
    flat = [{"ring_div": min(r["ring_div"], 400)} for r in rows_of(ground.force_kn)]
    quiet = SPOT.outcome(spot(flat), IN_PLACE)
    assert level(quiet, "reaction held") == "watch", "no gauge on the vehicle, no axle load: it may have lifted"
    lifted = SPOT.outcome(spot([*flat[:-1], {**flat[-1], "vehicle_mm": 4.0}], vehicle_zero_mm=0.0), IN_PLACE)
    assert level(lifted, "reaction held") == "redo"
    heavy = SPOT.outcome(spot(flat, axle_kn=5.2, expected_percent=30), IN_PLACE)
    assert level(heavy, "reaction held") == "redo", "the force stands at what the axle gives"


def test_the_pace_is_of_the_last_strokes_and_the_next_call_has_its_time():
    dice = random.Random(1)
    ground = load_curve_of(40, 13.2, 2.5, 2.6, 0.0)
    rows = called_rows(ground, IN_PLACE, 10.0, 0.0, NOON, dice, upto=9)
    record = spot([r.model_dump() for r in rows])
    (end,) = record.ends()
    called = called_of(record, end, IN_PLACE)
    assert called.pace.word(rate_of(called)) == "right"
    assert next_slot(called, NOON)[:2] == (9, 2.25)
    advice = travel_advice(called, "the ring", "", NOON + timedelta(seconds=123), IN_PLACE.interval_s(9))
    assert advice.due[0].at == rows[-1].read_at + timedelta(seconds=15)
    later = travel_advice(called, "the ring", "", NOON + timedelta(minutes=20), IN_PLACE.interval_s(9))
    assert later.due[0].at is None, "a push that stands still is no reading that falls due"
    hurried = called_rows(ground, IN_PLACE, 10.0, 0.0, NOON, dice, pace=1.6, upto=9)
    record = spot([r.model_dump() for r in hurried])
    called = called_of(record, record.ends()[0], IN_PLACE)
    assert called.pace.word(rate_of(called)) == "too fast"


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


def test_governing_is_one_sentence_while_it_grows():
    ground = load_curve_of(40, 13.2, 2.5, 2.6, 0.0)
    for upto in (4, 12, 22, 31):
        record = spot(rows_of(ground.force_kn)[:upto])
        (found,) = pushes_of(record, IN_PLACE)
        its = governing(found, record, IN_PLACE)
        assert (its is None) == (upto < 11)
        if its:
            assert its.sentence.count(".") >= 1
            assert "so far" in its.sentence or "governs" in its.sentence


def test_a_load_cell_needs_no_ring():
    ground = load_curve_of(40, 13.2, 2.5, 2.6, 0.0)
    rows = [{"force_kn": ground.force_kn(p)} for p in BS.called_mm]
    data = {"force_by": "load cell", "readings": rows, "seating_n": 250, "expected_percent": 40}
    record = SPOT.Record.model_validate(data)
    assert SPOT.outcome(record, IN_PLACE).value("bearing_ratio_percent").value == pytest.approx(40, rel=0.01)
    more = {"axle_kn": 38, "springs": "raised clear", "stands": "bear", "surcharge_kg": 4, "readings": rows[:3]}
    part = SPOT.Record.model_validate({**data, **more})
    assert SPOT.judge(part, IN_PLACE, NOON).advice.wants == ("readings[3].force_kn",)


def said(rows, **more):
    """What the call desk says at once after these ring readings."""
    record = spot([{"ring_div": d} for d in rows], springs="raised clear", stands="bear", surcharge_kg=4, **more)
    ready = {"expected_percent": 30, "axle_kn": 38, "seating_n": 50, "seated_div": 0}
    record = record.model_copy(update={k: v for k, v in ready.items() if k not in more})
    return SPOT.judge(record, IN_PLACE, NOON).advice.alarm


BEYOND = "Reading 3: 275 divisions. Stop the push; use a stiffer ring, or strike the reading if it is a slip."
FELL = (
    "Falls by 0.4 kN to reading 4. Look at reading 4: a slip is corrected; a crack, a stone or a lifted reaction "
    "is noted."
)
LIFTS = (
    "Force stands at 1.91 kN from reading 3. Stop: the vehicle lifts. What was reached before counts, or repeat "
    "with more load."
)


@pytest.mark.parametrize(
    ("rows", "more", "words"),
    [
        ([0, 100, 190], {}, ""),
        ([0, 100, 190], {"ring_most_div": 280.0}, ""),
        ([0, 100, 190], {"ring_most_div": 270.0}, "The ring comes to its 270 divisions at about 0.72 mm: stop."),
        (
            [0, 100, 275],
            {"ring_most_div": 270.0},
            BEYOND,
        ),
        ([0, 100, 190], {"gauge_travel_mm": 0.7}, "The gauge's travel of 0.7 mm ends before the next call: stop."),
        ([0, 100, 190, 150], {}, FELL),
        ([0, 100, 190, 189], {}, ""),
        ([0, 100, 190], {"axle_kn": 2.4}, "1.9 of the axle's 1.92 kN: it is about to lift. Watch the stands."),
        ([0, 100, 190, *[191] * 5], {"axle_kn": 2.4}, LIFTS),
        ([0, 100, 190, *[191] * 5], {}, ""),
    ],
)
def test_what_cannot_wait_for_the_end_of_a_push_is_said_at_once(rows, more, words):
    assert said(rows, **more) == words


def test_a_vehicle_that_moves_is_told_while_the_force_stands():
    rows = [{"ring_div": d} for d in (0, 100, 190, *[191] * 5)]
    rows[-1]["vehicle_mm"] = 1.2
    record = spot(rows, springs="raised clear", stands="bear", surcharge_kg=4, vehicle_zero_mm=0.0, axle_kn=38.0)
    record = record.model_copy(update={"expected_percent": 30.0, "seating_n": 50.0, "seated_div": 0.0})
    assert "the vehicle lifts" in SPOT.judge(record, IN_PLACE, NOON).advice.alarm
