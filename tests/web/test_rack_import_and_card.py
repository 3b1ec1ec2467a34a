"""The rack, imports, the card and the kit's calibrations over a real socket."""

import uuid
from datetime import timedelta

import httpx2
import pytest

from tests.serving import AT, served
from vadum.tape import runs
from vadum.tape.clock import FrozenClock

NEW_PAGES = ("/rack", "/rack?pick=HY-03", "/rack?pick=nobody", "/samples/1", "/samples/3", "/samples/7")
NEW_PAGES += ("/runs/SV-03/import", "/runs/HY-01/import", "/kit/mould/M1", "/kit/sieve/S2", "/kit/pycnometer/P1")
NEW_PAGES += ("/kit/ring/R1", "/kit/hydrometer/H3")
NEW_PAGES += tuple(f"/runs/{code}" for code in ("SV-01", "SV-02", "SV-03", "HY-01", "HY-02", "HY-04", "HY-05", "GS-01"))
NEW_PAGES += tuple(f"/runs/{code}/sheet" for code in ("SV-02", "HY-01", "GS-01", "RD-01", "PD-01", "CP-01"))

pytestmark = pytest.mark.one_database


@pytest.fixture
def lab_app(tmp_path, database_kind):
    with served(tmp_path, FrozenClock(AT), kind=database_kind) as running:
        yield running


@pytest.fixture
def client(lab_app):
    with httpx2.Client(base_url=lab_app.address, follow_redirects=True, timeout=60) as made:
        made.get(lab_app.link("IM").removeprefix(lab_app.address))
        yield made


@pytest.fixture(scope="module")
def reader(app):
    with httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60) as made:
        made.get(app.link("IM").removeprefix(app.address))
        yield made


def record_of(app, code):
    with app.database.reading() as session:
        run = runs.find(session, code)
        return runs.compute(run, runs.read_tape(session, run.id)).folded.record


@pytest.mark.parametrize("page", NEW_PAGES)
def test_every_new_place_opens_under_the_strict_policy(reader, page):
    answer = reader.get(page, headers={"Accept": "text/html"})
    assert answer.status_code == 200
    assert "unsafe" not in answer.headers["content-security-policy"]
    assert " style=" not in answer.text


@pytest.mark.parametrize("page", ["/rack", "/rack/live", "/runs/SV-03/import", "/samples/3"])
def test_nothing_of_it_opens_without_signing_in(app, page):
    with httpx2.Client(base_url=app.address, timeout=60) as stranger:
        assert stranger.get(page, headers={"Accept": "text/html"}).status_code in (303, 401)


def test_the_rack_is_planned_once_and_falls_due_on_the_bench(lab_app, client):
    answer = client.post("/rack/plan")
    assert (answer.status_code, answer.json()["planned"]) == (200, 1)
    planned = record_of(lab_app, "HY-04").planned_start_at
    assert planned > AT + timedelta(seconds=60)
    again = client.post("/rack/plan")
    assert again.status_code == 403
    assert "nothing is ready" in again.json()["message"]
    live = client.get("/rack/live").json()["fragments"]
    assert f"{planned.astimezone(AT.tzinfo):%H:%M:%S}" in live["starts"]
    assert client.post("/rack/forget/HY-04").status_code == 200
    assert record_of(lab_app, "HY-04").planned_start_at is None
    assert client.post("/rack/forget/HY-04").status_code == 403
    assert client.post("/rack/forget/LL-03").status_code == 403


def test_the_rack_gives_the_picked_cylinder_its_fields(reader):
    parts = reader.get("/rack/live?pick=HY-03").json()["fragments"]
    assert 'data-run="HY-03"' in parts["call"]
    assert "readings[4].reading_g_l" in parts["call"]
    assert "readings[4].temperature_c" in parts["call"]


def test_a_reading_by_the_clock_keeps_the_moment_of_its_first_key(lab_app, client):
    lab_app.clock.step(minutes=1, seconds=47)
    read_at = (AT + timedelta(minutes=1, seconds=42)).isoformat()
    entry = {"id": str(uuid.uuid4()), "path": "readings[2].reading_g_l", "value": "35", "read_at": read_at}
    assert client.post("/runs/HY-02/entries", json={"entry": entry}).status_code == 200
    assert record_of(lab_app, "HY-02").readings[2].read_at == AT + timedelta(minutes=1, seconds=42)


TABLE = "mm;g\n9,5;0\n4,75;1,2\n2;9,x\n"


def test_a_preview_keeps_nothing_and_names_what_is_wrong(lab_app, client):
    answer = client.post("/api/v1/runs/SV-03/import/preview", json={"rows": "sieves", "text": TABLE})
    found = answer.json()
    assert answer.status_code == 200
    assert found["fields"] == ["aperture_mm", "mass_retained_g"]
    assert found["wrong"] == [{"line": 4, "column": "g", "problem": "'9,x' is not a number"}]
    assert found["entries"] == 2
    assert record_of(lab_app, "SV-03").sieves[1].mass_retained_g is None


def test_an_import_with_a_wrong_row_is_refused_whole_and_a_right_one_kept_whole(lab_app, client):
    refused = client.post("/api/v1/runs/SV-03/import", json={"rows": "sieves", "text": TABLE})
    assert refused.status_code == 422
    assert refused.json()["field"] == "line 4, g"
    assert "Nothing was kept" in refused.json()["message"]
    assert record_of(lab_app, "SV-03").sieves[1].mass_retained_g is None
    kept = client.post("/api/v1/runs/SV-03/import", json={"rows": "sieves", "text": TABLE.replace("x", "4")})
    assert (kept.status_code, kept.json()["kept"]) == (201, 3)
    assert [s.mass_retained_g for s in record_of(lab_app, "SV-03").sieves[1:4]] == [0, 1.2, 9.4]


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"rows": "sieves", "text": " "}, "text"),
        ({"rows": "trials", "text": "1;2"}, "rows"),
        ({"rows": "sieves", "text": "1;2", "columns": ["aperture_mm", "aperture_mm"]}, "columns"),
        ({"rows": "sieves"}, "text"),
        ({"rows": "sieves", "text": "1;2", "colour": "red"}, "colour"),
    ],
)
def test_a_malformed_import_names_its_field(reader, body, field):
    answer = reader.post("/api/v1/runs/SV-03/import", json=body)
    assert answer.status_code == 422
    assert answer.json()["field"] == field


def test_a_table_of_trials_is_brought_into_a_liquid_limit_with_its_kit(client, lab_app):
    code = client.post("/api/v1/runs", json={"sample_id": 5, "method": "liquid_limit"}).json()["code"]
    text = "drops\ttin\twet\tdry\n33\t3\t31,50\t28,10\n27\t9\t32,20\t28,30\n"
    body = {"rows": "trials", "text": text, "columns": ["blows", "tin", "mass_wet_g", "mass_dry_g"]}
    answer = client.post(f"/api/v1/runs/{code}/import", json=body)
    assert answer.status_code == 201, answer.text
    trials = record_of(lab_app, code).trials
    assert [t.blows for t in trials] == [33, 27]
    assert all(t.mass_tin_g for t in trials), "the tin's number brings its tare"


def test_a_test_without_tables_says_so(reader):
    answer = reader.get("/runs/PD-01/import", headers={"Accept": "text/html"})
    assert answer.status_code == 200
    assert "has no table of readings" in answer.text
    found = reader.post("/api/v1/runs/PD-01/import/preview", json={"rows": "x", "text": "1;2"})
    assert found.status_code == 422


def test_a_signed_run_takes_no_table(reader):
    answer = reader.post("/api/v1/runs/HY-01/import", json={"rows": "readings", "text": "elapsed;reading\n3;20\n"})
    assert answer.status_code == 409
    assert "reopen" in answer.json()["message"]


def test_the_remembered_match_is_offered_to_the_next_table(client):
    odd = "first;second\n19;0\n"
    body = {"rows": "sieves", "text": odd, "columns": ["aperture_mm", "mass_retained_g"]}
    assert client.post("/api/v1/runs/SV-03/import", json=body).status_code == 201
    code = client.post("/api/v1/runs", json={"sample_id": 5, "method": "sieve"}).json()["code"]
    found = client.post(f"/api/v1/runs/{code}/import/preview", json={"rows": "sieves", "text": odd}).json()
    assert found["fields"] == ["aperture_mm", "mass_retained_g"]


@pytest.mark.parametrize(
    ("where", "seen", "status", "field"),
    [
        ("mould/M1", {"mould_mass_g": "4 219,5", "mould_volume_cm3": "944,4"}, 201, ""),
        ("mould/M1", {"mould_mass_g": "-1", "mould_volume_cm3": "944"}, 422, "mould_mass_g"),
        ("mould/M1", {"mould_mass_g": "4200"}, 422, "mould_volume_cm3"),
        ("mould/M1", {"mould_mass_g": "4200", "mould_volume_cm3": "944", "colour": "red"}, 422, "colour"),
        ("sieve/S2", {"sieve_diameter_mm": "200", "sieve_state": "torn"}, 422, "sieve_state"),
        ("mould/M77", {"mould_mass_g": "4200", "mould_volume_cm3": "944"}, 404, ""),
        ("anvil/A1", {}, 404, ""),
    ],
)
def test_a_calibration_is_kept_or_names_its_field(client, where, seen, status, field):
    answer = client.post(f"/api/v1/kit/{where}/calibrations", json=seen)
    assert answer.status_code == status, answer.text
    if status == 422:
        assert answer.json()["field"] == field


def test_a_run_in_hand_keeps_the_calibration_that_held_when_it_was_named(lab_app, client):
    before = record_of(lab_app, "CP-02").mould_mass_g
    client.post("/api/v1/kit/mould/M1/calibrations", json={"mould_mass_g": "5000", "mould_volume_cm3": "944"})
    assert record_of(lab_app, "CP-02").mould_mass_g == before


def test_a_card_of_a_sample_with_one_unreadable_tape_still_opens(lab_app, client):
    with lab_app.database.writing() as session:
        run = runs.find(session, "GS-01")
        from vadum.tape.entries import NewEntry, append

        person = "IM"
        append(session, run, NewEntry(path="colour", value="red"), person, AT)
    answer = client.get("/samples/3", headers={"Accept": "text/html"})
    assert answer.status_code == 200
    assert "cannot be judged" in answer.text
    assert "lean clay" in answer.text
    begun = client.post("/api/v1/runs", json={"sample_id": 3, "method": "hydrometer"})
    assert begun.status_code == 201, "one broken tape keeps nobody from beginning another run"


def test_the_new_methods_are_described_for_programs(reader):
    names = {m["name"] for m in reader.get("/api/v1/methods").json()}
    assert {"sieve", "hydrometer", "specific_gravity", "ring_density", "pit_density", "compaction"} <= names
    paths = reader.get("/api/v1/openapi.json").json()["paths"]
    assert "/api/v1/runs/{code}/import/preview" in paths
