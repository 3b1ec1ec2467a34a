"""What the hand enters is what is kept: every desk walked at a hand's pace over a slow network, and what happens to a
figure when its field, its page, its network or its person goes. VADUM_EVERY_DESK=1/1 walks all methods in every way,
2/4 the second quarter of them."""

import os

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import network_gone
from tests.browser.test_a_day import ready
from tests.browser.walker import WAYS, WHERE, Script, exhausted, jittery, settled, slow, walked
from tests.web.test_listening_and_practice import until
from vadum.soil.register import METHODS
from vadum.tape import people, runs
from vadum.tape.tables import Person

pytestmark = pytest.mark.browser

SLOW_MS = 1500
JITTER_MS = 600
SHARE = os.environ.get("VADUM_EVERY_DESK", "")
SAMPLE = [
    ("unconfined_compression", "Enter", 9),
    ("ring_density", "Tab", 8),
    ("plate_bearing", "mouse", 8),
    ("pit_density", "pad", 6),
]


def share(walks):
    """The part of all walks that is asked for: 2/4 is the second of four."""
    which, _, of = SHARE.partition("/")
    return walks[int(which) - 1 :: int(of or 1)]


WALKS = share([(name, way, 40) for name in METHODS for way in WAYS]) if SHARE else SAMPLE


def desk(live, opened, script, way="Enter"):
    page = opened(live, script.who, f"/runs/{script.code}", width=390 if way == "pad" else 1280)
    ready(page)
    return page


@pytest.mark.parametrize(("name", "way", "most"), WALKS)
def test_what_is_typed_over_a_slow_network_is_what_is_kept(live, opened, name, way, most):
    script = Script(live, METHODS[name], METHODS[name].school())
    page = desk(live, opened, script, way)
    slow(page, SLOW_MS)
    jittery(page, JITTER_MS)
    exhausted(walked(page, script, way, most))
    settled(page, opened.said)
    assert len(script.typed) >= min(most, 3)
    assert script.wrong() == []


def test_a_walk_outlives_a_server_that_is_started_anew(live, opened):
    script = Script(live, METHODS["unconfined_compression"], METHODS["unconfined_compression"].school())
    page = desk(live, opened, script)
    for n, _ in enumerate(walked(page, script, most=7)):
        if n == 1:
            live.go()
        if n == 4:
            live.come()
    settled(page)
    assert len(script.typed) == 7
    assert script.wrong() == []
    network_gone(opened)


def test_a_walk_without_a_network_from_the_second_reading_on_arrives_whole(live, opened):
    script = Script(live, METHODS["unconfined_compression"], METHODS["unconfined_compression"].school())
    page = desk(live, opened, script)
    for n, _ in enumerate(walked(page, script, most=7, patience_ms=2000)):
        if n == 0:
            settled(page)
            page.context.set_offline(True)
    assert len(script.typed) == 7
    page.context.set_offline(False)
    settled(page)
    assert script.wrong() == []
    network_gone(opened)


def test_a_session_that_ends_in_the_middle_of_typing_loses_nothing(live, opened):
    """A manager signs the person out while they type: what they typed stays by name, and goes in when they are back."""
    script = Script(live, METHODS["unconfined_compression"], METHODS["unconfined_compression"].school())
    page = desk(live, opened, script)
    slow(page, 600)
    for n, _ in enumerate(walked(page, script, most=7, patience_ms=2000)):
        if n == 2:
            settled(page)
            with live.database.writing("RV") as session:
                people.end_sessions(session, session.get(Person, live.ids[script.who]), "RV")
    assert len(script.typed) == 7
    page.goto(live.link(script.who))
    page.goto(f"{live.address}/runs/{script.code}")
    settled(page)
    assert script.wrong() == []
    opened.said[:] = [line for line in opened.said if "401" not in line]  # refused meanwhile


def test_two_people_at_one_run_keep_their_own_figures(live, opened):
    script = Script(live, METHODS["unconfined_compression"], METHODS["unconfined_compression"].school())
    page = desk(live, opened, script)
    other = opened(live, "TO", f"/runs/{script.code}")
    ready(other)
    slow(page, 600)
    steps = walked(page, script, most=7)
    next(steps)
    other.locator('[data-path="largest_particle_mm"]').fill("1")
    other.keyboard.press("Enter")
    exhausted(steps)
    settled(page)
    settled(other)
    assert [found for found in script.wrong() if "largest_particle" not in found] == []
    assert ("largest_particle_mm", "1", "TO") in script.tape()


@pytest.fixture
def core(live, opened):
    """A desk of a core, before its first diameter."""
    script = Script(live, METHODS["unconfined_compression"], METHODS["unconfined_compression"].school())
    return script, desk(live, opened, script)


def test_no_answer_is_waited_for_and_no_key_is_split(live, core):
    script, page = core
    slow(page, SLOW_MS)
    for figure in ("38.1", "38.2", "38.3", "76.1", "76.2", "76.3", "159.4"):
        page.keyboard.type(figure, delay=60)
        page.keyboard.press("Enter")
    settled(page)
    assert [value for _, value, _ in script.tape()] == ["38.1", "38.2", "38.3", "76.1", "76.2", "76.3", "159.4"]


def test_unsaved_text_is_never_called_saved_and_leaving_the_page_keeps_it(live, core):
    script, page = core
    page.keyboard.type("38.1")
    expect(page.locator(".saved")).to_contain_text("1 not saved")
    page.locator("a.word").click()
    page.wait_for_url("**/bench")
    assert until(lambda: ("diameter_top_mm", "38.1", "IM") in script.tape())


def test_one_key_saves_all_that_stands_unsaved(live, core):
    script, page = core
    page.keyboard.type("38.1")
    page.keyboard.press("Control+Enter")
    settled(page)
    assert ("diameter_top_mm", "38.1", "IM") in script.tape()


def test_a_text_that_cannot_be_saved_says_so_at_its_field(live, core):
    _script, page = core
    page.keyboard.type("38,1.2")
    page.keyboard.press("Tab")
    expect(page.locator('[data-box="diameter_top_mm"] [data-state]')).to_contain_text("Two decimal signs")
    expect(page.locator(".saved")).to_contain_text("1 not saved")


def test_a_question_comes_before_the_figure_is_kept_and_a_second_enter_keeps_it(live, core):
    script, page = core
    page.keyboard.type("38.1")
    page.keyboard.press("Enter")
    settled(page)
    page.reload()
    ready(page)
    page.keyboard.type("0.42")
    page.keyboard.press("Enter")
    expect(page.locator('[data-box="diameter_middle_mm"] [data-state]')).to_contain_text("companion readings")
    assert "diameter_middle_mm" not in [path for path, _, _ in script.tape()]
    page.keyboard.press("Enter")
    settled(page)
    assert ("diameter_middle_mm", "0.42", "IM") in script.tape()


def test_an_optional_reading_stays_in_place_until_the_person_moves_on(live, core):
    _script, page = core
    for figure in ("38.1", "38.2", "38.3", "76.5", "76.6", "76.5", "160.4"):
        page.keyboard.type(figure)
        page.keyboard.press("Enter")
    settled(page)
    grain = page.locator('[data-fields] input[data-path="largest_particle_mm"]')
    expect(grain).to_be_visible()
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("complete")
    page.get_by_role("button", name="Next").click()
    expect(grain).to_have_count(0)
    expect(page.locator('[data-fields] input[data-path="rate_mm_min"]')).to_be_visible()


def test_an_event_is_no_bare_enter_and_is_undone_in_one_stroke(live, opened):
    script = Script(live, METHODS["water_content"], METHODS["water_content"].school())
    page = desk(live, opened, script)
    for _ in walked(page, script, most=6):
        settled(page)
        if page.evaluate(WHERE)[2] == "moment":
            break
    path = page.evaluate(WHERE)[1]
    assert path == "in_oven_at"
    page.keyboard.press("Enter")
    page.wait_for_timeout(300)
    assert path not in [p for p, _, _ in script.tape()]
    page.get_by_role("button", name="Now").click()
    assert until(lambda: path in [p for p, _, _ in script.tape()])
    page.locator("#notice").get_by_role("button", name="Undo").click()
    assert until(lambda: _last(live, script.code).reason == "recorded by mistake")


def _last(live, code):
    with live.database.reading() as session:
        return runs.read_tape(session, runs.find(session, code).id)[-1]


def test_a_page_of_one_person_writes_nothing_as_another(live, opened, core):
    script, page = core
    other = page.context.new_page()
    other.goto(live.link("TO"))
    page.bring_to_front()
    page.locator('[data-path="diameter_top_mm"]').focus()
    page.keyboard.type("38.1")
    page.keyboard.press("Enter")
    expect(page.locator("#slip")).to_contain_text("signed in on this device now")
    assert script.tape() == []
    other.reload()
    expect(other.locator(".saved")).to_have_text("1 of others wait here")
    other.goto(live.link("IM"))
    assert until(lambda: script.tape() == [("diameter_top_mm", "38.1", "IM")])
    page.close()
    opened.said[:] = [line for line in opened.said if "401" not in line]  # refused on purpose


def test_no_scanner_is_heard_where_somebody_signs_in(live, opened):
    page = opened(live, "IM", "/bench")
    page.context.clear_cookies()
    page.evaluate("localStorage.setItem('vadum-scan', 'on')")
    asked = []
    page.on("request", lambda r: asked.append(r.url))
    page.goto(live.address + "/signin")
    page.locator("#passphrase").focus()
    page.keyboard.type("seven wet stones")
    page.keyboard.press("Enter")
    page.wait_for_timeout(500)
    assert not [url for url in asked if "/find?" in url or "stones" in url]


LIES_UNDER_THE_KEYS = """async () => {
    const key = document.querySelector('[data-key="save"]'), { left, top, width, height } = key.getBoundingClientRect();
    const at = () => document.elementFromPoint(left + width / 2, top + height / 2);
    document.activeElement.blur();
    await new Promise((done) => setTimeout(() => setTimeout(done, 0), 0));
    return at().closest('#pad') !== null;
}"""


def test_the_keys_stay_a_moment_when_an_answer_takes_the_focus_from_them(live, opened):
    """A finger may be on its way to them: it would press what lies beneath."""
    script = Script(live, METHODS["water_content"], METHODS["water_content"].school())
    page = desk(live, opened, script, "pad")
    page.locator('[data-fields] input[data-kind="number"]').first.focus()
    expect(page.locator('[data-key="save"]')).to_be_visible()
    assert page.evaluate(LIES_UNDER_THE_KEYS)
    expect(page.locator("#pad")).to_be_hidden()


GOES_WHEN_LIFTED = """() => {
    const key = document.querySelector('[data-key="save"]'), { left, top, width, height } = key.getBoundingClientRect();
    const under = Object.assign(document.createElement('a'), { href: '/bench', id: 'under' });
    under.style = `position: fixed; left: ${left}px; top: ${top}px; width: ${width}px; height: ${height}px`;
    document.body.append(under);
    key.addEventListener('pointerup', () => { document.getElementById('pad').hidden = true; });
}"""


def test_a_tap_presses_nothing_that_slid_under_the_finger(live, opened):
    """The keys go as the finger is lifted; the click of the tap would open what lay beneath them."""
    script = Script(live, METHODS["water_content"], METHODS["water_content"].school())
    page = desk(live, opened, script, "pad")
    here = page.url
    page.locator('[data-fields] input[data-kind="number"]').first.focus()
    expect(page.locator('[data-key="save"]')).to_be_visible()
    page.evaluate(GOES_WHEN_LIFTED)
    page.locator('[data-key="save"]').tap()
    page.wait_for_timeout(1000)
    assert page.url == here
    page.evaluate("document.getElementById('pad').remove()")
    page.locator("#under").tap()
    page.wait_for_url("**/bench")
