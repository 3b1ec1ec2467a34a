"""What a task costs the hands: every key and click beside the digits that are read, counted in the running program."""

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_a_day import COUNT, ready, strokes

pytestmark = pytest.mark.browser


@pytest.fixture
def counted(live, opened) -> Page:
    page = opened(live, "IM", "/bench")
    page.context.add_init_script(COUNT)
    page.goto(live.address + "/bench")
    return page


@pytest.mark.parametrize(
    ("kind", "typed", "fields", "most"),
    [
        ("tin", "tin", {"its number": "97", "empty, clean and dry, g": "21.37"}, 8),
        ("balance", "balance", {"its number": "7", "reads to, g": "0.01"}, 12),
        ("ring", "drive ring", {"its number": "97"}, 15),
    ],
)
def test_a_piece_of_kit_is_registered_without_a_march_of_tabs(counted, kind, typed, fields, most):
    page = counted
    page.get_by_role("link", name="Kit", exact=True).click()
    page.wait_for_url("**/kit")
    page.wait_for_load_state("load")
    page.keyboard.press("n")
    expect(page.get_by_label("what it is")).to_be_focused()
    page.keyboard.type(typed)
    for label, value in fields.items():
        page.keyboard.press("Tab")
        for _ in range(3):
            if page.get_by_label(label).evaluate("field => field === document.activeElement"):
                break
            page.keyboard.press("Tab")
        expect(page.get_by_label(label)).to_be_focused()
        page.keyboard.type(value)
    page.keyboard.press("Enter")
    # A tin leads to the next tin, other kit to what it has to show first.
    page.wait_for_url(f"**/kit/{kind}/{fields['its number']}*" if kind != "tin" else "**/kit?new=tin")
    assert strokes(page) <= most


def test_a_practice_is_begun_and_finished_in_a_few_clicks(counted):
    page = counted
    page.get_by_role("link", name="Practice", exact=True).click()
    page.get_by_role("button", name="Practise it").click()
    page.wait_for_url("**/runs/PR-*")
    ready(page)
    page.get_by_role("button", name="Finish: show the soil").click()
    page.locator("dialog[open]").get_by_role("button", name="Finish: show the soil").click()
    page.wait_for_url("**/practice/PR-*")
    assert strokes(page) <= 4
