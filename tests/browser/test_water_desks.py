"""Tests of water by the clock: cylinders from simulated heads though the network goes, six bottles with one late, a
rack of cells over weeks, vessels of three tests in one pair of hands."""

from datetime import timedelta

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import network_gone, night
from tests.browser.test_a_day import ready
from tests.browser.test_call_desk import read
from tests.browser.test_strength_desks import place
from tests.web.test_listening_and_practice import until
from vadum.instruments.simulated import Simulator
from vadum.instruments.simulated_setting import setting
from vadum.soil.register import METHODS
from vadum.tape import kit, posting, runs
from vadum.tape.entries import NewEntry
from vadum.tape.tables import Person

pytestmark = pytest.mark.browser


def begun(app, method, values):
    """A run with these readings, its cautions read."""
    with app.database.writing() as session:
        by, now = session.get(Person, app.ids["IM"]), app.clock.now()
        run = runs.start(session, place(session, 1), method, None, by, now)
        for path, value in values:
            posting.post(session, run, NewEntry(path=path, value=value), by, now, insist=True)
        for task in METHODS[method].flow:
            if task.cautions:
                runs.note_step(session, run, task.key, "cautions read", by, now)
        return run.code


def instrument(app, name, profile, **its):
    """A simulated instrument on a socket, registered in the kit."""
    simulator = Simulator(setting({"kind": profile, **its})).start()
    with app.database.writing() as session:
        item = kit.add_item(session, kit.NewItem(kind="instrument", code=name, title=profile))
        setup = kit.CALIBRATIONS["instrument"].model_validate({"address": simulator.address, "profile": profile})
        kit.add_calibration(session, item, setup, "TO", app.clock.now())
    return simulator


def cylinders(app):
    values = [("texture", "sandy loam"), ("moisture_by", "share of the volume"), ("cylinders_count", "3")]
    for n in range(3):
        its = {
            "infiltrometer": f"N{n + 1}",
            "cylinder_radius_mm": "50",
            "insertion_mm": "50",
            "zero_above_soil_mm": "0",
            "before_percent": "15",
            "started_at": app.clock.now().isoformat(),
        }
        values += [(f"cylinders[{n}].{field}", value) for field, value in its.items()]
    return values


@pytest.mark.long
def test_three_cylinders_are_read_from_their_heads_though_the_network_goes(live, opened):
    code = begun(live, "falling_head", cylinders(live))
    simulator = instrument(live, "LX", "levels", speed="60", noise="0.02", ks_cm_s="6e-3,9e-3,4e-3", gains_ratio="0.3")
    page = opened(live, "IM", f"/runs/{code}", width=390, height=844)
    ready(page)
    assert page.request.post(f"{live.address}/api/v1/runs/{code}/instrument", data={"instrument": "LX"}).ok
    page.reload()
    ready(page)
    page.get_by_role("button", name="Start, take readings").click()
    expect(page.locator(".standing li").nth(0)).to_contain_text("empty ≈", timeout=30_000)
    page.context.set_offline(True)  # the phone is out of reach; the heads go on
    before = len(read(live, code).folded.record.cylinders[0].readings)
    assert until(lambda: len(read(live, code).folded.record.cylinders[0].readings) > before + 20, 40)
    page.context.set_offline(False)
    network_gone(opened)
    assert until(lambda: all(one.over for one in read(live, code).facts.ones), 90)
    page.reload()
    ready(page)
    expect(page.locator(".what .t")).to_contain_text("empty")
    for n, k in enumerate((6e-3, 9e-3, 4e-3)):
        kept = read(live, code)
        path = f"cylinders[{n}].after_percent"
        with live.database.writing() as session:
            run = runs.find(session, code, to_write=True)
            by = session.get(Person, live.ids["IM"])
            posting.post(session, run, NewEntry(path=path, value="45"), by, live.clock.now(), insist=True)
        value = read(live, code).outcome.value(f"c{n + 1}_kfs_mm_h")
        assert value.value == pytest.approx(36000 * k, rel=0.05)
        assert not value.estimate
        assert kept.facts.ones[n].found.excess < 1.12
    simulator.close()


def bottles(app):
    weighed = [("bottles[0].lime_g", "2.000")]
    for n in range(1, 6):
        weighed += [(f"bottles[{n}].soil_g", "26.05"), (f"bottles[{n}].lime_g", f"{0.25 * (n + 1):.3f}")]
    meter = [("ph_meter", "PH1"), ("bath_c", "25")]
    for n, (part, bottle, seen) in enumerate(
        (("set to it", "10.00 a", ""), ("set to it", "12.45 c", ""), ("check", "12.00 b", "12.00"))
    ):
        meter += [(f"buffers[{n}].part", part), (f"buffers[{n}].buffer", bottle)]
        meter += [(f"buffers[{n}].buffer_read_ph", seen)] if seen else []
    return [
        ("sulphate_known", "measured"),
        ("sulphate_mg_kg", "400"),
        ("drying", "air-dried"),
        ("water_percent", "4.2"),
        ("finer_0425_percent", "90"),
        ("lime_kind", "hydrated lime"),
        *weighed,
        *meter,
    ]


@pytest.mark.long
def test_six_bottles_by_keyboard_with_one_late(live, opened):
    code = begun(live, "lime_demand", [*bottles(live), ("water_in_at", live.clock.now().isoformat())])
    start = live.clock.now()

    def at(minutes):
        live.clock.step(seconds=(start + timedelta(minutes=minutes) - live.clock.now()).total_seconds())
        page.goto(f"{live.address}/runs/{code}")
        ready(page)

    page = opened(live, "IM", f"/runs/{code}")
    for n in range(5):
        at(10 * (n + 1))
        expect(page.locator(".what .t")).to_contain_text("Shake the bottles")
        page.keyboard.press("n")  # now
        expect(page.locator(f'[data-fields] input[data-path="shakes[{n}].shaken_at"]')).to_have_count(0)
    for n, ph in enumerate(("12.45", "11.90", "12.21", "12.43", "12.45", "12.46")):
        at(61 + 2 * n if n < 5 else 80)  # the last one behind the quarter of an hour
        expect(page.locator(".bottles .here")).to_have_count(2)
        page.keyboard.type(ph)
        page.keyboard.press("Enter")
        field = page.locator(f'[data-fields] input[data-path="bottles[{n}].temperature_c"]')
        expect(field).to_be_focused()
        page.keyboard.type("25")
        page.keyboard.press("Enter")
        expect(field).to_have_count(0)
    outcome = read(live, code).outcome
    late = [v for v in outcome.verdicts if v.rule == "read within a quarter of an hour" and v.level == "redo"]
    assert len(late) == 1
    assert late[0].found.startswith("the 6 % bottle")
    assert outcome.value("demand_percent").reported == "4"
    expect(page.locator(".decidedby")).to_contain_text("lowest lime that gives 12.40")


@pytest.mark.long
def test_a_rack_of_cells_over_three_weeks_takes_two_key_strokes_a_weighing(live, opened):
    sizes = {"ring_diameter_mm": "55", "core_height_mm": "42.1", "outlet_below_mm": "0", "plate_entry_kpa": "100"}
    values = [("cells_count", "2")]
    for n in range(2):
        values += [(f"cells[{n}].pressure_cell", f"X{n + 1}")]
        values += [(f"cells[{n}].{field}", value) for field, value in sizes.items()]
        values += [(f"cells[{n}].apparatus_g", "412.35"), (f"cells[{n}].saturated_g", "595.00")]
    code = begun(live, "retention", values)
    simulator = instrument(live, "BX", "manifold", noise="0.0", settled_g="580", wet_g="0", cells="1")
    page = opened(live, "IM", f"/runs/{code}")
    assert page.request.post(f"{live.address}/api/v1/runs/{code}/instrument", data={"instrument": "BX"}).ok
    weighed = 0
    for _day in range(21):
        night(live, page, "IM", seconds=86400)
        page.goto(f"{live.address}/runs/{code}")
        ready(page)
        expect(page.locator("[data-line-figures]")).to_contain_text("g", timeout=30_000)
        for _ in range(4):
            asked = page.locator(".what .t").inner_text()
            if asked.startswith("Weigh"):
                field = page.locator('[data-fields] input[data-unit="g"]').first
                path = field.get_attribute("data-path")
                page.keyboard.press("i")  # the balance's own figure
                expect(field).not_to_have_value("")
                page.keyboard.press("Enter")
                expect(page.locator(f'[data-fields] input[data-path="{path}"]')).to_have_count(0)
                weighed += 1
            elif "is settled" in asked:
                button = page.get_by_role("button", name="goes on", exact=True)
                button.click()
                expect(page.locator(".what .t")).not_to_have_text(asked)
            else:
                break
        if read(live, code).facts.over:
            break
    facts = read(live, code).facts
    assert facts.over
    if page.locator("[data-onward]:focus").count():
        page.keyboard.press("Enter")
    assert weighed == 2 * 6 * 3  # three days a step: one to begin, two below the limit
    expect(page.locator(".what .t")).to_contain_text("soil out")
    simulator.close()


def test_two_hydrometers_six_bottles_and_three_cylinders_share_one_pair_of_hands(live, opened):
    begun(live, "lime_demand", bottles(live))
    page = opened(live, "IM", "/rack")
    ready(page)
    expect(page.locator(".group", has_text="Falling-head")).to_be_visible()
    start = page.locator(".starts, .rackfoot").get_by_text("Plan these starts")
    start.click()
    page.wait_for_load_state("load")
    ready(page)
    with live.database.reading() as session:
        from vadum.bench.foreman import Foreman
        from vadum.bench.moments import clashes
        from vadum.tape.runs import Shelf

        found = Foreman(Shelf()).in_hand(session, live.clock.now())
        moments = [m for _, many in found for m in many if m.due.window_s is not None]
        planned = [m for m in moments if "tart" in m.due.what or "Water into" in m.due.what]
        own = [pair for pair in clashes(moments, live.clock.now()) if any(m in planned for m in pair)]
        assert own == []
    expect(page.locator(".handline text.exact").first).to_be_visible()
    # What waits gives way to what comes at its time: a cylinder is read when nothing exact is near.
    expect(page.locator(".act")).to_contain_text("Hydrometer into B")
