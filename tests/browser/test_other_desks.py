"""Water content, plastic limit and the fall cone by keyboard; signing early, reopening, the clock and the calls."""

import re
from datetime import datetime

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import network_gone
from tests.browser.test_a_day import TOO_EARLY, advice, happens, ready, typed
from tests.serving import served
from vadum.tape import runs, signatures
from vadum.tape.clock import Clock

pytestmark = pytest.mark.browser


def start(page: Page, method: str, school: str | None = None, sample: str = "TP1 0.4 m") -> str:
    """A run on a sample, by keyboard."""
    page.keyboard.press("s")
    page.wait_for_url("**/start")
    page.get_by_role("link", name=sample).press("Enter")
    if school:
        page.get_by_role("combobox", name=method, exact=True).select_option(school)
    page.get_by_role("button", name=f"Start {method.lower()}").press("Enter")
    page.wait_for_url("**/runs/*")
    ready(page)
    return page.url.rsplit("/", 1)[1]


def record_of(app, code):
    with app.database.reading() as session:
        run = runs.find(session, code)
        return runs.compute(run, runs.read_tape(session, run.id))


def test_a_microwave_water_content_from_tin_to_constant_mass(live, opened):
    page = opened(live, "IM")
    code = start(page, "Water content", "microwave")
    typed(page, "tin", "15")
    expect(page.locator(".masses")).to_contain_text("by the register")
    typed(page, "tin + wet soil", "79,04")
    page.get_by_role("button", name="Read").click()  # a metal container never goes into a microwave
    expect(page.locator(".caution.read")).to_have_count(1)
    happens(page)  # it is in, now
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("stays in the microwave")
    for mass in ("70.40", "69.10", "69.08"):
        live.clock.step(minutes=5)
        page.reload()
        ready(page)
        typed(page, "tin + dry soil", mass)
    page.keyboard.press("Enter")  # on from the weighings
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("Dry. The sheet can be signed.")
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("constant: 0.02 g ≤ 0.06 g")
    read = record_of(live, code)
    assert len(read.folded.record.weighings) == 3
    assert read.outcome.value("water_content_percent").reportable


def test_a_plastic_limit_pair_with_its_index_from_the_other_run(live, opened):
    page = opened(live, "IM")
    code = start(page, "Plastic limit", sample="TP2 1.1 m")
    for tin, wet in (("28", "32.60"), ("29", "30.41")):
        typed(page, "tin", tin)
        typed(page, "tin + wet soil", wet)
    happens(page)
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("in the oven until tomorrow")
    live.clock.step(hours=13)
    typed(page, "tin + dry soil", "31.07", TOO_EARLY)
    typed(page, "tin + dry soil", "28.86", TOO_EARLY)
    expect(page.locator(".vals")).to_contain_text("plasticity index")
    read = record_of(live, code)
    assert read.folded.came_from["liquid_limit_percent"].source == "run: LL-02"
    assert read.outcome.value("plasticity_index_percent").reportable
    expect(page.locator("#chart .mark-symbol path")).not_to_have_count(0)
    opened.said[:] = [line for line in opened.said if "409" not in line]  # asked about, on purpose


def test_threads_that_never_roll_are_one_key_from_nonplastic(live, opened):
    page = opened(live, "IM")
    code = start(page, "Plastic limit", sample="M1 0.2 m")
    page.get_by_role("button", name="Record as nonplastic").press("Enter")
    expect(page.locator(".vals")).to_contain_text("NP")
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("Nonplastic.")
    assert record_of(live, code).folded.record.cannot_be_rolled == "yes"


def test_the_cone_has_no_drop_counter_and_asks_for_millimetres(live, opened):
    page = opened(live, "IM")
    start(page, "Liquid limit", "cone_80g")
    typed(page, "device", "cone 80")
    typed(page, "soil taken", "300")
    typed(page, "its water content", "3")
    typed(page, "water added", "110")
    typed(page, "closed to season", "10:00")
    expect(page.locator(".counter")).to_have_count(0)
    live.clock.step(hours=13)
    page.goto(live.link("IM"))
    page.goto(page.url.replace("/bench", "/runs/LL-06"))
    ready(page)
    assert "Seasoning until tomorrow" in advice(page)
    page.locator('[data-fields] input[data-path$=".penetration_mm"]').fill("16,2")
    page.keyboard.press("Enter")
    expect(page.locator(".bands")).to_contain_text("16,2")


def test_an_unfinished_run_is_signed_only_with_a_reason_that_the_sheet_shows(live, opened):
    page = opened(live, "IM", "/runs/WC-05")
    ready(page)
    page.get_by_role("button", name="Sign the sheet…").click()
    page.keyboard.press("Enter")
    expect(page.locator("#why[open]")).to_be_visible()  # a reason is required
    page.keyboard.type("oven failed at noon")
    page.keyboard.press("Enter")
    page.wait_for_url("**/sheet")
    expect(page.locator(".a4").first).to_contain_text("oven failed at noon")
    expect(page.locator(".a4").first).to_contain_text("provisional")


def test_a_signed_run_is_reopened_with_a_reason(live, opened):
    page = opened(live, "TO", "/runs/LL-02/sheet")
    page.get_by_text("Reopen…").click()
    page.get_by_label("why").fill("tin list was wrong")
    page.get_by_role("button", name="Reopen").click()
    page.wait_for_url("**/runs/LL-02")
    ready(page)
    assert "The sheet can be signed" in advice(page)
    page.goto(f"{live.address}/runs/LL-02/sheet")
    expect(page.locator(".annex")).to_contain_text("tin list was wrong")


def test_what_a_signed_run_refuses_is_kept_on_the_device_and_said(live, opened):
    page = opened(live, "IM", "/runs/WC-02")
    ready(page)
    page.get_by_role("link", name=re.compile("Weigh it dry")).click()
    field = page.locator('[data-fields] input[data-path="remarks"]')
    expect(field).to_be_visible()
    page.context.set_offline(True)
    field.fill("written in the field")
    field.press("Enter")
    expect(page.locator(".saved")).to_have_text("1 waiting to be sent")
    with live.database.writing() as session:
        run = runs.find(session, "WC-02")
        me = next(p for p in [session.get(type_of_person(), live.ids["IM"])])
        signatures.sign(session, run, me, live.clock.now(), signatures.tape_end(session, run))
    page.context.set_offline(False)
    expect(page.locator(".saved")).to_have_text("1 refused, stored here", timeout=30_000)
    assert "written in the field" in page.evaluate("localStorage.getItem('vadum-refused')")
    network_gone(opened)
    opened.said[:] = [line for line in opened.said if "409" not in line]


def type_of_person():
    from vadum.tape.tables import Person

    return Person


def test_the_clock_runs_the_count_goes_down_and_the_bench_turns_over_by_itself(tmp_path, opened):
    with served(tmp_path, Clock(datetime.now().astimezone().tzinfo)) as app:
        with app.database.writing() as session:
            for run in runs.listed(session, "open", size=100):
                if run.code != "LL-04":  # its seasoning ends within two minutes
                    run.state = "checked"
        page = opened(app, "IM", "/bench")
        first = page.locator(".big").inner_text()
        assert re.fullmatch(r"[01]:\d\d", first)
        before = page.locator(".clock").inner_text()
        expect(page.locator(".clock")).not_to_have_text(before, timeout=30_000)
        expect(page.locator(".big")).not_to_have_text(first, timeout=30_000)
        assert re.match(r"[01]:\d\d · Bench", page.title())
        assert "translate" in (page.locator(".flow").get_attribute("transform") or "")


def test_a_reading_typed_while_another_arrives_is_not_lost(live, opened):
    ilse, tomas = opened(live, "IM", "/runs/LL-03"), opened(live, "TO", "/runs/LL-03")
    ready(ilse)
    ready(tomas)
    ilse.keyboard.type("23")  # half of 236.4
    tomas.keyboard.type("236.4")
    tomas.keyboard.press("Enter")
    expect(ilse.locator(".tape")).to_contain_text("236.4")
    tomas.keyboard.type("32")
    tomas.keyboard.press("Enter")
    expect(ilse.locator(".bands")).to_contain_text("32")
    assert live.database
    entries = record_of(live, "LL-03").entries
    assert [e.by for e in entries[-2:]] == ["TO", "TO"]
