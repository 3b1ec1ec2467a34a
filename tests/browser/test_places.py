"""Every place: reachable, quiet on the console, accessible on desk and phone, and its forms work."""

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

pytestmark = pytest.mark.browser

PLACES = (
    "/bench",
    "/bench?zoom=day",
    "/runs/LL-03",
    "/runs/PL-01",
    "/runs/WC-05",
    "/runs/SV-02",
    "/runs/HY-03",
    "/runs/GS-01",
    "/runs/RD-01",
    "/runs/PD-01",
    "/runs/CP-02",
    "/runs/SV-03/import",
    "/runs/HY-01/sheet",
    "/runs/CB-01",
    "/runs/FB-02",
    "/runs/PM-03",
    "/runs/PB-01",
    "/plates/KS-26",
    "/practice",
    "/kit/proving_ring/R5",
    "/kit/instrument/FR-1",
    "/rack",
    "/runs/LL-01/sheet",
    "/ground",
    "/ground/KS-26",
    "/samples/3",
    "/start",
    "/start?sample=3",
    "/kit",
    "/kit/tin/12",
    "/kit/cup/cup%201",
    "/kit/balance/B1",
    "/dossiers",
    "/people",
    "/oven",
    "/oven/round",
    "/laboratory",
    "/runs",
    "/ground/KS-26/schedule",
    "/ground/KS-26?spot=TP4",
    "/labels",
    "/kit/tins",
    "/kit?new=tin",
    "/words",
    "/me",
    "/schools",
    "/strength/KS-26",
    "/water/KS-26",
    "/samples/5",
    "/runs/CB-03",
    "/runs/TX-01",
    "/runs/LP-01",
    "/runs/RC-01",
    "/runs/MP-01",
    "/runs/FV-02",
    "/runs/DS-02",
)

# What is drawn smaller than can be read, and what is cut to nothing; paper on the screen is as small as paper is.
SMALL = """() => {
    const found = [];
    const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
    const not = 'script, style, dialog:not([open]), [hidden], .visually-hidden, sub, sup, math, option, .skip, .a4';
    while (walk.nextNode()) {
        const text = walk.currentNode, e = text.parentElement;
        if (!text.textContent.trim() || e.closest(not)) continue;
        const range = document.createRange();
        range.selectNodeContents(text);
        const box = range.getBoundingClientRect();
        if (!box.width || !box.height || !e.checkVisibility({ visibilityProperty: true })) continue;
        const turned = e.ownerSVGElement && e.getScreenCTM?.();
        const px = parseFloat(getComputedStyle(e).fontSize) * (turned ? Math.hypot(turned.a, turned.b) : 1);
        if (px < 11.9) found.push(`${px.toFixed(1)} px: ${text.textContent.trim().slice(0, 30)}`);
    }
    for (const e of document.querySelectorAll('body *')) {
        const hides = ['hidden', 'clip'].includes(getComputedStyle(e).overflowX);
        const words = e.textContent.trim().slice(0, 30);
        const narrow = e.clientWidth && e.clientWidth < 20 && e.scrollWidth > e.clientWidth + 2;
        if (!hides || !narrow || !words || e.closest('.visually-hidden') || !e.checkVisibility()) continue;
        found.push(`cut: ${words}`);
    }
    for (const e of document.querySelectorAll('svg text')) {
        const svg = e.ownerSVGElement, whole = svg.getBoundingClientRect(), box = e.getBoundingClientRect();
        const shown = e.textContent.trim() && box.width && e.checkVisibility({ visibilityProperty: true });
        if (!shown || getComputedStyle(svg).overflowX === 'visible' || e.closest('[clip-path], .a4')) continue;
        const aside = Math.max(whole.left - box.left, box.right - whole.right);
        const beyond = Math.max(aside, whole.top - box.top - 3, box.bottom - whole.bottom - 3);
        if (beyond > 1.5) found.push(`${beyond.toFixed(1)} px beyond its picture: ${e.textContent.slice(0, 30)}`);
    }
    return found.slice(0, 3);
}"""


@pytest.mark.long
@pytest.mark.parametrize("part", range(6))
@pytest.mark.parametrize("width", [1280, 390])
def test_every_place_passes_axe(app, opened, width, part):
    page = opened(app, "RV", width=width)
    found = []
    for place in (*PLACES, "/nowhere", "/away", "/signin")[part::6]:
        page.goto(app.address + place)
        if "/runs/" in place and "sheet" not in place:
            page.wait_for_selector("body[data-ready]")
        page.wait_for_timeout(60)
        results = Axe().run(page)
        found += [f"{place}: {v['id']}: {v['nodes'][0]['html'][:140]}" for v in results.response["violations"]]
        found += [f"{place}: {one}" for one in page.evaluate(SMALL)]
        wide = page.evaluate("document.documentElement.scrollWidth - innerWidth")
        if wide > 0:
            found.append(f"{place}: {wide} px wider than the screen")
    opened.said[:] = [line for line in opened.said if "404" not in line]
    assert not found, "\n".join(found)


@pytest.mark.parametrize("width", [1280, 390])
def test_no_failure_lies_outside_the_picture_of_strengths(app, opened, width):
    page = opened(app, "RV", "/strength/KS-26", width=width)
    marks = page.locator("#joined .mark-symbol path")
    expect(marks).to_have_count(5)
    whole = page.locator("#joined path.background").first.bounding_box()
    for box in (one.bounding_box() for one in marks.all()):
        assert whole["x"] <= box["x"] <= whole["x"] + whole["width"] - box["width"]
        assert whole["y"] <= box["y"] <= whole["y"] + whole["height"] - box["height"]


@pytest.mark.parametrize("width", [1280, 390])
def test_what_opens_only_sometimes_passes_axe_too(app, opened, width):
    page = opened(app, "IM", "/runs/FB-02", width=width)
    page.wait_for_selector("body[data-ready]")
    found = []

    def look(name):
        page.wait_for_timeout(60)
        found.extend(f"{name}: {v['id']}: {v['nodes'][0]['html']}" for v in Axe().run(page).response["violations"])

    page.get_by_text("all saved").click()
    look("what this device holds")
    page.keyboard.press("Escape")
    api = page.context.request
    code = api.post(f"{app.address}/api/v1/practice", data={"method": "field_cbr", "seed": 3}).json()["code"]
    page.goto(f"{app.address}/runs/{code}")
    page.wait_for_selector("body[data-ready]")
    look("a practice desk")
    api.post(f"{app.address}/api/v1/practice/{code}/reveal")
    page.goto(f"{app.address}/practice/{code}")
    look("the end of a practice")
    assert not found, "\n".join(found)


def test_thumb_sized_targets_on_a_phone(app, opened):
    page = opened(app, "IM", "/runs/LL-03", width=390, height=844)
    page.wait_for_selector("body[data-ready]")
    small = page.evaluate(
        """() => [...document.querySelectorAll('button, .places a, input, .go, .quietgo')]
            .filter(e => e.offsetParent && !e.closest('dialog'))
            .map(e => [e.textContent.trim().slice(0, 20) || e.id, e.getBoundingClientRect().height])
            .filter(([, h]) => h < 40)"""
    )
    assert small == []


def test_the_bench_leads_with_one_key_to_the_reading_that_cannot_wait(app, opened):
    page = opened(app, "IM", "/bench")
    expect(page.locator(".act")).to_contain_text("Read cylinder B at 8 min. Hydrometer in at 10:22:30.")
    page.keyboard.press("Enter")
    page.wait_for_url("**/rack?pick=HY-02")
    expect(page.locator(".callfields input:focus")).to_have_attribute("data-path", "readings[2].reading_g_l")


def test_work_that_hands_can_begin_leads_to_its_field(app, opened):
    page = opened(app, "IM", "/bench")
    page.locator(".row3 a", has_text="A tin from beneath the plunger").press("Enter")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("[data-fields] input:focus")).to_have_attribute("data-path", "tins[0].tin")


def test_the_river_zooms_and_shows_what_falls_due_and_what_clashes(app, opened):
    page = opened(app, "IM", "/bench")
    expect(page.locator(".lanecode", has_text="LL-04")).to_be_visible()
    assert page.locator(".riversvg line.due").count() >= 3
    assert page.locator(".stone.clash").count() >= 2
    page.keyboard.press("2")
    page.wait_for_url("**zoom=day")
    expect(page.locator(".lanecode", has_text="HY-02")).to_be_visible()


def test_ground_from_nothing_to_a_run(live, opened):
    page = opened(live, "IM", "/ground")
    page.get_by_label("code", exact=True).fill("LM-1")
    page.get_by_label("what and where").fill("Lower meadow")
    page.keyboard.press("Enter")
    page.wait_for_url("**/ground/LM-1")
    page.get_by_role("textbox", name="code").fill("Q1")
    page.get_by_label("easting, m").fill("far")
    page.get_by_role("button", name="Add location").click()
    expect(page.locator(".slip:visible")).to_contain_text("not a number")
    page.get_by_label("easting, m").fill("10,5")
    page.get_by_label("northing, m").fill("3")
    page.get_by_role("button", name="Add location").click()
    page.wait_for_url("**?spot=Q1")
    page.locator("details[open]").get_by_label("code").fill("S1")
    page.get_by_label("from, m").fill("0.5")
    page.get_by_role("button", name="Add the sample").click()
    page.wait_for_url("**/samples/*")
    page.get_by_role("button", name="Start water content").click()
    page.wait_for_url("**/runs/WC-06")
    opened.said[:] = [line for line in opened.said if "422" not in line]


def test_the_find_box_goes_where_the_scanner_points(app, opened):
    page = opened(app, "IM", "/kit")
    page.keyboard.press("/")
    page.keyboard.type("LL-04")
    page.keyboard.press("Enter")
    page.wait_for_url("**/runs/LL-04")


def test_a_failed_inspection_says_what_to_do(live, opened):
    page = opened(live, "IM", "/kit/cup/cup%202")
    for label, value in (
        ("drop height", "10.4"),
        ("widest contact", "8"),
        ("thinnest cup", "80"),
        ("rubber feet", "4"),
        ("tip width", "2,0"),
        ("tool, depth", "10"),
    ):
        page.get_by_role("textbox", name=re.compile(label)).fill(value)
    page.get_by_role("combobox", name=re.compile("a groove that")).select_option("no")
    page.get_by_role("combobox", name=re.compile("tape off")).select_option("yes")
    page.get_by_role("button", name="Save inspection").click()
    expect(page.locator("h3").first).to_contain_text("failed")
    expect(page.locator(".vd").first).to_contain_text("Reset the drop with the gauge block.")
    expect(page.locator(".state")).to_contain_text("failed")


def test_sound_is_off_until_switched_on_and_sunlight_is_remembered(app, opened):
    page = opened(app, "IM", "/bench")
    sound = page.get_by_role("button", name="sound")
    expect(sound).to_have_text("sound off")
    sound.click()
    expect(sound).to_have_text("sound on")
    page.locator(".who summary").click()
    page.get_by_role("button", name="sunlight").click()
    page.reload()
    assert "sun" in page.evaluate("document.documentElement.className")


def test_signing_in_by_hand(app, opened, browser):
    page = opened(app, "IM", "/signin")
    page.get_by_label("name", exact=True).fill("ruth")
    page.get_by_label("pass-phrase").fill("seven wet stones")
    page.keyboard.press("Enter")
    page.wait_for_url("**/bench")
    expect(page.locator(".who summary")).to_have_text("RV")


def test_a_browser_prints_a_sheet_as_one_page_and_its_annex(app, opened):
    page = opened(app, "TO", "/runs/LL-01/sheet")
    printed = page.pdf(prefer_css_page_size=True)
    assert len(re.findall(rb"/Type\s*/Page\b", printed)) == 2
    page.emulate_media(media="print")
    assert page.locator(".a4").first.evaluate("one => one.scrollWidth <= one.clientWidth + 1")
