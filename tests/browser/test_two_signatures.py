"""Two signatures are two people: two managers of one laboratory, and a file made by hand, try to make one of two."""

import re

import pytest
from playwright.sync_api import expect

from tests.conftest import Lab
from tests.tape.test_tape import finished_water_content, signed
from vadum.tape import identity, job_export
from vadum.tape.audit import audit
from vadum.tape.identity import NewIdentity
from vadum.tape.people import NewPerson, add
from vadum.tape.tables import Job, Person

pytestmark = pytest.mark.browser


@pytest.fixture
def two_managers(live):
    """The demo with a second manager, whose initials the forger knows."""
    with live.database.writing("RV") as session:
        new = NewPerson(login="nell", name="Nell Quay", initials="NQ", role="manager", passphrase="three wet ropes")
        live.ids["NQ"] = add(session, new).id
    return live


def refused(page, path, body=None):
    """What the server answers to a request of this page's session."""
    answer = page.request.get(path) if body is None else page.request.post(path, data=body)
    return answer.status


def test_a_manager_who_opens_a_colleagues_link_reads_signs_and_checks_nothing(two_managers, opened):
    app = two_managers
    manager = opened(app, "RV", "/people")
    row = manager.locator("tr[data-login='nell']")
    row.get_by_role("button", name="New pass-phrase link").click()
    expect(manager.locator("#resetlink-text")).to_have_value(re.compile("/enter/"))
    link = manager.locator("#resetlink-text").input_value()
    as_nell = opened(app, "RV", "/signin")
    as_nell.goto(link)
    expect(as_nell.locator("h2", has_text="Choose your new pass-phrase")).to_be_visible()
    for path in ("/bench", "/runs/LL-01/sheet", "/ground/KS-26"):
        as_nell.goto(app.address + path)
        expect(as_nell.locator("h2", has_text="Choose your new pass-phrase")).to_be_visible()
    assert refused(as_nell, f"{app.address}/api/v1/runs") == 403
    assert refused(as_nell, f"{app.address}/api/v1/runs/LL-01/sign", {"tape": "0" * 64}) == 403
    as_nell.get_by_label("new pass-phrase").fill("two dry ropes, one knot")
    as_nell.get_by_role("button", name="Set it").click()
    as_nell.wait_for_url("**/signin*")
    as_nell.get_by_label("Name").fill("nell")
    as_nell.get_by_label("Pass-phrase").fill("two dry ropes, one knot")
    as_nell.keyboard.press("Enter")
    as_nell.wait_for_url("**/bench")
    # Whoever it is now: the owner of the account is told, on every page that begins a day, for a month.
    expect(as_nell.locator("[data-told]")).to_contain_text("RV made a link that sets a new pass-phrase")


def forged(folder, app):
    """A job made elsewhere under the initials of people of this laboratory: one sheet signed, one checked."""
    lab = Lab(folder)
    with lab.database.writing("MR") as session:
        identity.be(session, NewIdentity(name="Nowhere Soils"))
        for before, after in (("AT", "IM"), ("BL", "NQ")):
            session.get(Person, lab.ids[before]).initials = after
        session.get(Job, 1).code = "FORGED"
    only_signed, checked = signed(lab), finished_water_content(lab)
    lab.sign(checked)
    lab.check(checked)
    with lab.database.reading() as session:
        content = job_export.export(session, session.get(Job, 1), lab.clock.now())
    lab.database.close()
    return content, only_signed, checked


def test_a_job_made_by_hand_counts_as_nobody_of_this_laboratory(two_managers, opened, tmp_path):
    app = two_managers
    folder = tmp_path / "forger"
    folder.mkdir()
    content, _, _ = forged(folder, app)
    page = opened(app, "RV", "/ground")
    page.get_by_label("a job as another program exported it, a zip").set_input_files(
        {"name": "job.zip", "mimeType": "application/zip", "buffer": content}
    )
    page.get_by_role("button", name="Import job").click()
    page.wait_for_url("**/ground/FORGED", timeout=60_000)
    expect(page.locator("#notice")).to_contain_text("Renumbered")
    only_signed, checked = re.findall(r"is now (WC-\d+)", page.locator("#notice").inner_text())
    checker = opened(app, "NQ", f"/runs/{only_signed}/sheet")
    expect(checker.get_by_role("button", name="I have checked it: close")).to_have_count(0)
    expect(checker.locator(".sheetbar")).to_contain_text("It was signed at another laboratory")
    seen = checker.request.get(f"{app.address}/runs/{only_signed}/run.json").json()["tape"][-1]["hash"]
    assert refused(checker, f"{app.address}/api/v1/runs/{only_signed}/check", {"tape": seen}) == 403
    # The origin stands wherever the state does: sheet, desk, list of runs, list of sheets.
    for code, state in ((only_signed, "signed"), (checked, "checked")):
        for path, place in (
            (f"/runs/{code}/sheet", ".seal"),
            (f"/runs/{code}", "main"),
            ("/runs", f"tr:has-text('{code}')"),
        ):
            checker.goto(app.address + path)
            words = checker.locator(place).first
            expect(words, f"{path}: {state}").to_contain_text("Nowhere Soils")
    assert audit(app.database)[1] == []
