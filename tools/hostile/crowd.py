"""Attacks by many at once: strangers, idle lines, streams, slow work, an instrument attached and left, six who sign."""

import argparse
import base64
import io
import os
import random
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path

import httpx2
from PIL import Image
from tests.hands import Hand, cookie_of, p95_ms
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
