"""Eight instruments at ten samples a second into one server for a minute, with four desks open in a real browser."""

import multiprocessing
import os
import re
import statistics
import subprocess
import sys
import tempfile
import time
import uuid
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, NamedTuple

import httpx2
from tests.serving import free_port

from vadum.instruments.simulated import Simulator
from vadum.instruments.simulated_setting import setting

SEATED = (
    ("proving_ring", "R3"),
    ("expected_percent", "40"),
    ("axle_kn", "38"),
    ("springs", "raised clear"),
    ("stands", "bear"),
    ("surcharge", "D2"),
    ("seating_n", "250"),
    ("seated_div", "4"),
)
SHEARED = (
    ("soil", "clean sand"),
    ("box_shape", "square"),
    ("box_width_mm", "60"),
    ("cap_kg", "1.42"),
    ("lever_ratio", "10"),
    ("lever_balanced", "yes"),
    ("water_before_percent", "0.3"),
    ("load_by", "load cell"),
    ("stages[0].wanted_kpa", "100"),
    ("stages[0].height_mm", "20"),
    ("stages[0].mass_g", "120.4"),
    ("stages[0].hanger_kg", "3.53"),
    ("stages[0].flooded", "no"),
    ("stages[0].gap_mm", "0.7"),
    ("stages[0].rate_mm_min", "1"),
    ("stages[0].screws_out", "yes"),
    ("stages[0].zeroed", "yes"),
)
WATCH = """() => {
  window.seen = [];
  const bar = document.getElementById("listening");
  new MutationObserver(() => {
    const seq = Number(bar.dataset.seq);
    requestAnimationFrame(() => window.seen.push([seq, Date.now() / 1000]));
  }).observe(bar, { attributes: true, attributeFilter: ["data-seq"] });
}"""


class Load(NamedTuple):
    """What is measured: the method and its readings before the instrument starts, the instrument, how many of it, how
    many desks look, for how long in s."""

    method: str
    given: tuple[tuple[str, str], ...]
    kind: str
    instruments: int
    desks: int
    seconds: int


FRAMES = Load("field_cbr", SEATED, "frame", 8, 4, 60)
SHEAR = Load("direct_shear", SHEARED, "shear", 1, 1, 40)


def simulate(pipe: Connection, kind: str, many: int) -> None:
    """In a process of its own: the instruments, and when each of their lines was sent, by the wall clock."""
    running = [Simulator(setting({"kind": kind, "seed": str(i)})).start() for i in range(many)]
    pipe.send([s.address for s in running])
    pipe.recv()
    for one in running:
        one.close()
    wall = time.time() - time.monotonic()
    pipe.send([{seq: at + wall for seq, at in s.sent_at.items()} for s in running])


def memory_mb(pid: int) -> float:
    """Resident memory of a process, MB."""
    pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def _seat(client: httpx2.Client, load: Load) -> str:
    code = str(client.post("/api/v1/runs", json={"sample_id": 1, "method": load.method}).json()["code"])
    for path, value in load.given:
        entry = {"id": str(uuid.uuid4()), "path": path, "value": value}
        client.post(f"/runs/{code}/entries", json={"entry": entry, "insist": True}).raise_for_status()
    return code


def _prepare(links: list[str], addresses: list[str], load: Load) -> tuple[httpx2.Client, list[str]]:
    base = links[0].partition("/enter/")[0]
    with httpx2.Client(base_url=base, follow_redirects=True, timeout=30) as manager:
        manager.get(links[2].removeprefix(base))
        for i, address in enumerate(addresses):
            manager.post("/api/v1/kit", json={"kind": "instrument", "code": f"X{i}"}).raise_for_status()
            seen = {"address": address, "profile": load.kind}
            manager.post(f"/api/v1/kit/instrument/X{i}/calibrations", json=seen).raise_for_status()
    client = httpx2.Client(base_url=base, follow_redirects=True, timeout=30)
    client.get(links[0].removeprefix(base))
    codes = [_seat(client, load) for _ in addresses]
    for i, code in enumerate(codes):
        client.post(f"/api/v1/runs/{code}/instrument", json={"instrument": f"X{i}"}).raise_for_status()
    return client, codes


def called_rows(record: dict[str, Any]) -> int:
    """How many readings the calls took: of the push, or of the first stage's shear."""
    stages = record.get("stages")
    return len((stages[0] if stages else record).get("shear" if stages else "readings", ()))


def _states(client: httpx2.Client, codes: list[str]) -> list[dict[str, Any]]:
    return [client.get(f"/api/v1/runs/{code}/instrument").json() for code in codes]


def heard_and_shown(load: Load) -> list[tuple[str, str, str]]:
    """Rows of (name, figure, aim)."""
    from playwright.sync_api import sync_playwright
    from tests.browser.flags import FLAGS

    ours, theirs = multiprocessing.Pipe()
    simulators = multiprocessing.get_context("spawn").Process(
        target=simulate, args=(theirs, load.kind, load.instruments)
    )
    simulators.start()
    addresses = ours.recv()
    port = free_port()
    with tempfile.TemporaryDirectory() as scratch:
        command = [sys.executable, "-m", "vadum.cli", "demo", "--port", str(port), "--keep", f"{scratch}/bench.db"]
        server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert server.stdout is not None
        links: list[str] = []
        while len(links) < 3:
            links += re.findall(r"http://\S+/enter/\S+", server.stdout.readline())
        base = f"http://127.0.0.1:{port}"
        for _ in range(200):
            try:
                httpx2.get(f"{base}/signin")
                break
            except httpx2.TransportError:
                time.sleep(0.1)
        client, codes = _prepare(links, addresses, load)
        cookies = [{"name": c.name, "value": c.value, "url": base} for c in client.cookies.jar]
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(
                executable_path=os.environ.get("CHROMIUM", "/usr/bin/chromium"), args=list(FLAGS)
            )
            pages = []
            for code in codes[: load.desks]:
                context = browser.new_context(viewport={"width": 1280, "height": 800})
                context.add_cookies(cookies)  # type: ignore[arg-type]
                page = context.new_page()
                page.goto(f"{base}/runs/{code}")
                page.wait_for_selector("body[data-ready]")
                page.evaluate(WATCH)
                pages.append(page)
            for code in codes:
                client.post(f"/api/v1/runs/{code}/instrument/command", json={"command": "start"}).raise_for_status()
            before = _states(client, codes)
            begun = time.monotonic()
            memory = []
            while time.monotonic() - begun < load.seconds:
                pages[0].wait_for_timeout(5000)
                memory.append(memory_mb(server.pid))
            after = _states(client, codes)
            seen = [page.evaluate("window.seen") for page in pages]
            browser.close()
        for code in codes:
            client.post(f"/api/v1/runs/{code}/instrument", json={"instrument": ""})
        ours.send("enough")
        sent = ours.recv()
        raw = [client.get(f"/runs/{code}/raw.csv").text.splitlines()[1:] for code in codes]
        taken = [called_rows(client.get(f"/runs/{code}/run.json").json()["record"]) for code in codes]
        client.close()
        server.terminate()
        server.wait(10)
    simulators.join(10)
    heard = sum(a["samples"] - b["samples"] for a, b in zip(after, before, strict=True))
    gone = sum(a["gone"] + a["garbage"] for a in after)
    holes = 0
    for lines in raw:
        numbers = [int(line.split(",")[1]) for line in lines]
        holes += numbers[-1] - numbers[0] + 1 - len(numbers)
    delays = sorted(
        1000 * (at - sent[i][int(seq)]) for i, desk in enumerate(seen) for seq, at in desk if int(seq) in sent[i]
    )
    shown = f"p50 {statistics.median(delays):.0f}  p95 {delays[int(0.95 * (len(delays) - 1))]:.0f} ms"
    half = memory[len(memory) // 2 :]
    return [
        (
            f"{load.instruments} x {load.kind}, {load.seconds} s: samples heard",
            str(heard),
            f"about {load.instruments * load.seconds * 10}",
        ),
        ("  lost on the line, garbage; holes in the kept trace", f"{gone}; {holes}", "0; 0"),
        ("  samples shown on the desks", f"{sum(map(len, seen))}", f"about {load.desks * load.seconds * 10}"),
        ("  from sample to screen", shown, "p95 150 ms"),
        ("  called readings taken, each run", "/".join(map(str, taken)), "-"),
        ("  the server's memory, half time to end", f"{half[0]:.0f} to {half[-1]:.0f} MB", "flat"),
    ]
