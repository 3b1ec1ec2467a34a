"""A person at a desk who types what the field in hand asks for, from a script of readings, at a hand's pace and however
slow the network is; and the comparison of the tape with what was typed."""

import contextlib
from collections.abc import Iterator

from playwright.sync_api import Page, expect

from tests.browser.led import record_of, shelved
from tests.serving import Served
from vadum.soil.contract import paths
from vadum.soil.contract.method import Method, School
from vadum.soil.contract.plain_json import as_json
from vadum.tape import ground, kit, runs
from vadum.tape.tables import Person

KEY_MS = 60
# Where the hands are: a reading's field, a choice, the decision to move on, the place that holds keys, or elsewhere.
WHERE = """() => {
    const at = document.activeElement;
    if (at.id === 'holding') return ['held', '', ''];
    if (at.id === 'call-div' || at.closest('#ladpanel')) return ['called', '', ''];
    if (at.matches('[data-onward]')) return ['onward', '', ''];
    const box = at.closest('[data-fields] [data-box]');
    if (!box) return ['elsewhere', '', at.outerHTML.slice(0, 80)];
    if (at.matches('.choices')) return ['choice', box.dataset.box, ''];
    if (!at.matches('input')) return ['elsewhere', box.dataset.box, at.outerHTML.slice(0, 80)];
    return [box.dataset.question === undefined ? 'field' : 'question', box.dataset.box, at.dataset.kind];
}"""
WAYS = ("Enter", "Tab", "mouse", "pad")


class Script:
    """A run that a person works through: its readings by their places, what was typed, what stands on its tape."""

    def __init__(self, app: Served, its: Method, school: School, who: str = "IM", seed: int = 3) -> None:
        self.app, self.its, self.who = app, its, who
        readings = record_of(its, school, seed)
        self.readings = {p: v for p, v in readings.items() if not p.endswith(("excluded_because", "missed"))}
        for path, value in self.readings.items():  # a vessel of the demo may hold another soil
            if paths.field_name(path) in kit.VESSELS:
                self.readings[path] = f"W{value}"
        shelved(app, self.readings)
        with app.database.writing() as session:
            by = session.get(Person, app.ids[who])
            assert by is not None
            place = ground.newest_places(session)[0]
            sample = ground.add_sample(session, place.spot, ground.NewSample(code=f"W-{its.code}", kind="tub"))
            place = ground.Place(sample, place.spot, place.job)
            self.code = runs.start(session, place, its.name, school.name, by, app.clock.now()).code
        self.typed: dict[str, str] = {}
        self.events: set[str] = set()

    def text(self, path: str) -> str:
        """What a person types for a reading."""
        value = self.readings[path]
        return f"{value:g}" if isinstance(value, float) else str(value)

    def tape(self) -> list[tuple[str, str, str]]:
        """Path, value and initials of every reading that a hand entered."""
        with self.app.database.reading() as session:
            run = runs.find(session, self.code)
            assert run is not None
            entries = runs.read_tape(session, run.id or 0)
        return [
            (e.path, str(e.value), e.by)
            for e in entries
            if not e.path.startswith("@") and e.source == "hand" and e.value is not None
        ]

    def wrong(self) -> list[str]:
        """Where the tape is not what was typed: lost, changed, twice, under another name or by another person."""
        found = []
        kept: dict[str, list[str]] = {}
        for path, value, by in self.tape():
            kept.setdefault(path, []).append(value)
            if by != self.who:
                found.append(f"{path} stands by {by}")
        for path, text in self.typed.items():
            if kept.get(path) != [text]:
                found.append(f"{path}: typed {text}, kept {kept.get(path)}")
        offered = {p for p in kept if (kind := kit.kind_named(paths.field_name(p))) and kind not in kit.VESSELS}
        others = kept.keys() - self.typed.keys() - self.events - offered
        found += [f"{path}: nobody typed {kept[path]}" for path in others]
        return found


def _type(page: Page, path: str, text: str, way: str) -> None:
    field = page.locator(f'[data-fields] input[data-path="{path}"]')
    if way == "pad" and page.locator("[data-key='7']").is_visible():
        for sign in text:
            page.locator(f'[data-key="{sign}"]').tap()
        page.locator('[data-key="save"]').tap()
        return
    page.keyboard.type(text, delay=KEY_MS)
    if way in ("Enter", "pad"):  # a word is typed on the device's own keys, which have an Enter
        page.keyboard.press("Enter")
    elif way == "Tab":
        page.keyboard.press("Tab")
    else:
        others = page.locator("[data-fields] input:not([readonly]):visible")
        places = [o for o in others.all() if o.get_attribute("data-path") != path and o.input_value() == ""]
        if places:
            places[0].click()
        else:
            field.evaluate("one => one.blur()")


def _onward(page: Page, way: str) -> None:
    """Enter, or the large key; where a word is asked for, a phone shows its own keys, which have an Enter."""
    save = page.locator('[data-key="save"]')
    if way == "pad" and save.is_visible():
        save.tap()
    else:
        page.keyboard.press("Enter")


def walked(page: Page, script: Script, way: str = "Enter", most: int = 60, patience_ms: int = 12_000) -> Iterator[str]:
    """Types what is asked until the script, or the desk, has no more; gives what it did, one by one."""
    waited, passed = 0, set[str]()
    for _ in range(40 * most):
        if len(script.typed) >= most or waited > patience_ms:
            return
        kind, path, more = page.evaluate(WHERE)
        if kind == "called":
            return
        if kind == "held" or (kind == "elsewhere" and page.evaluate("document.activeElement === document.body")):
            page.wait_for_timeout(100)
            waited += 100
            continue
        waited = 0
        if kind in ("onward", "question"):
            _onward(page, way)
        elif kind == "elsewhere":
            return
        elif path not in script.readings:
            if more == "moment":
                script.events.add(path)
                page.keyboard.press("n") if way != "pad" else page.locator('[data-key="now"]').tap()
            else:
                _onward(page, way)
                yield f"passed by {path}"
                if path in passed:
                    return
                passed.add(path)
        elif kind == "choice":
            script.typed[path] = script.text(path)
            page.locator(f'[data-choose="{script.text(path)}"][data-path="{path}"]').click()
        elif more == "day":
            script.typed[path] = script.readings[path].isoformat()
            page.locator(f'[data-fields] input[data-path="{path}"]').fill(script.typed[path])
            page.keyboard.press("Enter")
        else:
            script.typed[path] = script.text(path)
            _type(page, path, script.text(path), way)
            if way in ("mouse", "Tab") and page.evaluate(WHERE)[0] == "elsewhere":
                page.evaluate("document.dispatchEvent(new CustomEvent('vadum:goon'))")
        yield f"{path} {as_json(script.typed.get(path))}"


ASKING = "[data-fields] [data-question] input"


def settled(page: Page, said: list[str] | None = None, timeout_ms: int = 60_000) -> None:
    """Until the status bar says that all is saved. What is asked about is kept as typed, and its refusals are taken out
    of what the console `said`."""
    saved, asking = page.locator(".saved"), page.locator(ASKING)
    for _ in range(20):
        expect(saved.filter(has_text="all saved").or_(asking).first).to_be_visible(timeout=timeout_ms)
        if not asking.count():
            break
        asking.first.focus()
        page.keyboard.press("Enter")
        page.wait_for_timeout(300)
    expect(saved).to_contain_text("all saved", timeout=timeout_ms)
    if said is not None:
        said[:] = [line for line in said if "409" not in line]


def slow(page: Page, latency_ms: int) -> None:
    """A network that takes so long each way."""
    session = page.context.new_cdp_session(page)
    conditions = {"offline": False, "latency": latency_ms, "downloadThroughput": -1, "uploadThroughput": -1}
    session.send("Network.emulateNetworkConditions", conditions)


# Every request waits for its own time before it goes and before its answer is seen: answers come out of order.
JITTER = """(() => {
    let seed = %d;
    const next = () => (seed = (1103515245 * seed + 12345) %% 2147483648) / 2147483648;
    const wait = () => new Promise((done) => setTimeout(done, %d * next()));
    const plain = window.fetch;
    window.fetch = async (...asked) => {
        await wait();
        const answer = await plain(...asked);
        await wait();
        return answer;
    };
})()"""


def jittery(page: Page, most_ms: int, seed: int = 5) -> None:
    """From now on every request of this page takes up to so much longer each way, no two alike."""
    page.evaluate(JITTER % (seed, most_ms))


def exhausted(steps: Iterator[str]) -> list[str]:
    """All that was done."""
    with contextlib.closing(steps):  # type: ignore[type-var]
        return list(steps)
