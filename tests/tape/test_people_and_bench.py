"""Sign-in and its throttle; the order of moments, clashes, the river; the command line."""

import io
import json
import os
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from datetime import timedelta

import pytest

from vadum.bench.foreman import Foreman
from vadum.bench.moments import Moment, clashes, in_order
from vadum.cli import main
from vadum.soil.contract.outcome import Due
from vadum.tape import people, runs
from vadum.tape.entries import NewEntry, append
from vadum.tape.runs import Shelf

RIGHT = "wet feet, dry tins"


def tried(lab, login, passphrase, now, address="1.2.3.4", browser=""):
    """A try to sign in, as the door makes it; the person, or None."""
    with lab.database.reading() as session:
        asked = people.ask_in(session, login, address, browser, now)
    right = people.verified(passphrase, asked.stored)
    with lab.database.writing() as session:
        person = people.answered(session, asked, right, now)
        return person and person.initials


def test_a_right_passphrase_signs_in_and_wrong_ones_slow_name_and_address(lab):
    now = lab.clock.now()
    assert tried(lab, "ANA ", RIGHT, now) == "AT"
    for _ in range(people.THROTTLE_AFTER):
        assert tried(lab, "ana", "guess", now) is None
    with pytest.raises(people.TooManyTries) as slowed:
        tried(lab, "ana", RIGHT, now)
    assert slowed.value.retry_s == people.FIRST_PAUSE_S
    assert tried(lab, "bo", RIGHT, now) == "BL"  # another name from there is not slowed yet
    assert tried(lab, "ana", RIGHT, now + timedelta(seconds=people.FIRST_PAUSE_S)) == "AT"


def test_strangers_who_try_a_name_do_not_lock_out_its_own_browser(lab):
    now = lab.clock.now()
    with lab.database.writing() as session:
        browser = people.know_browser(session, lab.person("AT"), "", now)
    for _ in range(people.THROTTLE_AFTER):
        tried(lab, "ana", "guess", now, address="9.9.9.9")
    with pytest.raises(people.TooManyTries):
        tried(lab, "ana", RIGHT, now, browser="another browser")
    assert tried(lab, "ana", RIGHT, now, browser=browser) == "AT"
    for _ in range(people.THROTTLE_AFTER):  # and a stolen one is slowed by its own count
        assert tried(lab, "ana", "guess", now, browser=browser) is None
    with pytest.raises(people.TooManyTries):
        tried(lab, "ana", RIGHT, now, browser=browser)


def test_passphrases_are_stored_as_argon2_and_sessions_lapse(lab):
    now = lab.clock.now()
    assert lab.person("AT").passphrase_hash.startswith("$argon2")
    with lab.database.writing() as session:
        token = people.open_session(session, lab.person("AT"), now)
    with lab.database.reading() as session:
        assert people.who(session, token, now).initials == "AT"
        assert people.who(session, token, now + people.SESSION_LENGTH + timedelta(seconds=1)) is None
        assert people.who(session, "made up", now) is None


def test_a_one_time_link_works_once(lab):
    now = lab.clock.now()
    with lab.database.writing() as session:
        token = people.one_time_link(session, lab.person("BL"), now)
    with lab.database.writing() as session:
        person, resets = people.redeem(session, token, now)
        assert (person.initials, resets) == ("BL", False)
    with pytest.raises(people.SignInError), lab.database.writing() as session:
        people.redeem(session, token, now)


def moment(code, at, window=None, hands=60):
    return Moment(code, "T", "w", Due(what=code, kind="reading", at=at, window_s=window, hands_s=hands))


def test_what_cannot_wait_goes_first_then_hands_then_what_is_ready(now):
    dawn = moment("dry since dawn", now - timedelta(hours=4))
    reading = moment("reading", now + timedelta(minutes=1), window=5)
    hands = moment("dish", None)
    later = moment("later", now + timedelta(hours=1))
    assert [m.run_code for m in in_order([later, dawn, hands, reading], now)] == [
        "reading",
        "dish",
        "dry since dawn",
        "later",
    ]


def test_two_due_within_the_hands_time_clash(now):
    first = moment("a", now + timedelta(minutes=5), hands=120)
    second = moment("b", now + timedelta(minutes=6))
    third = moment("c", now + timedelta(minutes=9))
    assert [(x.run_code, y.run_code) for x, y in clashes([third, second, first], now)] == [("a", "b")]


def test_the_bench_follows_the_tape_and_the_time(lab):
    foreman = Foreman(Shelf())
    code = lab.start("water_content")
    lab.post(code, "tin", "12")
    lab.post(code, "mass_wet_g", "60")
    now = lab.clock.now()

    def first():
        with lab.database.reading() as session:
            return foreman.bench(session, lab.clock.now(), "hour")

    assert "into the oven" in first().now.due.what
    lab.post(code, "in_oven_at", now.isoformat())
    assert first().now.urgency(now) == "later"
    lab.clock.step(hours=17)
    bench = first()
    assert bench.now.urgency(lab.clock.now()) == "ready"
    assert bench.river.lanes[0].stones[-1].state == "late"


def test_one_tape_that_cannot_be_read_does_not_take_the_bench_from_everyone(lab):
    good, bad = lab.start("water_content"), lab.start("water_content")
    with lab.database.writing() as session:
        append(session, runs.find(session, bad), NewEntry(path="no_such_place", value="1"), "AT", lab.clock.now())
    with lab.database.reading() as session:
        bench = Foreman(Shelf()).bench(session, lab.clock.now(), "hour")
    told = {m.run_code: m.due.what for m in (bench.now, *bench.after)}
    assert told[bad] == f"{bad} cannot be judged: strike what is wrong"
    assert told[good] == "Take a clean, dry tin"
    assert {lane.code for lane in bench.river.lanes} == {good, bad}


def vadum(*arguments, stdin="", **environment):
    """The program's command in this process, where it need not be read in anew: its exit code and what it said."""
    out, err, code, mask = io.StringIO(), io.StringIO(), 0, os.umask(0)
    with pytest.MonkeyPatch.context() as patch, redirect_stdout(out), redirect_stderr(err):
        patch.setattr("sys.argv", ["vadum", *arguments])
        patch.setattr("sys.stdin", io.StringIO(stdin))
        for name, value in environment.items():
            patch.setenv(name, value)
        try:
            main()
        except SystemExit as ended:
            code = ended.code or 0
        finally:
            os.umask(mask)
    return subprocess.CompletedProcess(arguments, code, out.getvalue(), err.getvalue())


def test_reduce_reads_a_run_and_prints_its_outcome():
    run = {
        "method": "water_content",
        "school": "oven_110",
        "record": {"mass_tin_g": "21,37", "mass_wet_g": 168.92, "weighings": [{"mass_dry_g": 139.38}]},
        "now": "2026-05-12T10:21:18+02:00",
    }
    done = vadum("reduce", "-", stdin=json.dumps(run))
    assert done.returncode == 0, done.stderr
    outcome = json.loads(done.stdout)
    assert outcome["values"][0]["value"] == pytest.approx(25.03178, abs=0.00001)
    assert outcome["advice"]["headline"]


@pytest.mark.parametrize(
    ("text", "field"),
    [
        ("{", "FILE"),
        ("[1]", "FILE"),
        ('{"method": "nothing"}', "method"),
        ('{"method": "liquid_limit", "school": "x"}', "school"),
        ('{"method": "liquid_limit", "record": {"trials": [{"blows": "many"}]}}', "record.trials[0].blows"),
        ('{"method": "liquid_limit", "record": {"trails": []}}', "record.trails"),
        ('{"method": "liquid_limit", "records": {}}', "records"),
        ('{"method": "liquid_limit", "settings": {"target": "x"}}', "settings.target"),
        ('{"method": "liquid_limit", "now": "soon"}', "--at"),
        ("[" * 100_000, "FILE"),
    ],
)
def test_a_bad_file_gives_one_line_that_names_the_field(text, field):
    done = vadum("reduce", "-", stdin=text)
    assert done.returncode == 2
    assert done.stdout == ""
    assert len(done.stderr.strip().splitlines()) == 1
    assert field in done.stderr


def test_methods_schema_and_the_commands_on_a_database(tmp_path):
    assert "liquid_limit: Liquid limit" in vadum("methods").stdout
    assert "trials" in json.loads(vadum("schema", "liquid_limit").stdout)["record"]["properties"]
    database = str(tmp_path / "own.db")
    serve = [sys.executable, "-m", "vadum.cli", "serve", "--db", database]  # holds its database until it ends
    refused = subprocess.run(serve, capture_output=True, text=True, timeout=60)
    assert refused.returncode == 2
    assert "vadum person" in refused.stderr
    person = ("person", "mia", "--name", "Mia Rand", "--initials", "MR", "--role", "manager", "--db", database)
    assert vadum(*person, VADUM_PASSPHRASE="short").returncode == 2
    assert vadum(*person, VADUM_PASSPHRASE="long enough to keep").returncode == 0
    assert "0 runs" in vadum("check", "--db", database).stdout
    assert vadum("backup", str(tmp_path / "b.db"), "--db", database).returncode == 0
    assert vadum("restore", str(tmp_path / "b.db"), "--db", database).returncode == 0
    assert vadum("check", "--db", str(tmp_path / "none.db")).returncode == 2
