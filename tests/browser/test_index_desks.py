"""The desks of gradings and densities by keyboard, as their advice leads."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_a_day import TOO_EARLY, advice, happens, ready, typed
from tests.browser.test_other_desks import record_of, start
from tests.browser.test_rack_and_card import step_to

pytestmark = pytest.mark.browser


def read_cautions(page):
    """Ticks the cautions of the step at hand, where there are any."""
    box = page.locator(".caution button")
    if box.count():
        box.click()
        expect(page.locator(".caution:not(.read)")).to_have_count(0)


def test_a_ring_from_its_number_to_its_dry_density(live, opened):
    page = opened(live, "IM")
    code = start(page, "Ring density", sample="TP4 1.6 m")
    expect(page.locator(".caution")).to_contain_text("Fingers clear of the block")
    read_cautions(page)
    typed(page, "ring", "R1")
    expect(page.locator(".masses")).to_contain_text("72.3 × 60.1 mm")
    for value in ("6", "7,5", "8", "6.5"):
        typed(page, "headspace", value)
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("Weigh all the soil")
    read_cautions(page)
    typed(page, "empty bag or ring", "11,4")
    typed(page, "bag or ring + moist soil", "402,2")
    expect(page.locator(".vals")).to_contain_text("density, moist")
    typed(page, "tin", "36")
    typed(page, "tin + wet soil", "88.00")
    happens(page)  # into the oven, now
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("in the oven until tomorrow")
    typed(page, "tin + dry soil", "70.00", TOO_EARLY)
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("Saturation waits for the particle density")
    typed(page, "particle density", "2,70")
    expect(page.locator(".vals")).to_contain_text("degree of saturation")
    read = record_of(live, code)
    assert read.outcome.value("dry_density_mg_m3").reportable
    assert read.folded.came_from["ring_diameter_mm"].source == "kit: ring R1"
    opened.said[:] = [line for line in opened.said if "409" not in line]  # asked about, on purpose


def test_a_pit_gives_its_density_by_a_tin_of_the_field_soil(live, opened):
    page = opened(live, "IM")
    code = start(page, "Pit density", sample="M1 0.2 m")
    read_cautions(page)
    for label, value in (
        ("moist soil from the hole", "4700"),
        ("poured density", "1.42"),
        ("cone and plate", "1470"),
        ("jar before", "9000"),
    ):
        typed(page, label, value)
    page.locator("[data-fields] input:focus").fill("9100")  # more than before: asked back, not kept
    page.keyboard.press("Enter")
    expect(page.locator("#slip")).to_contain_text("Enter again saves it as typed")
    page.locator("[data-fields] input:focus").fill("3980")
    page.keyboard.press("Enter")
    expect(page.locator(".vals")).to_contain_text("2500")
    typed(page, "the same soil on arrival", "4690")
    read_cautions(page)
    typed(page, "tin", "36")
    typed(page, "tin + wet soil", "145.00")
    happens(page)
    typed(page, "tin + dry soil", "132.40", TOO_EARLY)
    expect(page.locator(".vals")).to_contain_text("dry density, whole soil")
    values = record_of(live, code).outcome
    assert values.value("dry_density_mg_m3").value < values.value("density_mg_m3").value
    opened.said[:] = [line for line in opened.said if "409" not in line]


def test_a_specific_gravity_by_two_pycnometers_of_the_kit(live, opened):
    page = opened(live, "IM")
    code = start(page, "Specific gravity", sample="TP4 1.6 m")
    read_cautions(page)
    for glass, with_soil, warm in (("P1", "715,25", "24,7"), ("P2", "716,99", "24,9")):
        typed(page, "pycnometer", glass)
        expect(page.locator(".pairof")).to_contain_text(glass)
        if glass == "P1":
            expect(page.locator(".caution")).to_contain_text("Glass under vacuum can burst")
            read_cautions(page)
            page.get_by_role("button", name="vacuum").click()
            typed(page, "air taken out for", "130")
        typed(page, "with soil and water", with_soil)
        typed(page, "temperature of the slurry", warm)
    happens(page)
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("in the oven until tomorrow")
    for mass in ("61,35", "58,91"):
        typed(page, "oven-dry soil", mass, TOO_EARLY)
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("Done. The sheet can be signed.")
    value = record_of(live, code).outcome.value("specific_gravity_ratio")
    assert value.reported == "2.70"
    opened.said[:] = [line for line in opened.said if "409" not in line]  # asked about, on purpose


def test_a_split_is_sieved_and_its_specification_typed_line_by_line(live, opened):
    page = opened(live, "IM", "/runs/SV-02?step=envelope")
    ready(page)
    row = page.locator('[data-fields] input[data-path="envelope[5].aperture_mm"]')
    row.fill("2")
    row.press("Enter")
    for field, value in (("least_percent", "20"), ("most_percent", "22")):
        box = page.locator(f'[data-fields] input[data-path="envelope[5].{field}"]')
        box.fill(value)
        box.press("Enter")
    expect(page.locator(".stack")).to_contain_text("too fine 20–22")
    expect(page.locator(".vd")).to_contain_text("2 mm: 22.9 % passing, too fine")
    assert len(record_of(live, "SV-02").folded.record.envelope) == 6


def test_a_cylinder_goes_from_the_desk_to_the_rack_and_back(live, opened):
    page = opened(live, "IM", "/runs/HY-03")
    ready(page)
    expect(page.locator(".slots .s-next")).to_contain_text("10:26:30")
    page.get_by_role("link", name=re.compile("To the rack")).click()
    page.wait_for_url("**/rack?pick=HY-03")
    expect(page.locator(".bignote")).to_contain_text("HY-03")
    step_to(live, page, "10:26:31", "/runs/HY-03")
    typed(page, "reading, g/L", "35")
    assert "Temperature of cylinder C" in advice(page)
    typed(page, "temperature", "20,2")
    expect(page.locator(".slots .s-next")).to_contain_text("10:54:30")
    assert record_of(live, "HY-03").outcome.series["readings"][4]["finer_percent"] < 62


def test_the_rack_on_a_phone_has_thumb_sized_fields_and_no_sideways_scroll(app, opened):
    page = opened(app, "IM", "/rack", width=390, height=844)
    page.wait_for_selector("body[data-ready]")
    heights = page.evaluate("[...document.querySelectorAll('.callfields input, #insert')].map(e => e.offsetHeight)")
    assert min(heights) >= 44
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_a_compaction_point_is_left_out_by_its_number(live, opened):
    page = opened(live, "IM", "/runs/CP-02")
    ready(page)
    page.locator("h1").click()
    page.keyboard.press("2")
    expect(page.locator("#why[open]")).to_contain_text("Exclude point 2?")
    page.keyboard.type("rammer jammed")
    page.keyboard.press("Enter")
    expect(page.locator(".moulds .out")).to_contain_text("left out")
    assert record_of(live, "CP-02").folded.record.points[1].excluded_because == "rammer jammed"
