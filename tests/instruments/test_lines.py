"""Lines, profiles and links on real sockets and ports, with every kind of trouble."""

import itertools
import random
import socket
import statistics
import threading
import time

import pytest
import serial

from tests.calls import called_by, sample
from vadum.instruments.profile import LineError, framed, profile, profiles, read_profile
from vadum.instruments.simulated import Simulator, end_simulated, simulated_address
from vadum.instruments.simulated_bodies import Balance, Level
from vadum.instruments.simulated_frames import Frame
from vadum.instruments.simulated_setting import TROUBLES, setting
from vadum.instruments.station import Stations
from vadum.instruments.transport import Link, available
from vadum.recording.sampling import Taker
from vadum.soil.contract.errors import FieldError, UnknownName
from vadum.soil.register import METHODS

BS = METHODS["cbr"].school("bs_light")
CALLED = called_by("cbr", BS)


def until(true, seconds=30.0):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if true():
            return True
        time.sleep(0.02)
    return False


class Heard:
    """A link to a simulated frame and a taker that goes along; the frame is started once it is heard."""

    def __init__(self, trouble="", waits=False, **given):
        pairs = {"speed": "60", "samples_per_s": "100", "at_mm": "1.6", "away_s": "0.8", **given}
        self.simulator = Simulator(setting({**pairs, "trouble": trouble})).start()
        self.taker, self.events, self.states, self.samples = Taker(CALLED), [], [], []
        self.link = Link(self.simulator.address, profile("frame"), self.hear, self.tell).start()
        assert until(lambda: len(self.samples) > 2)
        if not waits:
            assert self.link.command("start")

    def hear(self, heard):
        self.samples.append(heard)
        self.events += self.taker.hear(sample(heard.seconds, heard.values["penetration"], heard.values["ring"]))

    def tell(self, state, why):
        self.states.append(state)

    def wait(self, penetration):
        assert until(lambda: self.samples[-1].values["penetration"] >= penetration)

    def of(self, what):
        return [(BS.called_mm[e.row], e.note) for e in self.events if e.what == what]

    def __enter__(self):
        return self

    def __exit__(self, *_):
        self.link.stop()
        self.simulator.close()


def test_a_quiet_line_gives_every_sample_and_every_call():
    with Heard() as one:
        one.wait(3.1)
        assert (one.link.counts.garbage, one.link.counts.gone, one.link.counts.reconnects) == (0, 0, 0)
        numbers = [s.seq for s in one.samples]
        assert numbers == list(range(numbers[0], numbers[0] + len(numbers)))
        taken = [e for e in one.events if e.what == "taken"]
        called = [BS.called_mm[e.row] for e in taken if e.row]
        assert len(called) >= 12
        assert called == [0.25 * i for i in range(1, len(called) + 1)]
        assert one.of("missed") == []
        ground = one.simulator.body.ground
        for event in taken:
            true = 4 + 1000 * ground.force_kn(event.sample.travel) / 12.6
            assert event.sample.figures["ring"] == pytest.approx(true, abs=0.6)


def test_a_dropped_line_is_told_opened_again_and_its_calls_left_empty():
    with Heard("drop") as one:
        # How long the line stays away is the machine's affair; which calls fell into the gap is told by what was heard.
        assert until(lambda: one.of("missed") and one.events[-1].what == "taken"), "taken again after the gap"
        assert one.states[:3] == ["connected", "lost", "connected"]
        assert one.link.counts.reconnects >= 1
        pairs = list(itertools.pairwise(one.samples))
        before, after = max(pairs, key=lambda pair: pair[1].seconds - pair[0].seconds)
        start, end = before.values["penetration"], after.values["penetration"]
        assert start < 1.7
        assert end - start >= 0.75
        missed = one.of("missed")
        assert [at for at, _ in missed] == [c for c in BS.called_mm if start < c <= end]
        assert {note for _, note in missed} == {"line lost"}
        called = [BS.called_mm[e.row] for e in one.events if e.what in ("taken", "missed")]
        assert called == list(BS.called_mm[: len(called)])


def test_garbage_is_counted_and_never_taken():
    with Heard("garbage") as one:
        one.wait(3.1)
        assert one.link.counts.garbage > 10
        assert all(0 <= s.values["penetration"] < 14 and 0 <= s.values["ring"] < 3000 for s in one.samples)
        assert one.of("missed") == []


def test_a_silent_line_is_told_apart_from_a_lost_one():
    its = profile("frame").model_copy(update={"silent_s": 0.3})
    simulator = Simulator(setting({"running": "1", "speed": "60", "trouble": "silence", "away_s": "1.2"})).start()
    states = []
    link = Link(simulator.address, its, lambda heard: None, lambda state, why: states.append(state)).start()
    assert until(lambda: states[-2:] == ["silent", "connected"])
    assert "lost" not in states
    link.stop()
    simulator.close()


@pytest.mark.parametrize(
    ("trouble", "note"), [("sticking", "gauge stuck"), ("datum", "datum jumped")], ids=["sticking", "datum"]
)
def test_a_gauge_that_sticks_and_a_datum_that_jumps_are_noted(trouble, note):
    with Heard(trouble) as one:
        one.wait(2.4)
        assert note in [n for _, n in one.of("noted")]


def test_a_lifting_vehicle_shows_on_its_gauge_and_in_a_force_that_stands():
    with Heard("lifting") as one:
        one.wait(3.2)
        last = one.samples[-1].values
        assert last["vehicle"] > 1
        rings = [e.sample.figures["ring"] for e in one.events if e.what == "taken" and BS.called_mm[e.row] >= 1.75]
        assert max(rings) - min(rings) < 2


def test_every_trouble_is_among_those_tried_here():
    of_bodies = {"stuck", "screws", "friction", "leak", "drift"}  # tried in test_bodies.py
    of_bodies |= {"leaking", "warming", "stone", "backwards"}
    of_bodies |= {"flat", "jumps", "old buffer"}  # tried in test_water_bodies.py
    assert set(TROUBLES) == {"sticking", "datum", "lifting", "drop", "garbage", "silence"} | of_bodies


def test_a_frame_waits_to_be_told():
    with Heard(waits=True) as one:
        assert until(lambda: len(one.samples) > 5)
        assert one.samples[-1].values["penetration"] == 0
        assert one.link.command("start")
        one.wait(0.2)
        assert one.link.command("stop")
        assert not one.link.command("dance"), "the profile has no such command"


def test_a_hand_at_the_crank_wanders_and_can_be_told_faster_or_slower():
    def rates(told, **given):
        its = setting({"hand": "1", "running": "1", "rate_mm_min": "1.0", "seed": "5", **given})
        frame, seen = Frame(its, random.Random(5)), []
        for word in told:
            frame.command(word)
        for _ in range(40):
            before = frame.true_mm
            for _ in range(20):
                frame.advance(0.5)
            seen.append((frame.true_mm - before) * 6)
        return seen

    idle = rates([], end_mm="99")
    assert 0.03 < statistics.pstdev(idle) < 0.2, "a hand is not a motor"
    assert statistics.mean(idle) == pytest.approx(1.0, abs=0.06)
    assert statistics.mean(rates(["faster"] * 4, end_mm="99")) == pytest.approx(1.08**4, rel=0.06)
    assert statistics.mean(rates(["slower"] * 4, end_mm="99")) == pytest.approx(1.08**-4, rel=0.06)
    assert statistics.pstdev(rates([], hand="0", end_mm="99")) == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize("kind", ["balance", "level"])
def test_balance_and_level_speak_the_same_lines(kind):
    simulator = Simulator(setting({"kind": kind, "speed": "20"})).start()
    heard = []
    link = Link(simulator.address, profile(kind), heard.append).start()
    assert until(lambda: len(heard) > 12)
    link.stop()
    simulator.close()
    values = [next(iter(h.values.values())) for h in heard]
    assert values[-1] == pytest.approx(168.92, abs=0.05) if kind == "balance" else values[-1] < values[0]


def levels(seconds, **given):
    its = setting(
        {"kind": "level", "noise": "0", "at_mm": "5", "sorptivity_mm_min05": "4", "fall_mm_min": "1", **given}
    )
    body, seen = Level(its, random.Random(1)), []
    for _ in range(seconds):
        body.advance(1.0)
        seen.append(float(body.figures().partition("=")[2]))
    return seen


def test_a_level_sinks_as_its_soil_drinks_and_has_its_own_troubles():
    quiet = levels(540)
    assert quiet[-1] == pytest.approx(300 - (4 * 3 + 1 * 9), abs=0.06), "S sqrt(t) + A t after nine minutes"
    assert quiet[59] - quiet[119] < quiet[0] - quiet[59], "it drinks quickest at first"
    stuck = levels(540, trouble="sticking")
    assert stuck.count(295.0) > quiet.count(295.0) + 30
    assert stuck[-1] == quiet[-1]
    knocked = levels(540, trouble="datum")
    jumps = [b - a for a, b in itertools.pairwise(knocked)]
    assert max(jumps) == pytest.approx(6.0, abs=0.15)


def test_a_balance_shows_a_soil_that_dries():
    body = Balance(setting({"kind": "balance", "mass_g": "100", "water_g": "20", "noise": "0"}), random.Random(1))
    body.advance(600)
    assert float(body.figures().partition("=")[2]) == pytest.approx(100 + 20 / 2.71828, abs=0.01)
    body.advance(7200)
    assert float(body.figures().partition("=")[2]) == pytest.approx(100, abs=0.01)


def test_another_instrument_is_another_profile_not_other_code(tmp_path, monkeypatch):
    server = socket.create_server(("127.0.0.1", 0))
    heard = []

    def serve():
        connection, _ = server.accept()
        with connection:
            while not heard:  # a port that is opened forgets what came before it listened
                connection.sendall(b"W 1.00 G!")
                time.sleep(0.05)
            # All at once, and the end of the line right behind it: nothing of it may be lost.
            connection.sendall(b"W 41.20 G!W 41.22 G!W noise G!W 41.22 G!")

    threading.Thread(target=serve, daemon=True).start()
    (tmp_path / "odd.toml").write_text(
        'name = "odd"\nkind = "balance"\ntitle = "odd"\nterminator = "!"\n'
        "pattern = 'W (?P<mass>\\d+\\.\\d+) G'\n[channels]\nmass = { unit = \"g\", factor = 2.0 }\n"
    )
    monkeypatch.setenv("VADUM_PROFILES", str(tmp_path))
    link = Link(f"socket://127.0.0.1:{server.getsockname()[1]}", profile("odd"), heard.append).start()
    assert until(lambda: [h.values["mass"] for h in heard][-3:] == [82.4, 82.44, 82.44])
    link.stop()
    server.close()
    assert {h.values["mass"] for h in heard[:-3]} == {2.0}
    assert link.counts.garbage == 1


def test_bytes_come_through_a_port_as_they_were_sent():
    port = serial.serial_for_url("loop://", timeout=0.1)
    sent = framed("1 0.10 mass=41.22") + framed("2 0.20 mass=41.23")
    port.write(sent)
    came = b""
    while more := available(port):
        came += more
    port.close()
    assert came == sent
    assert [profile("balance").parse(line).values["mass"] for line in came.splitlines()] == [41.22, 41.23]


@pytest.mark.parametrize(
    ("line", "why"),
    [
        (b"1 0.10 mass=41.22 *00", "checksum"),
        (b"\xff\xfe mass", "text"),
        (b"nothing at all", "checksum"),
        (framed("hello there").strip(), "pattern"),
    ],
)
def test_a_line_that_cannot_be_read_says_why(line, why):
    with pytest.raises(LineError, match=why):
        profile("balance").parse(line)


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("name = ", "TOML"),
        ('name = "a"\nkind = "kettle"\ntitle = "t"\nterminator = "\\n"\npattern = "x"\nchannels = {}', "kind"),
        ('name = "a"\nkind = "level"\ntitle = "t"\nterminator = "\\n"\npattern = "("\nchannels = {}', "pattern"),
    ],
)
def test_a_wrong_profile_names_its_field(tmp_path, text, names):
    (tmp_path / "wrong.toml").write_text(text)
    with pytest.raises(FieldError, match=names):
        read_profile(tmp_path / "wrong.toml")


def test_unknown_names_are_refused_with_those_that_are_known():
    with pytest.raises(UnknownName, match="balance"):
        profile("nothing")
    with pytest.raises(FieldError, match="sticking"):
        setting({"trouble": "hail"})
    with pytest.raises(FieldError, match="percent"):
        setting({"percent": "soft"})
    with pytest.raises(FieldError, match="no such setting"):
        setting({"colour": "red"})
    assert {"frame", "balance", "level", "bare_grams", "bare_kilonewtons"} <= set(profiles())


def test_nothing_there_is_told_and_looked_for_again():
    with socket.create_server(("127.0.0.1", 0)) as probe:
        port = probe.getsockname()[1]
    states = []
    link = Link(f"socket://127.0.0.1:{port}", profile("level"), lambda h: None, lambda s, w: states.append((s, w)))
    link.start()
    assert until(lambda: states and states[-1][0] == "lost")
    simulator = Simulator(setting({"kind": "level"}), port=port).start()
    assert until(lambda: states[-1][0] == "connected")
    link.stop()
    simulator.close()


def test_a_station_serves_many_ears_and_a_simulated_address_starts_once():
    address = "simulated://level?seed=99"
    assert simulated_address(address) == simulated_address(address)
    stations = Stations()
    station = stations.open("LV", address, "level", "one")
    assert stations.open("LV", address, "level", "two") is station
    one, two = [], []
    station.hear(one.append, lambda s, w: None)
    station.hear(two.append, lambda s, w: None)
    assert until(lambda: len(one) > 3 and len(two) > 3)
    assert not stations.release(station, "one")
    assert not stations.release(station, "one"), "once is once"
    assert stations.get("LV") is station
    assert stations.release(station, "two")
    end_simulated(address)
    assert stations.get("LV") is None
