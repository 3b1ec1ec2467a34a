"""The load ladder: a whole modulus from the simulated jack on a phone, a bearing test by hand with four gauges."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import network_gone
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
APRON = (
    ("reaction_kn", "62"),
    ("supports_mm", "900"),
    ("datum_legs_mm", "1550"),
    ("levelling", "dry sand"),
    ("frozen", "no"),
    ("plate_width_mm", "300"),
    ("piston_cm2", "20"),
    ("force_by", "pump gauge"),
    ("zeroed", "set to zero"),
)
PIT = (
    ("reaction_kn", "80"),
    ("supports_mm", "2600"),
    ("datum_legs_mm", "2600"),
    ("pit_width_m", "2.4"),
    ("behaves_as", "clay"),
    ("ground", "clay"),
    ("water_depth_m", "2"),
    ("expected_ultimate_kpa", "300"),
    ("planned_kpa", "300"),
    ("plate_width_mm", "450"),
    ("piston_cm2", "20"),
    ("force_by", "pump gauge"),
    ("zeroed", "set to zero"),
)


def begun(app, method, school, values):
    """A run that stands before its first step, its cautions read."""
    with app.database.writing() as session:
        by, now = session.get(Person, app.ids["IM"]), app.clock.now()
        run = runs.start(session, place(session, 1), method, school, by, now)
        for path, value in values:
            posting.post(session, run, NewEntry(path=path, value=value), by, now, insist=True)
        for task in METHODS[method].flow:
            if task.cautions:
                runs.note_step(session, run, task.key, "cautions read", by, now)
        return run.code


def jack(app, name, **its):
    """A simulated jack on a socket, registered in the kit."""
    simulator = Simulator(setting({"kind": "plate", **its})).start()
    with app.database.writing() as session:
        item = kit.add_item(session, kit.NewItem(kind="instrument", code=name, title="jack"))
        setup = kit.CALIBRATIONS["instrument"].model_validate({"address": simulator.address, "profile": "plate"})
        kit.add_calibration(session, item, setup, "TO", app.clock.now())
    return simulator


@pytest.mark.long
def test_a_modulus_is_read_from_the_jack_on_a_phone_though_the_network_goes(live, opened):
    code = begun(live, "plate_modulus", "din_road", (*APRON, ("gauges_count", "1")))
    simulator = jack(live, "JX", speed="10", noise="0.02", seed="4", area_mm2="70685.8")
    page = opened(live, "IM", f"/runs/{code}", width=390, height=844)
    ready(page)
    assert page.request.post(f"{live.address}/api/v1/runs/{code}/instrument", data={"instrument": "JX"}).ok
    page.reload()
    ready(page)
    page.get_by_role("button", name="Start, take readings").click()
    facts = lambda: read(live, code).facts  # noqa: E731
    step = 0
    while not facts().over:
        assert until(lambda at=step: len(facts().steps) > at and facts().rest.at_rest, 60), read(live, code).outcome
        step += 1
        if step == 4:
            page.context.set_offline(True)
            page.get_by_role("button", name="Pressure topped up").click()
            expect(page.locator(".saved")).to_have_text("1 waiting to be sent")
            page.context.set_offline(False)
            expect(page.locator(".saved")).to_have_text("all saved", timeout=20_000)
            network_gone(opened)
        if not facts().over:
            page.get_by_role("button", name="Pump on").click()
    simulator.close()
    made = read(live, code)
    assert [s.cycle for s in made.facts.steps].count("first") == 6
    assert made.outcome.value("ev1_mn_m2").value == pytest.approx(1.5 * 150 / (4.1 + 1.8 * 0.5), rel=0.06)
    assert made.outcome.value("ev_ratio").value == pytest.approx((4.1 + 1.8 * 0.5) / 2.0, rel=0.08)
    assert [e.source for e in made.entries if "top_ups[" in e.path] == ["hand"]
    slip = page.request.get(f"{live.address}/runs/{code}/slip.pdf")
    assert slip.ok
    network_gone(opened)


def test_a_bearing_test_by_hand_finds_the_gauge_that_runs_the_other_way(live, opened):
    code = begun(live, "plate_bearing", "is1888", (*PIT, ("gauges_count", "4"), ("gauge_circle_mm", "380")))
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    panel = page.locator("#ladpanel")
    load = page.locator("#lad-load")
    expect(panel).to_contain_text("bring it to 5.6 bar")
    expect(load).to_be_focused()

    def gauges(*figures):
        for name, figure in zip("abcd", figures, strict=True):
            page.locator(f"#lad-{name}_mm").fill(figure)
            page.locator(f"#lad-{name}_mm").press("Enter")

    load.fill("5.6")
    load.press("Enter")
    expect(page.locator(".inhand")).to_contain_text("preload")
    live.clock.step(seconds=32)
    gauges("0.00", "0.00", "0.00", "0.00")
    expect(panel).to_contain_text("Bring the load to")
    for n, (bar, mm) in enumerate(((39.8, 0.9), (79.5, 1.9))):
        live.clock.step(seconds=40)
        load.fill(f"{bar}")
        load.press("Enter")
        expect(page.locator(".inhand .bp")).to_contain_text(f"{bar}")
        for minutes, share in ((1.0, 0.97), (1.25, 0.985), (1.75, 0.995)):
            live.clock.step(minutes=minutes)
            sunk = mm * share
            gauges(f"{sunk:.2f}", f"{-0.3 * (n + 1) * share:.2f}", f"{sunk:.2f}", f"{sunk:.2f}")
            expect(page.locator(".gauges tbody tr").last).to_contain_text(f"{sunk:.2f}")
    # One at the gauges, one at the pump: what the other enters stands on this desk too.
    other = opened(live, "TO", f"/runs/{code}", width=390, height=844)
    ready(other)
    other.get_by_role("button", name="Pressure topped up").click()
    expect(page.locator(".inhand")).to_contain_text("topped up 1")
    expect(page.locator('[data-fragment="verdicts"]')).to_contain_text("gauge B rose")
    made = read(live, code)
    assert len(made.facts.steps) == 3
    assert made.facts.steps[2].readings[-1].minutes == pytest.approx(4.0, abs=0.1)
