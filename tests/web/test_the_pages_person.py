"""A page belongs to one person; a body is as large as its route says."""

import base64
import functools
import io
import uuid

import httpx2
import pytest
from fastapi.routing import APIRoute
from PIL import Image

from tests.serving import AT, served
from vadum.tape.clock import FrozenClock
from vadum.web import body_limits
from vadum.web.routes import kit_api, laboratory, photographs, putting_right, table_import

ROUTERS = [room.router for room in (kit_api, laboratory, photographs, putting_right, table_import)]


@pytest.fixture(scope="module")
def client(tmp_path_factory):
    folder = tmp_path_factory.mktemp("pages")
    client_of = functools.partial(httpx2.Client, follow_redirects=True, timeout=60)
    with served(folder, FrozenClock(AT)) as app, client_of(base_url=app.address) as made:
        made.get(app.link("IM").removeprefix(app.address))
        yield made


def entry(value="it rained"):
    return {"entry": {"id": str(uuid.uuid4()), "path": "remarks", "value": value}, "insist": True}


def test_a_reading_from_another_persons_page_is_refused_and_not_kept(client):
    me = client.get("/bench", headers={"Accept": "text/html"}).headers["vadum-person"]
    other = {"Vadum-Person": str(int(me) + 1)}
    refused = client.post("/runs/WC-02/entries", json=entry(), headers=other)
    assert refused.status_code == 401
    assert "signed in on this device now" in refused.json()["message"]
    assert client.get("/runs/WC-02/parts", headers=other).status_code == 401
    assert client.post("/runs/WC-02/entries", json=entry(), headers={"Vadum-Person": me}).status_code == 200


def test_several_readings_are_kept_or_refused_each_for_itself(client):
    body = {"entries": [entry("first"), {**entry(), "entry": {"path": "no_such_field", "value": "1"}}]}
    answer = client.post("/runs/WC-03/entries/together", json=body).json()
    assert [one["status"] for one in answer["results"]] == [200, 422]
    assert answer["results"][1]["field"] == "no_such_field"
    again = client.post("/runs/WC-03/entries/together", json={"entries": body["entries"][:1]}).json()
    assert again["results"][0]["kept"] == answer["results"][0]["kept"], "sent twice, kept once"


def declared():
    return [
        (route, body_limits.limit_of(route))
        for router in ROUTERS
        for route in router.routes
        if isinstance(route, APIRoute) and body_limits.limit_of(route) != body_limits.READING_BYTES
    ]


@pytest.mark.parametrize(("route", "most"), declared(), ids=lambda one: getattr(one, "path", ""))
def test_every_upload_route_takes_what_it_declares_and_no_more(client, route, most):
    path = route.path.replace("{sample_id}", "1").replace("{code:path}", "M1").replace("{kind}", "mould")
    path = path.replace("{code}", "WC-02")
    filled = b'{"x":"' + b"a" * (most - 8) + b'"}'
    assert len(filled) == most
    head = {"Content-Type": "application/json"}
    assert client.post(path, content=filled, headers=head).status_code != 413
    assert client.post(path, content=filled + b" ", headers=head).status_code == 413


def test_a_photograph_as_a_browser_makes_it_goes_in(client):
    picture = Image.effect_noise((1600, 1200), 90).convert("RGB")
    made = io.BytesIO()
    picture.save(made, "JPEG", quality=82)
    assert 350_000 < len(made.getvalue()) < 3_000_000
    jpeg = "data:image/jpeg;base64," + base64.b64encode(made.getvalue()).decode()
    value = {"jpeg": jpeg, "place": "", "caption": "the core"}
    body = {"entry": {"id": str(uuid.uuid4()), "path": "@photograph", "value": value}}
    assert client.post("/runs/WC-04/photographs", json=body).status_code == 200
