"""Signing, checking and reopening: what closes a run, who may, and what is asked before."""

from datetime import timedelta

import pytest

from tests.tape.test_tape import end, finished_water_content, signed
from vadum.soil.contract.errors import FieldError
from vadum.tape import audit, runs, signatures
from vadum.tape.entries import NewEntry, RunClosed, append
from vadum.tape.runs import NotAllowed


def test_check_computes_signed_values_again(lab):
    code = finished_water_content(lab)
    forged = {"tape": "", "version": "1", "values": "water_content_percent=24.9", "unfinished": False}
    with lab.database.writing() as session:
        run = runs.find(session, code)
        append(session, run, NewEntry(path="@signed", value=forged), "AT", lab.clock.now())
    faults = audit.audit(lab.database)[1]
    assert f"{code}: water_content_percent was signed as 24.9, computes to 25.0" in faults
    assert f"{code}: signed by AT for another tape than stands before it" in faults
    assert f"{code}: its tape says signed, the index says open" in faults


def test_signing_closes_checking_needs_other_eyes_and_reopening_a_reason(lab):
    code = finished_water_content(lab)
    ana, bo = lab.person("AT"), lab.person("BL")
    now = lab.clock.now()
    with lab.database.writing() as session:
        signatures.sign(session, runs.find(session, code), bo, now, end(session, code))
    with pytest.raises(RunClosed):
        lab.post(code, "remarks", "late thought")
    with pytest.raises(NotAllowed, match="four eyes"), lab.database.writing() as session:
        signatures.check(session, runs.find(session, code), bo, now, end(session, code))
    with pytest.raises(NotAllowed, match="checker"), lab.database.writing() as session:
        signatures.check(session, runs.find(session, code), ana, now, end(session, code))
    with lab.database.writing() as session:
        signatures.check(
            session,
            runs.find(session, code),
            lab.person("MR"),
            now,
            end(session, code),
        )
    with pytest.raises(NotAllowed), lab.database.writing() as session:
        signatures.reopen(session, runs.find(session, code), ana, now, end(session, code), "why not")
    with pytest.raises(FieldError), lab.database.writing() as session:
        signatures.reopen(session, runs.find(session, code), bo, now, end(session, code), "  ")
    with lab.database.writing() as session:
        signatures.reopen(
            session,
            runs.find(session, code),
            bo,
            now,
            end(session, code),
            "tin list was wrong",
        )
    lab.post(code, "remarks", "now it can")
    assert audit.audit(lab.database)[1] == []


def test_an_unfinished_run_is_signed_only_with_a_reason_and_reports_nothing_provisional(lab):
    code = lab.start("water_content", "oven_105")
    for path, value in (("tin", "12"), ("mass_wet_g", "168.92"), ("in_oven_at", "2026-05-11T08:00:00+02:00")):
        lab.post(code, path, value)
    lab.post(code, "weighings[].mass_dry_g", "139.38")
    with pytest.raises(FieldError, match="not finished"), lab.database.writing() as session:
        signatures.sign(
            session,
            runs.find(session, code),
            lab.person("AT"),
            lab.clock.now(),
            end(session, code),
        )
    with lab.database.writing() as session:
        event = signatures.sign(
            session,
            runs.find(session, code),
            lab.person("AT"),
            lab.clock.now(),
            end(session, code),
            "oven failed",
        )
    assert set(signatures.signed_values(event).values()) == {"not reported"}


def test_a_spent_specimen_is_refused_without_a_reason(lab):
    code = finished_water_content(lab)
    with pytest.raises(FieldError, match="spent"):
        lab.start("liquid_limit", material=code)
    again = lab.start("liquid_limit", material=code, reason="only soil left")
    assert lab.read(again).entries[0].reason == "only soil left"


def test_a_lapsed_device_asks_for_a_reason(lab):
    from vadum.soil.shared.device_check import CupInspection
    from vadum.tape import kit
    from vadum.tape.kit import NewItem

    seen = CupInspection(
        drop_mm=10.0,
        contact_spot_mm=8,
        cup_thickness_percent=90,
        groove_felt="no",
        feet_count=4,
        tool_tip_mm=2.0,
        tool_depth_mm=10,
        tape_removed="yes",
    )
    with lab.database.writing() as session:
        item = kit.add_item(session, NewItem(kind="cup", code="cup 5", interval_days=30))
        kit.add_inspection(session, item, seen, "BL", lab.clock.now() - timedelta(days=31))
        worn = seen.model_copy(update={"drop_mm": 10.3})
        assert not kit.add_inspection(session, item, worn, "BL", lab.clock.now() - timedelta(days=60)).passed
        assert kit.state(session, item, lab.clock.now().date()).word == "lapsed"
    code = lab.start("liquid_limit")
    lab.post(code, "device", "cup 5")
    verdict = next(v for v in lab.read(code).outcome.verdicts if v.rule == "device inspection in date")
    assert verdict.level == "redo"
    lab.post(code, "device_reason", "the other cup is away")
    verdict = next(v for v in lab.read(code).outcome.verdicts if v.rule == "device inspection in date")
    assert (verdict.level, "the other cup is away" in verdict.found) == ("watch", True)


@pytest.mark.parametrize("state", ["signed", "checked"])
def test_a_closed_run_takes_nothing_but_its_reopening(lab, state):
    code = signed(lab)
    if state == "checked":
        with lab.database.writing() as session:
            run = runs.find(session, code)
            signatures.check(session, run, lab.person("BL"), lab.clock.now(), signatures.tape_end(session, run))
    for path in ("@instrument", "@step", "@signed", "@clock", "@started", "@passed", "remarks"):
        with pytest.raises(RunClosed), lab.database.writing() as session:
            append(session, runs.find(session, code), NewEntry(path=path, value={"x": "y"}), "AT", lab.clock.now())
    with lab.database.writing() as session:
        run = runs.find(session, code)
        signatures.reopen(
            session, run, lab.person("BL"), lab.clock.now(), signatures.tape_end(session, run), "a wrong tin"
        )
    lab.post(code, "remarks", "open again")
