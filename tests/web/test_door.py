"""The door: what is out of range, sent half, of another name, or broken is answered with its field and headers."""

import socket
import time
import uuid

import httpx2
import pytest

from tests.command import Command
from tests.serving import AT, served
from vadum.tape import ground, runs
from vadum.tape.clock import FrozenClock
from vadum.tape.entries import NewEntry, append
from vadum.web.guard import HEADERS


@pytest.fixture(scope="module")
def app(tmp_path_factory, database_kind):
    with served(tmp_path_factory.mktemp("door"), FrozenClock(AT), kind=database_kind) as running:
        yield running


@pytest.fixture(scope="module")
def client(app):
    made = httpx2.Client(base_url=app.address, follow_redirects=True, timeout=30)
    made.get(app.link("RV"))
    return made


HUGE = ("99999999999999999999999999", "9223372036854775808", "4294967296", "-1")


# Signs that Python calls digits and that make no number, and a number of more digits than any text is read of.
NO_NUMBERS = ("²", "①", "٣", "9" * 5000, "१२")


@pytest.mark.parametrize("word", NO_NUMBERS)
@pytest.mark.parametrize(
    "path", ["/labels.pdf?of=sample:{}", "/labels.pdf?of=specimen:{}:A", "/samples/{}", "/api/v1/runs?page={}"]
)
def test_what_only_looks_like_a_number_is_refused(client, path, word):
    assert 400 <= client.get(path.format(word)).status_code < 500


def test_a_body_of_a_length_that_is_no_number_is_refused(app):
    for length in ("²", "9" * 5000, "-1", "0x10"):
        host = app.address.removeprefix("http://")
        name, _, port = host.partition(":")
        with socket.create_connection((name, int(port)), timeout=20) as line:
            head = f"POST /api/v1/jobs HTTP/1.1\r\nHost: {host}\r\nContent-Length: {length}\r\n\r\n"
            line.sendall(head.encode("utf-8"))
            answer = line.recv(200)
        assert not answer or answer.startswith((b"HTTP/1.1 400", b"HTTP/1.1 413", b"HTTP/1.1 431"))


@pytest.mark.parametrize(
    "path", ["/api/v1/runs", "/api/v1/nothing", "/bench", "/runs.csv", "/health", "/runs/LL-01/run.json"]
)
def test_no_answer_of_a_person_is_kept_by_a_browser_or_on_the_way(client, path):
    assert "no-store" in client.get(path).headers["cache-control"]


def test_nothing_is_added_to_the_ground_of_practice(client, app):
    with app.database.writing() as session:
        practice = ground.practice_place(session, app.clock.now())
        spot, sample, job = practice.spot.id, practice.sample.id, practice.job.code
    tries = {
        f"/api/v1/spots/{spot}/samples": {"code": "Z9"},
        f"/api/v1/spots/{spot}/change": {"code": "Z9"},
        f"/api/v1/spots/{spot}/close": {},
        f"/api/v1/jobs/{job}/spots": {"code": "Z9"},
        f"/api/v1/samples/{sample}/specimens": {"code": "Z9"},
        f"/api/v1/samples/{sample}/change": {"code": "Z9"},
    }
    for path, body in tries.items():
        assert client.post(path, json=body).status_code == 404, path


@pytest.mark.parametrize("huge", HUGE)
@pytest.mark.parametrize(
    "path",
    ["/samples/{}", "/ground?page_number={}", "/dossiers?page_number={}", "/start?sample={}", "/api/v1/runs?page={}"],
)
def test_numbers_beyond_their_range_are_refused(client, path, huge):
    answer = client.get(path.format(huge), headers={"Accept": "text/html"})
    assert 400 <= answer.status_code < 500


@pytest.mark.parametrize(
    ("path", "body", "field"),
    [
        ("/api/v1/jobs/KS-26/spots", '{"code": "Z1", "easting_m": 1e400}', "easting_m"),
        ("/api/v1/jobs/KS-26/spots", '{"code": "Z1", "easting_m": NaN}', "easting_m"),
        ("/api/v1/jobs/KS-26/spots", '{"code": "Z1", "depth_m": "nan"}', "depth_m"),
        ("/api/v1/jobs/KS-26/spots", '{"code": "Z1", "depth_m": 123456789012345678901234567890}', "depth_m"),
        ("/api/v1/spots/1/samples", '{"code": "Z1", "sampled_at": "9999-12-31T23:59:59-14:00"}', "sampled_at"),
        ("/api/v1/spots/1/samples", '{"code": "Z1", "sampled_at": "0001-01-01T00:00+14:00"}', "sampled_at"),
        ("/api/v1/spots/99999999999999999999/samples", '{"code": "Z1"}', "spot_id"),
        (
            "/api/v1/kit/mould/C8/calibrations",
            f'{{"mould_mass_g": {"9" * 400}, "mould_volume_cm3": 1}}',
            "mould_mass_g",
        ),
        ("/api/v1/kit/mould/C8/calibrations", '{"mould_mass_g": "nan", "mould_volume_cm3": 1}', "mould_mass_g"),
        ("/api/v1/kit/tin/1/tares", '{"mass_g": 1e400}', "mass_g"),
        ("/api/v1/runs", '{"sample_id": 99999999999999999999, "method": "sieve"}', "sample_id"),
        ("/api/v1/runs/LL-03/entries", '{"entry": {"path": "remarks", "value": NaN}}', "entry.value"),
        ("/api/v1/runs/LL-03/entries", '{"entry": {"path": "remarks", "value": 1e400}}', "entry.value"),
        ("/api/v1/runs/LL-03/entries", f'{{"entry": {{"path": "dry_soil_g", "value": {"9" * 400}}}}}', "entry.value"),
        (
            "/api/v1/runs/LL-03/entries",
            '{"entry": {"path": "remarks", "value": "x", "source": "kit: B1"}}',
            "entry.source",
        ),
        ("/api/v1/jobs", '{"code": "2026/014", "title": "x"}', "code"),
        ("/api/v1/jobs", '{"code": "..", "title": "x"}', "code"),
        ("/api/v1/jobs", '{"code": "K\u200bS", "title": "x"}', "code"),
        ("/api/v1/jobs", '{"code": "ks-26", "title": "x"}', "code"),
        ("/api/v1/jobs/KS-26/spots", '{"code": "TPl"}', "code"),
        ("/api/v1/kit", '{"kind": "tin", "code": "3/4"}', "code"),
        ("/api/v1/practice", '{"method": "sieve", "seed": 99999999999999999999}', "seed"),
    ],
)
def test_what_cannot_be_is_refused_with_its_field(client, path, body, field):
    answer = client.post(path, content=body.encode(), headers={"Content-Type": "application/json"})
    assert answer.status_code in (400, 404, 422), answer.text
    found = answer.json()["field"]
    assert found == field or found.startswith(f"{field}."), answer.text


@pytest.mark.parametrize(
    "query",
    [
        "step=x",
        "step=%00",
        "field=x",
        "field=trials[",
        "field=trials[99999999999999999999].blows",
        "field=trials[-1].blows",
    ],
)
def test_a_desk_opens_whatever_it_is_asked_for(client, query):
    assert client.get(f"/runs/LL-03?{query}", headers={"Accept": "text/html"}).status_code == 200
    assert client.get(f"/runs/LL-03/parts?{query}").status_code == 200


def test_a_code_with_spaces_and_marks_works_everywhere(client):
    made = client.post("/api/v1/jobs", json={"code": "Z & Ö 1", "title": "a <b>job</b>"})
    assert made.status_code == 201
    assert "a &lt;b&gt;job&lt;/b&gt;" in client.get(made.json()["go"], headers={"Accept": "text/html"}).text


def test_every_answer_carries_the_security_headers(client, app):
    for path, kind in (
        ("/nowhere", "text/html"),
        ("/samples/0", "text/html"),
        ("/runs/XX-1", "*/*"),
        ("/bench", "*/*"),
    ):
        answer = client.get(path, headers={"Accept": kind})
        assert all(answer.headers.get(name.decode()) == value.decode() for name, value in HEADERS.items()), path
    stranger = httpx2.get(f"{app.address}/bench", headers={"Host": "evil.example"})
    assert stranger.status_code == 421
    assert stranger.headers["x-frame-options"] == "DENY"


def test_a_body_that_does_not_come_is_given_up_and_a_silent_connection_closed(app):
    host, port = app.address.removeprefix("http://").split(":")
    with socket.create_connection((host, int(port)), timeout=60) as half:
        head = f"POST /signin HTTP/1.1\r\nHost: {host}:{port}\r\nContent-Length: 100\r\n"
        half.sendall(f"{head}Content-Type: application/x-www-form-urlencoded\r\n\r\nlogin=".encode())
        assert b"408" in half.recv(400)


def test_a_text_that_looks_like_a_time_is_shown_as_it_was_typed(client, app):
    words = "Test-pit wall is wet at 10:20"
    code = "LL-03"
    for path in ("remarks", "device_overdue_because"):
        client.post(f"/runs/{code}/entries", json={"entry": {"path": path, "value": words}, "insist": True})
    for page in (f"/runs/{code}", f"/runs/{code}/sheet", f"/runs/{code}/run.csv"):
        answer = client.get(page, headers={"Accept": "text/html"})
        assert answer.status_code == 200
        assert words in answer.text, page


def test_a_run_that_is_broken_takes_nothing_along_and_is_mended_by_striking(client, app):
    """An entry that no longer fits its record, as after a change of the program."""
    code = "WC-02"
    with app.database.writing() as session:
        run = runs.find(session, code, to_write=True)
        sample = run.sample_id
        bad = append(session, run, NewEntry(path="colour", value="grey"), "IM", app.clock.now())[0]
    for page in ("/bench", "/dossiers", f"/samples/{sample}", "/rack", "/practice", "/ground/KS-26"):
        answer = client.get(page, headers={"Accept": "text/html"})
        assert answer.status_code == 200, page
    for page in ("/bench", "/dossiers", f"/samples/{sample}"):
        more = client.get("/dossiers?page_number=2").text if page == "/dossiers" else ""  # 25 of a state on a page
        assert f"/runs/{code}" in client.get(page).text + more, page
        assert "cannot be judged" in client.get(page).text + more, page
    for page in (f"/runs/{code}", f"/runs/{code}/sheet"):
        shown = client.get(page, headers={"Accept": "text/html"})
        assert (shown.status_code, "cannot be judged" in shown.text) == (200, True), page
    for file in ("sheet.pdf", "run.json", "run.csv"):
        assert client.get(f"/runs/{code}/{file}").status_code == 409
    assert client.get("/runs/LL-03").status_code == 200
    tape = client.get(f"/api/v1/runs/{code}/tape")
    assert tape.json()[-1]["path"] == "colour"
    kept = client.post(f"/runs/{code}/entries", json={"entry": {"path": "remarks", "value": "goes on"}})
    assert kept.status_code == 200
    assert "cannot be" in kept.json()["broken"]
    strike = {"path": "colour", "value": None, "strikes": [bad.id], "reason": "no such field"}
    mended = client.post(f"/api/v1/runs/{code}/entries", json={"entry": strike})
    assert mended.status_code == 201
    assert "cannot be" not in client.get(f"/runs/{code}", headers={"Accept": "text/html"}).text


def test_a_signature_is_refused_on_a_tape_that_moved(client, app):
    code = "PL-01"
    seen = client.get(f"/runs/{code}/parts").json()["tape"]
    client.post(f"/runs/{code}/entries", json={"entry": {"path": "remarks", "value": "meanwhile"}})
    refused = client.post(f"/api/v1/runs/{code}/sign", json={"tape": seen, "reason": "as it is"})
    assert refused.status_code == 409
    assert "grown since you looked" in refused.json()["message"]
    seen = client.get(f"/runs/{code}/parts").json()["tape"]
    assert client.post(f"/api/v1/runs/{code}/sign", json={"tape": seen, "reason": "as it is"}).status_code == 200
    late = client.post(f"/api/v1/runs/{code}/reopen", json={"tape": seen, "reason": "x"})
    assert late.status_code == 409, "the signature itself was not seen"


def test_who_read_a_figure_does_not_check_it_unless_the_laboratory_says_so(client, app):
    code = "WC-05"
    checker = httpx2.Client(base_url=app.address, follow_redirects=True, timeout=30)
    checker.get(app.link("TO"))
    checker.post(f"/runs/{code}/entries", json={"entry": {"path": "remarks", "value": "read by the checker"}})
    seen = client.get(f"/runs/{code}/parts").json()["tape"]
    client.post(f"/api/v1/runs/{code}/sign", json={"tape": seen, "reason": "as it is"})
    seen = client.get(f"/runs/{code}/parts").json()["tape"]
    refused = checker.post(f"/api/v1/runs/{code}/check", json={"tape": seen})
    assert (refused.status_code, "you read some" in refused.json()["message"]) == (403, True)
    assert checker.post("/api/v1/settings", json={"key": "checker_read_nothing", "value": "no"}).status_code == 403
    assert client.post("/api/v1/settings", json={"key": "checker_read_nothing", "value": "no"}).status_code == 200
    assert checker.post(f"/api/v1/runs/{code}/check", json={"tape": seen}).status_code == 200


def test_a_source_is_the_doors_and_the_arrival_is_the_programs(client, app):
    code = "LL-03"
    entry = {"path": "remarks", "value": "B1 says so", "id": str(uuid.uuid4())}
    read_at = (app.clock.now()).isoformat()
    posted = {"entry": {**entry, "read_at": read_at}, "taken_from": "B1"}
    kept = client.post(f"/api/v1/runs/{code}/entries", json=posted)
    tape = client.get(f"/api/v1/runs/{code}/tape").json()
    found = next(e for e in tape if e["id"] == kept.json()["id"])
    assert found["source"] == "hand", "no instrument showed that figure"
    assert found["arrived_at"]


def test_practice_keeps_its_seed_until_the_end(client):
    # So long that hardly a hash holds it by chance.
    code = client.post("/api/v1/practice", json={"method": "water_content", "seed": 604417}).json()["code"]
    for path in (f"/api/v1/runs/{code}/tape", f"/api/v1/runs/{code}", f"/runs/{code}/run.json", f"/runs/{code}"):
        assert "604417" not in client.get(path).text, path
    client.post(f"/api/v1/practice/{code}/reveal")
    assert "604417" in client.get(f"/api/v1/runs/{code}/tape").text


def test_a_table_costs_time_by_its_size(client):
    begun = time.perf_counter()
    for text in (";" * 200_000, ("1;" * 39 + "1\n") * 500, '"' + "x" * 150_000, "\n".join(["1;2"] * 500)):
        asked = {"rows": "sieves", "text": text}
        answer = client.post("/api/v1/runs/SV-03/import/preview", json=asked)
        assert answer.status_code in (200, 422), answer.text
    assert time.perf_counter() - begun < 60, "it took 12 s for one of them where each line was gone through by pairs"


def test_only_a_manager_gives_an_address_and_only_an_allowed_one(client, app):
    checker = httpx2.Client(base_url=app.address, timeout=30, follow_redirects=True)
    checker.get(app.link("TO"))
    url = "/api/v1/kit/instrument/FR-1/calibrations"
    for address in ("socket://10.1.2.3:4000", "socket://127.0.0.1:99999", "/dev/shm", "/dev/ttyS99"):
        answer = client.post(url, json={"address": address, "profile": "frame"})
        assert (answer.status_code, answer.json()["field"]) == (422, "address"), address
        assert "/dev" not in answer.json()["message"]
    good = {"address": "socket://127.0.0.1:4000", "profile": "frame"}
    assert checker.post(url, json=good).status_code == 403


def test_forwarded_addresses_are_believed_only_behind_a_named_proxy():
    from vadum.commands.serving import config_of

    assert not config_of("vadum.commands.serving:worker", "127.0.0.1", 1, ()).proxy_headers
    behind = config_of("vadum.commands.serving:worker", "127.0.0.1", 1, ("10.0.0.9",))
    assert (behind.proxy_headers, behind.forwarded_allow_ips) == (True, ["10.0.0.9"])


def test_a_log_line_has_an_end_and_is_one_line():
    import logging

    from vadum.web.connections import MOST_LINE, BoundedFormatter

    forged = logging.LogRecord(
        "vadum", logging.WARNING, "", 1, "GET /\n2026 INFO all is well %s", ("x" * 99_999,), None
    )
    line = BoundedFormatter("%(message)s").format(forged)
    assert len(line) <= MOST_LINE + 1
    assert "\n" not in line


def test_the_same_line_is_written_a_few_times_and_then_counted():
    import logging

    from vadum.web.connections import SAME_LINES, SameLines

    only = SameLines()
    lines = [logging.LogRecord("asyncio", logging.ERROR, "", 1, "out of %s", (n,), None) for n in range(500)]
    assert sum(bool(only.filter(line)) for line in lines) == SAME_LINES
    assert only.filter(logging.LogRecord("vadum", logging.ERROR, "", 1, "something else", (), None))


@pytest.mark.sqlite_file
def test_connections_that_say_nothing_leave_room_for_readings_where_files_are_few(tmp_path):
    """Four hundred that say nothing at 256 files: pages are still answered, and the log stays short."""
    running = Command(tmp_path, most_files=256).start()
    silent = []
    try:
        client = running.browser("IM")
        for _ in range(400):
            silent.append(socket.create_connection(("127.0.0.1", running.port)))
        fresh = httpx2.get(f"{running.address}/signin", timeout=30)
        kept = client.post("/api/v1/runs/LL-03/entries", json={"entry": {"path": "remarks", "value": "still here"}})
        assert (fresh.status_code, kept.status_code) == (200, 201)
    finally:
        for one in silent:
            one.close()
        running.stop()
    assert running.log.stat().st_size < 20_000
