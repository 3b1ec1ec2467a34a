"""Trouble is told from absence: what the program cannot show, refuses or fails at is said, and the rest goes on."""

import json

import pytest
from playwright.sync_api import expect

from tests.browser.test_a_day import ready
from tests.browser.test_call_desk import read
from tests.browser.test_without_a_network import waiting_here
from tests.web.test_listening_and_practice import until
from vadum.tape import runs
from vadum.tape.entries import NewEntry, append

pytestmark = pytest.mark.browser


def said_of(opened, *words):
    """Forget what a browser says by itself of an answer that is no success; anything else still fails the test."""
    said = opened.said
    said[:] = [line for line in said if not any(word in line for word in words)]


def test_a_reading_that_the_desk_cannot_show_is_kept_and_said_and_its_run_mended(live, opened):
    page = opened(live, "IM", "/runs/WC-02?field=remarks")
    ready(page)
    with live.database.writing() as session:  # as a program of another version would have left it
        append(session, runs.find(session, "WC-02"), NewEntry(path="colour", value="grey"), "TO", live.clock.now())
    field = page.locator("[data-fields] input").first
    field.fill("damp")
    field.press("Enter")
    expect(page.locator("#slip")).to_contain_text("cannot be judged since entry")
    expect(page.locator(".saved")).to_have_text("all saved")
    page.get_by_role("link", name="Open what is wrong").click()
    expect(page.locator("h1")).to_contain_text("WC-02 cannot be judged")
    page.locator("tr.blamed input").fill("no such field")
    page.locator("tr.blamed").get_by_role("button", name="Strike it").click()
    ready(page)
    expect(page.locator("h1")).to_contain_text("WC-02")
    assert until(lambda: not read(live, "WC-02").folded.collisions)
    said_of(opened, "status of 409")


def test_a_fault_of_the_program_is_no_lost_network_and_holds_up_nothing(live, opened):
    page = opened(live, "IM", "/runs/WC-02?field=remarks")
    ready(page)
    failing = ["first"]

    def fails_once(route):
        if failing:
            failing.pop()
            route.fulfill(status=500, body="a fault", content_type="text/plain")
        else:
            route.continue_()

    page.route("**/runs/WC-02/entries*", fails_once)
    fields = page.locator("[data-fields] input")
    fields.first.fill("damp")
    fields.first.press("Enter")
    expect(page.locator("#slip")).to_contain_text("failed before confirming")
    expect(page.locator(".saved")).to_contain_text("1 refused")
    sent = []
    page.on("request", lambda r: sent.append(r.post_data) if r.method == "POST" and "entries" in r.url else None)
    page.get_by_text("1 refused").click()
    page.get_by_role("button", name="Send again").click()
    expect(page.locator("#outbox")).to_contain_text("Nothing: all readings are saved.")
    assert sent
    assert all(json.loads(body)["insist"] is False for body in sent)
    said_of(opened, "status of 500")


def test_what_waited_insists_on_nothing_and_a_slip_comes_back_to_its_person(live, opened):
    page = opened(live, "IM", "/runs/WC-05")
    ready(page)
    wrong = waiting_here(1, "IM", "x")
    wrong["url"] = "/runs/WC-05/entries"
    wrong["body"] = {"entry": {**wrong["body"]["entry"], "path": "cooled_min", "value": "123456789012345678"}}
    wrong["body"]["insist"] = False
    good = waiting_here(2, "IM", "behind it")
    page.evaluate("list => localStorage.setItem('vadum-waiting', JSON.stringify(list))", [wrong, good])
    page.reload()
    ready(page)
    expect(page.locator(".saved")).to_contain_text("1 refused")
    assert until(lambda: read(live, "WC-02").folded.record.remarks == "behind it"), "the queue behind it goes on"
    page.get_by_text("1 refused").click()
    page.get_by_role("button", name="Save as it is").click()
    expect(page.locator("#outbox")).to_contain_text("Nothing: all readings are saved.")
    stops = [v.found for v in read(live, "WC-05").outcome.verdicts if v.level == "stop"]
    assert any("1.23457e+17" in found for found in stops)
    said_of(opened, "status of 409", "status of 422")
