"""A laboratory's first day: from an empty program to the first run, led by one line; labels, a job and a schedule."""

import pytest
from playwright.sync_api import expect

from tests.browser.test_a_day import ready
from tests.serving import AT, Served
from vadum.tape import people
from vadum.tape.audit import audit
from vadum.tape.clock import FrozenClock
from vadum.tape.database import Database
from vadum.tape.people import NewPerson

pytestmark = pytest.mark.browser


@pytest.fixture
def empty(tmp_path):
    """A program that nobody has used yet, but for its manager."""
    url = f"sqlite:///{tmp_path / 'new.db'}"
    database = Database(url, FrozenClock(AT))
    database.migrate()
    with database.writing() as session:
        new = NewPerson(login="mia", name="Mia Rand", initials="MR", role="manager", passphrase="wet feet, dry tins")
        ids = {"MR": people.add(session, new).id}
    running = Served(url, database, FrozenClock(AT), ids)
    yield running
    running.go()
    database.close()


def test_a_new_laboratory_is_led_from_its_name_to_its_first_run(empty, opened):
    page = opened(empty, "MR", "/bench")
    expect(page.locator(".firstday .go")).to_have_text("Say who the laboratory is")
    page.locator(".firstday .go").click()
    expect(page.get_by_label("name", exact=True)).to_be_focused()
    page.keyboard.type("Underford")
    page.get_by_label("time zone").fill("Europe/Lisbon")
    page.get_by_role("button", name="Save").click()
    expect(page.locator(".clock")).to_have_text("09:21:18")
    page.goto(empty.address + "/kit")
    page.get_by_role("link", name="Register the balance").click()
    expect(page.get_by_label("its number")).to_be_focused()
    page.keyboard.type("B1")
    page.get_by_label("reads to, g").fill("0.01")
    page.keyboard.press("Enter")
    page.wait_for_url("**/kit/balance/B1#measure")
    page.goto(empty.address + "/kit/tins")
    expect(page.get_by_label("One tin per line")).to_be_focused()
    page.keyboard.insert_text("41;21.37\n42;20.98")
    expect(page.locator("#preview")).to_contain_text("new")
    page.get_by_role("button", name="Register 2 tins").click()
    expect(page.locator("#notice")).to_contain_text("2 tins registered")
    page.goto(empty.address + "/bench")
    assert page.locator(".firstday li.done").count() == 3
    expect(page.locator(".firstday .go")).to_have_text("Add the people")
    page.get_by_role("link", name="Make a job").click()
    expect(page.get_by_label("code", exact=True)).to_be_focused()
    page.keyboard.type("M-1")
    page.get_by_label("what and where").fill("Meadow")
    page.keyboard.press("Enter")
    page.wait_for_url("**/ground/M-1")
    expect(page.locator(".samples")).to_contain_text("Add a spot first")
    expect(page.locator("#s-code")).to_be_focused()
    page.keyboard.type("TP1")
    page.keyboard.press("Enter")
    page.wait_for_url("**?spot=TP1")
    page.locator("details[open]").get_by_label("code").fill("B1")
    page.keyboard.press("Enter")
    page.wait_for_url("**/samples/*")
    page.get_by_role("button", name="Start water content").click()
    page.wait_for_url("**/runs/WC-01")
    ready(page)
    page.goto(empty.address + "/bench")
    expect(page.locator(".firstday")).to_have_count(0)


def test_a_job_goes_from_one_program_into_an_empty_one_and_the_check_is_green(app, empty, opened):
    page = opened(app, "RV", "/ground/KS-26")
    page.get_by_text("This job: edit").click()
    with page.expect_download() as waiting:
        page.get_by_role("link", name="the whole job, zip").click()
    path = waiting.value.path()
    there = opened(empty, "MR", "/ground")
    there.get_by_label("a job as another program exported it, a zip").set_input_files(
        {"name": "job.zip", "mimeType": "application/zip", "buffer": path.read_bytes()}
    )
    there.get_by_role("button", name="Import job").click()
    there.wait_for_url("**/ground/KS-26", timeout=60_000)
    expect(there.locator("#notice")).to_contain_text("runs imported")
    there.goto(empty.address + "/runs/LL-01/sheet")
    expect(there.locator(".a4").first).to_contain_text("Underford Ground Laboratory")
    runs, faults = audit(empty.database)
    assert (runs > 40, faults) == (True, [])


def test_a_schedule_is_ticked_and_withdrawn_in_the_browser(live, opened):
    page = opened(live, "IM", "/ground/KS-26/schedule")
    cell = page.get_by_label("Sieve analysis of M1 0.2 m · R1")
    cell.check()
    page.get_by_label("the ticked ones by").fill("2026-05-20")
    page.get_by_role("button", name="Put the ticked ones on the schedule").click()
    expect(page.locator("#notice")).to_contain_text("1 on the schedule")
    row = page.locator("tr[id^=owed]", has_text="sieve")
    row.get_by_text("change", exact=True).click()
    row.get_by_label("withdrawn because").fill("not needed")
    row.get_by_role("button", name="Withdraw it").click()
    expect(page.locator("tr[id^=owed]", has_text="sieve")).to_contain_text("withdrawn by IM: not needed")


def test_a_run_begun_in_vain_is_set_aside_at_its_desk_and_brought_back(live, opened):
    page = opened(live, "IM", "/runs/WC-03")
    ready(page)
    page.get_by_role("button", name="Set the run aside").click()
    page.locator("#why-reason").fill("the wrong bag")
    page.keyboard.press("Enter")
    page.wait_for_url("**/samples/4")
    expect(page.locator("#notice")).to_contain_text("WC-03 is set aside")
    page.goto(live.address + "/runs/WC-03")
    ready(page)
    expect(page.locator(".head")).to_contain_text("set aside by IM: the wrong bag")
    page.get_by_role("button", name="Bring it back").click()
    expect(page.get_by_role("button", name="Set the run aside")).to_be_visible()


def test_labels_of_a_job_are_chosen_and_made(app, opened):
    page = opened(app, "IM", "/labels?job=KS-26")
    page.get_by_label("all 13").uncheck()
    page.get_by_label("TP4 1.6 m · T1").check()
    with page.expect_popup() as waiting:
        page.get_by_role("button", name="Make the PDF").click()
    assert "of=sample%3A5" in waiting.value.url
    answer = page.context.request.get(waiting.value.url)
    assert answer.body().startswith(b"%PDF")
    waiting.value.close()


def test_a_mark_is_chosen_as_a_file_and_stands_on_the_sheet(live, opened):
    page = opened(live, "RV", "/laboratory")
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M0 0h9v9z"/></svg>'
    field = page.locator("#k-accreditation")
    field.set_input_files({"name": "m.svg", "mimeType": "image/svg+xml", "buffer": svg})
    page.get_by_role("button", name="Take this one").click()
    expect(page.get_by_alt_text("the mark of its accreditation")).to_be_visible()
    page.goto(live.address + "/runs/LL-01/sheet")
    expect(page.get_by_alt_text("Mark of the accreditation")).to_be_visible()
