"""Attacks on the record: kills, a full disk."""

import argparse
import os
import random
import resource
import time

from tests.command import Command
from tests.hands import Hand, cookie_of
from tools.hostile.common import OPEN_RUNS, command, ids_kept, row

from vadum.tape import instrument_log, runs
from vadum.tape.audit import audit


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
