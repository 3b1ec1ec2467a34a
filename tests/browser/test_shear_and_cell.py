"""The desks of the shear box and of the triaxial cell: by hand, by key, as a logger's file, with photographs."""

import io
import math
from datetime import datetime, timedelta

import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.browser.conftest import network_gone, night
from tests.browser.test_a_day import ready
from tests.browser.test_call_desk import called, read
from tests.browser.test_strength_desks import begun
from tests.soil.test_following_advice import flat
from tests.tape.test_every_method_on_tape import typed
from tests.web.test_listening_and_practice import until
from vadum.instruments.simulated import Simulator
from vadum.instruments.simulated_setting import setting
from vadum.soil.methods.direct_shear.box import hanger_for_kg
from vadum.soil.methods.direct_shear.virtual import Ground
from vadum.soil.register import METHODS
from vadum.tape import kit, photographs, pictures, posting, runs
from vadum.tape.entries import NewEntry
from vadum.tape.tables import Person

pytestmark = pytest.mark.browser
BOX = (
    ("soil", "clean sand"),
    ("box_shape", "square"),
    ("box_width_mm", "60"),
    ("cap_kg", "1.42"),
    ("lever_ratio", "10"),
    ("lever_balanced", "yes"),
    ("water_before_percent", "0.3"),
    ("load_by", "load cell"),
)


def stage(n, hanger, **more):
    values = {
        "wanted_kpa": "100",
        "height_mm": "20",
        "mass_g": "120.4",
        "hanger_kg": hanger,
        "flooded": "no",
        "gap_mm": "0.7",
        "rate_mm_min": "1",
        **more,
    }
    return tuple((f"stages[{n}].{name}", value) for name, value in values.items())


def test_screws_are_drawn_in_until_they_are_ticked_out_and_the_shear_waits_for_them(live, opened):
    code = begun(live, "direct_shear", (*BOX, *stage(0, "3.0")), ("box", "load", "screws", "shear"))
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    expect(page.locator(".shearpic")).to_contain_text("screws in")
    expect(page.locator(".hang")).to_contain_text("For 100 kPa hang 0.53 kg more")
    expect(page.locator("#call")).to_be_hidden()
    page.locator('[data-choose="yes"][data-path="stages[0].screws_out"]').click()
    expect(page.locator(".shearpic")).to_contain_text("screws out")
    page.locator('[data-choose="yes"][data-path="stages[0].zeroed"]').click()
    page.locator("[data-onward]").click()
    expect(page.locator("#call")).to_be_visible()
    for force, vertical in (("0", "0"), ("41.2", "0.004"), ("77.5", "-0,006")):
        page.locator("#call-div").fill(force)
        page.keyboard.press("Enter")
        expect(page.locator("#call-beside")).to_be_focused()
        page.keyboard.type(vertical)
        page.keyboard.press("Enter")
        expect(page.locator("#call-div")).to_be_focused()
    assert until(lambda: len(read(live, code).folded.record.stages[0].shear) == 3)
    assert until(lambda: read(live, code).folded.record.stages[0].shear[2].vertical_mm == -0.006)
    assert called(page) == "0.36"


def test_a_loggers_file_of_three_thousand_rows_is_one_entry_and_a_bad_cell_is_named(live, opened):
    values = (*BOX, *stage(0, "3.53", screws_out="yes", zeroed="yes"))
    code = begun(live, "direct_shear", values, ("box", "load", "screws", "shear"))
    page = opened(live, "IM", f"/runs/{code}/import")
    page.locator("#rows").select_option("stages[0].shear")
    lines = ["travel mm;force N;vertical mm;time s"]
    for i in range(3000):
        at = i * 0.003
        force = 300 * (1 - math.exp(-at / 0.8)) - (40 * (1 - math.exp(-(at - 2.4) / 1.5)) if at > 2.4 else 0)
        lines.append(f"{at:.3f};{force:.1f};{-0.02 * at:.4f};{i * 0.2:.1f}")
    lines[1500] = lines[1500].replace(";", ";x", 1)
    chosen(page, lines)
    expect(page.locator("#wrongs")).to_contain_text("is not a number")
    chosen(page, [*lines[:1500], *lines[1501:]])
    expect(page.locator("#keep")).to_have_text("Import 2999 rows")
    page.locator("#keep").click()
    ready(page)
    expect(page.locator(".stages")).to_contain_text("2999 readings in", timeout=60_000)
    its = read(live, code)
    assert len(its.folded.record.stages[0].shear) == 2999
    assert [e.path for e in its.entries][-1].startswith("stages[0].shear[")


def chosen(page, lines):
    """A logger's file, chosen and looked at."""
    told = {"name": "logger.csv", "mimeType": "text/csv", "buffer": "\n".join(lines).encode()}
    page.locator("#file").set_input_files(told)
    page.get_by_role("button", name="Look at it").click()


def test_t90_is_moved_by_hand_and_the_rate_follows(live, opened):
    at = live.clock.now() - timedelta(hours=2)
    values = [*BOX, *stage(0, "3.53", flooded="yes", loaded_at=at.isoformat())]
    values[0] = ("soil", "silt or lean clay")
    for i, minutes in enumerate((0, 0.25, 0.5, 1, 2, 4, 8, 15, 30, 60)):
        moved = 0.4 * (1 - math.exp(-0.28 * minutes**0.62))
        values += [(f"stages[0].settlement[{i}].settlement_mm", f"{moved:.4f}")]
        values += [(f"stages[0].settlement[{i}].elapsed_min", f"{minutes}")]
    code = begun(live, "direct_shear", values, ("box", "load", "screws", "shear"))
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    found = read(live, code).facts.stages[0].settled.t90_min
    handle = page.locator("[data-t90-handle]")
    handle.focus()
    for _ in range(6):
        page.keyboard.press("ArrowRight")
    expect(page.locator("[data-t90-words]")).to_contain_text("min")
    page.keyboard.press("Enter")
    expect(page.locator(".settled")).to_contain_text("moved by hand")
    moved = read(live, code).facts.stages[0].settled
    assert moved.by_hand
    assert moved.t90_min > found


CELL = (
    ("cell_rating_kpa", "1000"),
    ("piston_zeroed", "yes"),
    ("specimens[0].wanted_kpa", "100"),
    ("specimens[0].membrane_soaked_from_at", "2026-05-10T08:00"),
    *((f"specimens[0].diameter_{at}_mm", "38.0") for at in ("top", "middle", "bottom")),
    *((f"specimens[0].height_{n}_mm", "76.0") for n in (1, 2, 3)),
    ("specimens[0].mass_g", "165.2"),
    ("specimens[0].mounted_at", "2026-05-11T09:00"),
)
STEPS = ("ready", "trim", "mount", "saturate", "pressure", "shear")


def test_the_saturation_goes_step_by_step_until_b_is_proved(live, opened):
    code = begun(live, "triaxial", CELL, STEPS)
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    advice = page.locator('[data-fragment="advice"]')
    expect(advice).to_contain_text("cell to 50")
    for row, step in enumerate(((0, 50, 0, 30), (50, 100, 40, 84))):
        at = f"specimens[0].increments[{row}]"
        for name, value in zip(("cell_from", "cell_to", "pore_from", "pore_to"), step, strict=True):
            box = page.locator(f'[data-fields] input[data-path="{at}.{name}_kpa"]')
            box.fill(str(value))
            box.press("Enter")
            expect(box).to_have_count(0)
        back = page.locator(f'[data-fields] input[data-path="{at}.back_kpa"]')
        back.fill(str(step[1] - 10))
        back.press("Enter")
        expect(back).to_have_count(0)
    expect(page.locator(".bplot")).to_contain_text("0.88")
    expect(advice).to_contain_text("B 0.88: cell to 150, then back to 140")
    expect(advice).to_contain_text("137.5")
    expect(page.locator(".cellpic")).to_contain_text("150")


def test_a_pressure_above_the_rating_is_asked_back(live, opened):
    code = begun(live, "triaxial", CELL, STEPS)
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    box = page.locator('[data-fields] input[data-path$=".cell_to_kpa"]')
    box.fill("1250")
    box.press("Enter")
    expect(page.locator("body")).to_contain_text("rated to 1000 kPa")
    assert not read(live, code).folded.record.specimens[0].increments
    page.wait_for_timeout(400)
    opened.said[:] = [line for line in opened.said if "409" not in line]  # what a browser says of being asked back


def picture():
    out = io.BytesIO()
    Image.new("RGB", (2400, 1600), (140, 120, 90)).save(out, "JPEG")
    return {"name": "core.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}


def taken(live, code):
    return photographs.taken(read(live, code).entries)


def test_a_photograph_is_kept_shown_and_waits_without_a_network(live, opened):
    code = begun(live, "triaxial", CELL, STEPS)
    page = opened(live, "IM", f"/runs/{code}")
    ready(page)
    page.get_by_text("Photograph…").click()
    page.locator("[data-photo-place]").select_option("specimens[0]")
    page.locator("[data-photo-caption]").fill("a band of silt")
    page.locator("[data-photo-across]").fill("120")
    page.locator("[data-photo-file]").set_input_files(picture())
    expect(page.locator(".photos")).to_contain_text("specimen 1: a band of silt")
    assert until(lambda: page.locator(".photos img").evaluate("i => i.naturalWidth") == pictures.MOST_SIDE_PX)
    page.context.set_offline(True)
    page.get_by_text("Photograph…").click()
    page.locator("[data-photo-file]").set_input_files(picture())
    expect(page.locator("[data-photo-slip]")).to_contain_text("Saved on this device", ignore_case=True)
    page.context.set_offline(False)
    assert until(lambda: len(taken(live, code)) == 2, 30)
    network_gone(opened)


SAND = Ground(36.0, 31.5, 0.0, 2.2, 5.6, 0.035, 40.0, "clean sand")
AREA_MM2 = 3600.0


def simulated(live, name, normal_kpa):
    """A simulated shear frame with the sand under that normal stress, a minute of its time in one of ours."""
    curve = SAND.curve(normal_kpa, AREA_MM2)
    its = {name: f"{getattr(curve, name)}" for name in ("a_kn_mm", "bend_mm", "power", "peak_mm", "left_ratio")}
    pairs = {**its, "kind": "shear", "seated_div": "0", "end_mm": "9.5", "speed": "60", "samples_per_s": "200"}
    simulator = Simulator(setting(pairs)).start()
    with live.database.writing() as session:
        item = kit.add_item(session, kit.NewItem(kind="instrument", code=name))
        told = {"address": simulator.address, "profile": "shear"}
        kit.add_event(session, item, "calibration", told, "RV", live.clock.now())
    return simulator


def posted(live, code, values):
    with live.database.writing() as session:
        by, run = session.get(Person, live.ids["IM"]), runs.find(session, code, to_write=True)
        for path, value in values:
            posting.post(session, run, NewEntry(path=path, value=value), by, live.clock.now(), insist=True)


def reached_mm(live, code):
    rows = read(live, code).folded.record.stages[-1].shear
    return (rows[-1].travel_mm or 0.0) if rows else 0.0


@pytest.mark.long
def test_three_stages_are_sheared_by_the_simulated_frame_and_one_line_is_drawn(live, opened):
    code = begun(live, "direct_shear", BOX, ("box", "load", "screws", "shear"))
    page = opened(live, "IM", f"/runs/{code}")
    api, url = page.request, f"{live.address}/api/v1/runs/{code}"
    for n, wanted in enumerate((50.0, 100.0, 200.0)):
        hanger = hanger_for_kg(wanted, 1.42, 10.0, AREA_MM2)
        posted(live, code, stage(n, f"{hanger:.3f}", wanted_kpa=f"{wanted:g}", screws_out="yes", zeroed="yes"))
        name = f"SF-{n}"
        simulator = simulated(live, name, wanted)
        assert api.post(f"{url}/instrument", data={"instrument": name}).ok
        assert until(lambda: api.get(f"{url}/instrument").json()["state"] == "connected")
        page.reload()
        ready(page)
        assert api.post(f"{url}/instrument/command", data={"command": "start"}).ok
        assert until(lambda: reached_mm(live, code) > SAND.peak_mm + 4.0, 60)
        expect(page.locator("body")).to_contain_text("peak passed")
        assert api.post(f"{url}/instrument", data={"instrument": ""}).ok
        simulator.close()
        posted(live, code, [(f"stages[{n}].stopped", "past the peak")])
    page.reload()
    ready(page)
    outcome = read(live, code).outcome
    assert outcome.value("phi_peak_degrees").value == pytest.approx(36.0, abs=0.8)
    assert outcome.value("phi_tail_degrees").value == pytest.approx(31.5, abs=1.0)
    assert outcome.value("c_peak_kpa").value == pytest.approx(0.0, abs=2.0)
    for row in outcome.series["stages"]:
        assert row["psi"] == pytest.approx(SAND.opening_degrees, abs=2.5)
    expect(page.locator('[data-fragment="values"]')).to_contain_text(outcome.value("phi_peak_degrees").reported)


@pytest.mark.long
def test_a_triaxial_goes_from_its_preparation_to_its_envelope_on_a_stepped_clock(live, opened):
    """One specimen with the eye on the desk at every stage, the other two behind it."""
    its = METHODS["triaxial"]
    school = its.school("d4767")
    whole = its.virtual(3, school, None).record
    later = live.clock.now() - whole.specimens[0].discs_boiled_at if whole.specimens[0].discs_boiled_at else None
    values = {path: v for path, v in flat(whole).items() if path not in dict(its.begins_with(school))}
    code = begun(live, "triaxial", (("cell_rating_kpa", "1000"),), STEPS)
    page = opened(live, "IM", f"/runs/{code}")

    def sent(*starts, row=0):
        way = f"specimens[{row}]."
        chosen = [(p, v) for p, v in values.items() if p.startswith(way) and p[len(way) :].startswith(starts)]
        night(live, page, "IM")  # the open page could not fetch what it hears of
        posted(live, code, [(p, moved(v)) for p, v in chosen])
        page.goto(f"{live.address}/runs/{code}")
        ready(page)

    def moved(value):
        if later is None or not isinstance(value, datetime):
            return typed(value)
        return (value + later).isoformat()

    posted(
        live,
        code,
        [(p, typed(v)) for p, v in values.items() if not p.startswith("specimens") and p != "cell_rating_kpa"],
    )
    advice = page.locator('[data-fragment="advice"]')
    sent("wanted", "number", "discs", "membrane", "lines")
    expect(page.locator(".cellpic")).to_be_visible()
    night(live, page, hours=17)
    sent("diameter", "height", "mass_g", "mounted")
    sent("increments")
    expect(page.locator(".bplot")).to_contain_text("0.97")
    sent("saturated", "saturation")
    sent("cell_kpa", "back_kpa", "under")
    night(live, page, hours=3)
    sent("drained", "consolidation[")
    expect(page.locator('[data-fragment="board"]')).to_contain_text("t90")
    sent("consolidated", "consolidation_", "volume_out", "rate")
    night(live, page, hours=12)
    sent("shear")
    assert read(live, code).outcome.value("t1_deviator_kpa")
    assert read(live, code).outcome.value("phi_degrees") is None
    sent("stopped", "failed", "plane", "tin", "mass_tin", "mass_wet", "mass_dry", "in_oven")
    for row in (1, 2):
        night(live, page, hours=30)
        sent("", row=row)
    outcome = read(live, code).outcome
    truth = its.outcome(whole, school)
    assert outcome.value("phi_degrees").value == pytest.approx(truth.value("phi_degrees").value, abs=0.05)
    expect(page.locator('[data-fragment="values"]')).to_contain_text(outcome.value("phi_degrees").reported)
    assert advice.inner_text()
