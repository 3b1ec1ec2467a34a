"""Properties of taking readings out of samples, and the command line of the instruments."""

import itertools
import re
import subprocess
import sys

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.calls import called_by, sample
from vadum.recording.sampling import MOST_GAP_S, MOST_STEP_MM, Taker
from vadum.soil.register import METHODS
from vadum.soil.shared.proving_ring import Ring, divisions_of, ring_force_kn

SCHOOLS = [METHODS["cbr"].school(n) for n in ("bs_light", "steps_of_five", "astm_standard")]


@st.composite
def streams(draw):
    """Samples of a gauge that goes on, stands, leaps, falls back, and of a line with gaps."""
    seconds, penetration, out = 0.0, draw(st.sampled_from([0.0, 0.0, 0.004, 0.9])), []
    for _ in range(draw(st.integers(5, 120))):
        seconds += draw(st.sampled_from([0.1, 0.1, 0.1, 0.5, 8.0]))
        penetration += draw(st.sampled_from([0.0, 0.01, 0.03, 0.06, 0.06, 0.4, -0.3]))
        out.append(sample(round(seconds, 3), round(max(0.0, penetration), 4), 20 + 80 * max(0.0, penetration)))
    return out


@given(streams(), st.sampled_from(SCHOOLS))
def test_each_call_is_answered_once_in_order_and_never_from_nothing(stream, school):
    taker = Taker(called_by("cbr", school))
    events = [e for s in stream for e in taker.hear(s)]
    answered = [e.row for e in events if e.what in ("taken", "missed")]
    assert answered == list(range(len(answered)))
    shown = [s.travel for s in stream]
    for event in events:
        if event.what != "taken":
            assert event.sample is None
            continue
        called, read = school.called_mm[event.row], event.sample
        assert min(shown) <= read.travel <= max(shown) or read.travel == called == 0
        assert abs(read.travel - called) <= (1e-9 if school.interpolates and event.row else MOST_STEP_MM)
        if not school.interpolates and event.row:
            assert any(s.figures["ring"] == read.figures["ring"] for s in stream), "no figure that was not heard"


@given(streams())
def test_no_reading_is_taken_across_a_gap_or_a_leap(stream):
    taker = Taker(called_by("cbr", SCHOOLS[0]))
    before = None
    for one in stream:
        taken = [e for e in taker.hear(one) if e.what == "taken" and e.row]
        if before is not None and taken:
            assert one.seconds - before.seconds <= MOST_GAP_S
            assert one.travel - before.travel <= MOST_STEP_MM
        before = one


@given(
    st.lists(st.tuples(st.floats(1, 60), st.floats(0.01, 0.9)), min_size=2, max_size=12),
    st.floats(0, 1),
)
def test_divisions_and_force_are_each_others_inverse_on_a_table(steps, share):
    divisions = [0.0, *itertools.accumulate(d for d, _ in steps)]
    forces = [0.0, *itertools.accumulate(f for _, f in steps)]
    ring = Ring(tuple(zip(divisions, forces, strict=True)), None, None)
    force = share * forces[-1]
    assert ring_force_kn(ring, divisions_of(ring, force)) == pytest.approx(force, abs=1e-9)


def vadum(*arguments):
    return subprocess.run(
        [sys.executable, "-m", "vadum.cli", "instruments", *arguments], capture_output=True, text=True, timeout=60
    )


def test_a_simulated_instrument_is_heard_from_the_command_line():
    simulate = [sys.executable, "-m", "vadum.cli", "instruments", "simulate", "--kind", "level"]
    running = subprocess.Popen([*simulate, "--port", "0", "--seconds", "60"], stdout=subprocess.PIPE, text=True)
    address = re.search(r"socket://127\.0\.0\.1:\d+", running.stdout.readline()).group()
    heard = vadum("hear", address, "--profile", "level", "--seconds", "1.5")
    running.terminate()
    running.wait(10)
    running.stdout.close()
    assert heard.returncode == 0, heard.stderr
    assert "level=" in heard.stdout
    assert "0 lines of garbage" in heard.stdout


@pytest.mark.parametrize(
    ("arguments", "names"),
    [
        (("simulate", "--kind", "kettle"), "kind"),
        (("simulate", "--trouble", "hail"), "trouble"),
        (("simulate", "--set", "percent"), "--set"),
        (("hear", "socket://127.0.0.1:9", "--profile", "none"), "profile"),
    ],
)
def test_wrong_settings_are_one_line_that_names_them(arguments, names):
    done = vadum(*arguments)
    assert done.returncode == 2
    assert names in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def test_the_profiles_are_listed_with_their_units():
    listed = vadum("profiles").stdout
    assert "frame: Load frame, plain lines (penetration in mm, ring in div, vehicle in mm)" in listed
    assert "bare_grams" in listed
