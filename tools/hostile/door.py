"""Attacks through the door: the OpenAPI fuzzed, poisons in every field."""

import argparse
import json
import random
import tempfile
from pathlib import Path

import httpx2
from tests.poisons import every_school
from tests.serving import AT, served
from tests.walking import Victim, walked
from tools.hostile.common import OPEN_RUNS, row

from vadum.soil.register import METHODS
from vadum.tape.audit import audit
from vadum.tape.clock import FrozenClock


def aimed(case: object, dice: random.Random, practice: str) -> None:
    """Most requests go to something that is there: behind a name that nobody has stands nothing to break."""
    given = getattr(case, "path_parameters", None)
    if not given or dice.random() < 0.25:
        return
    path = str(getattr(case, "path", ""))
    codes = {"/runs/": dice.choice([*OPEN_RUNS, "LL-01", "HY-02", "CB-03"]), "/jobs/": "KS-26", "/practice/": practice}
    codes |= {"/kit/tin/": "3", "/kit/cup/": "cup 1", "/kit/balance/": "B1"}
    kind, code = dice.choice(
        [("mould", "C8"), ("proving_ring", "R3"), ("hydrometer", "H1"), ("sieve", "S2"), ("ring", "A")]
    )
    for name in given:
        if name == "code":
            given[name] = next((found for part, found in codes.items() if part in path), code)
        elif name in ("kind", "login", "spot_id", "name"):
            given[name] = {"kind": kind, "login": "ilse", "spot_id": "1", "name": "sieve"}[name]


def fuzz(asked: argparse.Namespace) -> None:
    import schemathesis
    from hypothesis import HealthCheck, given, settings

    with tempfile.TemporaryDirectory() as folder, served(Path(folder), FrozenClock(AT)) as app:
        client = httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60)
        client.get(app.link("RV"))
        schema = schemathesis.openapi.from_dict(client.get("/api/v1/openapi.json").json())
        operations = [found.ok() for found in schema.get_all_operations()]
        each = -(-asked.requests // len(operations))
        practice = client.post("/api/v1/practice", json={"method": "water_content"}).json()["code"]
        dice = random.Random(asked.seed)
        answers: dict[int, int] = {}
        broken: list[str] = []
        for operation in operations:

            @settings(max_examples=each, deadline=None, database=None, suppress_health_check=list(HealthCheck))
            @given(case=operation.as_strategy())
            def sent(case: object) -> None:
                aimed(case, dice, practice)
                made = case.as_transport_kwargs(base_url=app.address)  # type: ignore[attr-defined]
                body = made.get("json") if made.get("json") is not None else made.get("data")
                text = json.dumps(body).encode() if not isinstance(body, bytes | str) else body
                headers = {k: v for k, v in dict(made.get("headers") or {}).items() if k.lower() != "cookie"}
                try:
                    answer = client.request(
                        made["method"],
                        made["url"].removeprefix(app.address),
                        params=made.get("params"),
                        content=None if body is None else text,
                        headers={**headers, **({"Content-Type": "application/json"} if body is not None else {})},
                    )
                except (httpx2.InvalidURL, UnicodeError, ValueError, TypeError):
                    return  # what no client can send
                answers[answer.status_code] = answers.get(answer.status_code, 0) + 1
                if answer.status_code >= 500:
                    broken.append(f"{made['method']} {made['url'][:120]} {str(text)[:200]}: {answer.status_code}")

            sent()
        sound = audit(app.database)[1]
    many = sum(answers.values())
    row(f"the OpenAPI fuzzed, {len(operations)} operations", f"{many} requests, {len(broken)} answered 500", not broken)
    row("  answers by status", " ".join(f"{k}:{v}" for k, v in sorted(answers.items())), True)
    row("  the database afterwards", f"{len(sound)} faults", not sound)
    for one in broken[:10]:
        print("   ", one)


def poisons(asked: argparse.Namespace) -> None:
    """Every poison in every field of every method, of its first school; the walk after each, until the time is up."""
    dice = random.Random(asked.seed)
    tried, all_of_them = 0, 0
    faults: list[str] = []
    with tempfile.TemporaryDirectory() as folder, served(Path(folder), FrozenClock(AT)) as app:
        client = httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60)
        client.get(app.link("IM"))
        schools = every_school() if asked.schools else [(m, m.school()) for m in METHODS.values()]
        for its, school in schools:
            victim = Victim(app, its, school)
            found = victim.poisons()
            all_of_them += len(found)
            for poison in dice.sample(found, min(len(found), asked.poisons)):
                tried += 1
                faults += walked(client, victim, poison)
    row(
        f"poisons through the door, {len(schools)} schools",
        f"{tried} of {all_of_them} tried, {len(faults)} faults",
        not faults,
    )
    for one in faults[:10]:
        print("   ", one)
