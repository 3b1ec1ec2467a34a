"""From samples to called readings: each call once, nothing made up, troubles noted."""

from datetime import UTC, datetime

import pytest

from tests.calls import called_by, sample
from vadum.recording.sampling import Taker
from vadum.soil.contract.travel import sample_at as taken
from vadum.soil.register import METHODS
from vadum.soil.shared.bearing.curve import STANDARD_CURVE, Curve

CBR, SPOT = METHODS["cbr"], METHODS["field_cbr"]
BS = CBR.school("bs_light")
CALLED = called_by("cbr", BS)
IN_PLACE = SPOT.school("bs_in_place")
NOON = datetime(2026, 5, 12, 12, 0, tzinfo=UTC)
STANDARD = Curve(tuple(p for p, _ in STANDARD_CURVE), tuple(f for _, f in STANDARD_CURVE))


def test_readings_between_samples_only_where_the_school_allows():
    before, after = sample(10.0, 2.495, 300.0), sample(10.5, 2.503, 302.0)
    assert taken(2.5, before, after, True).travel == 2.5
    assert taken(2.5, before, after, True).figures["ring"] == pytest.approx(301.25)
    assert taken(2.5, before, after, False) == after
    with pytest.raises(ValueError, match="between"):
        taken(2.6, before, after, True)


def samples(*parts):
    """Samples at 10 a second from (mm/min, seconds) parts."""
    out, t, p = [], 0.0, 0.0
    for rate, seconds in parts:
        for _ in range(int(10 * seconds)):
            out.append(sample(round(t, 3), round(p, 4), 20 + 100 * p))
            t, p = t + 0.1, p + rate / 600
    return out


def test_a_taker_takes_each_call_once_and_makes_nothing_up():
    taker = Taker(CALLED)
    events = [e for s in samples((1.0, 200)) for e in taker.hear(s)]
    assert [e.row for e in events] == list(range(14))
    assert all(e.what == "taken" and e.sample.travel == BS.called_mm[e.row] for e in events)
    steady = samples((1.0, 200))
    gone = [s for s in steady if not 40 < s.seconds < 80]
    lost = Taker(CALLED)
    events = [e for s in gone for e in lost.hear(s)]
    missed = [e for e in events if e.what == "missed"]
    assert [BS.called_mm[e.row] for e in missed] == [0.75, 1.0, 1.25]
    assert {e.note for e in missed} == {"line lost"}


def test_a_taker_notes_a_datum_that_jumps_and_a_gauge_that_sticks():
    steady = samples((1.0, 120))
    jumped = [s if s.seconds < 60 else s._replace(travel=s.travel - 0.6) for s in steady]
    taker = Taker(CALLED)
    assert [e.note for s in jumped for e in taker.hear(s) if e.what == "noted"] == ["datum jumped"]
    stuck = [s if not 40 < s.seconds < 70 else s._replace(travel=0.6667) for s in steady]
    taker = Taker(CALLED)
    events = [e for s in stuck for e in taker.hear(s)]
    assert "gauge stuck" in [e.note for e in events if e.what == "noted"]
    assert [BS.called_mm[e.row] for e in events if e.what == "missed"] == [0.75, 1.0]


def test_where_the_school_allows_nothing_between_samples_the_nearer_one_is_taken_as_it_is():
    taker = Taker(called_by("field_cbr", SPOT.school("bs_steps")))
    events = [e for s in samples((1.0, 60)) for e in taker.hear(s) if e.what == "taken" and e.row]
    heard = {s.travel: s.figures["ring"] for s in samples((1.0, 60))}
    assert len(events) == 3
    for event in events:
        assert heard[event.sample.travel] == event.sample.figures["ring"]
        assert event.sample.travel == pytest.approx(0.25 * event.row, abs=0.0009)


def test_an_instrument_that_speaks_seldom_is_waited_for_as_long_as_its_profile_says():
    slow = [sample(5.0 * i, 5.0 * i / 60, 20 + 30 * i) for i in range(8)]
    patient, other = Taker(CALLED, 0, most_gap_s=6.0), Taker(CALLED, 0)
    taken = [e for s in slow for e in patient.hear(s) if e.what == "taken"]
    assert [e.row for e in taken] == [0, 1, 2]
    assert taken[1].sample.travel == 0.25
    assert all(e.note == "line lost" for s in slow for e in other.hear(s) if e.what == "missed" and e.row)
