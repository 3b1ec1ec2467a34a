"""The grading's picture and the soil card's; readings as ticks, stones that touch, words that do not run together."""

import itertools
from datetime import timedelta

import pytest

from tests.figures.test_pictures_and_paper import due, flow, named_data
from vadum.bench.moments import Moment, clashes
from vadum.bench.river import river
from vadum.figures.grading import classes
from vadum.figures.soil_card import GRADING, PLASTICITY
from vadum.figures.theme import stacked_bar, svg
from vadum.soil.contract.outcome import Due, Outcome
from vadum.soil.shared.grading import BOUNDARIES
from vadum.soil.soil_card.card import card


@pytest.mark.parametrize("system", BOUNDARIES)
def test_the_size_classes_cover_the_axis_without_a_gap(system):
    band, words = classes(system, 0.0006, 100.0)
    rows = words["data"]["values"]
    assert rows[0]["to"] == 100.0
    assert rows[-1]["from"] == 0.0006
    assert all(a["from"] == b["to"] for a, b in itertools.pairwise(rows))
    assert {"clay", "silt", "sand", "gravel"} <= {r["name"] for r in rows}
    assert band["data"]["values"] == rows


def test_the_cards_pictures_read_only_what_a_card_gives():
    known = card([])
    for figure in (GRADING, PLASTICITY):
        spec = figure.spec(None)
        assert named_data(spec) <= set(known.series)
        drawn = svg(figure, None, Outcome(method="card", school="", series=known.series))
        assert drawn.startswith("<svg")
        assert "style=" not in drawn


def test_a_bar_of_shares_has_a_tone_for_each_and_names_a_narrow_one_above():
    bar, words, above = stacked_bar("parts", "part", {"stones": "#000", "fine earth": "#fff"})
    assert bar["encoding"]["color"]["scale"]["domain"] == ["stones", "fine earth"]
    for named_in in (words, above):
        assert named_in["encoding"]["text"] == {"field": "label"}
    assert above["encoding"]["y"]["value"] + above["mark"]["fontSize"] / 2 < bar["encoding"]["y"]["value"] - 32


def reading(at, label, lead=30):
    return Due(what=f"read {label}", kind="reading", at=at, hands_s=75, lead_s=lead, window_s=5, label=label)


def test_readings_are_ticks_at_their_moment_and_stones_that_begin_before_it(now):
    at = now + timedelta(minutes=10)
    drawn = river([flow("HY", now, reading(at, "B 8 min"))], now, "hour", set())
    [lane] = drawn.lanes
    [tick] = lane.ticks
    [stone] = lane.stones
    assert tick == pytest.approx(drawn.now_x + 600 * drawn.pixels_per_second, abs=0.2)
    assert stone.x - stone.width / 2 == pytest.approx(drawn.now_x + 570 * drawn.pixels_per_second, abs=0.2)


def test_hands_that_are_at_a_reading_already_are_not_late(now):
    begun = reading(now + timedelta(seconds=10), "B 8 min")
    over = reading(now - timedelta(seconds=10), "C 4 min")
    states = [river([flow("HY", now, d)], now, "hour", set()).lanes[0].stones[0].state for d in (begun, over)]
    assert states == ["now", "late"]


def test_stones_that_touch_become_one_and_keep_every_tick(now):
    dues = [reading(now + timedelta(minutes=m), f"{m} min") for m in (2, 4, 8, 16, 32, 60, 240)]
    drawn = river([flow("HY", now, *dues)], now, "day", set())
    [lane] = drawn.lanes
    assert len(lane.ticks) == 7
    assert len(lane.stones) < 7
    for a, b in zip(lane.stones, lane.stones[1:], strict=False):
        assert a.x + a.width / 2 <= b.x - b.width / 2 + 0.2
    assert "read 2 min; read 4 min" in lane.stones[0].title


def test_words_that_would_run_together_are_left_to_the_title(now):
    dues = [reading(now + timedelta(minutes=m), f"cylinder B {m} min") for m in (5, 8, 30)]
    labels = [s.label for s in river([flow("HY", now, *dues)], now, "hour", set()).lanes[0].stones]
    assert labels == ["cylinder B 5 min", "", "cylinder B 30 min"]


def test_a_clash_is_seen_through_the_hands_that_begin_before_the_moment(now):
    first = Moment("A", "T", "w", due(now + timedelta(minutes=5), hands=60))
    late = Moment("B", "T", "w", reading(now + timedelta(minutes=6, seconds=20), "x"))
    clear = Moment("C", "T", "w", reading(now + timedelta(minutes=6, seconds=31), "x"))
    assert [(a.run_code, b.run_code) for a, b in clashes([first, late], now)] == [("A", "B")]
    assert clashes([first, clear], now) == []


def test_both_sides_of_a_clash_are_marked(now):
    at = now + timedelta(minutes=6)
    flows = [flow("A", now, due(now + timedelta(minutes=5), hands=120)), flow("B", now, reading(at, "x"))]
    pairs = clashes([m for f in flows for m in f.moments], now)
    marks = {f"{m.run_code}{m.due.at.isoformat()}" for pair in pairs for m in pair}
    states = {lane.code: lane.stones[0].state for lane in river(flows, now, "hour", marks).lanes}
    assert states == {"A": "clash", "B": "clash"}
