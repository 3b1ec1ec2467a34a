"""A hand that does what a desk asks, with the readings of a record: what it costs is counted by the page."""

import contextlib
from collections.abc import Callable
from datetime import timedelta
from typing import Any

from playwright.sync_api import Page, expect
from playwright.sync_api import TimeoutError as PlaywrightTimeout

from tests.browser.test_a_day import advice
from tests.soil.test_following_advice import flat
from vadum.tape import kit

ASKED = """() => {
    const at = document.activeElement;
    const box = at.closest('[data-fields] [data-box]');
    if (at.matches('[data-onward]')) return ['', 'onward', false];
    if (!box) return ['', '', true];
    const kind = at.matches('.choices') ? 'choice' : at.dataset.kind || '';
    return [box.dataset.box, kind, Boolean(box.querySelector('.need'))];
}"""
PASSED = "localStorage.setItem('passed', Number(localStorage.getItem('passed') || 0) + 1)"


def shelved(app, readings: dict[str, Any]) -> None:
    """The tins of a record in the kit, with their tares: a laboratory's tins are."""
    with app.database.writing() as session:
        for path, code in readings.items():
            tare = readings.get(path.removesuffix("tin") + "mass_tin_g")
            if not path.endswith("tin") or tare is None or kit.find(session, "tin", code):
                continue
            item = kit.add_item(session, kit.NewItem(kind="tin", code=code))
            kit.add_tare(session, item, tare, "IM", app.clock.now() - timedelta(days=9))


def led(page: Page, readings: dict[str, Any], wait: Callable[[], bool] = lambda: False, most: int = 300) -> str:
    """Types what is asked for from the readings until the desk asks for something else; its advice then.

    `wait` lets the time pass that the desk waits for; whether there was any.
    """
    for _ in range(most):
        expect(page.locator(".saved")).to_contain_text("all saved")
        if " until " in advice(page) and wait():
            continue
        path, kind, required = page.evaluate(ASKED)
        if kind == "onward" or (path not in readings and not required and "can be signed" not in advice(page)):
            page.keyboard.press("Enter")
            page.evaluate(PASSED)
            continue
        if path not in readings:
            return advice(page)
        value = readings[path]
        if kind == "choice":
            # What was typed before may bring the choice with it, as a piece of kit does.
            with contextlib.suppress(PlaywrightTimeout):
                page.locator(f'[data-choose="{value}"][data-path="{path}"]').click(timeout=3000)
                expect(page.locator(f'[data-choose="{value}"][data-path="{path}"]')).to_have_count(0)
        else:
            field = page.locator(f'[data-fields] input[data-path="{path}"]')
            if kind == "day":
                field.fill(value.isoformat())  # eight digits
            else:
                page.keyboard.type(f"{value:g}" if isinstance(value, float) else str(value))
            page.keyboard.press("Enter")
        expect(page.locator(f'[data-fields] input[data-path="{path}"]')).to_have_count(0)
    raise AssertionError(advice(page))


def passed(page: Page) -> int:
    """How often so far a step with optional readings, or one of them, was passed by with one key."""
    return int(page.evaluate("localStorage.getItem('passed') || 0"))


def record_of(its, school, seed: int = 3) -> dict[str, Any]:
    """The readings of a virtual soil by their places, without the moments: those come with Enter."""
    return {p: v for p, v in flat(its.virtual(seed, school, None).record).items() if not hasattr(v, "hour")}
