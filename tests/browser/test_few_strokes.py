"""What a task costs the hands: every key and click beside the digits that are read, counted in the running program."""

import zipfile

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import night
from tests.browser.led import ASKED, led, passed, record_of, shelved
from tests.browser.test_a_day import COUNT, ready, strokes
from tests.browser.test_call_desk import read, seated
from vadum.soil.register import METHODS

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


OWN = {"mould": "M9", "hydrometer": "H9", "cylinder": "Z", "ring": "R9"}  # what no run of the demo has in use
ALSO = {  # what a virtual soil leaves out because it is known another way
    "liquid_limit": {"trials[0].mass_dish_g": 260.0, "trials[1].mass_dish_g": 240.0},
    "hydrometer": {"mass_taken_g": 54.0, "air_dry_water_percent": 2.6},
}


def waited(app, page, code):
    """Whether the desk had to be waited for: the next thing is hours or minutes off, and they pass."""
    now = app.clock.now()
    due = [d.at for d in read(app, code).at(now).advice.due if d.at is not None]
    if not due or min(due) <= now:
        return False
    night(app, page, "IM", seconds=(min(due) - now).total_seconds())
    page.goto(f"{app.address}/runs/{code}")
    ready(page)
    return True


MOST_PASSED = 12  # keys that move on from a step, or pass by what it can do without
TIMED = (".ring_div", ".reading_sg")  # called by the travel or the clock


def led_from_the_bench(app, page, method, downs=0):
    """Starts a method from the bench, by so many steps down its schools, and does what the desk asks to its end, or to
    the first reading that a travel or the clock calls."""
    its = METHODS[method]
    readings = record_of(its, list(its.schools.values())[downs])
    readings |= {name: code for name, code in OWN.items() if name in readings} | ALSO.get(method, {})
    readings = {path: value for path, value in readings.items() if not path.endswith(TIMED)}
    shelved(app, readings)
    page.keyboard.press("s")
    page.wait_for_url("**/start")
    page.get_by_role("link", name="TP4 1.6 m").press("Enter")
    if downs:
        page.locator(f"#school-{method}").focus()
        for _ in range(downs):
            page.keyboard.press("ArrowDown")
    page.get_by_role("button", name=f"Start {its.title.lower()}").first.press("Enter")
    page.wait_for_url("**/runs/*")
    ready(page)
    code = page.url.rsplit("/", 1)[1]
    for _ in range(40):
        said = led(page, readings, lambda: waited(app, page, code))
        path, kind, _ = page.evaluate(ASKED)
        calling = page.evaluate("document.getElementById('desk').dataset.calling || ''")
        if "can be signed" in said or calling or path.endswith(TIMED):
            return said
        if not waited(app, page, code) and kind == "moment":
            page.keyboard.press("n")  # now
            expect(page.locator(f'[data-fields] input[data-path="{path}"]')).to_have_count(0)
    raise AssertionError(said)


@pytest.mark.parametrize(
    ("method", "downs", "most"),
    [
        ("plastic_limit", 0, 16),
        ("sieve", 0, 19),
        ("compaction", 0, 39),
        ("ring_density", 0, 23),  # two readings more than before: they stay in the form until it is moved on from
        ("liquid_limit", 3, 29),
    ],
)
def test_a_task_costs_the_hands_little_beside_its_digits(counted, live, method, downs, most):
    assert "can be signed" in led_from_the_bench(live, counted, method, downs)
    assert strokes(counted) - passed(counted) <= most
    assert passed(counted) <= MOST_PASSED


@pytest.mark.parametrize(("method", "most"), [("hydrometer", 24), ("cbr", 50)])
def test_a_test_with_called_readings_is_soon_before_its_first_call(counted, live, method, most):
    led_from_the_bench(live, counted, method)
    assert strokes(counted) - passed(counted) <= most
    assert passed(counted) <= MOST_PASSED


def test_a_called_reading_costs_one_key_beside_its_digits(counted, live):
    page = counted
    page.goto(f"{live.address}/runs/{seated(live)}")
    ready(page)
    before = strokes(page)
    for divisions in ("20", "31", "44", "58"):
        page.locator("#call-div").focus()
        page.keyboard.type(divisions)
        page.keyboard.press("Enter")
        expect(page.locator("#call-div")).to_have_value("")
    assert strokes(page) - before == 4


def test_a_whole_job_leaves_the_laboratory_in_few_clicks(counted, tmp_path):
    page = counted
    page.get_by_role("link", name="Ground", exact=True).click()
    page.wait_for_url("**/ground")
    page.locator('a[href="/ground/KS-26"]').first.click()
    page.wait_for_url("**/ground/KS-26")
    with page.expect_download() as download:
        page.locator('a[href$="/job.zip"]').first.click()
    download.value.save_as(tmp_path / "job.zip")
    assert zipfile.is_zipfile(tmp_path / "job.zip")
    assert strokes(page) <= 3
