"""Certificates, checks against masses, many tins at once, and kit that goes out of use."""

import base64
from datetime import timedelta

import pytest

from tests.serving import AT
from vadum.soil.contract.errors import FieldError
from vadum.tape import kit, kit_papers
from vadum.tape.audit import audit
from vadum.tape.kit import NewItem
from vadum.tape.kit_papers import BalanceCheck, Certificate

PDF = base64.b64encode(b"%PDF-1.7 a certificate").decode()


@pytest.fixture
def balance(lab):
    with lab.database.writing() as session:
        kit.add_item(session, NewItem(kind="balance", code="B1", interval_days=365, readability_g=0.01))
    return lab


def check(lab, **told):
    with lab.database.writing("BL") as session:
        item = kit.find(session, "balance", "B1")
        return kit_papers.add_check(session, item, BalanceCheck(**told), "BL", AT).passed


def state(lab, kind="balance", code="B1"):
    with lab.database.reading() as session:
        return kit.state(session, kit.find(session, kind, code), AT.date())


@pytest.mark.parametrize(
    ("masses", "tolerance", "passed"),
    [
        ("200 200.01\n50 50.00", 0.01, True),
        ("200 200.02\n50 50.00", 0.01, False),
        ("200;199,99", 0.01, True),
        ("200: 200.0100001", 0.01, False),
    ],
)
def test_a_check_passes_when_every_mass_reads_within_its_tolerance(balance, masses, tolerance, passed):
    assert check(balance, masses=masses, tolerance_g=tolerance) is passed
    assert state(balance).word == ("in date" if passed else "failed")


@pytest.mark.parametrize(
    ("told", "field"),
    [
        ({}, "masses"),
        ({"masses": "200"}, "masses"),
        ({"masses": "200 200.5"}, "tolerance_g"),
        ({"masses": "200 200.01 7"}, "masses"),
        ({"masses": "200 two hundred"}, "masses"),
        ({"masses": "0 0.01"}, "masses"),
        ({"masses": "200 200.01", "tolerance_g": 0}, "tolerance_g"),
        ({"masses": "200 200", "tolerance_g": 0.01, "done_on": (AT + timedelta(days=1)).date()}, "done_on"),
        ({"masses": "200 200", "tolerance_g": 0.01, "file": "%%%"}, "file"),
        ({"masses": "200 200", "tolerance_g": 0.01, "file": base64.b64encode(b"MZ an executable").decode()}, "file"),
    ],
)
def test_a_check_that_cannot_be_is_refused_by_its_field(balance, told, field):
    with pytest.raises(FieldError) as refused:
        check(balance, **told)
    assert refused.value.field == field
    assert state(balance).word == "never looked at"


def test_a_check_of_last_month_counts_from_its_own_day_and_carries_its_paper(balance):
    day = (AT - timedelta(days=40)).date()
    check(
        balance,
        masses="200 200.00",
        tolerance_g=0.01,
        done_on=day,
        certificate="K 118",
        file=PDF,
        file_name="../a/b.pdf",
    )
    now = state(balance)
    assert now.due_on == day + timedelta(days=365)
    paper = now.last[1]["paper"]
    assert paper["certificate"] == "K 118"
    with balance.database.reading() as session:
        kept = kit_papers.file_of(session, kit.find(session, "balance", "B1"), paper["file"]["hash"])
        assert kit_papers.content_of(kept).startswith(b"%PDF")
        assert "/" not in kept.name
    assert audit(balance.database) == (0, [])


def test_a_measured_piece_brings_its_figures_and_not_its_paper(lab):
    from vadum.soil.shared.apparatus import MouldCalibration

    with lab.database.writing() as session:
        item = kit.add_item(session, NewItem(kind="mould", code="M1"))
        seen = MouldCalibration(mould_mass_g=4000, mould_volume_cm3=944)
        paper = kit_papers.paper_of(session, item, Certificate(certificate="K 7", file=PDF))
        kit.add_calibration(session, item, seen, "BL", AT, paper)
        brought = kit.brought_by(session, "mould", "M1", AT.date())
    assert brought["mould_volume_cm3"] == 944
    assert "paper" not in brought


def test_retired_kit_is_out_of_the_lists_and_comes_back(lab):
    with lab.database.writing() as session:
        item = kit.find(session, "tin", "12")
        with pytest.raises(FieldError):
            kit.retire(session, item, " ", "BL", AT)
        kit.retire(session, item, "bent", "BL", AT)
        with pytest.raises(FieldError):
            kit.retire(session, item, "again", "BL", AT)
        assert [s.item.code for s in kit.states(session, AT.date(), retired=True)] == ["12"]
        assert "12" not in [s.item.code for s in kit.states(session, AT.date())]
        assert kit.brought_by(session, "tin", "12", AT.date()) == {}
        kit.take_back(session, item, "BL", AT)
        with pytest.raises(FieldError):
            kit.take_back(session, item, "BL", AT)
        assert kit.brought_by(session, "tin", "12", AT.date())["mass_tin_g"] == 21.37
        kinds = [event.kind for event, _ in kit.state(session, item, AT.date()).events]
    assert kinds == ["tare", "retired", "taken back"]


def test_every_kind_stands_in_one_group_of_the_kit():
    grouped = [kind for kinds in kit.GROUPS.values() for kind in kinds]
    assert sorted(grouped) == sorted(kit.KINDS)
    assert all(kit.vessel_of(kind) for kind in kit.VESSELS)
