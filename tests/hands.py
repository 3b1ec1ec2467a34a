"""Hands that post readings as fast as they are answered, and remember which were acknowledged."""

import http.client
import json
import threading
import time
import uuid
from typing import NamedTuple


class Posted(NamedTuple):
    """One acknowledged reading: its run, its id, and how long it took, s."""

    run: str
    known: str
    took_s: float


class Hand(threading.Thread):
    """A person's browser on a thread of its own: one reading after the other, until it is told to stop."""

    def __init__(self, port: int, cookie: str, run: str, *, pause_s: float = 0.0) -> None:
        super().__init__(daemon=True)
        self.port, self.cookie, self.run_code, self.pause_s = port, cookie, run, pause_s
        self.kept: list[Posted] = []
        self.failed: list[str] = []
        self.stopping = threading.Event()

    def run(self) -> None:
        """Post until stopped; a connection that breaks is opened again."""
        line: http.client.HTTPConnection | None = None
        number = 0
        while not self.stopping.is_set():
            number += 1
            known = str(uuid.uuid4())
            entry = {"id": known, "path": "remarks", "value": f"{number}"}
            body = json.dumps({"entry": entry, "insist": True})
            headers = {"Content-Type": "application/json", "Cookie": self.cookie}
            try:
                line = line or http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
                begun = time.perf_counter()
                line.request("POST", f"/api/v1/runs/{self.run_code}/entries", body, headers)
                answer = line.getresponse()
                text = answer.read()
            except (OSError, http.client.HTTPException):
                if line:
                    line.close()
                line = None
                self.stopping.wait(0.05)
                continue
            if answer.status == 201:
                self.kept.append(Posted(self.run_code, known, time.perf_counter() - begun))
            else:
                self.failed.append(f"{answer.status} {text[:80]!r}")
            if self.pause_s:
                self.stopping.wait(self.pause_s)


def cookie_of(client: object) -> str:
    """The session of a signed-in client, as a header."""
    return "; ".join(f"{name}={value}" for name, value in dict(client.cookies).items())  # type: ignore[attr-defined]


def p95_ms(taken_s: list[float]) -> float:
    """The 95th percentile, ms."""
    ordered = sorted(taken_s)
    return 1000 * ordered[int(0.95 * (len(ordered) - 1))] if ordered else 0.0
