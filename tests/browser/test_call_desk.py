"""The call desk in a real browser: by hand, by the simulated frame, with a line and with a network lost."""

import re
import uuid

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import network_gone
from tests.browser.test_a_day import ready
from tests.web.test_listening_and_practice import READY, frame, until
from vadum.soil.register import METHODS
from vadum.soil.shared.load_curve import load_curve_of
from vadum.tape import posting, runs
from vadum.tape.entries import NewEntry
from vadum.tape.ground import place
from vadum.tape.tables import Person

pytestmark = pytest.mark.browser


def seated(app, method="field_cbr"):
    """A run whose plunger is seated and whose first call is due."""
    with app.database.writing() as session:
        by = session.get(Person, app.ids["IM"])
        run = runs.start(session, place(session, 1), method, None, by, app.clock.now())
        for path, value in READY:
            posting.post(session, run, NewEntry(path=path, value=value), by, app.clock.now(), insist=True)
        runs.note_step(session, run, "wind", "cautions read", by, app.clock.now())
        return run.code


def read(app, code):
    with app.database.reading() as session:
        run = runs.find(session, code)
        return runs.compute(run, runs.read_tape(session, run.id))


def called(page):
    return page.locator("[data-call-at]").inner_text()


def test_thirty_one_calls_by_hand_without_the_mouse(live, opened):
    code = seated(live)
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    field = page.locator("#call-div")
    expect(field).to_be_focused()
    curve = [20 + 9 * i - 0.11 * i * i for i in range(31)]
    for i, divisions in enumerate(curve):
        expect(page.locator("[data-call-at]")).to_have_text(f"{0.25 * i:.2f}")
        if i == 7:
            page.keyboard.press("m")  # one key steps over it
            continue
        if i == 12:
            page.keyboard.type("12o")  # a slip of the finger is caught and nothing moves on
            page.keyboard.press("Enter")
            expect(page.locator("#call-slip")).to_contain_text("not a number")
            page.keyboard.press("Control+a")
        page.keyboard.type(f"{divisions:.1f}" if i != 20 else "14,6")
        page.keyboard.press("Enter")
        if i == 22:
            # Two calls later the slip is seen: back by two, typed over, and the calls go on where they were.
            expect(page.locator("[data-call-rows] .wait")).to_have_count(0)
            page.keyboard.press("ArrowUp")
            page.keyboard.press("ArrowUp")
            page.keyboard.press("ArrowUp")
            expect(page.locator("[data-call-at]")).to_have_text("5.00")
            page.keyboard.type(f"{curve[20]:.1f}")
            page.keyboard.press("Enter")
        expect(field).to_be_focused() if i < 30 else None
    expect(page.locator("#call")).to_be_hidden()
    assert until(lambda: len(read(live, code).folded.record.readings) == 31)
    record = read(live, code).folded.record
    assert record.readings[7].ring_div is None
    assert record.readings[7].missed == "missed"
    assert record.readings[20].ring_div == pytest.approx(curve[20], abs=0.06)
    assert all(r.ring_div is not None for i, r in enumerate(record.readings) if i != 7)
    struck = [e for e in read(live, code).entries if e.strikes]
    assert len(struck) == 1
    assert struck[0].reason
    assert "31 readings" not in page.locator(".stepcol").inner_text()
    expect(page.locator(".stepcol")).to_contain_text("30 readings")


@pytest.mark.long
def test_a_run_read_from_the_frame_at_ten_times_speed(live, opened):
    simulator = frame(live, "F-1", percent=40, speed=10, samples_per_s=20)
    code = seated(live)
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    page.get_by_text("listen to an instrument").click()
    page.get_by_role("button", name="F-1", exact=False).click()
    expect(page.locator("#listening")).to_contain_text("heard, read by hand")
    page.get_by_role("button", name="Start, take readings").click()
    expect(page.locator("#listening")).to_contain_text("it takes the readings")
    # The figure lives, the calls move on by themselves, and the pace is the gauge's own.
    expect(page.locator("[data-call-at]")).to_have_text("1.00", timeout=30_000)
    expect(page.locator("[data-pace-words]")).to_contain_text("right")
    expect(page.locator("[data-line-figures]")).to_contain_text("div")
    expect(page.locator("#call")).to_be_hidden(timeout=60_000)
    record = read(live, code).folded.record
    assert len(record.readings) == 31
    assert all(r.ring_div is not None for r in record.readings)
    expect(page.locator(".vals")).to_contain_text("bearing ratio")
    found = read(live, code).outcome.value("bearing_ratio_percent")
    assert found.value == pytest.approx(40, rel=0.04)
    page.get_by_role("button", name="Leave").click()
    expect(page.locator("#listening")).to_be_hidden()
    simulator.close()


def test_a_line_dropped_in_the_middle_is_told_and_the_hand_goes_on(live, opened):
    simulator = frame(live, "F-2", trouble="drop", at_mm=0.6, away_s=4.0, speed=10, samples_per_s=20)
    code = seated(live)
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    page.get_by_text("listen to an instrument").click()
    page.get_by_role("button", name="F-2", exact=False).click()
    page.get_by_role("button", name="Start, take readings").click()
    expect(page.locator("#listening")).to_contain_text("line lost", timeout=20_000)
    expect(page.locator("#listening")).to_have_class("listening lost")
    at = called(page)
    assert at == "0.75"
    page.keyboard.type("77")
    page.keyboard.press("Enter")
    expect(page.locator("[data-call-rows]")).to_contain_text("77")
    expect(page.locator("#listening")).to_contain_text("it takes the readings", timeout=20_000)
    assert until(lambda: any(r.elapsed_s for r in read(live, code).folded.record.readings[4:]))
    rows = read(live, code).folded.record.readings
    assert rows[3].ring_div == 77
    assert rows[3].elapsed_s is None
    expect(page.locator("[data-call-rows]")).to_contain_text("by the instrument")
    page.get_by_role("button", name="Stop").click()
    expect(page.locator("#listening")).to_contain_text("read by hand")
    simulator.close()


def test_calls_go_on_without_a_network_and_arrive_once_in_order(live, opened):
    code = seated(live)
    page = opened(live, "IM", f"/runs/{code}", width=390, height=844)
    ready(page)
    for button in ("[data-call-keep]", "[data-call-miss]"):
        box = page.locator(button).bounding_box()
        assert box["height"] >= 44
        assert box["y"] + box["height"] < 844, "all that a reading needs is on the phone's first screen"
    page.locator("#call-div").fill("20")
    page.locator("[data-call-keep]").tap()
    expect(page.locator("[data-call-at]")).to_have_text("0.25")
    expect(page.locator("[data-call-rows] .wait")).to_have_count(0)  # it has landed: the next ones will not
    page.context.set_offline(True)
    for i, divisions in enumerate(("31", "44", "58")):
        page.locator("#call-div").fill(divisions)
        page.locator("[data-call-keep]").tap()
        expect(page.locator("[data-call-at]")).to_have_text(f"{0.25 * (i + 2):.2f}")
    page.get_by_role("button", name="Missed it").tap()
    expect(page.locator("[data-call-at]")).to_have_text("1.25")
    expect(page.locator(".saved")).to_contain_text("4 waiting")
    assert len(read(live, code).folded.record.readings) == 1
    page.context.set_offline(False)
    expect(page.locator(".saved")).to_have_text("all saved")
    assert until(lambda: len(read(live, code).folded.record.readings) == 5)
    rows = read(live, code).folded.record.readings
    assert [r.ring_div for r in rows] == [20, 31, 44, 58, None]
    assert rows[4].missed == "missed"
    assert not read(live, code).folded.collisions
    expect(page.locator("[data-call-at]")).to_have_text("1.25")
    network_gone(opened)


def middle(mark):
    """Where a mark's middle is from left to right, in pixels."""
    box = mark.bounding_box()
    return box["x"] + box["width"] / 2


@pytest.mark.parametrize("units", ["SI", "US"])
def test_the_zero_is_dragged_with_a_reason_and_both_stay(live, opened, units):
    page = opened(live, "IM", "/me")
    assert page.request.post(f"{live.address}/api/v1/me/likes", data={"units": units}).ok
    page.goto(f"{live.address}/runs/FB-02")
    ready(page)
    expect(page.locator("#drawn")).to_contain_text("penetration, mm" if units == "SI" else "penetration, in")
    mark = page.locator("#drawn path[aria-roledescription='point'], #drawn .mark-symbol path").last
    box = mark.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 18, y, steps=4)
    expect(page.locator("#drawn")).to_contain_text("zero at")
    assert middle(mark) == pytest.approx(x + 18, abs=1), "it follows the hand"
    words = page.locator("#drawn text", has_text="zero at").last.text_content()
    page.mouse.up()
    expect(page.locator("#zero")).to_be_visible()
    drawn = float(page.locator("#zero-mm").input_value())
    assert 0.2 < drawn < 3, "stored as it always is, whatever the picture shows"
    figure, unit = words.split("zero at ")[1].split()
    assert unit == ("mm" if units == "SI" else "in")
    assert float(figure) == pytest.approx(drawn / (1 if units == "SI" else 25.4), abs=0.006)
    page.locator("#zero-why").fill("the first two are slack")
    page.keyboard.press("Enter")
    assert until(lambda: read(live, "FB-02").folded.record.zero_because is not None)
    record = read(live, "FB-02").folded.record
    assert record.zero_mm == pytest.approx(drawn)
    expect(page.locator(".vals")).to_contain_text(f"{drawn:.2f}" if units == "SI" else f"{drawn / 25.4:.4f}")
    (mark_row,) = read(live, "FB-02").outcome.series["handles"]
    assert "computed" in mark_row["label"]


def test_a_balance_gives_its_figure_to_the_field_and_its_name_to_the_tape(live, opened):
    with live.database.writing() as session:
        by = session.get(Person, live.ids["IM"])
        code = runs.start(session, place(session, 1), "water_content", None, by, live.clock.now()).code
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    page.get_by_text("listen to an instrument").click()
    page.get_by_role("button", name="BL-1", exact=False).click()
    expect(page.locator("[data-line-figures]")).to_contain_text(" g", timeout=30_000)
    page.wait_for_timeout(3500)  # the pan swings out
    expect(page.locator("[data-line-figures]")).to_contain_text(re.compile(r"16[89]\."), timeout=30_000)
    page.keyboard.press("Escape")
    page.locator("body").press("i")
    field = page.locator("[data-fields] input:focus")
    assert 168 < float(field.input_value()) < 170
    path = field.get_attribute("data-path")
    assert path.startswith("mass")
    page.keyboard.press("Enter")
    assert until(lambda: path in read(live, code).folded.came_from)
    assert read(live, code).folded.came_from[path].source == "simulated: BL-1"
    page.get_by_role("button", name="Leave").click()


def test_practice_from_its_place_to_the_soil(live, opened):
    page = opened(live, "IM", "/practice")
    page.locator(".stage li", has_text="Bearing ratio in place").get_by_role("button", name="Practise").click()
    page.wait_for_url("**/runs/PR-FB-*")
    ready(page)
    code = page.url.rsplit("/", 1)[1]
    expect(page.locator(".practicebar")).to_contain_text("the apparatus shows")
    with live.database.writing() as session:
        by = session.get(Person, live.ids["IM"])
        run = runs.find(session, code)
        more = [("ring_factor_n_div", "11.8"), ("ring_most_div", "4000"), ("surcharge_kg", "4.5"), *READY[3:]]
        for path, value in more:
            entry = NewEntry(id=uuid.uuid4(), path=path, value=value)
            posting.post(session, run, entry, by, live.clock.now(), insist=True)
    page.reload()
    ready(page)
    expect(page.locator("#dials")).to_be_visible()
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Wind").click()
    needle = page.locator("[data-needle='penetration']")
    before = needle.get_attribute("transform")
    expect(needle).not_to_have_attribute("transform", before, timeout=30_000)  # the dial moves
    assert "div" not in page.locator(".practicebar").inner_text(), "no digits are told in practice"
    # The hand begins off the pace and is brought into it by a key, without leaving the number.
    words = page.locator("[data-pace-words]")
    expect(words).to_contain_text("mm/min")
    expect(words).to_contain_text("too")
    key = "s" if "fast" in words.inner_text() else "f"
    for _ in range(3):
        page.keyboard.press(key)
    expect(page.locator("#call-div")).to_be_focused()
    expect(page.locator("#call-div")).to_have_value("")
    expect(words).to_contain_text("right", timeout=20_000)
    page.keyboard.type("40")
    page.keyboard.press("Enter")
    expect(page.locator("[data-call-at]")).to_have_text("0.50")
    page.get_by_role("button", name="Finish: show the soil").click()
    page.locator("dialog[open]").get_by_role("button", name="Finish: show the soil").click()
    page.wait_for_url(f"**/practice/{code}")
    expect(page.locator("h1")).to_contain_text("the soil")
    expect(page.get_by_text("not reached").first).to_be_visible()


def test_the_zero_is_dragged_with_a_finger_too(live, opened):
    page = opened(live, "IM", "/runs/FB-02", width=390, height=844)
    ready(page)
    mark = page.locator("#drawn .mark-symbol path").last
    mark.scroll_into_view_if_needed()
    box = mark.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    hand = page.context.new_cdp_session(page)

    def touch(kind, points):
        hand.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": a, "y": b} for a, b in points]})

    touch("touchStart", [(x, y)])
    for step in range(1, 7):
        touch("touchMove", [(x + 4 * step, y + step)])
    assert until(lambda: middle(mark) == pytest.approx(x + 24, abs=1)), "it follows the finger"
    touch("touchEnd", [])
    expect(page.locator("#zero")).to_be_visible()
    assert float(page.locator("#zero-mm").input_value()) > 0.3
    page.keyboard.press("Escape")
    expect(page.locator("#zero")).to_be_hidden()


def test_a_ring_that_comes_to_its_limit_is_said_beside_the_call(live, opened):
    code = seated(live)  # its ring R3 reads up to 2200 divisions
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    alarm = page.locator("[data-call-alarm]")
    for divisions in ("20", "700"):
        page.keyboard.type(divisions)
        page.keyboard.press("Enter")
    expect(page.locator("[data-call-rows] .wait")).to_have_count(0)
    expect(alarm).to_be_hidden()
    page.keyboard.type("1600")
    page.keyboard.press("Enter")
    expect(alarm).to_contain_text("The ring comes to its 2200 divisions at about 0.67 mm: stop.")
    page.keyboard.press("ArrowUp")
    page.keyboard.type("1100")  # it was a slip: corrected, and the alarm is gone
    page.keyboard.press("Enter")
    expect(alarm).to_be_hidden()
    page.get_by_role("button", name="sunlight").click()
    expect(page.locator("html")).to_have_class("sun")


def test_in_practice_the_motor_waits_for_its_rate_and_a_wrong_one_shows(live, opened):
    page = opened(live, "IM", "/practice")
    api = page.context.request
    code = api.post(f"{live.address}/api/v1/practice", data={"method": "cbr", "seed": 3}).json()["code"]
    soil = METHODS["cbr"].virtual(3, METHODS["cbr"].school(), None).record
    with live.database.writing() as session:
        by = session.get(Person, live.ids["IM"])
        run = runs.find(session, code)
        set_up = {n: v for n, v in soil if v is not None and not isinstance(v, tuple) and not n.startswith("bottom")}
        set_up |= {f"tins[0].{n}": v for n, v in soil.tins[0] if v is not None}
        set_up |= {"condition": "unsoaked", "top[0].ring_div": soil.top_seated_div}
        for path, value in set_up.items():
            if not path.endswith("_at"):
                posting.post(session, run, NewEntry(path=path, value=str(value)), by, live.clock.now(), insist=True)
    page.goto(f"{live.address}/runs/{code}")
    ready(page)
    expect(page.locator("[data-call-at]")).to_have_text("0.25")
    page.get_by_role("button", name="Start the motor").click()
    expect(page.locator("#call-slip")).to_contain_text("Set the motor's rate first")
    page.get_by_label("motor at").select_option("2.0")
    page.get_by_role("button", name="Start the motor").click()
    expect(page.locator("[data-pace-words]")).to_contain_text("too fast", timeout=20_000)
    expect(page.get_by_role("button", name="faster")).to_have_count(0)  # a motor is set, not coaxed


def test_the_demo_frame_takes_over_the_push_that_stands_under_it(live, opened):
    page = opened(live, "IM", "/runs/CB-03")
    ready(page)
    assert called(page) == "3.25"
    page.get_by_text("listen to an instrument").click()
    page.get_by_role("button", name="FR-1", exact=False).click()
    expect(page.locator("[data-line-figures]")).to_contain_text("3.000 mm", timeout=20_000)
    page.get_by_role("button", name="Start, take readings").click()
    expect(page.locator("#listening")).to_contain_text("it takes the readings")
    expect(page.locator("[data-call-at]")).to_have_text("3.50", timeout=40_000)
    row = read(live, "CB-03").folded.record.bottom[13]
    assert row.ring_div == pytest.approx(
        20 + 1000 * load_curve_of(48, 13.2, 2.5, 2.7, 0.0).force_kn(3.25) / 12.6, abs=1
    )
    assert read(live, "CB-03").folded.came_from["bottom[13].ring_div"].source == "simulated: FR-1"
    page.get_by_role("button", name="Leave").click()
