"""Practice in the core: what the virtual soil answers, and the mistakes that are named."""

import importlib
import json
import re
from datetime import UTC, datetime, timedelta

import pytest

from tests.calls import by_travel
from tests.soil.test_following_advice import flat, with_reading
from vadum.soil import practice
from vadum.soil.register import METHODS
from vadum.soil.shared.bearing.calls import pace_of
from vadum.soil.shared.bearing.curve import STANDARD_CURVE, Curve
from vadum.soil.shared.bearing.practice import first_pace_mm_min
from vadum.soil.shared.bearing.record import CalledRow
from vadum.soil.shared.bearing.rules import SEATING_RULE

CBR, SPOT = METHODS["cbr"], METHODS["field_cbr"]
BS = CBR.school("bs_light")
IN_PLACE = SPOT.school("bs_in_place")


def under_of(name):
    """The hidden ground of a method whose plunger is pushed."""
    return importlib.import_module(f"vadum.soil.methods.{name}.virtual").under


NOON = datetime(2026, 5, 12, 12, 0, tzinfo=UTC)
STANDARD = Curve(tuple(p for p, _ in STANDARD_CURVE), tuple(f for _, f in STANDARD_CURVE))


@pytest.mark.parametrize("name", ["cbr", "field_cbr"])
def test_practice_names_late_calls_a_wrong_seating_and_a_tangent_drawn_elsewhere(name):
    method = METHODS[name]
    school = method.school()
    seed = next(s for s in range(40) if under_of(name)(s, school, "top")[1].loose_mm > 0.3)
    percent, ground = under_of(name)(seed, school, "top" if name == "cbr" else "spot")
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
    assert SEATING_RULE not in seen, "one seating is one mistake"
    truth = practice.truth_series(method, school, seed, record)["truth"]
    first = [r for r in truth if r["end"] != "bottom end"]
    assert [r["force_kn"] for r in first] == pytest.approx([ground.force_kn(r["penetration_mm"]) for r in first])
    assert first[-1]["penetration_mm"] == school.called_mm[-1]
    assert sum(bool(r["label"]) for r in truth) == 1


def test_practice_names_a_wrong_rate_and_a_hand_begins_outside_the_band():
    record = SPOT.virtual(4, IN_PLACE, "slow").record
    seen = {m.name: m for m in practice.mistakes(SPOT, IN_PLACE, 4, record, SPOT.outcome(record, IN_PLACE))}
    assert "0.5 mm/min" in seen["rate of penetration"].seen
    assert seen["rate of penetration"].better
    assert "calls late or early" not in seen, "a slow hand that reads at the call is slow, not late"
    for seed in (1, 2):
        assert pace_of(IN_PLACE).word(first_pace_mm_min(seed, IN_PLACE)) != "right"
    assert SPOT.practice.by_hand
    assert not CBR.practice.by_hand


@pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)
def test_every_method_can_be_practised_and_its_own_readings_are_no_mistake(method):
    school = method.school()
    record = method.virtual(11, school, None).record
    outcome = method.judge(record, school, NOON)
    # Where it decides how much, its readings answer to the water that was chosen: tried below.
    if not method.practice.decides or method.practice.address:
        assert all(m.name != "misread" for m in practice.mistakes(method, school, 11, record, outcome))
    found = practice.compared(method, school, 11, outcome)
    assert found
    assert all(c.found is not None for c in found)
    wants = method.judge(method.Record(), school, NOON).advice.wants
    shown = practice.answers(method, school, 11, method.Record(), wants)
    assert shown or all(practice.decided(w, method) for w in wants), wants
    json.dumps([a._asdict() for a in shown])


def test_only_what_a_travel_calls_has_a_hidden_curve():
    for method in METHODS.values():
        record = method.virtual(3, method.school(), None).record
        shown = practice.truth_series(method, method.school(), 3, record)
        assert bool(shown) == by_travel(method, record)
        assert method.outcome(record, method.school()).series.get("truth", ()) == (), "never in an outcome"


def test_a_number_written_otherwise_than_shown_is_named():
    method = METHODS["ring_density"]
    school = method.school()
    record = method.virtual(11, school, None).record
    wrong = record.model_copy(update={"mass_wet_g": record.mass_wet_g + 10})
    seen = practice.mistakes(method, school, 11, wrong, method.outcome(wrong, school))
    assert any(m.name == "misread" and "tin + wet soil" in m.seen for m in seen)


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
        truth = method.virtual(seed, school, None).truth[key]
        assert outcome.value(key).value == pytest.approx(truth, abs=within)
        assert not [m for m in practice.mistakes(method, school, seed, record, outcome) if m.name == "misread"]
    rows = "trials" if name == "liquid_limit" else "points"
    record = with_reading(method, practised(method, school, 2, lambda ml: ml)[0], "remarks", "one more")
    first = getattr(record, rows)[0].water_added_ml
    fields = ("mass_dish_g", "blows") if name == "liquid_limit" else ("mass_with_soil_g",)
    wetter = [dict(r) for r in record.model_dump()[rows]]
    wetter[0]["water_added_ml"] = first + 90  # far enough to close at once
    other = method.Record.model_validate({**record.model_dump(), rows: wetter})
    for field in fields:
        path = f"{rows}[0].{field}"
        assert method.practice.answers(2, school, other, path) != method.practice.answers(2, school, record, path)
