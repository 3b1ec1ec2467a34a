"""Retake docs/screenshots from the frozen demo: `shots.py [NAME or /PATH ...] [--to FOLDER]`.

A path may say who looks, on what and in which units: `/laboratory@RV`, `/oven@IM@phone`, `/runs/CP-01@US`.
"""

import os
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from playwright.sync_api import Browser, Page, sync_playwright  # noqa: E402
from tests.browser.flags import FLAGS  # noqa: E402
from tests.serving import Served, served  # noqa: E402

DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
VIEWS: dict[str, tuple[str, dict[str, int], str]] = {
    "bench": ("/bench", DESK, "IM"),
    "rack": ("/rack", DESK, "IM"),
    "desk-liquid-limit": ("/runs/LL-03", DESK, "IM"),
    "desk-lime": ("/runs/LP-01", DESK, "IM"),
    "desk-retention": ("/runs/RC-01", DESK, "IM"),
    "oven": ("/oven", DESK, "IM"),
    "schedule": ("/ground/KS-26/schedule", DESK, "IM"),
    "desk-cylinders-phone": ("/runs/MP-01", PHONE, "IM"),
    "desk-call": ("/runs/CB-03", DESK, "IM"),
    "desk-call-phone": ("/runs/FB-02", PHONE, "IM"),
    "desk-shear": ("/runs/DS-02", DESK, "IM"),
    "desk-cell": ("/runs/TX-01", DESK, "IM"),
    "desk-vane-phone": ("/runs/FV-02", PHONE, "IM"),
    "practice": ("/practice", DESK, "IM"),
    "soil-card": ("/samples/3", DESK, "IM"),
    "desk-ladder": ("/runs/PM-03", DESK, "IM"),
    "ground": ("/ground/KS-26?spot=TP4", DESK, "IM"),
    "kit": ("/kit", DESK, "IM"),
    "sheet": ("/runs/LL-01/sheet", {"width": 1000, "height": 1240}, "TO"),
}
PASTED = (
    "sieve mm;retained g\n19;0\n9,5;0\n4,75;0,0\n2;9,4\n0,85;7,8\n0,425;12,x\n0,25;8,1\n0,15;11,9\n0,075;14,2\npan;2,6"
)


def practised(page: Page, app: Served) -> None:
    """A course that was begun: one practice ended at its first weighing, another under way."""
    api = page.context.request
    for method, end in (("water_content", True), ("hydrometer", False)):
        code = api.post(f"{app.address}/api/v1/practice", data={"method": method, "seed": 7}).json()["code"]
        if end:
            api.post(f"{app.address}/api/v1/practice/{code}/reveal")
    page.reload()


def take(browser: Browser, app: Served, name: str, folder: Path) -> list[str]:
    """One picture; what the console said."""
    asked, *more = name.split("@")
    size_asked = PHONE if "phone" in more else DESK
    path, size, who = VIEWS.get(name) or (asked, size_asked, next((m for m in more if m not in ("phone", "US")), "IM"))
    context = browser.new_context(viewport=size, device_scale_factor=1, has_touch=size is PHONE)  # type: ignore[arg-type]
    page = context.new_page()
    said: list[str] = []
    page.on("console", lambda m: said.append(m.text) if m.type in ("error", "warning") else None)
    page.on("pageerror", lambda e: said.append(str(e)))
    if who:
        page.goto(app.link(who))
    if "US" in more:
        page.request.post(f"{app.address}/api/v1/me/likes", data={"units": "US", "stress": "psi"})
    page.goto(app.address + path)
    page.wait_for_load_state("load")
    if name == "practice":
        practised(page, app)
    if name == "import":
        page.get_by_label("paste here").fill(PASTED)
        page.get_by_role("button", name="Look at it").click()
        page.wait_for_selector(".sheetin")
    if ("/runs/" in path or "/samples/" in path or "/rack" in path) and "sheet" not in path:
        page.wait_for_selector("body[data-ready]")
    page.evaluate("document.fonts.ready")
    page.wait_for_timeout(250)
    whole = name.endswith("phone") or name == "sheet"
    page.screenshot(path=folder / f"{name.strip('/').replace('/', '_')}.png", full_page=whole)
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
