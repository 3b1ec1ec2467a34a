"""Attack the running program on loopback, bounded in count and time, and print what held: `make hostile`.

`python -m tools.hostile [NAME ...] [--kills N] [--requests N] [--poisons N]`; names: kills, instrument, fuzz, poisons,
flood, disk, streams, typing. Every part stops by itself and sends traffic only to a program that it started.
"""

import argparse
import json
import os
import random
import resource
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx2
from tests.command import Command
from tests.hands import Hand, cookie_of, p95_ms
from tests.poisons import every_school
from tests.serving import AT, served
from tests.walking import Victim, walked

from vadum.soil.register import METHODS
from vadum.tape import instrument_log, runs
from vadum.tape.audit import audit
from vadum.tape.clock import FrozenClock

OPEN_RUNS = ("LL-03", "WC-02", "WC-03", "SV-03")


def row(name: str, figure: str, held: bool) -> None:
    print(f"{name:<58} {figure:<60} {'held' if held else 'BROKEN'}", flush=True)


@contextmanager
def command() -> Iterator[Command]:
    with tempfile.TemporaryDirectory(prefix="vadum-hostile-") as folder:
        running = Command(Path(folder)).start()
        try:
            yield running
        finally:
            running.stop()


def ids_kept(running: Command) -> dict[str, int]:
    with running.database.reading() as session:
        found = session.connection().exec_driver_sql("SELECT id, count(*) FROM entry GROUP BY id")
        return {r[0]: r[1] for r in found}


def killed(running: Command, times: int, dice: random.Random) -> tuple[int, int, int]:
    """Acknowledged, lost and doubled readings over so many kills at random moments."""
    acknowledged: list[str] = []
    for _ in range(times):
        cookie = cookie_of(running.browser("IM"))
        hands = [Hand(running.port, cookie, run) for run in OPEN_RUNS]
        for hand in hands:
            hand.start()
        time.sleep(dice.uniform(0.05, 0.9))
        running.kill()
        for hand in hands:
            hand.stopping.set()
        for hand in hands:
            hand.join(10)
            acknowledged += [p.known for p in hand.kept]
        running.start()
    kept = ids_kept(running)
    return len(acknowledged), sum(k not in kept for k in acknowledged), sum(kept.get(k, 0) > 1 for k in acknowledged)


def kills(asked: argparse.Namespace) -> None:
    with command() as running:
        said, lost, doubled = killed(running, asked.kills, random.Random(1))
        faults = audit(running.database)[1]
    row(
        f"kill -9 at random moments, {asked.kills} times",
        f"{said} acknowledged, {lost} lost, {doubled} doubled",
        not lost,
    )
    row("  the file afterwards", f"{len(faults)} faults", not faults)


def instrument(asked: argparse.Namespace) -> None:
    times = max(1, asked.kills // 5)
    with command() as running:
        manager, hand = running.browser("RV"), running.browser("IM")
        manager.post("/api/v1/kit", json={"kind": "instrument", "code": "BAL-9"})
        seen = {"address": "simulated://balance", "profile": "balance"}
        manager.post("/api/v1/kit/instrument/BAL-9/calibrations", json=seen)
        hand.post("/api/v1/runs/WC-02/instrument", json={"instrument": "BAL-9"})
        said, lost, _ = killed(running, times, random.Random(2))
        status = running.browser("IM").get("/api/v1/runs/WC-02/instrument").json()
        with running.database.reading() as session:
            traces = instrument_log.traces(session, runs.find(session, "WC-02").id or 0)
            samples = sum(t.samples for t in traces)
        faults = audit(running.database)[1]
    held = not lost and status.get("instrument") == "BAL-9" and not faults
    row(
        f"kill -9 while an instrument is heard, {times} times",
        f"{said} acknowledged, {lost} lost, {samples} raw samples",
        held,
    )
    row("  heard again by itself after the last", f"{status.get('instrument')}, {len(faults)} faults", held)


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


def flood(asked: argparse.Namespace) -> None:
    """A posted reading while strangers try pass-phrases and idle connections stand."""
    with command() as running:
        cookie = cookie_of(running.browser("IM"))

        def measured(seconds: float) -> list[float]:
            hand = Hand(running.port, cookie, "LL-03", pause_s=0.05)
            hand.start()
            time.sleep(seconds)
            hand.stopping.set()
            hand.join(30)
            return [p.took_s for p in hand.kept]

        quiet = measured(5)
        idle = [socket.create_connection(("127.0.0.1", running.port)) for _ in range(1000)]
        for i, one in enumerate(idle):
            if i % 2:
                one.sendall(b"POST /signin HTTP/1.1\r\nHost: 127.0.0.1\r\n")
        ending = threading.Event()
        tries: list[int] = []

        def stranger(i: int) -> None:
            line = httpx2.Client(base_url=running.address, timeout=30)
            while not ending.is_set():
                try:
                    name = ("ilse", "tomas", "ruth", f"stranger{i}")[i % 4]
                    tries.append(line.post("/signin", data={"login": name, "passphrase": f"guess {i}"}).status_code)
                except httpx2.HTTPError:
                    time.sleep(0.05)
                ending.wait(0.05)

        strangers = [threading.Thread(target=stranger, args=(i,), daemon=True) for i in range(16)]
        for one in strangers:
            one.start()
        loud = measured(20)
        ending.set()
        for one in strangers:
            one.join(30)
        open_still = sum(not closed(one) for one in idle)
        for one in idle:
            one.close()
    shown = f"quiet p95 {p95_ms(quiet):.0f} ms; p50 {1000 * statistics.median(loud):.0f}, p95 {p95_ms(loud):.0f} ms"
    row("a posted reading under 16 strangers, 1000 idle lines", f"{shown} of {len(loud)}", p95_ms(loud) < 100)
    answers = {status: tries.count(status) for status in sorted(set(tries))}
    row("  what the strangers were told", f"{answers}", 200 not in answers)
    row("  idle and half-sent lines still open after 20 s", f"{open_still} of 1000", open_still == 0)


def closed(line: socket.socket) -> bool:
    line.setblocking(False)
    try:
        return line.recv(1) == b""
    except BlockingIOError:
        return False
    except OSError:
        return True


def disk(asked: argparse.Namespace) -> None:
    """A file that may not grow, lifted again: what was acknowledged is there, what was not is sent again."""
    statuses: dict[int, int] = {}
    acknowledged: list[str] = []
    with command() as running:
        assert running.process
        cookie = cookie_of(running.browser("IM"))
        for extra in (60_000, 150_000, 300_000):
            most = os.path.getsize(running.file) + extra
            resource.prlimit(running.process.pid, resource.RLIMIT_FSIZE, (most, resource.RLIM_INFINITY))
            hand = Hand(running.port, cookie, "LL-03")
            hand.start()
            time.sleep(4)
            unlimited = (resource.RLIM_INFINITY, resource.RLIM_INFINITY)
            resource.prlimit(running.process.pid, resource.RLIMIT_FSIZE, unlimited)
            time.sleep(1)
            hand.stopping.set()
            hand.join(30)
            acknowledged += [p.known for p in hand.kept]
            for words in hand.failed:
                statuses[int(words[:3])] = statuses.get(int(words[:3]), 0) + 1
        kept = ids_kept(running)
        faults = audit(running.database)[1]
    lost = sum(k not in kept for k in acknowledged)
    held = not lost and not faults and set(statuses) <= {503, 507}
    row("a full disk, three times", f"{len(acknowledged)} acknowledged, {lost} lost, refused {statuses}", held)


def streams(asked: argparse.Namespace) -> None:
    """Two hundred pages that look at one run."""
    with command() as running:
        client = running.browser("IM")
        cookie = cookie_of(client)
        heard: list[list[float]] = [[] for _ in range(200)]
        lines = []
        for i in range(200):
            line = socket.create_connection(("127.0.0.1", running.port))
            head = f"GET /runs/LL-03/events HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: {cookie}\r\n\r\n"
            line.sendall(head.encode())
            lines.append(line)

            def listen(i: int = i, line: socket.socket = line) -> None:
                buffer = b""
                try:
                    while came := line.recv(4096):
                        buffer += came
                        while b"event: grown" in buffer:
                            heard[i].append(time.perf_counter())
                            buffer = buffer.partition(b"event: grown")[2]
                except OSError:
                    return

            threading.Thread(target=listen, daemon=True).start()
        time.sleep(3)
        sent = []
        for n in range(20):
            sent.append(time.perf_counter())
            entry = {"path": "remarks", "value": f"seen {n}"}
            client.post("/api/v1/runs/LL-03/entries", json={"entry": entry, "insist": True})
            time.sleep(0.3)
        time.sleep(2)
        delays = [at - sent[n] for one in heard for n, at in enumerate(one[:20])]
        whole = sum(len(one) >= 20 for one in heard)
        for line in lines:
            line.close()
    row("200 event streams, 20 readings", f"{whole} heard all, p95 {p95_ms(delays):.0f} ms from the post", whole == 200)


def typing(asked: argparse.Namespace) -> None:
    """Every desk typed at by Enter, Tab, mouse and touch keys, on a slow network whose answers come out of order."""
    walk = "tests/browser/test_typing.py::test_what_is_typed_over_a_slow_network_is_what_is_kept"
    asking = [sys.executable, "-m", "pytest", walk, "-n", "2", "-o", "addopts="]
    done = subprocess.run(asking, env={**os.environ, "VADUM_EVERY_DESK": "1"}, capture_output=True, text=True)
    told = done.stdout.strip().splitlines() or ["nothing was told"]
    for line in told:
        if line.startswith("FAILED"):
            print(line)
    row("every desk typed at, in four ways", told[-1].strip("= "), done.returncode == 0)


PARTS = {f.__name__: f for f in (kills, instrument, fuzz, poisons, flood, disk, streams, typing)}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="*", choices=[[], *PARTS])
    parser.add_argument("--kills", type=int, default=100)
    parser.add_argument("--requests", type=int, default=5000)
    parser.add_argument("--poisons", type=int, default=100_000, help="at most so many of each school")
    parser.add_argument("--schools", action="store_true", help="poisons in every school, not in each method's first")
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    for name in asked.names or PARTS:
        PARTS[name](asked)


if __name__ == "__main__":
    main()
