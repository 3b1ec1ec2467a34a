"""The bearing curve's picture and sheet: drawn from named data, with what was read, judged and left empty."""

import csv
import io

import pytest

from vadum.figures.register import figure
from vadum.figures.theme import svg
from vadum.paper.open_data import as_csv, as_json
from vadum.paper.printed import pdf
from vadum.paper.sheet import sheet_of
from vadum.soil.methods.field_cbr.virtual import under
from vadum.soil.register import METHODS
from vadum.tape import people, runs, signatures

BOTH = pytest.mark.parametrize("name", ["cbr", "field_cbr"])


@BOTH
def test_every_layer_draws_a_series_that_the_outcome_has(name):
    method = METHODS[name]
    for school in method.schools.values():
        outcome = method.outcome(method.virtual(4, school, None).record, school)
        spec = figure(name).spec(school)
        named = {layer["data"]["name"] for layer in spec["layer"] if "name" in layer["data"]}
        assert named <= set(outcome.series)
        (domain,) = {tuple(layer["encoding"]["x"]["scale"]["domain"]) for layer in spec["layer"]}
        assert domain == (0, school.called_mm[-1]), "the axis stands still while the curve grows"


@BOTH
def test_an_empty_a_growing_and_a_full_curve_are_drawn(name):
    method = METHODS[name]
    school = method.school()
    record = method.virtual(6, school, None).record
    rows = "top" if name == "cbr" else "readings"
    for upto in (0, 1, 3, 12, 31):
        part = record.model_copy(update={rows: getattr(record, rows)[:upto]})
        drawn = svg(figure(name), school, method.outcome(part, school))
        assert drawn.startswith("<svg")
        assert "penetration, mm" in drawn


def test_the_standard_curve_leads_the_eye_and_does_not_flatten_the_picture():
    method = METHODS["field_cbr"]
    school = method.school()
    for seed in range(6):
        outcome = method.outcome(method.virtual(seed, school, None).record, school)
        highest = max(r["force_kn"] for r in outcome.series["readings"])
        assert max(r["force_kn"] for r in outcome.series["standard"]) <= 1.15 * highest + 1e-9
        assert outcome.series["standard"][-1]["label"] == "100 %"


def test_the_tangent_touches_the_curve_and_ends_at_the_zero():
    method = METHODS["field_cbr"]
    school = method.school()
    seed = next(s for s in range(40) if under(s, school, "spot")[1].loose_mm > 0.3)
    outcome = method.outcome(method.virtual(seed, school, None).record, school)
    (start, end) = outcome.series["tangents"]
    assert start["force_kn"] == 0
    assert start["penetration_mm"] == outcome.value("zero_correction_mm").value
    slope = end["force_kn"] / (end["penetration_mm"] - start["penetration_mm"])
    near = 0.03 * max(r["force_kn"] for r in outcome.series["readings"])
    for row in outcome.series["readings"]:
        on_it = slope * (row["penetration_mm"] - start["penetration_mm"])
        assert row["force_kn"] <= max(on_it, 0) + near, "the steepest tangent lies above the curve beyond its touch"


def begun(lab):
    code = lab.start("field_cbr")
    for path, value in (
        ("ring_factor_n_div", "12.5"),
        ("ring_most_div", "2000"),
        ("expected_percent", "20"),
        ("seating_n", "50"),
        ("seated_div", "4"),
    ):
        lab.post(code, path, value)
    for i in range(14):
        if i == 5:
            lab.post(code, f"readings[{i}].missed", "missed")
        else:
            lab.post(code, f"readings[{i}].ring_div", f"{4 + 20 * i - 0.5 * i * i:g}")
    lab.post(code, "stopped", "reaction lifted")
    return code


def sheet(lab, code):
    read = lab.read(code)
    with lab.database.reading() as session:
        return read, sheet_of(read, runs.place_of(session, read.run), people.by_initials(session), lab.clock.now())


def test_the_sheet_prints_each_call_with_its_penetration_and_force(lab):
    read, its = sheet(lab, begun(lab))
    table = next(t for t in its.tables if "spot" in t.title)
    assert table.head[1:4] == ("called at, mm", "ring, div", "not read")
    assert table.rows[4][1] == "1.00"
    assert table.rows[4][2] == "76"
    assert float(table.rows[4][-1]) == pytest.approx(12.5 * 72 / 1000)
    assert "missed" in table.rows[5]
    assert table.rows[5][-1] == "", "a missed reading has no force"
    sentence = next(v for v in its.values if v.key == "governs")
    assert "reaction lifted" in sentence.reported
    assert pdf(its, svg(figure("field_cbr"), read.school, read.outcome), {}).startswith(b"%PDF")
    assert "reaction lifted" in as_json(read, its)
    rows = list(csv.reader(io.StringIO(as_csv(read, its))))
    assert any("readings[4].ring_div" in cell for row in rows for cell in row)


def test_a_practice_sheet_is_marked_and_never_signed(lab):
    from vadum.tape import ground, practice_runs

    with lab.database.writing() as session:
        place = ground.practice_place(session, lab.clock.now())
        run = runs.start(session, place, "field_cbr", None, lab.person("AT"), lab.clock.now(), seed="9")
        code = run.code
        assert ground.practice_place(session, lab.clock.now()).sample.id == place.sample.id
    lab.post(code, "expected_percent", "20")
    _, its = sheet(lab, code)
    assert its.mark.startswith("PRACTICE")
    with lab.database.writing() as session, pytest.raises(runs.NotAllowed, match="never signed"):
        signatures.sign(
            session,
            runs.find(session, code),
            lab.person("AT"),
            lab.clock.now(),
            signatures.tape_end(session, runs.find(session, code)),
            "x",
        )
    with lab.database.writing() as session:
        practice_runs.let_pass(session, runs.find(session, code), 3600, lab.person("AT"), lab.clock.now())
    later = lab.post(code, "axle_kn", "38")
    assert (later.at - lab.clock.now()).total_seconds() == 3600, "the run's own time has passed"
    with lab.database.writing() as session:
        practice_runs.reveal(session, runs.find(session, code), lab.person("AT"), lab.clock.now())
    with lab.database.writing() as session, pytest.raises(runs.NotAllowed, match="nothing to reveal"):
        practice_runs.reveal(session, runs.find(session, code), lab.person("AT"), lab.clock.now())
    with lab.database.writing() as session, pytest.raises(runs.NotAllowed, match="not reopened"):
        signatures.reopen(
            session,
            runs.find(session, code),
            lab.person("MR"),
            lab.clock.now(),
            signatures.tape_end(session, runs.find(session, code)),
            "x",
        )
    with lab.database.reading() as session:
        listed = [r.code for state in runs.STATES for r in runs.listed(session, state)]
        assert code not in listed
        assert ground.jobs(session)[0].code != ground.PRACTICE_JOB
        assert not any(p.job.code == ground.PRACTICE_JOB for p in ground.newest_places(session))
