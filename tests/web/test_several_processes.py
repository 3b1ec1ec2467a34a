"""Several processes over one PostgreSQL database: one truth, live updates, one ear, and a death among them."""

import threading
import uuid
from concurrent.futures import ThreadPoolExecutor

import httpx2
import pytest

from tests.several import several, until
from vadum.tape import runs
from vadum.tape.audit import audit
from vadum.tape.entries import broken_link, read_tape


@pytest.fixture(scope="module")
def program():
    with several(2) as running:
        yield running


def tape_of(program, code):
    with program.database.reading() as session:
        return read_tape(session, runs.find(session, code).id)


def test_eight_hands_on_one_run_keep_every_reading_once_while_a_worker_dies(program):
    browsers = [program.browser("IM") for _ in range(8)]
    sent = [[str(uuid.uuid4()) for _ in range(12)] for _ in browsers]
    program.kill_one()

    def hand(i):
        for n, known in enumerate(sent[i]):
            entry = {"id": known, "path": f"trials[{3 + i % 2}].excluded_because", "value": f"hand {i}, {n}"}
            body = {"entry": {**entry, "path": "remarks"}, "insist": True}
            # A browser sends again what was not answered; its id keeps it single.
            assert until(lambda body=body: browsers[i].post("/api/v1/runs/LL-03/entries", json=body).status_code == 201)

    with ThreadPoolExecutor(8) as pool:
        list(pool.map(hand, range(8)))
    tape = tape_of(program, "LL-03")
    kept = [e.id for e in tape]
    assert len(kept) == len(set(kept))
    assert {known for one in sent for known in one} <= set(kept)
    assert broken_link(tape) == ""
    assert until(lambda: len(program.workers()) == 2), "the dead one is begun again"
    assert audit(program.database)[1] == []


def test_what_one_process_keeps_reaches_the_pages_of_every_other(program):
    watching = [program.browser("TO") for _ in range(6)]
    told = []

    def watch(client):
        with client.stream("GET", "/runs/WC-02/events", timeout=40) as stream:
            ready.release()
            told.append(next(line for line in stream.iter_lines() if line.startswith("event: grown")))

    ready = threading.Semaphore(0)
    threads = [threading.Thread(target=watch, args=(client,), daemon=True) for client in watching]
    for thread in threads:
        thread.start()
    for _ in threads:
        assert ready.acquire(timeout=30)
    writer = program.browser("IM")

    def grown():
        entry = {"path": "remarks", "value": "seen by all", "id": str(uuid.uuid4())}
        writer.post("/api/v1/runs/WC-02/entries", json={"entry": entry, "insist": True})
        return len(told) == len(watching)

    assert until(grown)


def test_an_instrument_is_heard_by_one_process_and_taken_over_when_that_dies(program):
    manager, hand = program.browser("RV"), program.browser("IM")
    manager.post("/api/v1/kit", json={"kind": "instrument", "code": "BAL-9", "title": "balance"})
    seen = {"address": "simulated://balance", "profile": "balance"}
    assert manager.post("/api/v1/kit/instrument/BAL-9/calibrations", json=seen).status_code == 201
    code = hand.post("/api/v1/runs", json={"sample_id": 1, "method": "water_content"}).json()["code"]
    url = f"/api/v1/runs/{code}/instrument"
    assert hand.post(url, json={"instrument": "BAL-9"}).json()["instrument"] == "BAL-9"

    def heard():
        # A connection each: whichever process answers, it knows who hears.
        answers = [httpx2.get(program.address + url, cookies=dict(hand.cookies), timeout=30).json() for _ in range(6)]
        return all(a.get("instrument") == "BAL-9" and a.get("heard", 0) > 0 for a in answers)

    assert until(heard)
    for worker in program.workers():
        program.kill_one(worker)
        assert until(lambda: len(program.workers()) == 2)
        assert until(heard), "another process hears it now"
    assert hand.post(url, json={"instrument": ""}).json() == {"instrument": ""}
    spoken = [e.value["state"] for e in tape_of(program, code) if e.path == "@instrument"]
    assert spoken.count("listening") == 1
    assert spoken[-1] == "left"


def test_numbers_are_given_once(program):
    browsers = [program.browser("IM") for _ in range(6)]

    def begin(client):
        return [client.post("/api/v1/runs", json={"sample_id": 1, "method": "sieve"}).json()["code"] for _ in range(4)]

    with ThreadPoolExecutor(6) as pool:
        codes = [code for found in pool.map(begin, browsers) for code in found]
    assert len(codes) == len(set(codes)) == 24


def test_six_who_sign_one_sheet_at_once_are_told_that_it_is_signed(program):
    """A sheet is signed once; who comes a moment later reads that it is, and never that there is no such thing."""
    hands = [program.browser(initials) for initials in ("IM", "TO", "RV") for _ in range(2)]
    for _ in range(3):
        made = hands[0].post("/api/v1/runs", json={"sample_id": 1, "method": "water_content"})
        code = made.json()["code"]
        for path, value in (("mass_tin_g", "21.37"), ("mass_wet_g", "68.40"), ("weighings[]", {"mass_dry_g": "61.20"})):
            hands[0].post(
                f"/api/v1/runs/{code}/entries", json={"entry": {"path": path, "value": value}, "insist": True}
            )
        seen = tape_of(program, code)[-1].hash
        body = {"tape": seen, "reason": "as it stands"}
        with ThreadPoolExecutor(6) as pool:
            answers = list(pool.map(lambda hand, c=code, b=body: hand.post(f"/api/v1/runs/{c}/sign", json=b), hands))
        told = sorted(a.status_code for a in answers)
        assert (told[0], set(told[1:]) <= {403, 409}) == (200, True), [a.text for a in answers]
    assert audit(program.database)[1] == []
