"""Every method through the whole house: its readings on a tape, folded, signed, printed, exported, checked."""

import csv
import io
import json
from datetime import datetime

import pytest

from tests.soil.test_following_advice import flat
from vadum.figures.register import figure
from vadum.paper.open_data import as_csv, as_json
from vadum.paper.printed import chart_svg, pdf
from vadum.paper.sheet import sheet_of
from vadum.soil.contract import paths
from vadum.soil.register import METHODS
from vadum.tape import people, posting, runs
from vadum.tape.audit import audit
from vadum.tape.entries import NewEntry, append, read_tape
from vadum.web.views import desk

ASKED_ROWS = 3  # of a series within a row so many go through the door's questions, the others straight onto the tape
# Plain fields, rows, rows in rows, choices: what a database stores of one it stores of all.
ON_A_SERVER = ("water_content", "liquid_limit", "hydrometer", "direct_shear", "plate_modulus")
EVERY = pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)


def typed(value):
    """As it comes from a field."""
    if isinstance(value, datetime):
        return value.isoformat()
    return value if isinstance(value, str) else (value.isoformat() if hasattr(value, "isoformat") else f"{value!r}")


def on_tape(lab, method, seed=3):
    """A run of the virtual soil, reading by reading; its code, and the readings by their paths."""
    school = method.school()
    record = method.virtual(seed, school, None).record
    code = lab.start(method.name)
    given = dict(method.begins_with(school))
    readings = {}
    me = lab.person("AT")
    with lab.database.writing() as session:
        run = runs.find(session, code, to_write=True)
        entries = read_tape(session, run.id)
        for path, value in flat(record).items():
            # None of the laboratory's own tins, which would bring their tares.
            readings[path] = f"T{value}" if path.rpartition(".")[2] == "tin" else value
            if path in given:
                continue
            new = NewEntry(path=path, value=typed(readings[path]))
            rows = [step.row for step in paths.parse(path).steps if step.row is not None]
            if len(rows) > 1 and rows[-1] >= ASKED_ROWS:
                append(session, run, new, "AT", lab.clock.now(), entries)
            else:
                posting.post(session, run, new, me, lab.clock.now(), insist=True, entries=entries)
    return code, readings


@pytest.mark.one_database
@EVERY
def test_a_record_survives_the_tape_and_is_signed_printed_exported_and_checked(lab, method):
    goes_through_the_house(lab, method)


@pytest.mark.server_database
@pytest.mark.parametrize("name", ON_A_SERVER)
def test_it_does_so_on_a_servers_database_too(lab, name):
    goes_through_the_house(lab, METHODS[name])


def goes_through_the_house(lab, method):
    """From the first reading to a checked sheet and its exports."""
    code, wanted = on_tape(lab, method)
    read = lab.read(code)
    found = flat(read.folded.record)
    assert {path: found.get(path) for path in wanted} == wanted
    assert not read.folded.collisions
    if lab.url.startswith("sqlite"):
        has_a_field_for_every_reading(lab, method, read, wanted)
    leaves_its_place_open(lab, method, code, wanted)
    lab.sign(code, reason="for the test")
    lab.check(code)
    with lab.database.reading() as session:
        read = runs.Shelf().read(session, runs.find(session, code))
        sheet = sheet_of(read, runs.place_of(session, read.run), people.by_initials(session), lab.clock.now())
        session.expunge_all()
    assert sheet.state == "checked"
    assert sheet.values
    assert sheet.working
    assert sheet.limits_of_use == method.limits_of_use
    printed = {row[1] for row in sheet.facts} | {cell for t in sheet.tables for row in t.rows for cell in row}
    assert printed
    assert pdf(sheet, chart_svg(read, sheet.style), {}).startswith(b"%PDF-")
    data = json.loads(as_json(read, sheet))
    again = method.outcome(method.Record.model_validate(data["record"]), method.school(data["school"]["name"]))
    assert [v.reported for v in again.values] == [v.reported for v in read.outcome.values]
    rows = list(csv.DictReader(io.StringIO(as_csv(read, sheet))))
    assert {r["place"] for r in rows if r["part"] == "value"} == {v.key for v in read.outcome.values}
    assert audit(lab.database) == (1, [])


def has_a_field_for_every_reading(lab, method, read, readings):
    """The desk offers a field for each reading, and has words for each row."""
    now = lab.clock.now()
    for step in method.steps:
        if not step.fields or not step.applies(read.school):
            continue  # led by its advice alone, or of another apparatus
        views = desk.fields(read, desk.step_paths(read, step), now)
        assert views, step.key
        assert all(v.label for v in views)
        assert all(v.row for v in views if "[" in v.path)
    for path in readings:
        assert desk.field_view(read, path, now).value
    assert desk.strip(read, now)
    assert desk.board_values(read, read.outcome, now) is not None
    assert any(rows for _, rows in figure(method.name).tables(read.outcome))


def leaves_its_place_open(lab, method, code, readings):
    """A struck reading leaves its place open again, and the same one typed again fills it."""
    path = next(p for p in reversed(list(readings)) if not p.endswith(("_at", "remarks")))
    entry = lab.read(code).folded.came_from[path]
    lab.post(code, path, None, strikes=[entry.id], reason="for the test")
    read = lab.read(code)
    assert path not in flat(read.folded.record)
    assert read.at(lab.clock.now()).advice.headline
    lab.post(code, path, typed(readings[path]))
    assert flat(lab.read(code).folded.record)[path] == readings[path]


def test_rows_that_may_be_left_out_are_known_by_their_own_word(lab):
    words = {}
    for method in METHODS.values():
        code = lab.start(method.name)
        words[method.name] = desk.leave_out_rows(lab.read(code))
    assert words["liquid_limit"] == ("trials", "trial")
    assert words["compaction"] == ("points", "point")
    assert words["hydrometer"] == ("readings", "reading")
    assert words["specific_gravity"] == ("determinations", "pycnometer")
    assert words["sieve"] == ("", "")


def test_a_step_offers_the_next_row_of_a_list_that_no_advice_leads(lab):
    code = lab.start("sieve", "iso_soil")
    read = lab.read(code)
    steps = {s.key: s for s in read.method.steps}
    paths = desk.step_paths(read, steps["envelope"])
    assert "envelope[0].aperture_mm" in paths
    lab.post(code, "envelope[0]", {"aperture_mm": "2", "least_percent": "10", "most_percent": "40"})
    paths = desk.step_paths(lab.read(code), steps["envelope"])
    assert "envelope[1].aperture_mm" in paths
    assert "sieves[6].aperture_mm" in desk.step_paths(lab.read(code), steps["weigh"])


def test_a_sieve_is_called_by_its_aperture(lab):
    read = lab.read(lab.start("sieve", "iso_soil"))
    assert desk.said_of_row(read, "sieves[2].mass_retained_g") == "sieve 2 mm"
    assert desk.said_of_row(read, "sieves[2].aperture_mm") == "sieve 3"
    assert desk.said_of_row(read, "envelope[0].least_percent") == "line 1"
    assert desk.said_of_row(read, "mass_pan_g") == ""
