"""Headless Chromium on the served demo; every page fails its test on a console error or a policy report."""

import os
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.flags import FLAGS
from tests.serving import AT, Served, served
from vadum.tape.clock import FrozenClock

expect.set_options(timeout=30_000)


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict) -> dict:
    chromium = os.environ.get("CHROMIUM", "/usr/bin/chromium")
    return {**browser_type_launch_args, "executable_path": chromium, "args": list(FLAGS)}


@pytest.fixture
def live(tmp_path: Path) -> Iterator[Served]:
    """A demo of the test's own, whose clock it may step."""
    with served(tmp_path, FrozenClock(AT)) as running:
        yield running


Opener = Callable[..., Page]


@pytest.fixture
def opened(browser: Browser) -> Iterator[Opener]:
    """Opens a page as a person; at the end nothing may have been said on the console."""
    contexts, said = [], []

    def open_page(
        app: Served, who: str, path: str = "/bench", width: int = 1280, height: int = 800, worker: bool = False
    ) -> Page:
        # The worker stands in for a program that is slow to answer: only where that is tried may a test meet it.
        context = browser.new_context(
            viewport={"width": width, "height": height},
            has_touch=width < 600,
            service_workers="allow" if worker else "block",
        )
        contexts.append(context)
        context.add_init_script(
            "document.addEventListener('securitypolicyviolation', e => console.error('policy ' + e.violatedDirective))"
        )
        # No hand types as fast as a test does: what a scanner types is tried where a test says so.
        quiet = "localStorage.getItem('vadum-scan') || localStorage.setItem('vadum-scan', 'off')"
        context.add_init_script(f"if (location.protocol !== 'about:') {quiet}")
        page = context.new_page()
        page.on("console", lambda m: said.append(m.text) if m.type == "error" else None)
        page.on("pageerror", lambda e: said.append(str(e)))
        page.goto(app.link(who))
        page.goto(app.address + path)
        return page

    open_page.said = said  # type: ignore[attr-defined]
    yield open_page
    for context in contexts:
        context.close()
    assert said == []


def night(app: Served, page: Page, then: str = "", **passes: float) -> None:
    """Hours pass with no page open; `then` somebody signs in. A sign-in ends meanwhile: whatever an open page asked for
    would be refused, and whether it asks before it is left is a matter of the machine's speed."""
    page.goto("about:blank")
    app.clock.step(**passes)
    if then:
        page.request.get(app.link(then), max_redirects=0)


def network_gone(opened: Opener) -> None:
    """Forget what a browser says by itself of a network that is gone; anything else still fails the test."""
    said = opened.said  # type: ignore[attr-defined]
    gone = ("ERR_INTERNET_DISCONNECTED", "ERR_FAILED", "ERR_CONNECTION_REFUSED", "ERR_INCOMPLETE_CHUNKED_ENCODING")
    said[:] = [line for line in said if not any(word in line for word in gone)]
