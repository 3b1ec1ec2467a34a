"""Specimens: cut from a sample, shared by several runs; what is left of them is known and cannot be overdrawn."""

import io

import pytest
from PIL import Image
from pydantic import ValidationError
from sqlalchemy import text

from vadum.soil.contract.errors import FieldError
from vadum.tape import pictures, runs, specimens
from vadum.tape.audit import audit
from vadum.tape.entries import read_tape
from vadum.tape.specimens import NewSpecimen
from vadum.tape.tables import Person, Sample


@pytest.fixture
def bench(lab):
    """A sample to cut from: cutting, starting a run on a piece, and what is held."""

    class Bench:
        def __init__(self):
            with lab.database.reading() as session:
                self.sample_id = runs.find(session, lab.start("water_content")).sample_id

        def cut(self, code, **more):
            with lab.database.writing() as session:
                sample = session.get(Sample, self.sample_id)
                return specimens.add(session, sample, NewSpecimen(code=code, **more)).id

        def start(self, piece, mass_g=None, method="water_content"):
            code = lab.start(method)
            with lab.database.writing() as session:
                run = runs.find(session, code, to_write=True)
                specimens.begin_on(session, run, piece, mass_g, lab.person("AT"))
            return code

        def held(self):
            with lab.database.reading() as session:
                return {h.specimen.code: h for h in specimens.held(session, self.sample_id)}

    return Bench()


def test_a_block_is_shared_and_what_is_left_is_known(lab, bench):
    bench.cut("A", mass_g="1000", depth_m="0.12", orientation="vertical", size="100 mm cube")
    bench.cut("A1", cut_from="A", mass_g=310)
    shear, water = bench.start("A", 150, "direct_shear"), bench.start("A1", 60.5)
    held = bench.held()
    assert held["A"].left_g == pytest.approx(540)
    assert held["A1"].left_g == pytest.approx(249.5)
    assert (held["A"].runs, held["A"].pieces, held["A1"].runs) == ((shear,), ("A1",), (water,))
    assert audit(lab.database)[1] == []


def test_a_run_knows_on_its_tape_which_piece_it_is_of(lab, bench):
    bench.cut("A", depth_m=0.12)
    code = bench.start("A")
    with lab.database.reading() as session:
        tape = read_tape(session, runs.find(session, code).id)
    told = {e.path: e.value for e in tape if not e.path.startswith("@")}
    assert told["specimen"] == "A"
    assert float(told["specimen_depth_m"]) == 0.12


def test_a_piece_of_unknown_mass_is_shared_without_a_figure(bench):
    bench.cut("A")
    bench.start("A", 5000)
    assert bench.held()["A"].left_g is None
    assert bench.held()["A"].left_words == ""


@pytest.mark.parametrize(
    ("do", "field"),
    [
        (lambda b: b.cut("a"), "code"),
        (lambda b: b.cut("B", cut_from="Z"), "cut_from"),
        (lambda b: b.cut("B", cut_from="A", mass_g=100.5), "mass_g"),
        (lambda b: b.cut("B", mass_g=-1), "mass_g"),
        (lambda b: b.cut("B", depth_m=200), "depth_m"),
        (lambda b: b.start("A", 101), "specimen_g"),
        (lambda b: b.start("A", 0), "specimen_g"),
        (lambda b: b.start("Z"), "specimen"),
    ],
)
def test_what_cannot_be_is_refused_with_its_field_and_nothing_is_kept(bench, do, field):
    bench.cut("A", mass_g=100)
    with pytest.raises(FieldError) as refused:
        do(bench)
    assert refused.value.field == field
    held = bench.held()
    assert list(held) == ["A"]
    assert held["A"].left_g == 100


@pytest.mark.parametrize("typed", ["nan", "inf", "1e999", "twelve"])
def test_a_mass_that_is_no_number_is_refused(typed):
    with pytest.raises(ValidationError):
        NewSpecimen(code="A", mass_g=typed)
    assert NewSpecimen(code="A", mass_g="").mass_g is None


def test_of_one_piece_the_last_gram_can_be_taken_once(bench):
    bench.cut("A", mass_g=0.3)
    bench.start("A", 0.1)
    bench.start("A", 0.2)
    with pytest.raises(FieldError):
        bench.start("A", 0.001)


def test_a_specimen_is_put_right_but_never_below_what_was_taken_of_it(lab):
    with lab.database.writing() as session:
        sample = session.get(Sample, lab.sample_id)
        specimens.add(session, sample, NewSpecimen(code="A", mass_g=500.0, depth_m=0.2))
        specimens.add(session, sample, NewSpecimen(code="A1", cut_from="A", mass_g=200.0))
        with pytest.raises(FieldError, match="200 g were taken"):
            specimens.correct(session, sample.id, "A", specimens.SpecimenChange(mass_g=150.0))
        changed = specimens.SpecimenChange(mass_g=520.0, depth_m=0.3, orientation="vertical")
        piece = specimens.correct(session, sample.id, "A", changed)
        assert (piece.mass_g, piece.depth_m, piece.orientation, piece.code) == (520.0, 0.3, "vertical", "A")
        with pytest.raises(FieldError, match="no specimen"):
            specimens.correct(session, sample.id, "Z", changed)
    with lab.database.reading() as session:
        held = {h.specimen.code: h.left_g for h in specimens.held(session, lab.sample_id)}
    assert held["A"] == pytest.approx(320.0)
    assert audit(lab.database)[1] == []


def test_a_specimen_keeps_photographs_without_a_run_and_a_changed_one_is_found(lab):
    raw = io.BytesIO()
    Image.new("RGB", (640, 480), (120, 90, 60)).save(raw, "JPEG", exif=Image.Exif().tobytes())
    with lab.database.writing() as session:
        sample = session.get(Sample, lab.sample_id)
        piece = specimens.add(session, sample, NewSpecimen(code="B", mass_g=500.0))
        me = session.get(Person, lab.ids["AT"])
        hash_ = specimens.picture(session, piece, pictures.marked(raw.getvalue(), "", 120.0), me, "its face")
        with pytest.raises(FieldError):
            specimens.picture(session, piece, pictures.marked(raw.getvalue(), "", None), me, "x" * 201)
    with lab.database.reading() as session:
        (held,) = specimens.held(session, lab.sample_id)
        assert [(p.hash, p.caption, p.by) for p in held.photographs] == [(hash_, "its face", "AT")]
        kept = specimens.jpeg_of(session, held.specimen, hash_)
        assert specimens.jpeg_of(session, held.specimen, "0" * 64) is None
    assert not Image.open(io.BytesIO(kept)).getexif()
    assert audit(lab.database)[1] == []
    with lab.database.writing() as session:
        session.execute(text("UPDATE specimenphotograph SET caption = 'another'"))
    assert audit(lab.database)[1]
