"""Hands stay where they are: a scanner in any field, a round of tins, a colleague beside, no network, Esc."""

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import network_gone
from tests.browser.test_a_day import ready
from vadum.tape import ground, posting, runs
from vadum.tape.entries import NewEntry
from vadum.tape.tables import Person

pytestmark = pytest.mark.browser


def scan(page: Page, code: str, apart_s: float = 0.004) -> None:
    """What a scanner types: its keys carry their own times, so that no machine's speed tells it from a hand."""
    page.evaluate("localStorage.setItem('vadum-scan', 'on')")
    session = page.context.new_cdp_session(page)
    at = page.evaluate("(performance.timeOrigin + performance.now()) / 1000") + 1
    for i, sign in enumerate((*code, "\r")):
        key = "Enter" if sign == "\r" else sign
        told = {
            "key": key,
            "text": sign,
            "timestamp": at + i * apart_s,
            "windowsVirtualKeyCode": 13 if sign == "\r" else 0,
        }
        session.send("Input.dispatchKeyEvent", {"type": "keyDown", **told})
        session.send("Input.dispatchKeyEvent", {"type": "keyUp", "key": key, "timestamp": at + i * apart_s})
    session.detach()


def posted(app, code, path, value, by="TO"):
    with app.database.writing() as session:
        person = session.get(Person, app.ids[by])
        run = runs.find(session, code, to_write=True)
        posting.post(session, run, NewEntry(path=path, value=value), person, app.clock.now(), insist=True)


def stands(app, code, path):
    with app.database.reading() as session:
        run = runs.find(session, code)
        return runs.compute(run, runs.read_tape(session, run.id)).folded.typed(path)


def test_a_tin_scanned_inside_a_field_lands_at_the_field_that_waits_for_it(app, opened):
    page = opened(app, "IM", "/runs/LL-03")
    ready(page)
    field = page.locator("[data-fields] input").first
    field.fill("23")
    field.focus()
    scan(page, "38")
    page.wait_for_url("**/runs/WC-03?field=*")
    ready(page)
    expect(page.locator("[data-fields] input:focus")).to_have_attribute("data-path", "weighings[0].mass_dry_g")
    assert stands(app, "LL-03", "trials[2].mass_dry_g") is None, "no code ever landed in a mass"
    # Leaving the field asks about its figure, which comes before its wait is over; nothing is on its way any more.
    page.goto("about:blank")
    opened.said[:] = [line for line in opened.said if "409" not in line]


def test_a_label_opens_its_sample_from_anywhere(app, opened):
    page = opened(app, "IM", "/kit")
    page.locator("body").focus()
    scan(page, "SAMPLE-5")
    page.wait_for_url("**/samples/5")


def test_a_tin_scanned_into_the_field_that_asks_for_one_is_entered_there(live, opened):
    page = opened(live, "IM", "/start?sample=3")
    page.get_by_role("button", name="Start water content").click()
    page.wait_for_url("**/runs/WC-*")
    ready(page)
    code = page.url.rsplit("/", 1)[1]
    expect(page.locator("[data-fields] input:focus")).to_have_attribute("data-kit", "tin")
    scan(page, "TIN-40")
    expect(page.locator('[data-fragment="strip"]')).to_contain_text("40")
    assert stands(live, code, "tin") == "40"


def test_what_a_balance_types_is_a_figure_and_stays_in_its_field(live, opened):
    page = opened(live, "IM", "/runs/WC-03")
    ready(page)
    page.locator("[data-fields] input").first.focus()
    scan(page, "61.37")
    expect(page.locator('[data-fragment="strip"]')).to_contain_text("61.37")
    assert stands(live, "WC-03", "weighings[0].mass_dry_g") == "61.37"


def test_a_code_that_nobody_has_is_told_and_typed_nowhere(app, opened):
    page = opened(app, "IM", "/runs/LL-03")
    ready(page)
    field = page.locator("[data-fields] input").first
    field.fill("7")
    field.focus()
    scan(page, "QX-99")
    expect(page.locator("#notice")).to_contain_text("Nothing is called QX-99")
    expect(field).to_have_value("7")


def test_a_hand_that_types_is_no_scanner(live, opened):
    page = opened(live, "IM", "/runs/WC-03")
    ready(page)
    page.locator("[data-fields] input").first.focus()
    scan(page, "38", apart_s=0.12)
    expect(page.locator('[data-fragment="strip"]')).to_contain_text("38 g")
    assert stands(live, "WC-03", "weighings[0].mass_dry_g") == "38"


def test_the_find_box_leads_to_the_thing_and_offers_what_could_be_made(app, opened):
    page = opened(app, "IM", "/bench")
    page.keyboard.press("/")
    page.keyboard.type("38")
    expect(page.locator("#found li").first).to_contain_text("WC-03 may come out")
    page.keyboard.press("Enter")
    page.wait_for_url("**/runs/WC-03?field=*")
    page.goto(app.address + "/bench")
    page.keyboard.press("/")
    page.keyboard.type("zz99")
    expect(page.locator("#found")).to_contain_text("Nothing is called zz99")
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    page.wait_for_url("**/kit?new=tin&code=zz99")
    expect(page.get_by_label("its number")).to_have_value("zz99")
    expect(page.get_by_label("empty, clean and dry, g")).to_be_focused()


def test_a_round_weighs_tin_after_tin(live, opened):
    page = opened(live, "IM", "/oven")
    page.keyboard.press("Tab")
    page.get_by_role("link", name="Weigh these 3").click()
    page.wait_for_selector("body[data-ready]")
    tins = page.locator("[data-stone]").all_inner_texts()
    expect(page.locator(".roundtin:visible .bigtin")).to_contain_text(tins[0])
    page.keyboard.type("999")
    page.keyboard.press("Enter")
    expect(page.locator(".roundtin:visible .slip")).to_contain_text("Enter again saves it as typed")
    page.keyboard.press("ArrowDown")
    expect(page.locator(".roundtin:visible .bigtin")).to_contain_text(tins[1])
    masses = {"17": "30.12", "27": "60.10", "38": "60.40"}
    for tin in tins[1:]:
        page.keyboard.type(masses[tin])
        page.keyboard.press("Enter")
        expect(page.locator(f"[data-stone].done:has-text('{tin}')")).to_have_count(1)
    expect(page.locator("[data-end]")).to_contain_text("1 left in")
    expect(page.get_by_role("link", name="To the bench")).to_be_focused()
    page.goto(live.address + "/oven")
    expect(page.locator(".ovenhead")).to_contain_text("1 tin may come out")
    opened.said[:] = [line for line in opened.said if "409" not in line]


def test_a_colleague_never_moves_the_field_that_hands_are_at(live, opened):
    page = opened(live, "IM", "/runs/LL-03?step=trials")
    ready(page)
    figures = '[data-fields] input[data-kind="number"]'
    mine = page.locator(figures).nth(1)
    path = mine.get_attribute("data-path")
    mine.focus()
    page.keyboard.type("23.4")
    page.evaluate("document.activeElement.setSelectionRange(1, 2)")
    others = page.locator(figures).evaluate_all("all => all.map(i => i.dataset.path)")
    before = next(p for p in others if p != path)
    posted(live, "LL-03", before, "20.00")
    page.evaluate("document.dispatchEvent(new Event('vadum:refresh'))")
    expect(page.locator(f'[data-fields] input[data-path="{before}"]')).to_have_count(0)
    focused = page.locator("[data-fields] input:focus")
    expect(focused).to_have_attribute("data-path", path)
    expect(focused).to_have_value("23.4")
    assert page.evaluate("[document.activeElement.selectionStart, document.activeElement.selectionEnd]") == [1, 2]
    posted(live, "LL-03", path, "24.00")
    page.evaluate("document.dispatchEvent(new Event('vadum:refresh'))")
    expect(page.locator("#slip")).to_contain_text("someone else has entered it meanwhile")
    expect(focused).to_have_value("23.4")


def test_after_a_trial_is_left_out_the_hands_are_at_the_work(live, opened):
    page = opened(live, "IM", "/runs/LL-03")
    ready(page)
    page.keyboard.press("Escape")
    page.keyboard.press("1")
    page.locator("#why-reason").fill("dried at the edge")
    page.keyboard.press("Enter")
    expect(page.locator('[data-fragment="board"]')).to_contain_text("dried at the edge")
    expect(page.locator("[data-fields] input:focus")).to_have_count(1)


def test_the_key_card_says_how_keys_work_from_within_a_field(app, opened):
    page = opened(app, "IM", "/runs/LL-03")
    ready(page)
    page.locator("[data-fields] input").first.focus()
    page.keyboard.press("Escape")
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_contain_text("out of the field, so that the other keys work")


def test_a_remark_is_made_at_any_step_and_added_to(live, opened):
    page = opened(live, "IM", "/runs/WC-03?step=weigh")
    ready(page)
    for words in ("smells of peat", "roots"):
        page.locator("[data-remark]").click()
        page.locator("#why-reason").fill(words)
        page.keyboard.press("Enter")
        expect(page.locator(".remarkline")).to_contain_text(words)
    assert stands(live, "WC-03", "remarks") == "smells of peat roots"


def test_readings_further_back_than_the_strip_are_reached_and_corrected(live, opened):
    page = opened(live, "IM", "/runs/LL-03")
    ready(page)
    page.get_by_role("button", name="further back").click()
    expect(page.locator("#older li").nth(8)).to_be_attached()
    page.locator('#older button[data-path="dry_soil_g"]').click()
    expect(page.locator("#correct-what")).to_contain_text("soil taken")
    page.keyboard.press("Escape")


def test_without_a_network_an_unsent_reading_is_corrected_and_both_arrive_in_order(live, opened):
    page = opened(live, "IM", "/runs/WC-03")
    ready(page)
    page.context.set_offline(True)
    field = page.locator("[data-fields] input").first
    field.focus()
    page.keyboard.type("61.73")
    page.keyboard.press("Enter")
    unsent = page.locator('[data-fragment="strip"] .unsent button')
    expect(unsent).to_contain_text("61.73")
    unsent.click()
    page.locator("#correct-value").fill("61.37")
    page.locator("#correct-reason").fill("digits swapped")
    page.keyboard.press("Enter")
    expect(page.locator('[data-fragment="strip"] .unsent.struck')).to_contain_text("61.73")
    page.context.set_offline(False)
    expect(page.get_by_text("all saved")).to_be_visible()
    expect(page.locator('[data-fragment="strip"] .struck')).to_contain_text("61.73")
    assert stands(live, "WC-03", "weighings[0].mass_dry_g") == "61.37"
    network_gone(opened)


def test_a_mould_in_use_is_taken_with_a_reason_or_not_at_all(live, opened):
    page = opened(live, "IM", "/start?sample=1")
    page.get_by_role("button", name="Start compaction").click()
    page.wait_for_url("**/runs/CP-*")
    ready(page)
    code = page.url.rsplit("/", 1)[1]
    page.keyboard.type("M1")
    page.keyboard.press("Enter")
    expect(page.locator("#why-what")).to_contain_text("ould M1 lies in CP-02")
    page.keyboard.press("Escape")
    expect(page.locator("#slip")).to_contain_text("ould M1 lies in CP-02")
    page.keyboard.press("Enter")
    page.locator("#why-reason").fill("its soil is out")
    page.keyboard.press("Enter")
    expect(page.locator('[data-fragment="strip"]')).to_contain_text("M1")
    assert stands(live, code, "mould") == "M1"
    opened.said[:] = [line for line in opened.said if "409" not in line]


def test_finishing_a_practice_asks_first(live, opened):
    page = opened(live, "IM", "/practice")
    page.locator(".stage li", has_text="Water content").get_by_role("button", name="Practise").click()
    page.wait_for_url("**/runs/PR-WC-*")
    ready(page)
    finish = page.get_by_role("button", name="Finish: show the soil")
    finish.click()
    page.get_by_role("button", name="Not yet").click()
    assert "/runs/" in page.url
    finish.click()
    page.locator("dialog[open]").get_by_role("button", name="Finish: show the soil").click()
    page.wait_for_url("**/practice/PR-WC-*")
    page.goto(live.address + "/practice")
    expect(page.locator(".stage li", has_text="Water content").first).to_contain_text("PR-WC-01")


def test_calls_are_spoken_when_they_are_asked_for_and_a_voice_is_there(app, opened):
    page = opened(app, "IM", "/me")
    page.get_by_role("button", name="Calls are spoken").click()
    assert page.evaluate("localStorage.getItem('vadum-voice')") == "on"
    said = page.evaluate(
        """async () => {
            const said = [];
            const voice = { lang: "en-GB", localService: true };
            window.SpeechSynthesisUtterance = function (words) { this.words = words; };
            Object.defineProperty(window, "speechSynthesis", { value: {
                getVoices: () => [voice], cancel() {}, speak: (one) => said.push(one.words) } });
            const sounds = [...document.scripts].map((s) => s.src).find((s) => s.includes("/js/frame.js"));
            const { call } = await import(sounds.replace("frame.js", "calls.js"));
            call("one", 30000, "Read cylinder B");
            call("one", 5000, "Read cylinder B");
            call("one", 0, "Read cylinder B");
            localStorage.setItem("vadum-voice", "off");
            call("two", 0, "Shake the bottles");
            return said;
        }"""
    )
    assert said == ["In half a minute: Read cylinder B", "In five seconds.", "Read cylinder B"]


def test_a_key_or_a_button_pressed_twice_enters_one_reading(live, opened):
    with live.database.writing() as session:
        by = session.get(Person, live.ids["IM"])
        sample = ground.places(session, 1)[0]
        codes = [runs.start(session, sample, m, None, by, live.clock.now()).code for m in ("water_content", "cbr")]
    page = opened(live, "IM", f"/runs/{codes[0]}")
    ready(page)
    page.evaluate("""() => {
        const field = document.querySelector('[data-fields] input[data-path="tin"]');
        field.focus();
        field.value = '777';
        for (let n = 0; n < 3; n++)
            field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true, cancelable: true }));
    }""")
    expect(page.locator('[data-fields] input[data-path="tin"]')).to_have_count(0)
    page.goto(f"{live.address}/runs/{codes[1]}?step=soak")
    ready(page)
    page.evaluate("""() => {
        const button = document.querySelector('[data-choose="soaked"]');
        for (let n = 0; n < 3; n++) button.click();
    }""")
    expect(page.locator('[data-choose="soaked"]')).to_have_count(0)
    expect(page.locator(".saved")).to_have_text("all saved")
    for code, path in ((codes[0], "tin"), (codes[1], "condition")):
        with live.database.reading() as session:
            tape = runs.read_tape(session, runs.find(session, code).id)
        assert [e.path for e in tape].count(path) == 1
