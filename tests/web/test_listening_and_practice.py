"""A run that listens, and a run that practises, over the real application on a real socket."""

import time
import uuid
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import httpx2
import pytest

from tests.serving import AT, served
from vadum.instruments.simulated import Simulator
from vadum.instruments.simulated_setting import setting
from vadum.tape import kit, practice_runs, runs
from vadum.tape.kit import NewItem

READY = [
    ("proving_ring", "R3"),
    ("gauge", "G4"),
    ("plunger", "PL1"),
    ("expected_percent", "40"),
    ("axle_kn", "38"),
    ("springs", "raised clear"),
    ("stands", "bear"),
    ("surcharge", "D2"),
    ("seating_n", "250"),
    ("seated_div", "20"),
]


pytestmark = pytest.mark.one_database


@pytest.fixture(scope="module")
def app(tmp_path_factory, database_kind):
    with served(tmp_path_factory.mktemp("listening"), kind=database_kind) as running:
        yield running


@pytest.fixture(scope="module")
def client(app):
    with httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60) as made:
        made.get(app.link("IM").removeprefix(app.address))
        yield made


def until(true, seconds=15.0):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if true():
            return True
        time.sleep(0.05)
    return False


def put(client, code, path, value, **more):
    body = {"entry": {"id": str(uuid.uuid4()), "path": path, "value": value, **more}, "insist": True}
    answer = client.post(f"/runs/{code}/entries", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def frame(app, name, **given):
    """A simulated frame registered in the kit under its socket's address, as a real one would be."""
    pairs = {"speed": "40", "samples_per_s": "100", "seated_div": "20", **{k: str(v) for k, v in given.items()}}
    simulator = Simulator(setting(pairs)).start()
    with app.database.writing() as session:
        item = kit.add_item(session, NewItem(kind="instrument", code=name))
        kit.add_event(
            session, item, "calibration", {"address": simulator.address, "profile": "frame"}, "RV", app.clock.now()
        )
    return simulator


def ready(client):
    code = client.post("/api/v1/runs", json={"sample_id": 1, "method": "field_cbr"}).json()["code"]
    for path, value in READY:
        put(client, code, path, value)
    return code


def rows_of(app, code):
    with app.database.reading() as session:
        run = runs.find(session, code)
        return runs.compute(run, runs.read_tape(session, run.id)).folded.record.readings


def listen(client, code, name):
    assert client.post(f"/api/v1/runs/{code}/instrument", json={"instrument": name}).status_code == 200
    assert until(lambda: client.get(f"/api/v1/runs/{code}/instrument").json()["state"] == "connected")


def test_a_frame_takes_every_reading_and_its_raw_samples_are_kept(app, client):
    simulator = frame(app, "F-A", percent=44)
    code = ready(client)
    listen(client, code, "F-A")
    assert client.post(f"/api/v1/runs/{code}/instrument/command", json={"command": "start"}).status_code == 200
    assert until(lambda: len(rows_of(app, code)) == 31, 30)
    rows = rows_of(app, code)
    assert all(r.ring_div is not None and r.elapsed_s is not None for r in rows)
    assert all(r.penetration_mm is None for r in rows[1:]), "each is read exactly where it was called"
    told = client.get(f"/api/v1/runs/{code}").json()
    values = {v["key"]: v["value"] for v in told["values"]}
    assert values["bearing_ratio_percent"] == pytest.approx(44, rel=0.03)
    rate = next(v for v in told["verdicts"] if v["rule"] == "rate of penetration")
    assert rate["level"] == "fine", "the rate is told by the instrument's own clock, not by arrival"
    left = client.post(f"/api/v1/runs/{code}/instrument", json={"instrument": ""}).json()
    assert left == {"instrument": ""}
    raw = client.get(f"/runs/{code}/raw.csv").text.splitlines()
    assert raw[0] == "instrument,seq,seconds,penetration,ring,vehicle"
    numbers = [int(line.split(",")[1]) for line in raw[1:]]
    assert numbers == list(range(numbers[0], numbers[0] + len(numbers))), "no sample is lost on the way to the disk"
    events = [e["value"] for e in client.get(f"/api/v1/runs/{code}/tape").json() if e["path"] == "@instrument"]
    assert [e["state"] for e in events] == ["listening", "zero", "left"]
    simulator.close()


def test_a_dropped_line_never_stops_the_hand_and_its_gap_stays_empty(app, client):
    simulator = frame(app, "F-B", trouble="drop", at_mm=1.1, away_s=2.0, speed=10)
    code = ready(client)
    listen(client, code, "F-B")
    client.post(f"/api/v1/runs/{code}/instrument/command", json={"command": "start"})
    assert until(lambda: client.get(f"/api/v1/runs/{code}/instrument").json()["state"] == "lost")
    row = len(rows_of(app, code))
    put(client, code, f"readings[{row}].ring_div", "230")
    assert rows_of(app, code)[row].ring_div == 230
    assert until(lambda: client.get(f"/api/v1/runs/{code}/instrument").json()["state"] == "connected")
    assert until(lambda: len(rows_of(app, code)) > row + 4)
    rows = rows_of(app, code)
    assert rows[row].ring_div == 230, "the hand's reading stands"
    assert rows[row].elapsed_s is None
    assert all(r.missed or r.ring_div is not None for r in rows)
    assert any(r.ring_div is not None and r.elapsed_s is not None for r in rows[row + 1 :])
    states = [e["value"]["state"] for e in client.get(f"/api/v1/runs/{code}/tape").json() if e["path"] == "@instrument"]
    assert states[:4] == ["listening", "zero", "line lost", "line back"]
    client.post(f"/api/v1/runs/{code}/instrument", json={"instrument": ""})
    simulator.close()


def test_what_cannot_be_listened_to_is_refused_with_its_field(app, client):
    code = ready(client)
    for body, field in (({"instrument": "none such"}, "instrument"), ({"colour": "red"}, "colour")):
        answer = client.post(f"/api/v1/runs/{code}/instrument", json=body)
        assert answer.status_code == 422
        assert answer.json()["field"] == field
    assert client.post(f"/api/v1/runs/{code}/instrument/command", json={"command": "take"}).status_code == 404
    signed = client.post("/api/v1/runs/CB-01/instrument", json={"instrument": "FR-1"})
    assert signed.status_code == 403


@pytest.mark.parametrize(
    "address", ["spy://socket", "socket://host", "http://x:1", "simulated://kettle", "/etc/../x y"]
)
def test_only_ports_and_sockets_are_addresses(app, address):
    with httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60) as manager:
        manager.get(app.link("RV").removeprefix(app.address))
        seen = {"address": address, "profile": "frame"}
        answer = manager.post("/api/v1/kit/instrument/FR-1/calibrations", json=seen)
        assert answer.status_code == 422
        assert answer.json()["field"] == "address"


def test_an_address_is_not_a_technicians_to_set(client):
    seen = {"address": "socket://127.0.0.1:4001", "profile": "frame"}
    assert client.post("/api/v1/kit/instrument/FR-1/calibrations", json=seen).status_code == 403


def test_a_ring_brings_the_calibration_that_held_then(app, client):
    code = ready(client)
    with app.database.writing() as session:
        item = kit.find(session, "proving_ring", "R3")
        kit.add_event(
            session,
            item,
            "calibration",
            {"ring_factor_n_div": 13.1, "ring_table": None, "ring_most_div": 2200},
            "TO",
            app.clock.now() + timedelta(seconds=1),
        )
    with app.database.reading() as session:
        run = runs.find(session, code)
        record = runs.compute(run, runs.read_tape(session, run.id)).folded.record
    assert record.ring_factor_n_div == 12.6, "a run keeps what held when its ring was named"
    assert record.proving_ring_in_date == "yes"
    assert record.proving_ring_due_on is not None


def test_a_ring_has_a_factor_or_a_table(client):
    for seen, field in (
        ({}, "calibration"),
        ({"ring_factor_n_div": 12, "ring_table": "0 0; 1 2"}, "calibration"),
        ({"ring_factor_n_div": 12}, "calibration"),
        ({"ring_table": "0 0; 1"}, "ring_table"),
        ({"ring_factor_n_div": -2, "ring_most_div": 100}, "ring_factor_n_div"),
    ):
        answer = client.post("/api/v1/kit/proving_ring/R5/calibrations", json=seen)
        assert answer.status_code == 422, seen
        assert answer.json()["field"] == field


def test_practice_hides_its_soil_until_the_end_and_never_enters_a_dossier(app, client):
    code = client.post("/api/v1/practice", json={"method": "ring_density", "seed": 5}).json()["code"]
    assert code == "PR-RD-01"
    assert client.get(f"/practice/{code}", headers={"Accept": "text/html"}).status_code == 404
    assert client.get(f"/api/v1/practice/{code}").status_code == 404
    for _ in range(30):
        page = client.get(f"/runs/{code}/parts").json()
        shown = page["fragments"]["practice"]
        wanted = page["fragments"]["fields"]
        paths = [part.split('"')[0] for part in wanted.split('data-path="')[1:]]
        if not paths or ("dry" in page["fragments"]["advice"] and "oven until" in page["fragments"]["advice"]):
            break
        assert "apparatus shows" in shown or "in_oven_at" in wanted, shown
        put(client, code, *answer_of(app, code, paths))
    seconds = 17 * 3600
    assert client.post(f"/api/v1/practice/{code}/pass", json={"seconds": seconds}).status_code == 200
    assert "oven until" not in client.get(f"/runs/{code}/parts").json()["fragments"]["advice"]
    for _ in range(12):
        paths = [
            p.split('"')[0]
            for p in client.get(f"/runs/{code}/parts").json()["fragments"]["fields"].split('data-path="')[1:]
        ]
        found = answer_of(app, code, paths)
        if found is None:
            break
        put(client, code, *found)
    assert client.post(f"/api/v1/runs/{code}/sign", json={"tape": "0" * 64, "reason": "x"}).status_code == 403
    for page in ("/bench", "/dossiers", "/ground", "/start"):
        assert code not in client.get(page).text, page
    assert client.get("/ground/PRACTICE", headers={"Accept": "text/html"}).status_code == 404
    assert "PRACTICE" in client.get(f"/runs/{code}/sheet").text
    assert client.post(f"/api/v1/practice/{code}/reveal").status_code == 200
    told = client.get(f"/api/v1/practice/{code}").json()
    assert all(row["within"] for row in told["compared"]), told
    assert not [m for m in told["mistakes"] if m["name"] == "misread"]
    assert client.get(f"/practice/{code}", headers={"Accept": "text/html"}).status_code == 200
    late = client.post(f"/runs/{code}/entries", json={"entry": {"path": "remarks", "value": "more"}})
    assert late.status_code == 409
    assert client.post(f"/api/v1/runs/{code}/reopen", json={"tape": "0" * 64, "reason": "x"}).status_code == 403


def answer_of(app, code, paths):
    """Path and value of the first field that the virtual soil answers."""
    from vadum.soil.contract.paths import reading_at

    with app.database.reading() as session:
        run = runs.find(session, code)
        read = runs.compute(run, runs.read_tape(session, run.id))
    shown = read.method.virtual(practice_runs.practice_seed(read), read.school, None).record
    for path in paths:
        value = reading_at(shown, path)
        if path not in read.folded.came_from and value is not None:
            if hasattr(value, "isoformat"):
                value = app.clock.now().isoformat()
            return path, str(value)
    return None


def test_practice_uses_up_no_run_number_and_takes_nothing_from_the_kit(app, client):
    before = client.post("/api/v1/runs", json={"sample_id": 1, "method": "cbr"}).json()["code"]
    practised = client.post("/api/v1/practice", json={"method": "cbr"}).json()["code"]
    after = client.post("/api/v1/runs", json={"sample_id": 1, "method": "cbr"}).json()["code"]
    assert practised.startswith("PR-CB-")
    assert int(after[3:]) == int(before[3:]) + 1
    put(client, practised, "surcharge", "D2")
    tape = client.get(f"/api/v1/runs/{practised}/tape").json()
    assert not [e for e in tape if e["path"] == "surcharge_kg"]
    assert client.post(f"/api/v1/practice/{before}/reveal").status_code == 403
    assert client.post(f"/api/v1/practice/{before}/pass", json={"seconds": 5}).status_code == 403


def test_a_push_in_practice_moves_the_dials_by_the_hidden_ground(app, client):
    code = client.post("/api/v1/practice", json={"method": "field_cbr", "seed": 12}).json()["code"]
    refused = client.post(f"/api/v1/practice/{code}/push", json={})
    assert refused.status_code == 422
    for path, value in [("ring_factor_n_div", "11.8"), ("ring_most_div", "4000"), ("surcharge_kg", "4.5"), *READY[3:]]:
        put(client, code, path, value)
    put(client, code, "readings[0].ring_div", "20")
    assert client.post(f"/api/v1/practice/{code}/push", json={"speed": 20}).status_code == 200
    assert until(lambda: float(live(client, code).get("penetration", ["0"])[0]) > 1.0)
    assert len(rows_of(app, code)) == 1, "in practice nothing is taken from the frame: the person reads"
    assert client.post(f"/api/v1/practice/{code}/wind", json={"pace": "sideways"}).status_code == 422
    assert client.post(f"/api/v1/practice/{code}/wind", json={"pace": "faster"}).json() == {"pace": "faster"}
    client.post(f"/api/v1/practice/{code}/reveal")
    assert code not in app_ears(client, code)
    idle = client.post(f"/api/v1/practice/{code}/wind", json={"pace": "faster"})
    assert (idle.status_code, idle.json()["field"]) == (422, "pace")


def live(client, code):
    found = client.get(f"/api/v1/runs/{code}/instrument").json()
    return (found.get("live") or {}).get("values", {})


def app_ears(client, code):
    return client.get(f"/api/v1/runs/{code}/instrument").json()["instrument"]


def test_a_core_is_read_by_the_simulated_press(app, client):
    given = {
        "kind": "press",
        "a_kn_mm": "0.022",
        "bend_mm": "2.4",
        "power": "2.2",
        "peak_mm": "4.4",
        "left_ratio": "0.7",
    }
    pairs = {**given, "seated_div": "0", "end_mm": "14", "speed": "40", "samples_per_s": "100", "seed": "5"}
    simulator = Simulator(setting(pairs)).start()
    with app.database.writing() as session:
        item = kit.add_item(session, NewItem(kind="instrument", code="P-A"))
        told = {"address": simulator.address, "profile": "press"}
        kit.add_event(session, item, "calibration", told, "RV", app.clock.now())
    code = client.post("/api/v1/runs", json={"sample_id": 1, "method": "unconfined_compression"}).json()["code"]
    for path in ("diameter_top_mm", "diameter_middle_mm", "diameter_bottom_mm"):
        put(client, code, path, "38.1")
    for path in ("height_1_mm", "height_2_mm", "height_3_mm"):
        put(client, code, path, "76.2")
    for path, value in (("load_by", "load cell"), ("rate_mm_min", "1"), ("mass_g", "160")):
        put(client, code, path, value)
    listen(client, code, "P-A")
    assert client.post(f"/api/v1/runs/{code}/instrument/command", json={"command": "start"}).status_code == 200
    assert until(lambda: len(rows_of(app, code)) >= 30, 30)
    client.post(f"/api/v1/runs/{code}/instrument", json={"instrument": ""})
    rows = rows_of(app, code)
    assert all(r.force_n is not None and r.elapsed_s is not None for r in rows if not r.missed)
    values = {v["key"]: v["value"] for v in client.get(f"/api/v1/runs/{code}").json()["values"]}
    assert 30 < values["strength_kpa"] < 60
    assert values["rate_percent_min"] == pytest.approx(100 / 76.2, rel=0.03)
    simulator.close()


def test_an_instrument_attached_and_left_at_once_answers_and_leaves_no_line_open(app, client):
    """Two who press at the same moment: each is told what came of it, and the tape says which way it went."""
    code = "WC-02"
    with app.database.writing() as session:
        item = kit.add_item(session, NewItem(kind="instrument", code="BAL-77"))
        kit.add_event(
            session, item, "calibration", {"address": "simulated://balance?seed=77", "profile": "balance"}, "RV", AT
        )

    def ask(instrument):
        return client.post(f"/api/v1/runs/{code}/instrument", json={"instrument": instrument}).status_code

    with ThreadPoolExecutor(4) as pool:
        told = list(pool.map(ask, ["BAL-77", "", "BAL-77", ""] * 8))
    assert set(told) <= {200, 422}
    assert ask("") == 200
    assert client.get(f"/api/v1/runs/{code}/instrument").json() == {"instrument": ""}
