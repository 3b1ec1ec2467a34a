"""Strengths of a job in one picture; specimens cut and used through the interface and shown on the sample's page."""

import re

import httpx2
import pytest

from tests.serving import AT, served
from vadum.tape.clock import FrozenClock

pytestmark = pytest.mark.one_database


@pytest.fixture(scope="module")
def client(tmp_path_factory, database_kind):
    with (
        served(tmp_path_factory.mktemp("strength"), FrozenClock(AT), kind=database_kind) as running,
        httpx2.Client(base_url=running.address, follow_redirects=True, timeout=60) as made,
    ):
        made.get(running.link("IM").removeprefix(running.address))
        yield made


def test_a_jobs_strengths_are_one_picture_with_switches(client):
    page = client.get("/strength/KS-26")
    assert page.status_code == 200
    assert "DS-01" in page.text
    assert "TX-01" in page.text
    out = client.get("/strength/KS-26", params={"out": "DS-01:2 a pebble at the wall"})
    assert "a pebble at the wall" in out.text
    assert out.text != page.text


def test_the_samples_of_a_stratum_are_chosen(client):
    both = client.get("/strength/KS-26").text
    chosen = re.search(r'name="sample" value="(\d+)" checked>\s*S2 0.3 m', both).group(1)
    one = client.get("/strength/KS-26", params={"sample": chosen}).text
    assert re.search(r"/runs/TX-01\b", both)
    assert not re.search(r"/runs/TX-01\b", one)
    assert one.count(" checked>") == 1


@pytest.mark.parametrize("asked", [{"out": "DS-01:2"}, {"out": "DS-01:2 " + "x" * 300}, {"sample": "x"}])
def test_a_switch_without_a_reason_is_refused(client, asked):
    assert client.get("/strength/KS-26", params=asked).status_code in (400, 422)


@pytest.mark.parametrize("asked", [{"out": "<script>alert(1)</script> because"}, {"sample": 999999}, {"out": "::: ;"}])
def test_strange_switches_harm_nothing(client, asked):
    page = client.get("/strength/KS-26", params=asked)
    assert page.status_code == 200
    assert "<script>alert" not in page.text


def test_a_job_that_is_not_there(client):
    assert client.get("/strength/NONE").status_code == 404


def cut(client, **its):
    return client.post("/api/v1/samples/3/specimens", json=its)


def test_a_specimen_is_cut_used_and_shown(client):
    assert (
        cut(client, code="K1", mass_g="400", depth_m="0.2", orientation="vertical", size="70 mm cube").status_code
        == 201
    )
    new = {"sample_id": 3, "method": "direct_shear", "specimen": "K1", "specimen_g": "150"}
    started = client.post("/api/v1/runs", json=new)
    assert started.status_code == 201, started.text
    code = started.json()["code"]
    (piece,) = client.get("/api/v1/samples/3/specimens").json()
    assert (piece["code"], piece["runs"], piece["left_g"]) == ("K1", [code], 250)
    page = client.get("/samples/3").text
    assert "K1" in page
    assert f"/runs/{code}" in page
    assert "specimen K1, 250 g left" in client.get("/start?sample=3").text


@pytest.mark.parametrize(
    ("its", "field"),
    [
        ({"code": ""}, "code"),
        ({"code": "a/b"}, "code"),
        ({"code": "N1", "mass_g": "nan"}, "mass_g"),
        ({"code": "N1", "mass_g": "-4"}, "mass_g"),
        ({"code": "N1", "orientation": "upside down"}, "orientation"),
        ({"code": "N1", "cut_from": "nothing"}, "cut_from"),
        ({"code": "N1", "surprise": 1}, "surprise"),
    ],
)
def test_a_bad_specimen_is_refused_with_its_field(client, its, field):
    refused = cut(client, **its)
    assert refused.status_code in (400, 422)
    assert field in refused.text
    assert "N1" not in [s["code"] for s in client.get("/api/v1/samples/3/specimens").json()]


def test_more_than_is_left_starts_no_run(client):
    cut(client, code="K2", mass_g="10")
    before = client.get("/samples/3").text.count("/runs/")
    new = {"sample_id": 3, "method": "water_content", "specimen": "K2", "specimen_g": "11"}
    refused = client.post("/api/v1/runs", json=new)
    assert (refused.status_code, "specimen_g" in refused.text) in ((400, True), (422, True))
    assert client.get("/samples/3").text.count("/runs/") == before
