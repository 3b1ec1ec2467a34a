"""A poisoned reading posted through the door, and the walk through every place that could fall over it."""

import json
import uuid
from collections.abc import Iterator
from typing import Any

import httpx2

from tests.poisons import Poison, all_poisons
from tests.serving import AT, Served
from tests.soil.test_following_advice import flat
from tests.tape.test_every_method_on_tape import typed
from vadum.soil.contract.method import Method, School
from vadum.tape import ground, posting, runs
from vadum.tape.entries import NewEntry
from vadum.tape.tables import Person

PAGES = ("/bench", "/dossiers", "/runs/{code}", "/runs/{code}/sheet", "/samples/{sample}", "/rack")
FILES = ("/runs/{code}/run.json", "/runs/{code}/run.csv", "/runs/{code}/sheet.pdf")
API = ("/api/v1/runs/{code}", "/api/v1/runs/{code}/tape", "/runs/{code}/parts")


class Victim:
    """A run of one method by one school, with a full record of readings, on a sample of its own."""

    def __init__(self, app: Served, its: Method, school: School) -> None:
        self.app, self.its = app, its
        record = its.virtual(3, school, None).record
        self.rows = {k: len(v) for k, v in record if isinstance(v, tuple)}
        with app.database.writing() as session:
            me = session.get(Person, app.ids["IM"])
            place = ground.newest_places(session)[0]
            new = ground.NewSample(code=f"P-{uuid.uuid4().hex[:10]}", kind="tub")
            sample = ground.add_sample(session, place.spot, new)
            run = runs.start(session, ground.Place(sample, place.spot, place.job), its.name, school.name, me, AT)
            given = dict(its.begins_with(school))
            entries = runs.read_tape(session, run.id)
            for path, value in flat(record).items():
                if path not in given:
                    value = f"T{value}" if path.rpartition(".")[2] == "tin" else value
                    new_entry = NewEntry(path=path, value=typed(value))
                    posting.post(session, run, new_entry, me, AT, insist=True, entries=entries)
            self.code, self.sample = run.code, sample.id

    def poisons(self) -> list[Poison]:
        return all_poisons(self.its, self.rows)

    def stands(self, path: str) -> list[str]:
        """The entry that stands at a path, to be struck."""
        with self.app.database.reading() as session:
            entries = runs.read_tape(session, runs.find(session, self.code).id)
        struck = {s for e in entries for s in e.strikes}
        return [e.id for e in entries if e.path == path and e.value is not None and e.id not in struck]


def walked(client: httpx2.Client, victim: Victim, poison: Poison) -> Iterator[str]:
    """Post it, look everywhere, strike it again; what went wrong, in words."""
    path, value = poison
    url = f"/runs/{victim.code}/entries"
    before = victim.stands(path)
    if before:
        entry = {"path": path, "value": None, "strikes": before, "reason": "poison"}
        client.post(url, json={"entry": entry, "insist": True})
    entry = {"path": path, "value": value, "id": str(uuid.uuid4())}
    answer = client.post(url, json={"entry": entry, "insist": True})
    named = f"{victim.its.name} {path} = {value[:40]!r}"
    if answer.status_code not in (200, 201, 422):
        yield f"{named}: the post answers {answer.status_code}"
    if "broken" in answer.json():
        yield f"{named}: broken: {answer.json()['broken'][:200]}"
    if answer.status_code == 422 and not answer.json().get("field"):
        yield f"{named}: refused without its field"
    yield from looked(client, victim, named)
    if answer.status_code < 300:
        strike = {"path": path, "value": None, "strikes": [entry["id"]], "reason": "poison"}
        if client.post(url, json={"entry": strike, "insist": True}).status_code >= 300:
            yield f"{named}: cannot be struck"


def looked(client: httpx2.Client, victim: Victim, named: str) -> Iterator[str]:
    """Every place that shows the run."""
    names = {"code": victim.code, "sample": victim.sample}
    for page in PAGES:
        answer = client.get(page.format(**names), headers={"Accept": "text/html"})
        if answer.status_code != 200:
            yield f"{named}: {page} answers {answer.status_code}"
        elif 'class="broken"' in answer.text:
            yield f"{named}: {page} is broken"
    for file in (*FILES, *API):
        answer = client.get(file.format(**names))
        if answer.status_code != 200:
            yield f"{named}: {file} answers {answer.status_code}"
        elif not file.endswith((".csv", ".pdf")):
            json.loads(answer.text, parse_constant=_no_constant)


def _no_constant(name: str) -> Any:
    raise AssertionError(f"JSON holds {name}")
