"""A disk that is full and a database that another program holds: said in plain words, and nothing is lost."""

import os
import resource
import sqlite3
import subprocess
import sys
import uuid
from datetime import UTC, datetime

import httpx2
import pytest

from tests.serving import free_port, prepared
from tests.several import until
from vadum.tape import people
from vadum.tape.audit import audit
from vadum.tape.database import Database
from vadum.tape.tables import Person

pytestmark = pytest.mark.sqlite_file


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    """The command itself, over a file that it may make only a little larger."""
    file = tmp_path_factory.mktemp("disk") / "lab.db"
    ids = prepared(file)
    database = Database(f"sqlite:///{file}")
    with database.writing() as session:
        token = people.one_time_link(session, session.get(Person, ids["IM"]), datetime.now(UTC))
    port = free_port()
    words = ["serve", "--db", str(file), "--port", str(port)]
    process = subprocess.Popen([sys.executable, "-m", "vadum.cli", *words], stderr=subprocess.DEVNULL)
    client = httpx2.Client(base_url=f"http://127.0.0.1:{port}", follow_redirects=True, timeout=60)

    def up():
        return client.get("/signin").status_code == 200

    assert until(up)
    client.get(f"/enter/{token}")
    yield client, file, process, database
    database.close()
    process.terminate()
    process.wait(15)


def entry(value, known=None):
    return {"entry": {"path": "remarks", "value": value, "id": known or str(uuid.uuid4())}, "insist": True}


def test_a_full_disk_is_said_and_the_reading_is_kept_when_there_is_room_again(program):
    client, file, process, database = program
    most = os.path.getsize(file) + 200_000
    resource.prlimit(process.pid, resource.RLIMIT_FSIZE, (most, resource.RLIM_INFINITY))
    answer, known = None, ""
    for n in range(400):
        known = str(uuid.uuid4())
        answer = client.post("/api/v1/runs/LL-03/entries", json=entry(f"{n} " + "x" * 1500, known))
        if answer.status_code != 201:
            break
    assert answer.status_code == 507, answer.text
    assert "disk is full" in answer.json()["message"]
    # What a reading had no room in may hold a smaller row: no room at all.
    resource.prlimit(process.pid, resource.RLIMIT_FSIZE, (1000, resource.RLIM_INFINITY))
    shown = client.post("/signin", data={"login": "nobody", "passphrase": "x"}, headers={"Accept": "text/html"})
    assert (shown.status_code, "disk is full" in shown.text) == (507, True)
    assert client.get("/bench").status_code == 200
    resource.prlimit(process.pid, resource.RLIMIT_FSIZE, (resource.RLIM_INFINITY, resource.RLIM_INFINITY))
    assert client.post("/api/v1/runs/LL-03/entries", json=entry("room again", known)).json()["new"]
    assert audit(database)[1] == []


def test_a_database_that_another_program_holds_answers_503(program):
    client, file, _, _ = program
    other = sqlite3.connect(file, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    answer = client.post("/api/v1/runs/LL-03/entries", json=entry("meanwhile"))
    assert (answer.status_code, answer.headers.get("retry-after")) == (503, "5")
    other.execute("ROLLBACK")
    other.close()
    assert client.post("/api/v1/runs/LL-03/entries", json=entry("meanwhile")).status_code == 201


def test_the_command_line_says_one_line_and_leaves_no_half_copy(program, tmp_path):
    _, file, _, _ = program
    vadum = [sys.executable, "-m", "vadum.cli"]

    def small():
        resource.setrlimit(resource.RLIMIT_FSIZE, (50_000, 50_000))

    words = ["backup", str(tmp_path / "copy.db"), "--db", str(file)]
    told = subprocess.run([*vadum, *words], preexec_fn=small, capture_output=True, text=True)
    assert told.returncode == 1
    assert len(told.stderr.strip().splitlines()) == 1, told.stderr
    assert "backup was not made" in told.stderr
    assert list(tmp_path.iterdir()) == []
    refused = subprocess.run([*vadum, "restore", str(file), "--db", str(file)], capture_output=True, text=True)
    assert refused.returncode == 2
    copied = subprocess.run([*vadum, *words], capture_output=True, text=True)
    assert copied.returncode == 0, copied.stderr
    assert (tmp_path / "copy.db").stat().st_mode & 0o077 == 0
    busy = subprocess.run(
        [*vadum, "restore", str(tmp_path / "copy.db"), "--db", str(file)], capture_output=True, text=True
    )
    assert (busy.returncode, "stop it first" in busy.stderr) == (2, True)
    twice = subprocess.run(
        [*vadum, "serve", "--db", str(file), "--port", "1"], capture_output=True, text=True, timeout=60
    )
    assert (twice.returncode, "one at a time" in twice.stderr) == (2, True)
    sealed = subprocess.run([*vadum, "seal", "--db", str(file)], capture_output=True, text=True)
    (tmp_path / "seal.txt").write_text(sealed.stdout)
    held = [*vadum, "check", "--db", str(file), "--seal", str(tmp_path / "seal.txt")]
    checked = subprocess.run(held, capture_output=True, text=True)
    assert (checked.returncode, "stands on the seal" in checked.stdout) == (0, True), checked.stderr
