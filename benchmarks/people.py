"""Fifty people on twenty runs: readings a second, how long one waits, and that none is lost or doubled."""

import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from tests.command import Command
from tests.hands import Hand, cookie_of, p95_ms
from tests.several import several

PEOPLE, RUNS, SECONDS = 50, 20, 12.0


@contextmanager
def _one_process() -> Iterator[Any]:
    with TemporaryDirectory(prefix="vadum-people-") as folder:
        running = Command(Path(folder)).start()
        try:
            yield running
        finally:
            running.stop()


def _measured(running: Any) -> tuple[str, str]:
    client = running.browser("IM")
    codes = [
        client.post("/api/v1/runs", json={"sample_id": 1 + n % 8, "method": "water_content"}).json()["code"]
        for n in range(RUNS)
    ]
    port = int(running.address.rpartition(":")[2])
    hands = [Hand(port, cookie_of(client), codes[n % RUNS]) for n in range(PEOPLE)]
    begun = time.perf_counter()
    for hand in hands:
        hand.start()
    time.sleep(SECONDS)
    for hand in hands:
        hand.stopping.set()
    for hand in hands:
        hand.join(60)
    took = time.perf_counter() - begun
    posted = [p for hand in hands for p in hand.kept]
    with running.database.reading() as session:
        kept = Counter(session.connection().exec_driver_sql("SELECT id FROM entry").scalars())
    lost = sum(p.known not in kept for p in posted)
    doubled = sum(many > 1 for many in kept.values())
    refused = sum(len(hand.failed) for hand in hands)
    waits = [p.took_s for p in posted]
    figure = f"{len(posted) / took:.0f}/s, p95 {p95_ms(waits):.0f} ms"
    return figure, f"{lost} lost, {doubled} doubled, {refused} refused"


def fifty_people() -> Iterator[tuple[str, str, str]]:
    """Rows of the measurement: SQLite with one process, PostgreSQL with one, two and four."""
    with _one_process() as running:
        yield ("50 people, 20 runs: SQLite, one process", *_measured(running))
    for workers in (1, 2, 4):
        with several(workers) as running:
            yield (
                f"50 people, 20 runs: PostgreSQL, {workers} process{'es' if workers > 1 else ''}",
                *_measured(running),
            )
