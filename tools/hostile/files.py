"""Attacks through files: jobs as zips, marks, photographs, procedures, zones, pasted and imported tables."""

import argparse
import base64
import hashlib
import io
import json
import random
import tempfile
import time
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx2
from PIL import Image
from tests.conftest import Lab
from tests.serving import AT, Served, served
from tools.hostile.common import row

from vadum.soil.register import METHODS
from vadum.tape.audit import audit
from vadum.tape.clock import FrozenClock
from vadum.tape.job_file import MANIFEST

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M0 0h9v9z" fill="#a8431a"/></svg>'
AWKWARD = (
    "",
    "0",
    "-1",
    "1e308",
    "inf",
    "nan",
    "²",
    "٣",
    "9" * 400,
    "1,5,2",
    "\x00",
    "\N{RIGHT-TO-LEFT OVERRIDE}x",
    "../x",
)


class Tried:
    """What was answered to so many requests of a kind."""

    def __init__(self) -> None:
        self.answers: dict[int, int] = {}
        self.broken: list[str] = []

    def add(self, answer: httpx2.Response, words: str) -> None:
        self.answers[answer.status_code] = self.answers.get(answer.status_code, 0) + 1
        if answer.status_code >= 500:
            self.broken.append(f"{words[:160]}: {answer.status_code} {answer.text[:120]}")

    def tell(self, name: str, sound: bool = True) -> None:
        shown = " ".join(f"{k}:{v}" for k, v in sorted(self.answers.items()))
        row(
            name,
            f"{sum(self.answers.values())} tried, {len(self.broken)} answered 500; {shown}",
            sound and not self.broken,
        )
        for one in self.broken[:8]:
            print("   ", one)


def rezipped(content: bytes, change: Callable[[dict[str, bytes]], None]) -> bytes:
    """A job's file with its members changed, and the manifest's hashes mended to match."""
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        files = {i.filename: archive.read(i) for i in archive.infolist()}
    change(files)
    if MANIFEST in files:
        try:
            manifest = json.loads(files[MANIFEST])
            hashes = {n: hashlib.sha256(raw).hexdigest() for n, raw in files.items() if n != MANIFEST}
            files[MANIFEST] = json.dumps(manifest | {"files": hashes}).encode()
        except (ValueError, TypeError):
            pass
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, raw in files.items():
            archive.writestr(name, raw)
    return out.getvalue()


def _poisoned(node: Any, dice: random.Random) -> Any:
    """A copy of a JSON value with one thing of it replaced by what nobody expects there."""
    strange = dice.choice([None, "", 0, -1, 1e308, float("inf"), [], {}, "x" * 5000, True, "9999-99-99"])
    if isinstance(node, dict) and node:
        key = dice.choice(sorted(node))
        return {**node, key: _poisoned(node[key], dice) if dice.random() < 0.7 else strange}
    if isinstance(node, list) and node:
        at = dice.randrange(len(node))
        return [*node[:at], _poisoned(node[at], dice) if dice.random() < 0.7 else strange, *node[at + 1 :]]
    return strange


def _zips(content: bytes, dice: random.Random, many: int) -> Iterator[tuple[str, bytes]]:
    for n in range(120):
        found = bytearray(content)
        found[dice.randrange(len(found))] ^= 1 << dice.randrange(8)
        yield f"bit flip {n}", bytes(found)
    for n in range(40):
        yield f"cut {n}", content[: dice.randrange(len(content))]
    for name in ("../../x", "/etc/passwd", "tapes/../../x.jsonl", "C:\\x", "photographs/1/x.jpg", "tapes/1.jsonl\x00"):
        yield f"a member named {name!r}", rezipped(content, lambda files, name=name: files.update({name: b"x"}))
    link = zipfile.ZipInfo("papers/" + "0" * 64)
    link.external_attr = 0o120777 << 16
    out = io.BytesIO(content)
    with zipfile.ZipFile(out, "a") as archive:
        archive.writestr(link, "/etc/passwd")
    yield "a link", out.getvalue()
    yield (
        "20,001 members",
        rezipped(content, lambda f: f.update({f"raw/{n}.jsonl": b"" for n in range(10**6, 10**6 + 20_001)})),
    )
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(MANIFEST, b"0" * 150_000_000)
    yield "a bomb", bomb.getvalue()
    for n in range(many):

        def poison(files: dict[str, bytes]) -> None:
            files[MANIFEST] = json.dumps(_poisoned(json.loads(files[MANIFEST]), dice)).encode()

        yield f"a poisoned manifest {n}", rezipped(content, poison)
    for n in range(many):

        def forge(files: dict[str, bytes]) -> None:
            name = dice.choice([f for f in files if f.startswith("tapes/")])
            lines = files[name].splitlines(keepends=True)
            at = dice.randrange(len(lines))
            lines[at] = json.dumps(_poisoned(json.loads(lines[at]), dice)).encode() + b"\n"
            files[name] = b"".join(lines)

        yield f"a forged chain {n}", rezipped(content, forge)


def zips(asked: argparse.Namespace) -> None:
    """A job's zip: bits flipped, cut, names that lead elsewhere, a link, bombs, poisoned manifests, forged chains."""
    dice, tried = random.Random(asked.seed), Tried()
    with demo() as (app, client):
        content = client.get("/ground/KS-26/job.zip").content
    with empty() as (app, client):
        until = time.monotonic() + 420
        for n, (name, found) in enumerate(_zips(content, dice, 60)):
            if time.monotonic() > until:
                print(f"    stopped after {n}")
                break
            file = base64.b64encode(found).decode()
            tried.add(client.post("/api/v1/jobs/import", json={"file": file, "code": f"Z{n}"}), name)
        sound = client.post("/api/v1/jobs/import", json={"file": base64.b64encode(content).decode(), "code": "SOUND"})
        faults = audit(app.database)[1]
        for path in ("/bench", "/ground", "/runs", "/oven", "/kit"):
            tried.add(client.get(path), f"{path} afterwards")
    came = sound.status_code == 201 or "is here already" in sound.text
    row("  the file as it was, afterwards", f"{sound.status_code} {sound.text[:60]}", came)
    tried.tell("jobs as zips", not faults)
    row("  the database afterwards", f"{len(faults)} faults", not faults)


@contextmanager
def demo() -> Iterator[tuple[Served, httpx2.Client]]:
    """The demo's job served, and a manager's browser."""
    with tempfile.TemporaryDirectory(prefix="vadum-hostile-") as folder, served(Path(folder), FrozenClock(AT)) as app:
        client = httpx2.Client(base_url=app.address, follow_redirects=True, timeout=120)
        client.get(app.link("RV"))
        yield app, client


@contextmanager
def empty() -> Iterator[tuple[Served, httpx2.Client]]:
    """A laboratory that has nothing of the demo's, served, and its manager's browser."""
    with tempfile.TemporaryDirectory(prefix="vadum-hostile-") as folder:
        lab = Lab(Path(folder))
        app = Served(lab.url, lab.database, FrozenClock(AT), lab.ids)
        try:
            client = httpx2.Client(base_url=app.address, follow_redirects=True, timeout=120)
            client.get(app.link("MR"))
            yield app, client
        finally:
            app.go()
            lab.database.close()


def _pictures(dice: random.Random) -> Iterator[tuple[str, bytes]]:
    for kind in ("JPEG", "PNG", "WEBP", "GIF", "TIFF", "BMP"):
        out = io.BytesIO()
        Image.effect_noise((240, 160), 50).convert("RGB").save(out, kind)
        raw = out.getvalue()
        yield kind, raw
        for n in range(40):
            found = bytearray(raw)
            for _ in range(dice.choice([1, 1, 3, 20])):
                found[dice.randrange(len(found))] = dice.randrange(256)
            yield f"{kind} with bytes changed {n}", bytes(found)
        for n in range(10):
            yield f"{kind} cut {n}", raw[: dice.randrange(len(raw))]
    for side in (5600, 9000, 12_000):
        out = io.BytesIO()
        Image.new("1", (side, side)).save(out, "PNG")
        yield f"a bomb of {side} x {side}", out.getvalue()


def pictures(asked: argparse.Namespace) -> None:
    """Marks and photographs: every kind, broken, cut, bombs; drawings that never end. Then a sheet is still printed."""
    dice = random.Random(asked.seed)
    photographs, marks = Tried(), Tried()
    with demo() as (app, client):
        for n, (name, raw) in enumerate(_pictures(dice)):
            jpeg = base64.b64encode(raw).decode()
            entry = {"value": {"jpeg": jpeg, "caption": name[:60]}}
            code = OPEN[n % len(OPEN)]
            photographs.add(client.post(f"/runs/{code}/photographs", json={"entry": entry}), name)
        for name, raw in (*_drawings(dice), *_pictures(random.Random(asked.seed + 1))):
            file = base64.b64encode(raw).decode()
            if len(file) < 600_000 and dice.random() < 0.3:
                marks.add(client.post("/api/v1/laboratory/marks", json={"key": "mark", "file": file}), name)
        sheets = [client.get(f"/runs/{code}/sheet.pdf").status_code for code in (*OPEN, "LL-01")]
        faults = audit(app.database)[1]
    photographs.tell("photographs")
    marks.tell("the laboratory's mark")
    row(
        "  sheets printed afterwards, the database",
        f"{sheets}, {len(faults)} faults",
        set(sheets) == {200} and not faults,
    )


OPEN = ("LL-03", "WC-02", "WC-03", "SV-03")


def _drawings(dice: random.Random) -> Iterator[tuple[str, bytes]]:
    layers = "".join(
        f'<g id="g{i + 1}">{"<use href=" + chr(34) + f"#g{i}" + chr(34) + "/>"}</g>' * 6 for i in range(12)
    )
    yield "uses of uses", SVG.replace(b"<path", b'<g id="g0"><path d="M0 0h1v1z"/></g>' + layers.encode() + b"<path")
    for n in range(60):
        found = bytearray(SVG)
        for _ in range(dice.choice([1, 2, 5])):
            found[dice.randrange(len(found))] = dice.choice(b'<>"/ =0123456789abc#()')
        yield f"a drawing with letters changed {n}", bytes(found)


def settings(asked: argparse.Namespace) -> None:
    """Own procedures with every kind of number, time zones and laboratories of every kind of text."""
    dice = random.Random(asked.seed)
    schools, zones = Tried(), Tried()
    with demo() as (app, client):
        until = time.monotonic() + 240
        for n in range(400):
            if time.monotonic() > until:
                break
            its = dice.choice(list(METHODS.values()))
            base = its.school()
            changed = dice.sample(sorted(base.model_dump()), 2)
            values = {name: dice.choice([*AWKWARD, "0", "1", "1000000"]) for name in changed}
            asking = {"name": f"own_{n}", "title": "Own", "about": "", "based_on": base.name, "settings": values}
            schools.add(client.post(f"/api/v1/schools/{its.name}", json=asking), f"{its.name} {values}")
        for text in (
            *AWKWARD,
            "Europe/Lisbon",
            "Etc/GMT+99",
            "UTC\n",
            "../etc/localtime",
            "posixrules",
            "localtime",
            "Factory",
        ):
            zones.add(client.post("/api/v1/laboratory", json={"name": "Underford", "zone": text}), f"zone {text!r}")
            zones.add(client.get("/bench"), f"the bench under zone {text!r}")
        faults = audit(app.database)[1]
    schools.tell("procedures of one's own")
    zones.tell("time zones")
    row("  the database afterwards", f"{len(faults)} faults", not faults)


def tables(asked: argparse.Namespace) -> None:
    """Pasted lists and imported tables with awkward cells, heads and separators; every place is opened afterwards."""
    dice, tried, places = random.Random(asked.seed), Tried(), Tried()
    heads = {
        "tins": ["tin", "mass g", "what"],
        "locations": ["location", "easting m", "northing m", "level m", "depth m"],
        "samples": ["location", "sample", "top m", "base m", "mass g"],
        "schedule": ["sample", "test", "due"],
    }
    with demo() as (app, client):
        for n in range(600):
            name = dice.choice(list(heads))
            cells = [[dice.choice([*AWKWARD, f"A{n}", "TP1", "1.5", "B1"]) for _ in heads[name]] for _ in range(3)]
            between = dice.choice(["\t", ";", ",", "  "])
            text = "\n".join(between.join(line) for line in ([*heads[name]], *cells))
            body = {"pasted": text, "job": "KS-26", "due_on": "2026-06-01"}
            for path in (f"/api/v1/pasted/{name}/preview", f"/api/v1/pasted/{name}"):
                tried.add(client.post(path, json=body), f"{name} {text!r}")
        for path in ("/kit", "/ground/KS-26", "/ground/KS-26/schedule", "/bench", "/oven", "/runs", "/find?q=A1"):
            places.add(client.get(path), path)
        faults = audit(app.database)[1]
    tried.tell("pasted lists")
    places.tell("places opened afterwards")
    row("  the database afterwards", f"{len(faults)} faults", not faults)
