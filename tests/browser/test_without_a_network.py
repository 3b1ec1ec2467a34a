"""Without a network: a desk opens again, goes on, and what was typed arrives once, in order, by its own time."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import network_gone
from tests.browser.test_a_day import ready
from tests.browser.test_call_desk import called, read, seated
from tests.serving import served
from tests.web.test_listening_and_practice import until
from vadum.tape import people, runs
from vadum.tape.clock import Clock
from vadum.tape.tables import Person

pytestmark = pytest.mark.browser


def standing_by(page):
    """The worker stands in between, and holds the desk."""
    ready(page)
    page.evaluate("navigator.serviceWorker.ready")
    assert until(lambda: page.evaluate("caches.match(location.pathname).then(Boolean)"))


def waiting_here(number, who, words):
    """A remark on WC-02 as a device keeps it."""
    entry = {"id": f"{number:08d}-0000-4000-8000-000000000000", "path": "remarks", "value": words}
    return {"url": "/runs/WC-02/entries", "who": who, "body": {"entry": entry, "insist": True}}


def test_a_phone_that_closed_the_page_without_a_network_goes_on_where_it_was(live, opened):
    code = seated(live)
    page = opened(live, "IM", f"/runs/{code}", width=390, height=844, worker=True)
    standing_by(page)
    page.locator("#call-div").fill("20")
    page.locator("#call-div").press("Enter")
    expect(page.locator("[data-call-rows]")).to_contain_text("0.00")
    expect(page.locator("[data-call-rows] .wait")).to_have_count(0)
    page.context.set_offline(True)
    for divisions in ("31", "44"):
        page.locator("#call-div").fill(divisions)
        page.locator("#call-div").press("Enter")
    expect(page.locator(".saved")).to_have_text("2 waiting to be sent")
    page.close()

    page = page.context.new_page()
    page.goto(f"{live.address}/runs/{code}")
    ready(page)
    assert called(page) == "0.75"
    expect(page.locator("[data-call-rows]")).to_contain_text("44")
    expect(page.locator("[data-call-rows]")).to_contain_text("20")  # read after the page was made
    page.locator("#call-div").fill("58")
    page.locator("#call-div").press("Enter")
    expect(page.locator(".saved")).to_have_text("3 waiting to be sent")
    page.get_by_text("3 waiting to be sent").click()
    expect(page.locator("#outbox li")).to_have_count(3)
    expect(page.locator("#outbox")).to_contain_text("reading 3, ring: 44")
    page.keyboard.press("Escape")
    page.context.set_offline(False)
    expect(page.locator(".saved")).to_have_text("all saved", timeout=20_000)
    assert until(lambda: len(read(live, code).folded.record.readings) == 4)
    its = read(live, code)
    assert [r.ring_div for r in its.folded.record.readings] == [20, 31, 44, 58]
    assert not its.folded.collisions
    network_gone(opened)


def test_a_page_that_was_never_opened_says_which_can_be_and_signing_out_forgets_them(live, opened):
    code = seated(live)
    page = opened(live, "IM", f"/runs/{code}", worker=True)
    standing_by(page)
    live.go()
    page.goto(f"{live.address}/bench")
    expect(page.locator("h1")).to_have_text("No network")
    page.get_by_role("link", name=code).click()
    ready(page)
    expect(page.locator("h1")).to_contain_text(code)
    live.come()
    page.goto(f"{live.address}/bench")
    page.locator("details.who summary").click()
    page.get_by_role("button", name="Sign out").click()
    page.wait_for_url("**/signin")
    assert until(lambda: page.evaluate(f"caches.match('/runs/{code}').then((kept) => !kept)"))
    network_gone(opened)


def test_a_session_that_a_manager_ended_leaves_no_desk_on_the_device(live, opened):
    code = seated(live)
    page = opened(live, "IM", f"/runs/{code}", worker=True)
    standing_by(page)
    with live.database.writing("RV") as session:
        people.end_sessions(session, session.get(Person, live.ids["IM"]), "RV")
    page.keyboard.type("20")  # a reading that comes too late is what shows that nobody is signed in
    page.keyboard.press("Enter")
    assert until(lambda: page.evaluate(f"caches.match('/runs/{code}').then((kept) => !kept)"))
    live.go()
    page.goto(f"{live.address}/runs/{code}")
    expect(page.locator("h1")).to_have_text("No network")
    expect(page.get_by_role("link", name=code)).to_have_count(0)
    live.come()
    network_gone(opened)
    opened.said[:] = [line for line in opened.said if "401" not in line]


def test_a_kept_page_shows_the_time_of_day_and_not_its_own(tmp_path, opened):
    with served(tmp_path, Clock()) as running:
        code = seated(running)
        page = opened(running, "IM", f"/runs/{code}", worker=True)
        standing_by(page)
        # The tablet's clock is an hour slow, say: what was last learnt of the program's clock puts it right.
        page.evaluate("localStorage.setItem('vadum-clock', String(3600000))")
        running.go()
        page.reload()
        ready(page)
        assert page.evaluate("document.documentElement.hasAttribute('data-kept')")
        clock = page.locator("script[src*=frame]").get_attribute("src").replace("frame", "clock")
        told = page.evaluate(f"import('{clock}').then(clock => clock.now() - Date.now())")
        assert told == pytest.approx(3_600_000, abs=1000)
        running.come()

        def answered_again():  # a program that is slow to answer is still stood in for
            page.reload()
            ready(page)
            return not page.evaluate("document.documentElement.hasAttribute('data-kept')")

        assert until(answered_again)
        assert abs(page.evaluate("Number(localStorage.getItem('vadum-clock'))")) < 60_000, "learnt anew"
        page.close()  # before the program goes for good, which an open page would call an error
    network_gone(opened)


def test_a_reading_in_flight_when_the_page_dies_is_not_lost(live, opened):
    code = seated(live)
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    page.route("**/entries", lambda route: None)  # the line hangs: neither an answer nor a refusal
    page.locator("#call-div").fill("20")
    page.locator("#call-div").press("Enter")
    expect(page.locator("[data-call-at]")).to_have_text("0.25")
    expect(page.locator(".saved")).to_have_text("1 on its way")  # no cause for alarm, and not yet saved
    page.close()
    page = page.context.new_page()
    page.goto(f"{live.address}/bench")
    # Whether the dying page's request still gets through is the browser's affair: it lands, and it lands once.
    assert until(lambda: page.evaluate("localStorage.getItem('vadum-waiting') === '[]'"))
    its = read(live, code)
    assert [r.ring_div for r in its.folded.record.readings] == [20]
    assert sum(e.path == "readings[0].ring_div" for e in its.entries) == 1


def test_a_refused_reading_is_shown_sent_again_or_let_go(live, opened):
    page = opened(live, "IM", "/runs/WC-02")
    ready(page)
    refused = [
        {**waiting_here(i, "IM", words), "message": "it is signed"}
        for i, words in enumerate(("kept in the rain", "a mistake"))
    ]
    page.evaluate("list => localStorage.setItem('vadum-refused', JSON.stringify(list))", refused)
    page.reload()
    ready(page)
    page.get_by_text("2 refused, stored here").click()
    expect(page.locator("#outbox")).to_contain_text("refused: it is signed")
    page.get_by_role("button", name="Send again").first.click()
    expect(page.locator("#outbox li")).to_have_count(1)
    page.get_by_role("button", name="Discard", exact=True).click()
    page.get_by_role("button", name="Discard for good").click()
    expect(page.locator("#outbox")).to_contain_text("Nothing: all readings are saved.")
    assert until(lambda: read(live, "WC-02").folded.record.remarks == "kept in the rain")


def test_another_persons_readings_wait_and_hold_up_nobody(live, opened):
    page = opened(live, "IM", "/runs/WC-02")
    ready(page)
    theirs = [waiting_here(9, "TO", "by Tomas")]
    page.evaluate("list => localStorage.setItem('vadum-waiting', JSON.stringify(list))", theirs)
    page.reload()
    ready(page)
    expect(page.locator(".saved")).to_have_text("1 of others wait here")
    code = seated(live)
    page.goto(f"{live.address}/runs/{code}")
    ready(page)
    page.locator("#call-div").fill("20")
    page.locator("#call-div").press("Enter")
    assert until(lambda: len(read(live, code).folded.record.readings) == 1)
    with live.database.reading() as session:
        assert session.get(Person, live.ids["TO"])
        wc = runs.find(session, "WC-02")
        assert "by Tomas" not in [e.value for e in runs.read_tape(session, wc.id)]


def test_a_browser_that_keeps_nothing_says_so_and_still_sends(live, opened):
    code = seated(live)
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    full = "() => { throw new DOMException('full', 'QuotaExceededError') }"
    page.evaluate(f"() => {{ Storage.prototype.setItem = {full}; }}")
    page.locator("#call-div").fill("20")
    page.locator("#call-div").press("Enter")
    expect(page.locator("[data-call-rows] .wait")).to_have_count(0)
    assert until(lambda: len(read(live, code).folded.record.readings) == 1)
    live.go()
    page.locator("#call-div").fill("31")
    page.locator("#call-div").press("Enter")
    expect(page.locator("#call-slip")).to_contain_text("write it down")
    assert called(page) == "0.25", "what was not kept is asked for again"
    live.come()
    network_gone(opened)


def test_a_newer_program_takes_the_kept_pages_of_the_older_with_it(live, opened, monkeypatch):
    code = seated(live)
    page = opened(live, "IM", "/runs/WC-02", worker=True)
    standing_by(page)
    live.go()
    monkeypatch.setattr("vadum.web.context.static_version", lambda: "0123456789")
    live.come()
    page.goto(f"{live.address}/runs/{code}")
    ready(page)
    files = "caches.keys().then(names => names.filter(name => name.startsWith('vadum-files-')).join())"
    assert until(lambda: page.evaluate(files) == "vadum-files-0123456789")
    assert until(lambda: page.evaluate("caches.match('/runs/WC-02').then(kept => !kept)"))
    page.goto(f"{live.address}/runs/{code}")
    standing_by(page)
    live.go()
    page.reload()
    ready(page)
    expect(page.locator("#call-div")).to_be_visible()
    live.come()
    network_gone(opened)
