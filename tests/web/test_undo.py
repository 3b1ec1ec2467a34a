"""What was just done is undone by what its answer gave: registered, edited, closed, deleted, set aside, imported."""

import uuid

import pytest

from tests.web.test_day import post, signed_in


@pytest.fixture(scope="module")
def client(app):
    with signed_in(app, "IM") as made:
        yield made


@pytest.fixture
def job(client):
    code = f"U{uuid.uuid4().hex[:6].upper()}"
    assert post(client, "/jobs", code=code, title="Undoing").status_code == 201
    return code


def undone(client, answer):
    back = answer.json()["undo"]
    found = post(client, back["url"].removeprefix("/api/v1"), **back["body"])
    assert found.status_code in (200, 201), found.text
    return found


def page(client, path):
    return client.get(path, headers={"Accept": "text/html"})


def test_a_job_a_location_and_a_sample_are_registered_and_gone_again(client):
    code = f"U{uuid.uuid4().hex[:6].upper()}"
    job = post(client, "/jobs", code=code, title="Undoing")
    spot = post(client, f"/jobs/{code}/spots", code="TP1")
    sample = post(client, f"/spots/{spot.json()['id']}/samples", code="B1")
    assert sample.json()["said"] == "Sample B1 logged in."
    refused = post(client, f"/spots/{spot.json()['id']}/delete")
    assert refused.status_code == 403, "a sample rests on it"
    for made in (sample, spot, job):
        undone(client, made)
    assert page(client, f"/ground/{code}").status_code == 404


def test_an_edit_goes_back_to_every_former_value(client, job):
    spot = post(client, f"/jobs/{job}/spots", code="TP1", easting_m="402.5", note="by the fence").json()["id"]
    changed = post(client, f"/spots/{spot}/change", code="TP2", depth_m="3")
    assert "by the fence" not in page(client, f"/ground/{job}?spot=TP2").text
    undone(client, changed)
    text = page(client, f"/ground/{job}?spot=TP1").text
    assert "by the fence" in text
    assert 'value="402.5"' in text


def test_what_is_closed_is_opened_and_what_is_deleted_comes_back(client, job):
    spot = post(client, f"/jobs/{job}/spots", code="TP1", note="by the fence").json()["id"]
    closed = post(client, f"/spots/{spot}/close")
    assert closed.json()["said"] == "TP1 closed."
    assert undone(client, closed).json()["said"] == "TP1 reopened."
    undone(client, post(client, f"/spots/{spot}/delete"))
    assert "by the fence" in page(client, f"/ground/{job}?spot=TP1").text


def test_a_run_that_was_started_or_set_aside_by_mistake(client, job):
    spot = post(client, f"/jobs/{job}/spots", code="TP1").json()["id"]
    sample = post(client, f"/spots/{spot}/samples", code="B1").json()["id"]
    started = post(client, "/runs", sample_id=sample, method="sieve")
    code = started.json()["code"]
    aside = undone(client, started)
    assert client.get(f"/api/v1/runs/{code}/tape").json()[-1]["path"] == "@set_aside"
    undone(client, aside)
    assert client.get(f"/api/v1/runs/{code}/tape").json()[-1]["path"] == "@brought_back"


def test_an_import_is_struck_out_whole_and_a_reading_by_hand_is_not(client, job):
    spot = post(client, f"/jobs/{job}/spots", code="TP1").json()["id"]
    sample = post(client, f"/spots/{spot}/samples", code="B1").json()["id"]
    code = post(client, "/runs", sample_id=sample, method="sieve").json()["code"]
    record = lambda: client.get(f"/runs/{code}/run.json").json()["record"]  # noqa: E731
    before = record()
    table = "aperture (mm);retained (g)\n" + "\n".join(f"{2**n / 16:g};{n + 1}" for n in range(8))
    brought = client.post(f"/api/v1/runs/{code}/import", json={"rows": "sieves", "text": table, "insist": True})
    assert brought.json()["said"] == "8 rows imported."
    entry = {"path": "mass_total_g", "value": "500", "id": str(uuid.uuid4())}
    assert client.post(f"/api/v1/runs/{code}/entries", json={"entry": entry, "insist": True}).status_code == 201
    both = brought.json()["undo"]
    wider = client.post(both["url"], json=both["body"] | {"last": both["body"]["last"] + 1})
    assert wider.status_code == 403, "the reading by hand is no part of it"
    undone(client, brought)
    # A struck row keeps its number, empty: later entries name rows by it.
    now = record()
    assert [row for row in now.pop("sieves") if row] == before.pop("sieves")
    assert now == before | {"mass_total_g": 500}


@pytest.mark.parametrize(
    "made",
    [
        {"what": "tare", "id": 1, "former_g": "abc"},
        {"what": "tare", "id": 1, "former_g": "nan"},
        {"what": "test", "id": 1, "former_due_on": "x"},
        {"what": "run", "id": 1},
        {"what": "tin", "id": 10**12},
        {"what": "tin", "id": "²"},
    ],
)
def test_an_undo_that_no_answer_gave_is_refused_by_its_field(client, made):
    assert post(client, "/undo", made=[made]).status_code == 422
