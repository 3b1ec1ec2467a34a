"""Pictures are the same on screen and on paper; the sheet says everything; the river and the plan are drawn right."""

import csv
import io
import itertools
import json
import re
import zipfile
from datetime import timedelta

import pytest

from vadum.bench.moments import Moment
from vadum.bench.river import LEFT, WIDTH, ZOOMS, Flow, river
from vadum.figures.register import figure
from vadum.figures.theme import svg
from vadum.paper.mathematics import as_mathml, as_typst
from vadum.paper.open_data import as_csv, as_json, as_zip, tidy_tables
from vadum.paper.printed import chart_svg, pdf
from vadum.paper.sheet import sheet_of
from vadum.soil.contract.outcome import Due
from vadum.soil.register import METHODS
from vadum.tape import runs
from vadum.tape.ground import Place
from vadum.tape.tables import Job, Sample, Spot
from vadum.web.views.plan import HEIGHT, MARGIN, columns, plan
from vadum.web.views.plan import WIDTH as PLAN_WIDTH


def named_data(spec):
    found = set()
    for layer in spec["layer"]:
        if "name" in layer.get("data", {}):
            found.add(layer["data"]["name"])
    return found


@pytest.mark.parametrize("name", METHODS)
def test_a_picture_reads_only_series_that_the_reduction_gives(name):
    method = METHODS[name]
    for school in method.schools.values():
        outcome = method.outcome(method.virtual(3, school, None).record, school)
        spec = figure(name).spec(school)
        assert named_data(spec) <= set(outcome.series) | {"line"}
        transforms = [t for layer in spec["layer"] for t in layer.get("transform", ())]
        assert all(set(t) == {"filter"} for t in transforms), "figures compute nothing"
        assert set(figure(name).columns) <= set(outcome.series)


@pytest.mark.parametrize("name", METHODS)
def test_a_picture_for_paper_has_its_points_and_no_styles(name):
    method = METHODS[name]
    school = method.school()
    outcome = method.outcome(method.virtual(3, school, None).record, school)
    drawn = svg(figure(name), school, outcome)
    assert drawn.startswith("<svg")
    assert "style=" not in drawn, "a style attribute would break the content policy"
    empty = svg(figure(name), school, method.outcome(method.Record(), school))
    assert len(empty) < len(drawn)


def test_the_table_behind_the_picture_says_the_same():
    method = METHODS["liquid_limit"]
    school = method.school()
    outcome = method.outcome(method.virtual(3, school, None).record, school)
    [(heads, rows)] = figure("liquid_limit").tables(outcome)
    assert heads == ["trial", "drops or mm", "water content, %", "state"]
    assert [r[0] for r in rows] == ["T1", "T2", "T3", "T4"]
    assert {r[3] for r in rows} == {"measured"}


def whole_run(lab):
    code = lab.start("water_content")
    wrong = lab.post(code, "tin", "12")
    lab.post(code, "tin", "31", strikes=[wrong.id], reason="read upside down")
    lab.post(code, "mass_wet_g", "168,92")
    lab.post(code, "in_oven_at", "2026-05-11T08:00:00+02:00")
    lab.post(code, "weighings[]", {"mass_dry_g": "139.38"})
    lab.post(code, "remarks", "taken at dusk")
    return code


def the_sheet(lab, code):
    from vadum.tape import people

    with lab.database.reading() as session:
        read = runs.Shelf().read(session, runs.find(session, code))
        sheet = sheet_of(read, runs.place_of(session, read.run), people.by_initials(session), lab.clock.now())
        session.expunge_all()
    return read, sheet


def test_the_sheet_carries_readings_as_typed_corrections_kit_people_and_limits(lab):
    read, sheet = the_sheet(lab, whole_run(lab))
    facts = dict(sheet.facts)
    assert facts["tin + wet soil"] == "168,92 g"
    assert facts["empty tin"].endswith("(kit: tin 31)"), "the corrected tin brought its own tare"
    assert [(c.place, c.was, c.reason) for c in sheet.corrections][:1] == [("tin", "12", "read upside down")]
    assert sheet.corrections[1].reason == "tin was corrected"
    assert sheet.tables[0].rows[0][1] == "139.38"
    assert sheet.remarks == "taken at dusk"
    assert "Not signed" in sheet.mark
    assert dict(sheet.people)["read by"] == "Ana Tell (AT)"
    assert "competent person" in sheet.always
    assert sheet.working
    assert sheet.tape == read.entries[-1].hash


def test_the_pdf_is_a_report_of_one_page_and_an_annex(lab):
    read, sheet = the_sheet(lab, whole_run(lab))
    made = pdf(sheet, chart_svg(read, sheet.style), {})
    assert made.startswith(b"%PDF-")
    assert len(re.findall(rb"/Type\s*/Page\b", made)) <= 2
    assert pdf(sheet, chart_svg(read, sheet.style), {}) == made, "the same run gives the same file"


def test_a_remark_with_every_odd_sign_still_makes_a_pdf(lab):
    code = whole_run(lab)
    odd = '#let x = 1; $y$ *bold* \\ "quoted" <b> & {{ }} [list] ∑ € 土 \u202e'
    lab.post(code, "oven_temperature_c", "108")
    lab.post(code, "balance", odd[:40])
    read, sheet = the_sheet(lab, code)
    assert pdf(sheet, chart_svg(read, sheet.style), {}).startswith(b"%PDF-")


def test_json_and_csv_hold_the_run_and_read_back(lab):
    read, sheet = the_sheet(lab, whole_run(lab))
    data = json.loads(as_json(read, sheet))
    method = METHODS[data["method"]]
    again = method.outcome(method.Record.model_validate(data["record"]), method.school(data["school"]["name"]))
    assert again.values == read.outcome.values
    rows = list(csv.DictReader(io.StringIO(as_csv(read, sheet))))
    wet = next(r for r in rows if r["place"] == "mass_wet_g")
    assert (wet["value"], wet["unit"], wet["by"]) == ("168,92", "g", "AT")


def flow(code, now, *dues, started=60, touched=()):
    moments = tuple(Moment(code, "T", "w", due) for due in dues)
    return Flow(code, "T", "w", now - timedelta(minutes=started), tuple(touched), moments)


def due(at, hands=120, label="x"):
    return Due(what="do it", kind="reading", at=at, hands_s=hands, label=label)


@pytest.mark.parametrize("zoom", ZOOMS)
def test_the_now_line_stands_where_its_zoom_puts_it_and_nothing_leaves_the_picture(zoom, now):
    before, after, _, _ = ZOOMS[zoom]
    flows = [
        flow("A", now, due(now + after / 2), touched=[now - before / 2, now - before / 3]),
        flow("B", now, due(now - 10 * before)),
        flow("C", now, due(now + 10 * after)),
    ]
    drawn = river(flows, now, zoom, set())
    assert drawn.now_x == pytest.approx(LEFT + (WIDTH - LEFT) * (before / (before + after)), abs=0.2)
    for lane in drawn.lanes:
        for stone in lane.stones:
            assert LEFT - 12 <= stone.x <= WIDTH + stone.width
        if lane.water:
            assert LEFT <= lane.water[0] < lane.water[1] <= WIDTH


def test_stones_tell_done_now_ahead_late_and_clash(now):
    at = now + timedelta(minutes=10)
    flows = [
        flow("DONE", now, touched=[now - timedelta(minutes=3), now - timedelta(minutes=2, seconds=50)]),
        flow("NOW", now, Due(what="w", kind="hands", hands_s=300)),
        flow("AHEAD", now, due(at)),
        flow("LATE", now, due(now - timedelta(minutes=4))),
        flow("CLASH", now, due(at)),
    ]
    drawn = river(flows, now, "hour", {f"CLASH{at.isoformat()}"})
    states = {lane.code: [s.state for s in lane.stones] for lane in drawn.lanes}
    assert states == {"DONE": ["done"], "NOW": ["now"], "AHEAD": ["ahead"], "LATE": ["late"], "CLASH": ["clash"]}
    assert drawn.lanes[0].stones[0].title.endswith("2 readings")


def test_more_runs_than_lanes_are_counted_not_drawn(now):
    drawn = river([flow(f"R{i}", now, due(now)) for i in range(50)], now, "hour", set(), 6)
    assert len(drawn.lanes) == 6
    assert drawn.hidden == 44


def test_the_plan_keeps_one_scale_and_north_up():
    spots = [
        Spot(job_id=1, code="S", kind="test pit", easting_m=0, northing_m=0),
        Spot(job_id=1, code="N", kind="test pit", easting_m=0, northing_m=100),
        Spot(job_id=1, code="E", kind="test pit", easting_m=100, northing_m=0),
        Spot(job_id=1, code="?", kind="test pit"),
    ]
    drawn = plan(spots)
    at = {m.spot.code: (m.x, m.y) for m in drawn.marks}
    assert at["N"][1] < at["S"][1]
    assert at["E"][0] > at["S"][0]
    assert at["S"][1] - at["N"][1] == pytest.approx(at["E"][0] - at["S"][0], abs=0.2)
    assert all(
        MARGIN - 1 <= x <= PLAN_WIDTH - MARGIN + 1 and MARGIN - 1 <= y <= HEIGHT - MARGIN + 1 for x, y in at.values()
    )
    assert [s.code for s in drawn.unplaced] == ["?"]
    assert drawn.bar_px / drawn.bar_m == pytest.approx((at["E"][0] - at["S"][0]) / 100, rel=0.02)


def test_a_job_without_spots_or_depths_still_draws():
    assert plan([]).marks == ()
    assert plan([Spot(job_id=1, code="A", kind="test pit", easting_m=5, northing_m=5)]).marks[0].spot.code == "A"
    [column] = columns([Spot(id=1, job_id=1, code="A", kind="test pit")], [])
    assert column.cuts == ()


def test_codes_of_samples_at_one_depth_stand_clear_of_each_other():
    job, spot = Job(id=1, code="J", title="Meadow"), Spot(id=1, job_id=1, code="S2", kind="stockpile")
    tops = {"B3": 0.5, "B1": 0.3, "B2": 0.3, "T1": 4.0}
    samples = [
        Sample(id=i, spot_id=1, code=code, kind="bulk", depth_top_m=top, description="sand")
        for i, (code, top) in enumerate(tops.items(), 1)
    ]
    [column] = columns([spot], [Place(sample, spot, job) for sample in samples])
    heights = [cut.word_y for cut in column.cuts]
    assert [cut.place.sample.code for cut in column.cuts] == ["B1", "B2", "B3", "T1"]
    assert all(low - high >= 14 for high, low in itertools.pairwise(heights))
    assert heights[-1] == pytest.approx(column.cuts[-1].y + column.cuts[-1].height / 2 + 4, abs=0.1)


def test_derived_columns_stand_beside_what_was_read_and_in_tidy_tables(lab):
    read, sheet = the_sheet(lab, whole_run(lab))
    table = sheet.tables[0]
    assert table.head[-1] == "w, %"
    assert table.derived == 1
    assert float(table.rows[0][-1]) == pytest.approx(read.outcome.value("water_content_percent").value, abs=0.01)
    files = tidy_tables(read, sheet)
    assert set(files) >= {"weighings.csv", "values.csv", "rules.csv"}
    assert files["weighings.csv"].splitlines()[0].startswith("no.,")
    with zipfile.ZipFile(io.BytesIO(as_zip(read, sheet, {}))) as archive:
        assert f"{sheet.code}/tape.csv" in archive.namelist()


@pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)
def test_working_is_set_as_mathematics_and_no_field_name_is_shown(lab, method):
    school = method.school()
    outcome = method.outcome(method.virtual(3, school, None).record, school)
    for line in outcome.working:
        assert as_typst(line.formula)
        assert "_" not in re.sub("<[^>]*>", "", as_mathml(line.formula))
