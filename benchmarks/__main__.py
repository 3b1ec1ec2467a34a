"""Run every measurement: `make bench`, or `python -m benchmarks NAME ...`."""

import json
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from functools import partial
from pathlib import Path

import httpx2
from sqlalchemy import insert
from tests.calls import called_by
from tests.serving import AT, free_port, served

from vadum.bench.start_plans import blocks_of
from vadum.demo.job import build
from vadum.soil.contract.block import block_of
from vadum.soil.methods.hydrometer.school import SCHOOLS as HYDROMETER
from vadum.soil.register import METHODS
from vadum.soil.shared.infiltration import Curve, Cylinder, fit_both, series_of
from vadum.soil.shared.start_times import Block, _least_sums, stagger
from vadum.tape import find, ground, run_list, runs
from vadum.tape.clock import FrozenClock
from vadum.tape.database import Database
from vadum.tape.entries import GENESIS, NewEntry, Taped, append_to, hash_of
from vadum.tape.run_list import Filter
from vadum.tape.tables import Entry, Run


def line(name: str, figure: str, aim: str) -> None:
    print(f"{name:<58} {figure:>26}   aim {aim}")


def spread(seconds: list[float]) -> str:
    ordered = sorted(1000 * s for s in seconds)
    return f"p50 {statistics.median(ordered):.2f}  p95 {ordered[int(0.95 * (len(ordered) - 1))]:.2f} ms"


def timed(times: int, work: Callable[[], object]) -> list[float]:
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        taken.append(time.perf_counter() - begun)
    return taken


def reduce_liquid_limit() -> None:
    method = METHODS["liquid_limit"]
    school = method.school()
    record = method.virtual(3, school, None).record
    now = datetime(2026, 5, 12, tzinfo=UTC)
    method.judge(record, school, now)
    line("reduce a full liquid limit", spread(timed(500, lambda: method.outcome(record, school))), "2 ms")
    line("reduce, judge and advise on it", spread(timed(500, lambda: method.judge(record, school, now))), "-")


def reduce_a_grading() -> None:
    pairs = []
    for name, school in (("sieve", "astm_soil"), ("hydrometer", "d7928")):
        method = METHODS[name]
        pairs.append((method, method.school(school), method.virtual(4, method.school(school), None).record))

    def reduce() -> None:
        for method, school, record in pairs:
            method.outcome(record, school)

    reduce()
    line("reduce a full hydrometer and a full sieve analysis", spread(timed(300, reduce)), "5 ms")


def a_loggers_block() -> None:
    """A block of 5,000 rows: parsed and put on the tape, folded, reduced, and its picture's data made."""
    its = METHODS["unconfined_compression"]
    travel = [9.0 * i / 4999 for i in range(5000)]
    columns = {
        "deformation_mm": [f"{t:.4f}" for t in travel],
        "force_n": [f"{max(0.0, 15 * t * (2 - t / 4)):.3f}" for t in travel],
        "elapsed_s": [f"{60 * t:.2f}" for t in travel],
    }
    core = {f"diameter_{at}_mm": "38.1" for at in ("top", "middle", "bottom")}
    core |= {f"height_{n}_mm": "76.2" for n in (1, 2, 3)} | {"load_by": "load cell", "rate_mm_min": "1"}
    with filled(0, "open") as (_, client):
        taken, shown = [], []
        for _ in range(9):
            code = client.post("/api/v1/runs", json={"sample_id": 5, "method": its.name}).json()["code"]
            for path, value in core.items():
                client.post(f"/runs/{code}/entries", json={"entry": {"path": path, "value": value}, "insist": True})
            text = "deformation;force;time\n" + "\n".join(";".join(r) for r in zip(*columns.values(), strict=True))
            begun = time.perf_counter()
            answer = client.post(f"/api/v1/runs/{code}/import", json={"rows": "readings", "text": text})
            assert answer.status_code == 201, answer.text
            middle = time.perf_counter()
            assert client.get(f"/runs/{code}/parts").status_code == 200
            taken.append(middle - begun)
            shown.append(time.perf_counter() - middle)
    line("a table of 5,000 rows brought in as a block, kept and tried", spread(taken), "-")
    line("the desk of that run: folded, reduced, drawn", spread(shown), "-")
    raw = {"readings": [dict(zip(columns, row, strict=True)) for row in zip(*columns.values(), strict=True)]}
    record = its.Record.model_validate(core | raw)
    school = its.school()

    def whole() -> None:
        block_of(columns)
        its.read(its.Record.model_validate(core | raw), school)

    assert its.read(record, school).outcome.value("strength_kpa")
    line("the same in the core: in, folded, reduced, its series", spread(timed(9, whole)), "200 ms")


def a_full_triaxial() -> None:
    """Three specimens with 2,000 rows of shear each: judged, and read with its series."""
    its = METHODS["triaxial"]
    school = its.school("d4767")
    record = its.virtual(3, school, None).record
    longer = []
    for specimen in record.specimens:
        rows = specimen.shear
        dense = []
        for i in range(2000):
            at = i * (len(rows) - 1) / 1999
            a, b, share = rows[int(at)], rows[min(int(at) + 1, len(rows) - 1)], at - int(at)
            between = {
                name: getattr(a, name) + share * (getattr(b, name) - getattr(a, name))
                for name in ("deformation_mm", "force_n", "pore_kpa")
            }
            dense.append(a.model_copy(update=between))
        longer.append(specimen.model_copy(update={"shear": tuple(dense)}))
    record = record.model_copy(update={"specimens": tuple(longer)})
    now = datetime(2026, 5, 12, tzinfo=UTC)
    assert its.judge(record, school, now).value("phi_degrees")
    judged = timed(40, lambda: its.judge(record, school, now))
    line("judge a full triaxial, three specimens of 2,000 rows", spread(judged), "150 ms")


def staggering() -> None:
    for name, school in HYDROMETER.items():
        _least_sums.cache_clear()
        begun = time.perf_counter()
        plan = stagger([blocks_of(called_by("hydrometer", school))] * 12)
        taken = 1000 * (time.perf_counter() - begun)
        said = "least" if plan.proved else "best found"
        line(f"stagger 12 cylinders, {name}: {plan.total_delay_s / 60:.0f} min, {said}", f"{taken:.0f} ms", "300 ms")
    kinds = [blocks_of(called_by("hydrometer", HYDROMETER[n])) for n in ("teaching", "d422", "d7928", "pipette", "iso")]
    busy = [Block(30, 200), Block(900, 990), Block(3600, 4500)]
    begun = time.perf_counter()
    plan = stagger([kind for kind in kinds for _ in range(4)], busy, 60)
    said = "least" if plan.proved else "best found"
    taken = 1000 * (time.perf_counter() - begun)
    line(f"stagger 20 of five timetables: {plan.total_delay_s / 60:.0f} min, {said}", f"{taken:.0f} ms", "2000 ms")


def falling_head() -> None:
    import numpy as np

    cylinder = Cylinder(5.0, 5.0, 0.32, 42.0)
    curve = Curve(cylinder, 10.0)
    times = np.linspace(0, 1200, 2000)
    levels = curve.levels_at(times, 4.5e-3, 5.0) + np.random.default_rng(1).normal(0, 0.06, 2000)
    series = series_of(times, levels)
    assert abs(fit_both(cylinder, series).fit.k_cm_s - 4.5e-3) < 1e-4
    line(
        "falling head, 2,000 levels, profile intervals", spread(timed(30, lambda: fit_both(cylinder, series))), "300 ms"
    )


def soil_card_page() -> None:
    with filled(0, "open") as (_, client):
        client.get("/samples/3")
        taken = timed(60, lambda: client.get("/samples/3"))
    line("soil card page, eight runs of one sample", spread(taken), "80 ms")


def fill(database: Database, many: int, state: str) -> None:
    """Runs written by the row: each with a tape of a begun water content, and due at its own time."""
    with database.writing() as session:
        place = ground.newest_places(session)[0]
        its = METHODS["water_content"]
        school = its.school()
        event = {"method": its.name, "version": its.version, "school": school.model_dump_json(), "material": "fresh"}
        for number in range(many):
            begun = AT - timedelta(hours=2 + number % 30)
            run = Run(
                code=f"WX{state[0]}-{number}",
                method="water_content",
                number=1000 + number + (100_000 if state == "open" else 0),
                school=school.name,
                sample_id=place.sample.id or 0,
                state=state,
                started_at=begun,
            )
            session.add(run)
            session.flush()
            previous = GENESIS
            rows = []
            values = ("@started", event), ("mass_tin_g", "20"), ("mass_wet_g", "80"), ("in_oven_at", begun.isoformat())
            for seq, (path, value) in enumerate(values, 1):
                entry = Taped(
                    id=str(uuid.uuid4()),
                    run_id=run.id or 0,
                    seq=seq,
                    at=begun,
                    arrived_at=None,
                    by="IM",
                    source="hand",
                    path=path,
                    value=value,
                    strikes=(),
                    reason="",
                    previous_hash=previous,
                    hash="",
                )
                previous = hash_of(entry)
                rows.append({**entry.model_dump(), "hash": previous, "value": json.dumps(value), "strikes": "[]"})
            session.execute(insert(Entry), rows)
            run.last_seq = len(rows)


@contextmanager
def filled(many: int, state: str) -> Iterator[tuple[str, httpx2.Client]]:
    with tempfile.TemporaryDirectory() as scratch, served(Path(scratch), FrozenClock(AT)) as app:
        fill(app.database, many, state)
        with httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60) as client:
            client.get(app.link("IM").removeprefix(app.address))
            yield app.address, client


def index_rows(database: Database, many: int) -> None:
    """Runs as an index alone, by the thousand, with the words that they are found by; of two years, by all methods."""
    names = list(METHODS)
    with database.writing() as session:
        sample_id = ground.newest_places(session)[0].sample.id or 0
        for begin in range(0, many, 5000):
            rows = []
            for number in range(begin, min(begin + 5000, many)):
                its = METHODS[names[number % len(names)]]
                begun = AT - timedelta(minutes=10 * number)
                row = {"code": f"{its.code}-{1000 + number}", "method": its.name, "number": 1000 + number}
                more = {"school": its.school().name, "sample_id": sample_id, "state": "checked", "started_at": begun}
                rows.append(row | more | {"last_seq": 1})
            session.execute(insert(Run), rows)
        find.rebuild(session.connection())


def find_box() -> None:
    for many in (100, 100_000):
        with tempfile.TemporaryDirectory() as scratch, served(Path(scratch), FrozenClock(AT)) as app:
            index_rows(app.database, many)
            with httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60) as client:
                client.get(app.link("IM").removeprefix(app.address))
                for asked in ("38", "TP4 1.6", "LL", "liquid limit", "cl"):
                    client.get("/api/v1/find", params={"q": asked})
                    taken = timed(30, partial(client.get, "/api/v1/find", params={"q": asked}))
                    line(f"find {asked!r}, {many} runs", spread(taken), "50 ms")
            with app.database.reading() as session:
                taken = timed(20, partial(find.look, session, "liquid"))
                line(f"  the search alone, 'liquid', {many} runs", spread(taken), "20 ms")
                for asked in (Filter(), Filter(method="sieve", state="checked"), Filter(by="TO")):
                    taken = timed(10, partial(run_list.found, session, asked, AT.tzinfo))
                    line(f"  runs by {asked.model_dump(exclude_defaults=True)}, {many} runs", spread(taken), "50 ms")


def posted_reading() -> None:
    with filled(10_000, "checked") as (_, client):
        new = {"sample_id": 5, "method": "liquid_limit"}
        codes = [client.post("/api/v1/runs", json=new).json()["code"] for _ in range(4)]
        for code in codes:
            client.post(f"/runs/{code}/entries", json={"entry": {"path": "dry_soil_g", "value": "110"}})
        taken = []
        for i in range(160):
            row, field, value = i // 4 // 4, ("water_added_ml", "blows", "tin", "mass_wet_g")[i // 4 % 4], ""
            value = {"water_added_ml": "1.5", "blows": str(15 + row * 2), "tin": "12", "mass_wet_g": "33.1"}[field]
            body = {"entry": {"path": f"trials[{row}].{field}", "value": value}, "insist": True}
            begun = time.perf_counter()
            answer = client.post(f"/runs/{codes[i % 4]}/entries", json=body)
            taken.append(time.perf_counter() - begun)
            assert answer.status_code == 200, answer.text
    line("posted reading to fresh parts, 10,000 runs behind it", spread(taken), "p95 40 ms")


def bench_page() -> None:
    for many in (190, 490):
        with filled(many, "open") as (_, client):
            begun = time.perf_counter()
            client.get("/bench")
            cold = time.perf_counter() - begun
            taken = timed(40, lambda: client.get("/bench"))
        line(f"bench page, {many + 18} runs in hand", spread(taken), "60 ms")
        line("  its first time in a process, nothing on the shelf", f"{1000 * cold:.0f} ms", "-")


def rack_page() -> None:
    with filled(0, "open") as (_, client):
        client.get("/rack")
        taken = timed(40, lambda: client.get("/rack"))
        vessels = client.get("/rack").text.count('class="vessel"')
    line(f"rack page, {vessels} vessels", spread(taken), "60 ms")


def committed_entries() -> None:
    many = 1500
    with tempfile.TemporaryDirectory() as scratch:
        bare = sqlite3.connect(Path(scratch) / "bare.db", isolation_level=None)
        for pragma in ("journal_mode=WAL", "synchronous=FULL"):
            bare.execute(f"PRAGMA {pragma}")
        bare.execute(
            "CREATE TABLE entry (id TEXT PRIMARY KEY, run_id INTEGER, seq INTEGER, at TEXT, by TEXT, source TEXT,"
            " path TEXT, value TEXT, strikes TEXT, reason TEXT, previous_hash TEXT, hash TEXT, UNIQUE (run_id, seq))"
        )
        begun = time.perf_counter()
        for i in range(many):
            bare.execute("BEGIN IMMEDIATE")
            known = (str(uuid.uuid4()), i // 20, i % 20)
            row = (*known, "2026", "IM", "hand", "remarks", '"x"', "[]", "", GENESIS, GENESIS)
            bare.execute("INSERT INTO entry VALUES (?,?,?,?,?,?,?,?,?,?,?,?)", row)
            bare.execute("COMMIT")
        bare_rate = many / (time.perf_counter() - begun)
        bare.close()
        database = Database(f"sqlite:///{scratch}/tape.db")
        database.migrate()
        build(database, AT)
        codes = []
        with database.writing() as session:
            place = ground.newest_places(session)[0]
            from vadum.tape import people

            me = people.by_initials(session)["IM"]
            for _ in range(many // 20):
                codes.append(runs.start(session, place, "water_content", None, me, AT).id or 0)
        begun = time.perf_counter()
        for i in range(many):
            with database.writing_connection() as connection:
                append_to(connection, codes[i // 20], NewEntry(path="remarks", value=f"{i}"), "IM", AT)
        rate = many / (time.perf_counter() - begun)
        begun = time.perf_counter()
        for i in range(many // 20):
            with database.writing_connection() as connection:
                for n in range(20):
                    append_to(connection, codes[i], NewEntry(path="remarks", value=f"{n}"), "IM", AT)
        together = many / (time.perf_counter() - begun)
        database.close()
    line("committed entries a second, one commit each, chained", f"{rate:.0f}/s", "-")
    line("  bare sqlite3 with the same settings", f"{bare_rate:.0f}/s", "-")
    line("  share", f"{100 * rate / bare_rate:.0f} %", "50 %")
    line("  twenty entries to a commit", f"{together:.0f}/s", "-")


def second_start() -> None:
    taken, whole = [], []
    for _ in range(3):
        port = free_port()
        begun = time.perf_counter()
        done = subprocess.run(
            [sys.executable, "-m", "vadum.cli", "demo", "--port", str(port), "--probe"], capture_output=True, text=True
        )
        whole.append(time.perf_counter() - begun)
        assert done.returncode == 0, done.stderr
        taken.append(float(done.stdout.split("answered after ")[1].split(" s")[0]))
    line("demo: second start, to the first page", f"{min(taken):.2f}–{max(taken):.2f} s", "3 s")
    line("  with the interpreter's start and the stop", f"{min(whole):.2f}–{max(whole):.2f} s", "-")


def eight_instruments() -> None:
    from benchmarks.listening import FRAMES, heard_and_shown

    for name, figure, aim in heard_and_shown(FRAMES):
        line(name, figure, aim)


def a_shear_live() -> None:
    """A stage sheared at ten samples a second, its desk redrawn by each."""
    from benchmarks.listening import SHEAR, heard_and_shown

    for name, figure, aim in heard_and_shown(SHEAR):
        line(name, figure, aim)


def fifty_people() -> None:
    from benchmarks.people import fifty_people as measured

    for name, figure, aim in measured():
        line(name, figure, f"0 lost, 0 doubled: {aim}")


MEASUREMENTS = (
    reduce_liquid_limit,
    reduce_a_grading,
    a_loggers_block,
    a_full_triaxial,
    staggering,
    falling_head,
    soil_card_page,
    find_box,
    rack_page,
    bench_page,
    posted_reading,
    committed_entries,
    second_start,
    eight_instruments,
    a_shear_live,
    fifty_people,
)
ALL = {f.__name__: f for f in MEASUREMENTS}

if __name__ == "__main__":
    for name in sys.argv[1:] or ALL:
        ALL[name]()
