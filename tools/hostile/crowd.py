"""Attacks by many at once: strangers, idle lines, streams, slow work, an instrument attached and left, six who sign."""

import argparse
import base64
import io
import os
import socket
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable

import httpx2
from PIL import Image
from tests.hands import Hand, cookie_of, p95_ms
from tests.several import several
from tools.hostile.common import command, row

from vadum.soil.register import METHODS
from vadum.tape.audit import audit


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


def large_photograph() -> bytes:
    """Twenty-four megapixels in less than three million bytes, as a good phone takes it."""
    out = io.BytesIO()
    small = Image.effect_noise((750, 500), 40).convert("RGB")
    small.resize((6000, 4000)).save(out, "JPEG", quality=60)
    return out.getvalue()


def slow(asked: argparse.Namespace) -> None:
    """Others' readings while a large photograph, five hundred tins and 1,300 scheduled tests go in, over and over."""
    photograph = base64.b64encode(large_photograph()).decode()
    heads = "sample\t" + "\t".join(its.title for its in METHODS.values())
    samples = "\n".join(f"BH77\tZ{n}" for n in range(60))
    grid = heads + "\n" + "\n".join(f"BH77 Z{n}\t" + "\t".join("x" for _ in METHODS) for n in range(60))
    with command() as running:
        manager, one = running.browser("RV"), running.browser("IM")
        for name, text in (("locations", "location\nBH77"), ("samples", "location\tsample\n" + samples)):
            made = manager.post(f"/api/v1/pasted/{name}", json={"job": "KS-26", "pasted": text})
            assert made.status_code == 201, made.text

        def tins(n: int) -> dict[str, object]:
            return {"pasted": "tin\tmass g\n" + "\n".join(f"{5000 + 500 * n + i}\t21.5" for i in range(500))}

        works: dict[str, Callable[[int], httpx2.Response]] = {
            "a photograph of 24 megapixels": lambda n: manager.post(
                "/runs/LL-03/photographs", json={"entry": {"value": {"jpeg": photograph, "caption": f"{n}"}}}
            ),
            "500 tins": lambda n: manager.post("/api/v1/pasted/tins", json=tins(n)),
            "1,300 scheduled tests": lambda n: manager.post(
                "/api/v1/pasted/schedule", json={"job": "KS-26", "pasted": grid, "due_on": f"2026-06-{n + 1:02d}"}
            ),
        }
        cookie = cookie_of(one)
        for name, work in works.items():
            hands = [Hand(running.port, cookie, run, pause_s=0.2) for run in ("WC-02", "WC-03", "SV-03")]
            for hand in hands:
                hand.start()
            time.sleep(1)
            for hand in hands:
                hand.kept.clear()
            begun = time.perf_counter()
            answers = [work(n) for n in range(5)]
            took = (time.perf_counter() - begun) / len(answers)
            for hand in hands:
                hand.stopping.set()
            for hand in hands:
                hand.join(30)
            taken = [p.took_s for hand in hands for p in hand.kept]
            worst = 1000 * max(taken, default=0.0)
            figure = f"p95 {p95_ms(taken):.0f} ms, worst {worst:.0f} ms of {len(taken)}; {took:.2f} s each"
            sound = all(a.status_code in (200, 201) for a in answers) and not any(hand.failed for hand in hands)
            row(f"others' readings while {name}", figure, sound and p95_ms(taken) < 100)


def together(*works: Callable[[], httpx2.Response]) -> list[int]:
    """What several requests answer that are sent at once."""
    found: list[int] = []
    gate = threading.Barrier(len(works))

    def go(work: Callable[[], httpx2.Response]) -> None:
        gate.wait()
        found.append(work().status_code)

    threads = [threading.Thread(target=go, args=(work,)) for work in works]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return found


def at_once(asked: argparse.Namespace) -> None:
    """An instrument attached and left at once, sixty times; six who sign one sheet at once, on two processes."""
    with command() as running:
        manager = running.browser("RV")
        manager.post("/api/v1/kit", json={"kind": "instrument", "code": "BAL-9"})
        seen = {"address": "simulated://balance", "profile": "balance"}
        manager.post("/api/v1/kit/instrument/BAL-9/calibrations", json=seen)
        hands = [running.browser("IM") for _ in range(2)]

        def attach(hand: httpx2.Client, code: str) -> Callable[[], httpx2.Response]:
            return lambda: hand.post("/api/v1/runs/WC-02/instrument", json={"instrument": code})

        answers = [a for _ in range(60) for a in together(attach(hands[0], "BAL-9"), attach(hands[1], ""))]
        broken = sum(a >= 500 for a in answers)
        faults = audit(running.database)[1]
    row("an instrument attached and left at once, 60 times", f"{broken} of {len(answers)} answered 500", not broken)
    row("  the file afterwards", f"{len(faults)} faults", not faults)
    told: dict[int, int] = {}
    with several(2) as running:
        people = [running.browser(initials) for initials in ("IM", "RV", "TO") for _ in range(2)]
        for n in range(8):
            code = signable(people[1])
            seen = people[0].get(f"/runs/{code}/run.json").json()["tape"][-1]["hash"]
            body = {"tape": seen, "reason": f"as it stands, {n}"}
            for status in together(*(signing(hand, code, body) for hand in people)):
                told[status] = told.get(status, 0) + 1
        faults = audit(running.database)[1]
    held = set(told) <= {200, 403, 409} and told.get(200) == 8 and not faults
    row("six sign one sheet at once on two processes, 8 times", f"answers {told}, {len(faults)} faults", held)


def signing(hand: httpx2.Client, code: str, body: dict[str, str]) -> Callable[[], httpx2.Response]:
    return lambda: hand.post(f"/api/v1/runs/{code}/sign", json=body)


def signable(hand: httpx2.Client) -> str:
    """A water content with its three masses, that may be signed as it stands."""
    code = str(hand.post("/api/v1/runs", json={"sample_id": 1, "method": "water_content"}).json()["code"])
    for path, value in (("mass_tin_g", "21.37"), ("mass_wet_g", "68.40"), ("weighings[]", {"mass_dry_g": "61.20"})):
        posted = {"entry": {"path": path, "value": value}, "insist": True}
        answer = hand.post(f"/api/v1/runs/{code}/entries", json=posted)
        assert answer.status_code == 201, answer.text
    return code


# What two people at one device, two tabs of one browser, and a session that ends in the middle must not mix up.
TWO_AT_ONE_DEVICE = (
    "tests/browser/test_typing.py::test_two_people_at_one_run_keep_their_own_figures",
    "tests/browser/test_typing.py::test_a_page_of_one_person_writes_nothing_as_another",
    "tests/browser/test_typing.py::test_a_session_that_ends_in_the_middle_of_typing_loses_nothing",
    "tests/browser/test_without_a_network.py::test_another_persons_readings_wait_and_hold_up_nobody",
    "tests/browser/test_without_a_network.py::test_a_session_that_a_manager_ended_leaves_no_desk_on_the_device",
    "tests/browser/test_two_signatures.py",
    "tests/web/test_the_pages_person.py",
)


def run_tests(name: str, tests: tuple[str, ...], **environment: str) -> None:
    asking = [sys.executable, "-m", "pytest", *tests, "-n", "2", "-o", "addopts="]
    done = subprocess.run(asking, env={**os.environ, **environment}, capture_output=True, text=True)
    told = done.stdout.strip().splitlines() or ["nothing was told"]
    for line in told:
        if line.startswith("FAILED"):
            print(line)
    row(name, told[-1].strip("= "), done.returncode == 0)


def device(asked: argparse.Namespace) -> None:
    """Two browsers, two people on one device, a session that ends in the middle of typing, two managers."""
    run_tests("two people at one device", TWO_AT_ONE_DEVICE)


def typing(asked: argparse.Namespace) -> None:
    """Every desk typed at by Enter, Tab, mouse and touch keys, on a slow network whose answers come out of order; a
    share of them at a time (--share 1/4), so that each ends within ten minutes."""
    walk = "tests/browser/test_typing.py::test_what_is_typed_over_a_slow_network_is_what_is_kept"
    name = f"every desk typed at, in four ways, share {asked.share}"
    run_tests(name, (walk,), VADUM_EVERY_DESK=asked.share)
