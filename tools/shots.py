"""Retake docs/screenshots from the frozen demo: `shots.py [NAME ...] [--to FOLDER]`."""

import os
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from playwright.sync_api import Browser, sync_playwright  # noqa: E402
from tests.browser.flags import FLAGS  # noqa: E402
from tests.serving import Served, served  # noqa: E402

DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
VIEWS: dict[str, tuple[str, dict[str, int], str]] = {
    "bench": ("/bench", DESK, "IM"),
    "bench-day": ("/bench?zoom=day", DESK, "IM"),
    "bench-phone": ("/bench", PHONE, "IM"),
    "desk-liquid-limit": ("/runs/LL-03", DESK, "IM"),
    "desk-liquid-limit-phone": ("/runs/LL-03", PHONE, "IM"),
    "desk-plastic-limit": ("/runs/PL-01", DESK, "IM"),
    "desk-water-content": ("/runs/WC-05", DESK, "IM"),
    "ground": ("/ground/KS-26?spot=TP4", DESK, "IM"),
    "sample": ("/samples/3", DESK, "IM"),
    "start": ("/start", DESK, "IM"),
    "kit": ("/kit", DESK, "IM"),
    "inspection": ("/kit/cup/cup%201", DESK, "IM"),
    "tin": ("/kit/tin/12", DESK, "IM"),
    "dossiers": ("/dossiers", DESK, "IM"),
    "sheet": ("/runs/LL-01/sheet", {"width": 1000, "height": 1240}, "TO"),
    "signin": ("/signin", DESK, ""),
}


def take(browser: Browser, app: Served, name: str, folder: Path) -> list[str]:
    """One picture; what the console said."""
    path, size, who = VIEWS[name]
    context = browser.new_context(viewport=size, device_scale_factor=1, has_touch=size is PHONE)  # type: ignore[arg-type]
    page = context.new_page()
    said: list[str] = []
    page.on("console", lambda m: said.append(m.text) if m.type in ("error", "warning") else None)
    page.on("pageerror", lambda e: said.append(str(e)))
    if who:
        page.goto(app.link(who))
    page.goto(app.address + path)
    page.wait_for_load_state("load")
    if "/runs/" in path and "sheet" not in path:
        page.wait_for_selector("body[data-ready]")
    page.evaluate("document.fonts.ready")
    page.wait_for_timeout(250)
    page.screenshot(path=folder / f"{name}.png", full_page=name in ("bench-phone", "desk-liquid-limit-phone", "sheet"))
    context.close()
    return said


def main() -> None:
    arguments = sys.argv[1:]
    folder = ROOT / "docs/screenshots"
    if "--to" in arguments:
        at = arguments.index("--to")
        folder = Path(arguments[at + 1])
        del arguments[at : at + 2]
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch, served(Path(scratch)) as app, sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=os.environ.get("CHROMIUM", "/usr/bin/chromium"), args=list(FLAGS)
        )
        for name in arguments or VIEWS:
            for line in take(browser, app, name, folder):
                print(f"{name}: {line}")
        browser.close()


if __name__ == "__main__":
    main()
