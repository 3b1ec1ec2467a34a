"""The desks of a core and of a vane: by hand, by key, on a phone, from the simulated press and as a logger's table."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_a_day import ready
from tests.browser.test_call_desk import called, read
from tests.web.test_listening_and_practice import until
from vadum.tape import posting, runs
from vadum.tape.entries import NewEntry
from vadum.tape.ground import place
from vadum.tape.tables import Person

pytestmark = pytest.mark.browser
CORE = (
    *((f"diameter_{at}_mm", "38.1") for at in ("top", "middle", "bottom")),
    *((f"height_{n}_mm", "76.2") for n in (1, 2, 3)),
    ("mass_g", "160.4"),
    ("largest_particle_mm", "1"),
    ("ends_square", "yes"),
    ("sample_type", "tube"),
    ("load_by", "load cell"),
    ("load_cell", "LC2"),
    ("rate_mm_min", "1"),
)
PROFILE = (
    ("services_located", "yes"),
    ("placed", "pushed"),
    ("water_depth_m", "1"),
    ("hole_diameter_mm", "60"),
    ("vane", "V1"),
    ("read_by", "torque wrench"),
    ("coupling", "slip coupling"),
    ("first_m", "1"),
    ("step_m", "0.5"),
    ("last_m", "2"),
)


def begun(app, method, values, steps):
    """A run that stands where its readings begin."""
    with app.database.writing() as session:
        by, now = session.get(Person, app.ids["IM"]), app.clock.now()
        run = runs.start(session, place(session, 1), method, None, by, now)
        for path, value in values:
            posting.post(session, run, NewEntry(path=path, value=value), by, now, insist=True)
        for step in steps:
            runs.note_step(session, run, step, "cautions read", by, now)
        return run.code


def force(travel_mm):
    """A soft core's force, N: it rises to a peak at 3 mm and falls behind it."""
    return round(max(0.0, 70 * (travel_mm / 3) * (2 - travel_mm / 3)), 1)


@pytest.mark.parametrize("width", [1280, 390])
def test_a_core_is_read_past_its_peak_and_its_failure_sketched(live, opened, width):
    code = begun(live, "unconfined_compression", CORE, ("core", "frame", "compress", "failure"))
    page = opened(live, "IM", f"/runs/{code}", width=width, height=844 if width < 600 else 800)
    ready(page)
    expect(page.locator(".corepic")).to_contain_text("38.1")
    asked = []
    for i in range(24):
        at = called(page)
        asked.append(float(at))
        page.locator("#call-div").fill(f"{force(float(at)):.1f}")
        page.keyboard.press("Enter")
        expect(page.locator("[data-call-count]")).to_contain_text(f", {i + 2} of")
        if float(at) > 4.2:
            break
    expect(page.locator(".says.greatest")).to_contain_text("past the peak")
    assert asked == sorted(asked)
    page.get_by_text("Something happened").click()
    page.get_by_role("button", name="past the peak").click()
    mode = page.locator(".modes .mode", has_text="one plane")
    mode.click()
    handle = page.locator("[data-plane-handle]")
    expect(handle).to_have_attribute("aria-valuenow", "60")
    handle.focus()
    for _ in range(4):
        page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.locator("[data-plane-words]")).to_have_text("56°")
    strip = page.locator('[data-fragment="strip"]')
    expect(strip).to_contain_text("56")
    its = read(live, code)
    assert its.folded.record.failure_mode == "one plane"
    assert its.folded.record.plane_degrees == 56
    assert not its.outcome.value("strength_kpa").estimate
    handle.scroll_into_view_if_needed()
    box = handle.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 60, steps=4)
    page.mouse.up()
    expect(strip).to_contain_text("sketched again")
    assert read(live, code).folded.record.plane_degrees < 56


def test_an_answer_that_comes_while_a_button_is_pressed_does_not_take_it_away(live, opened):
    forces = [(f"readings[{n}].force_n", f"{force(n / 2):.1f}") for n in range(9)]
    travels = [(f"readings[{n}].deformation_mm", f"{n / 2}") for n in range(9)]
    values = (*CORE, *travels, *forces, ("stopped", "past the peak"))
    code = begun(live, "unconfined_compression", values, ("core", "frame", "compress", "failure"))
    page = opened(live, "IM", f"/runs/{code}?step=failure")
    ready(page)
    mode = page.locator(".modes .mode", has_text="one plane")
    mode.hover()
    page.mouse.down()
    with live.database.writing() as session:
        run = runs.find(session, code)
        by = session.get(Person, live.ids["TO"])
        first = next(e for e in runs.read_tape(session, run.id) if e.path == "diameter_top_mm")
        put = NewEntry(path=first.path, value="41.5", strikes=[first.id], reason="read again")
        posting.post(session, run, put, by, live.clock.now(), insist=True)
    page.evaluate("document.dispatchEvent(new CustomEvent('vadum:refresh'))")
    expect(page.locator('[data-fragment="strip"]')).to_contain_text("41.5")
    page.mouse.up()
    assert until(lambda: read(live, code).folded.record.failure_mode == "one plane")
    expect(page.locator(".corepic")).to_contain_text("41.5")


@pytest.mark.parametrize("width", [1280, 390])
def test_a_depth_of_a_profile_is_turned_counted_and_noted_by_key(live, opened, width):
    code = begun(live, "field_vane", PROFILE, ("site", "set", "test"))
    page = opened(live, "IM", f"/runs/{code}", width=width, height=844 if width < 600 else 800)
    ready(page)
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("Push the vane to 1.00 m")
    page.keyboard.press("n")  # it is there, now
    expect(page.locator(".slow")).to_be_visible()
    page.keyboard.press("Space")
    expect(page.locator("[data-turn-go]")).to_contain_text("Greatest now")
    page.keyboard.press("Space")
    expect(page.locator('[data-fields] input[data-path$="peak_min"]')).to_have_value("0.1")
    page.locator('[data-fields] input[data-path$="peak_min"]').fill("2.8")
    typed_in(page, "peak_n_m", "38,4")
    assert until(lambda: read(live, code).folded.record.depths[0].peak_min == 2.8), "left, and so saved"
    typed_in(page, "friction_n_m", "1,2")
    expect(page.locator(".turned")).to_be_visible()
    for turn in range(1, 11):
        page.keyboard.press("Space")
        page.wait_for_timeout(510)  # nobody turns a rod twice in half a second
        expect(page.locator("[data-turn-count]")).to_have_text(str(turn))
    page.keyboard.press("Space")  # full: the same key keeps it
    expect(page.locator('[data-fields] input[data-path$="remoulded_n_m"]')).to_be_visible()
    page.keyboard.press("f")
    expect(page.locator('[data-note="fissures"]')).to_have_attribute("aria-pressed", "true")
    typed_in(page, "remoulded_n_m", "9,1")
    expect(page.locator(".vanerows")).to_contain_text("4.7")
    expect(page.locator('[data-fragment="advice"]')).to_contain_text("Push the vane to 1.50 m")
    row = read(live, code).folded.record.depths[0]
    assert (row.turns_count, row.noted, row.peak_n_m, row.peak_min) == (10, "fissures", 38.4, 2.8)
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")


def typed_in(page, field, value):
    """A reading of the first depth typed where it is asked for, saved when it is gone from the fields."""
    box = page.locator(f'[data-fields] input[data-path="depths[0].{field}"]')
    box.fill(value)
    box.press("Enter")
    expect(box).to_have_count(0)


def test_a_loggers_table_becomes_one_entry_and_a_curve(live, opened):
    code = begun(live, "unconfined_compression", CORE, ("core", "frame", "compress"))
    page = opened(live, "IM", f"/runs/{code}/import")
    lines = ["deformation mm;force N;time s"]
    lines += [f"{i / 200:.3f};{force(i / 200):.1f};{i * 0.3:.1f}" for i in range(1000)]
    page.get_by_label("paste here").fill("\n".join(lines))
    page.get_by_role("button", name="Look at it").click()
    expect(page.locator(".sheetin")).to_be_visible()
    expect(page.locator("#keep")).to_have_text("Import 1000 rows")
    page.locator("#keep").click()
    ready(page)
    expect(page.locator(".says.greatest")).to_contain_text("kPa")
    its = read(live, code)
    assert len(its.folded.record.readings) == 1000
    assert [e.path for e in its.entries][-1].startswith("readings[")


def test_one_reading_is_one_request_and_ten_fragments(live, opened):
    code = begun(live, "unconfined_compression", CORE, ("core", "frame", "compress"))
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    asked, answers = [], []
    page.on("request", lambda r: asked.append(r.url) if code in r.url and "events" not in r.url else None)
    page.on("response", lambda r: answers.append(r) if r.url.endswith("/entries") else None)
    for value in ("0", "5", "9"):
        page.locator("#call-div").fill(value)
        page.keyboard.press("Enter")
    expect(page.locator("[data-call-count]")).to_contain_text(", 4 of")  # counted as typed, then sent one by one
    assert until(lambda: len(read(live, code).folded.record.readings) == 3)
    expect(page.locator(".saved")).to_have_text("all saved")
    page.wait_for_timeout(700)  # a second asking would come with the event
    assert len(asked) <= 3, asked  # what was typed while one was on its way goes together
    assert all(len(answer.json()["fragments"]) <= 10 for answer in answers)


def test_a_torque_gauge_gives_its_figure_to_the_depth(live, opened):
    reached = ("depths[0].pushed_at", live.clock.now().isoformat())
    code = begun(live, "field_vane", (*PROFILE, reached), ("site", "set", "test"))
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    page.get_by_text("listen to an instrument").click()
    page.get_by_role("button", name="TQ-1", exact=False).click()
    expect(page.locator("[data-line-figures]")).to_contain_text("N·m")
    page.get_by_role("button", name="Start", exact=True).click()
    expect(page.locator("[data-line-figures]")).to_contain_text(re.compile(r"[1-9]\d?\.\d+ N·m"), timeout=30_000)
    page.locator("body").press("i")
    field = page.locator('[data-fields] input[data-path="depths[0].peak_n_m"]')
    taken = float(field.input_value())
    assert 0 < taken < 40
    field.press("Enter")
    expect(field).to_have_count(0)
    its = read(live, code)
    assert its.folded.record.depths[0].peak_n_m == taken
    assert its.folded.came_from["depths[0].peak_n_m"].source == "simulated: TQ-1"
