"""The rack, the weighing round, the call panel and the load ladder over a slow network: no figure waits for an answer,
none lands under another name, and what stands unsaved is counted and written down when the page ends."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import night
from tests.browser.test_a_day import ready
from tests.browser.test_other_desks import record_of
from tests.browser.test_rack_and_card import step_to
from tests.browser.test_strength_desks import CORE, begun
from tests.browser.walker import settled, slow
from tests.web.test_listening_and_practice import until

pytestmark = pytest.mark.browser
SLOW_MS = 1500


def entered(app, code):
    return [(e.path, str(e.value)) for e in record_of(app, code).entries if e.source == "hand" and e.value is not None]


def test_the_rack_takes_reading_temperature_and_what_is_typed_ahead_while_nothing_has_been_answered(live, opened):
    page = opened(live, "IM", "/rack")
    step_to(live, page, "10:23:02")
    slow(page, SLOW_MS)
    for figure in ("35,5", "20.4", "33"):
        page.keyboard.type(figure, delay=60)
        page.keyboard.press("Enter")
    expect(page.locator(".saved")).to_contain_text("not saved")
    assert until(lambda: ("readings[2].temperature_c", "20.4") in entered(live, "HY-02"))
    assert ("readings[2].reading_g_l", "35,5") in entered(live, "HY-02")
    assert not [v for _, v in entered(live, "HY-02") if "33" in v], "held, and never saved unseen"
    assert page.evaluate("JSON.stringify(localStorage).includes('33')")


def test_a_text_on_the_rack_is_counted_and_written_down_as_the_page_ends(live, opened):
    page = opened(live, "IM", "/rack")
    step_to(live, page, "10:23:02")
    page.keyboard.type("35,5")
    expect(page.locator(".saved")).to_contain_text("1 not saved")
    page.locator("a.word").click()
    page.wait_for_url("**/bench")
    assert until(lambda: ("readings[2].reading_g_l", "35,5") in entered(live, "HY-02"))


def test_the_round_goes_on_to_the_next_tin_before_the_answer_and_a_refused_one_comes_back(live, opened):
    page = opened(live, "IM", "/oven/round")
    night(live, page, "IM", hours=30)
    page.goto(live.address + "/oven/round")
    ready(page)
    tins = page.locator("[data-tin]")
    assert tins.count() >= 3
    places = [
        (tins.nth(i).get_attribute("data-run"), tins.nth(i).locator("input").get_attribute("data-path"))
        for i in range(3)
    ]
    wet = [record_of(live, run) for run, _ in places]
    assert all(wet)
    slow(page, SLOW_MS)
    page.keyboard.type("0,1", delay=60)  # no tin is so light: it is asked about
    page.keyboard.press("Enter")
    expect(tins.nth(1)).to_be_visible(timeout=1000)
    page.keyboard.type("0,2", delay=60)
    expect(page.locator(".roundline li.asked").first).to_be_visible()
    assert tins.nth(1).locator("input").input_value() == "0,2", "no answer takes the hands from a figure"
    assert entered(live, places[0][0]) == [(e.path, str(e.value)) for e in wet[0].entries if e.source == "hand"]
    opened.said[:] = [line for line in opened.said if "409" not in line]  # asked about, on purpose


def test_a_text_in_the_call_panel_is_counted_and_written_down_as_the_page_ends(live, opened):
    code = begun(live, "unconfined_compression", CORE, ("core", "frame", "compress", "failure"))
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    page.locator("#call-div").fill("12.5")
    expect(page.locator(".saved")).to_contain_text("1 not saved")
    page.locator("a.word").click()
    page.wait_for_url("**/bench")
    assert until(lambda: ("readings[0].force_n", "12.5") in entered(live, code))
    settled(page)


def test_a_text_in_the_ladder_is_counted_and_written_down_as_the_page_ends(live, opened):
    page = opened(live, "IM", "/runs/PB-01")
    ready(page)
    field = page.locator("#ladpanel input:visible").first
    before = len(entered(live, "PB-01"))
    field.fill("3.21")
    expect(page.locator(".saved")).to_contain_text("1 not saved")
    page.locator("a.word").click()
    page.wait_for_url("**/bench")
    assert until(lambda: len(entered(live, "PB-01")) == before + 1)
    assert "3.21" in entered(live, "PB-01")[-1][1]
