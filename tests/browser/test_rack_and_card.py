"""Two cylinders and a sieve stack on a stepped clock; the path to a class; a table with a wrong row."""

import re
from datetime import datetime, timedelta

import pytest
from playwright.sync_api import expect

from tests.browser.test_a_day import ready, typed
from tests.browser.test_other_desks import record_of, start
from tests.serving import AT

pytestmark = pytest.mark.browser


def at(text):
    return datetime.fromisoformat(f"2026-05-12T{text}+02:00")


def step_to(app, page, text, place="/rack"):
    app.clock.step(seconds=(at(text) - app.clock.now()).total_seconds())
    page.goto(app.address + place)
    page.wait_for_selector("body[data-ready]")


def test_two_cylinders_and_a_sieve_stack_by_the_clock(live, opened):
    page = opened(live, "IM", "/rack")
    expect(page.locator(".act")).to_have_text("Hydrometer into B at 10:22:30.")
    expect(page.locator(".callsheet li", has_text="read B 8 min")).to_be_visible()

    step_to(live, page, "10:22:31")
    page.keyboard.press("i")  # the hydrometer is in
    expect(page.locator(".act")).to_have_text("Read B 8 min at 10:23:00.")
    expect(page.locator("#insert")).to_have_count(0)  # it is in; pressing again would say it twice

    step_to(live, page, "10:23:02")
    page.keyboard.type("35,5")
    page.keyboard.press("Enter")
    expect(page.locator(".callfields input:focus")).to_have_attribute("data-path", "readings[2].temperature_c")
    page.keyboard.press("ArrowUp")  # the last temperature again: two strokes
    page.keyboard.press("Enter")
    expect(page.locator(".act")).to_contain_text("Shake the bottles")  # of the lime demand beside it
    page.keyboard.press("n")
    expect(page.locator(".act")).to_contain_text("into C at 10:26:00")
    kept = record_of(live, "HY-02").folded.record.readings[2]
    assert kept.read_at == at("10:23:02")
    assert (kept.reading_g_l, kept.temperature_c) == (35.5, 20.4)
    assert kept.inserted_at == at("10:22:31")

    # The stack comes out of the shaker between two readings: the bench leads there.
    step_to(live, page, "10:25:35", "/runs/SV-03")
    assert "Take the stack from the shaker" in page.locator('[data-fragment="advice"]').inner_text()
    typed(page, "retained", "0")
    typed(page, "retained", "0")
    expect(page.locator(".stack")).to_contain_text("4.75")

    # C is read fifty seconds late: kept with its true time, and said.
    step_to(live, page, "10:27:20")
    expect(page.locator(".act")).to_have_text("Read C 32 min.")
    expect(page.locator(".callsheet .late").first).to_contain_text("late")
    page.keyboard.type("34")
    page.keyboard.press("Enter")
    expect(page.locator(".callfields input:focus")).to_have_attribute("data-path", re.compile("temperature_c"))
    page.keyboard.type("20.2")
    page.keyboard.press("Enter")
    expect(page.locator(".act")).to_contain_text("into B at 10:30:30")
    read = record_of(live, "HY-03")
    assert read.folded.record.readings[4].read_at == at("10:27:20")
    late = next(v for v in read.outcome.verdicts if v.rule == "readings on time")
    assert (late.level, late.found) == ("watch", "32 min: 50 s late")

    # A number key goes to that cylinder without a touch of the mouse.
    page.locator(".linehead").click()
    page.keyboard.press("2")
    expect(page.locator(".bignote")).to_contain_text("· C")


def test_a_third_cylinder_is_planned_where_it_clashes_with_none(live, opened):
    page = opened(live, "IM", "/rack")
    box = page.locator(".start", has_text="HY-04")
    expect(box).to_contain_text("At once would clash")
    start = re.search(r"set down (\d\d:\d\d:\d\d)", box.inner_text()).group(1)
    expect(box).to_contain_text(f"first clean start {start}")
    page.get_by_role("button", name="Plan this start").click()
    page.wait_for_load_state("load")
    expect(page.locator(".glasses li", has_text="HY-04")).to_contain_text(f"starts {start}")
    assert record_of(live, "HY-04").folded.record.planned_start_at == at(start)

    step_to(live, page, start, "/rack?pick=HY-04")
    expect(page.locator(".act")).to_have_text("Set down D.")
    page.keyboard.press("n")  # time zero is now
    expect(page.locator(".glasses li", has_text="HY-04")).to_contain_text("2 min next")
    assert record_of(live, "HY-04").folded.record.started_at == at(start)
    with live.database.reading() as session:
        from vadum.bench.foreman import Foreman
        from vadum.bench.moments import clashes
        from vadum.tape.runs import Shelf

        found = Foreman(Shelf()).in_hand(session, live.clock.now())
        moments = [m for _, many in found for m in many if m.due.window_s is not None]
        assert clashes(moments, live.clock.now()) == []


def test_a_plan_can_be_made_anew(live, opened):
    page = opened(live, "IM", "/rack")
    page.get_by_role("button", name="Plan this start").click()
    page.wait_for_load_state("load")
    page.get_by_role("button", name="plan it anew").click()
    expect(page.get_by_role("button", name="Plan this start")).to_be_visible()
    assert record_of(live, "HY-04").folded.record.planned_start_at is None


def test_a_slip_on_the_rack_is_asked_back_once(live, opened):
    page = opened(live, "IM", "/rack")
    page.locator(".callfields input").first.fill("355")
    page.keyboard.press("Enter")
    expect(page.locator("#slip")).to_contain_text("Enter again saves it as typed")
    assert len(record_of(live, "HY-02").folded.record.readings) == 2
    opened.said[:] = [line for line in opened.said if "409" not in line]


def test_the_card_opens_the_path_that_led_to_the_class(app, opened):
    page = opened(app, "IM", "/samples/3")
    page.wait_for_selector("body[data-ready]")
    unified = page.locator('[data-class="USCS"]')
    expect(unified.locator(".symb")).to_have_text("CL")
    expect(unified.locator(".cname")).to_have_text("lean clay")
    unified.locator("summary").press("Enter")
    path = unified.locator(".path li")
    expect(path.first).to_contain_text("Are half or more of it fines?")
    expect(path.first).to_contain_text("yes")
    expect(unified).to_contain_text("liquid limit 46 < 50 %")
    expect(page.locator('[data-class="AASHTO"] .symb')).to_have_text(re.compile(r"A-7-6\(\d+\)"))
    expect(page.locator('[data-class="USDA"] .symb')).to_have_text("silty clay loam")
    expect(page.locator(".cardgrid .vd")).to_contain_text("sieve and hydrometer join")
    expect(page.locator("#grading .mark-symbol path").nth(10)).to_be_attached()
    expect(page.locator("#plasticity .mark-symbol path")).not_to_have_count(0)


def test_a_card_that_waits_says_for_what(app, opened):
    page = opened(app, "IM", "/samples/6")
    expect(page.locator('[data-class="USCS"]')).to_contain_text("waits for: fines")


TABLE = "mm;retained g\n9,5;0\n4,75;1,2\n2;9,4\n0,85;12,x\n0,425;21\n0,25;18\n0,15;17,1\n0,106;9\n0,075;8,4\npan;2,1"


def test_a_table_with_a_bad_row_is_named_and_nothing_of_it_is_kept(live, opened):
    page = opened(live, "IM", "/runs/SV-03")
    ready(page)
    page.get_by_role("link", name="Paste or import a table").click()
    page.wait_for_url("**/import")
    page.get_by_label("paste here").fill(TABLE)
    page.get_by_role("button", name="Look at it").click()
    expect(page.locator("#wrongs")).to_have_text("line 5, retained g: '12,x' is not a number")
    expect(page.locator(".sheetin td.bad")).to_have_text("12,x")
    expect(page.get_by_role("button", name="Import", exact=True)).to_be_hidden()
    assert all(s.mass_retained_g is None for s in record_of(live, "SV-03").folded.record.sieves)

    page.get_by_label("paste here").fill(TABLE.replace("12,x", "12,1"))
    page.get_by_role("button", name="Look at it").click()
    page.get_by_label("column mm is").select_option("")  # a column may be left out, and taken again
    expect(page.locator(".sheetin td.unused").first).to_be_visible()
    page.get_by_label("column mm is").select_option("aperture_mm")
    page.get_by_role("button", name="Import 10 rows").click()
    page.wait_for_url("**/runs/SV-03")
    ready(page)
    expect(page.locator(".stack")).to_contain_text("12,1")
    record = record_of(live, "SV-03").folded.record
    assert [s.mass_retained_g for s in record.sieves][1:10] == [0, 1.2, 9.4, 12.1, 21, 18, 17.1, 9, 8.4]
    assert record.mass_pan_g == 2.1


def test_a_compaction_is_led_by_its_water_advice_at_the_desk(live, opened):
    page = opened(live, "IM")
    code = start(page, "Compaction", sample="TP1 0.4 m")
    page.keyboard.type("M1")
    page.keyboard.press("Enter")
    expect(page.locator("#why-what")).to_contain_text("ould M1 lies in CP-02")
    page.locator("#why-reason").fill("its soil is out")
    page.keyboard.press("Enter")
    expect(page.locator('[data-fields] input[data-path="mould"]')).to_have_count(0)
    opened.said[:] = [line for line in opened.said if "409" not in line]
    for label, value in (("soil of one portion", "2500"), ("its water content", "3,0")):
        typed(page, label, value)
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("Wet the first portion")
    typed(page, "water added", "170")
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("3 × 25 blows, 2.495 kg from 305 mm")
    typed(page, "mould + wet soil", "6012")
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("a slice through its middle")
    typed(page, "tin", "39")
    typed(page, "tin + wet soil", "125,4")
    expect(page.locator(".mass")).to_have_text("219 mL")  # 2500 / 1.03 x (12.004 - 3.0 ... + 2) % = 218.5
    read = record_of(live, code)
    assert read.folded.record.mould_volume_cm3 == 944.2
    assert read.folded.came_from["mould_mass_g"].source == "kit: mould M1"


def test_a_mould_is_measured_again_in_the_kit(live, opened):
    page = opened(live, "IM", "/kit/mould/M1")
    page.get_by_label("mass with its base plate").fill("4 219,5")
    page.get_by_label("volume").fill("-1")
    page.get_by_role("button", name="Save measurement").click()
    expect(page.locator(".slip:visible")).to_contain_text("greater than 0")
    page.get_by_label("volume").fill("944,4")
    page.get_by_role("button", name="Save measurement").click()
    expect(page.locator(".facts2").first).to_contain_text("4219.5")
    opened.said[:] = [line for line in opened.said if "422" not in line]


def test_the_demo_falls_due_around_its_own_now(app):
    started = record_of(app, "HY-02").folded.record.started_at
    assert started + timedelta(minutes=8) - AT == timedelta(minutes=1, seconds=42)
