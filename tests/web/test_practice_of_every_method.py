"""Every method's desk is practised over HTTP: its answers are typed, time is let pass, the soil is shown."""

import json
import re
import uuid
from datetime import datetime

import httpx2
import pytest

from tests.calls import by_travel
from tests.serving import served
from vadum.soil import practice
from vadum.soil.register import METHODS
from vadum.tape import practice_runs, runs

MOST = 160
# Judged by the technician; what a careful one would enter.
JUDGED = {
    "expected_percent": "20",
    "top_seating_n": "50",
    "bottom_seating_n": "50",
    "seating_n": "50",
    "top_seated_div": "4",
    "bottom_seated_div": "4",
    "seated_div": "4",
}


pytestmark = pytest.mark.one_database


@pytest.fixture(scope="module")
def app(tmp_path_factory, database_kind):
    with served(tmp_path_factory.mktemp("practice"), kind=database_kind) as running:
        yield running


@pytest.fixture(scope="module")
def client(app):
    with httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60) as made:
        made.get(app.link("IM").removeprefix(app.address))
        yield made


def flat(record):
    found = {}
    for name, value in record:
        if isinstance(value, tuple):
            for i, row in enumerate(value):
                found |= {f"{name}[{i}].{f}": v for f, v in row if v is not None}
        elif value is not None:
            found[name] = value
    return found


def record_of(app, code):
    with app.database.reading() as session:
        run = runs.find(session, code)
        return runs.compute(run, runs.read_tape(session, run.id)).folded.record


def wanted(client, code):
    fields = client.get(f"/runs/{code}/parts").json()["fragments"]["fields"]
    return re.findall(r'data-path="([^"]+)"', fields)


@pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)
def test_a_practice_goes_from_its_first_field_to_its_soil(app, client, method):
    code = client.post("/api/v1/practice", json={"method": method.name, "seed": 3}).json()["code"]
    with app.database.reading() as session:
        run = runs.find(session, code)
        read = runs.compute(run, runs.read_tape(session, run.id))
    assert practice_runs.practice_seed(read) == 3
    values = flat(method.virtual(3, read.school, None).record)
    done = set()
    for _ in range(MOST):
        paths = [p for p in wanted(client, code) if p not in done]
        path = next((p for p in paths if p in values or p in JUDGED), None)
        if path is None:
            break
        done.add(path)
        shown = practice.answers(method, read.school, 3, record_of(app, code), (path,))
        value = JUDGED.get(path) or (shown[0].value if shown else values.get(path))
        if isinstance(value, datetime):
            value = app.clock.now().isoformat()
        entry = {"id": str(uuid.uuid4()), "path": path, "value": str(value)}
        answer = client.post(f"/runs/{code}/entries", json={"entry": entry, "insist": True})
        assert answer.status_code == 200, (path, answer.text)
        waits = re.search(r'data-seconds="(\d+)"', answer.json()["fragments"]["practice"])
        if waits and int(waits[1]) > 600:
            assert client.post(f"/api/v1/practice/{code}/pass", json={"seconds": int(waits[1])}).status_code == 200
    assert len(done) >= 5, done
    assert client.post(f"/api/v1/practice/{code}/reveal").status_code == 200
    told = client.get(f"/api/v1/practice/{code}").json()
    assert told["compared"]
    assert not [m for m in told["mistakes"] if m["name"] == "misread"]
    shown = client.get(f"/practice/{code}", headers={"Accept": "text/html"})
    assert shown.status_code == 200
    spec = json.loads(re.search(r'data-spec="was">(.*?)</script>', shown.text, re.DOTALL)[1])
    assert spec["layer"]
    assert bool(spec["datasets"].get("truth")) == by_travel(method, method.virtual(3, method.school(), None).record)
    same = client.post("/api/v1/practice", json={"method": method.name, "school": read.school.name, "seed": 3})
    assert same.status_code == 201
    assert client.get(f"/runs/{code}/sheet.pdf").content[:4] == b"%PDF"
    assert "PRACTICE" in json.dumps(client.get(f"/runs/{code}/run.json").json())


def test_the_place_shows_what_was_practised(client):
    code = client.post("/api/v1/practice", json={"method": "water_content", "seed": 5}).json()["code"]
    assert client.post(f"/api/v1/practice/{code}/reveal").status_code == 200
    page = client.get("/practice").text
    assert set(re.findall(r'name="method" value="(\w+)"', page)) == set(METHODS)
    assert f'href="/practice/{code}"' in page
    assert client.get("/practice/drawing/sieve.svg").text.startswith("<svg")
    assert client.get("/practice/drawing/alchemy.svg").status_code == 404


def test_practice_of_something_unknown_is_refused_with_its_field(client):
    for body, field in (({"method": "alchemy"}, "method"), ({"method": "cbr", "school": "none"}, "school")):
        answer = client.post("/api/v1/practice", json=body)
        assert answer.status_code == 422
        assert answer.json()["field"] == field
    code = client.post("/api/v1/practice", json={"method": "cbr"}).json()["code"]
    assert client.post(f"/api/v1/practice/{code}/push", json={"speed": 1000}).status_code == 422
    assert client.post(f"/api/v1/practice/{code}/pass", json={"seconds": -5}).status_code == 422
    assert client.get("/practice/CB-01", headers={"Accept": "text/html"}).status_code == 404


def test_two_people_with_one_seed_get_one_soil(client):
    answers = []
    for _ in range(2):
        code = client.post("/api/v1/practice", json={"method": "sieve", "seed": 42}).json()["code"]
        answers.append(re.findall(r"<output>([^<]+)", client.get(f"/runs/{code}").text))
    assert answers[0] == answers[1]
    assert answers[0]
