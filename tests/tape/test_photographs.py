"""Photographs: bounded, stripped, numbered and scaled; bound to the tape; gone ones are found."""

import io
import json
import uuid

import pytest
from PIL import Image
from sqlalchemy import text

from vadum.soil.contract.errors import FieldError
from vadum.tape import photographs, pictures, runs
from vadum.tape.audit import audit
from vadum.tape.entries import read_tape
from vadum.tape.tables import Person

SECRET = "a phone that says where it was"


def picture(width=900, height=600, kind="JPEG", exif=True, colour=(150, 120, 80)):
    out = io.BytesIO()
    image = Image.new("RGB", (width, height), colour)
    more = {}
    if exif and kind == "JPEG":
        data = Image.Exif()
        data[0x010E] = SECRET
        data[0x0112] = 6  # turned by a quarter
        more["exif"] = data
    image.save(out, kind, **more)
    return out.getvalue()


def test_a_picture_is_upright_bounded_and_holds_nothing_else():
    made = pictures.made_of(pictures.opened(picture(4000, 3000)), "UC-01 · 1", 250.0)
    with Image.open(io.BytesIO(made.jpeg)) as kept:
        kept.load()
        assert kept.format == "JPEG"
        assert max(kept.size) <= pictures.MOST_SIDE_PX * 1.1
        assert kept.height > kept.width, "it was turned upright"
        assert not kept.getexif()
    assert SECRET.encode() not in made.jpeg


def test_a_number_and_a_scale_are_drawn_below_it():
    plain, scaled = (
        pictures.made_of(pictures.opened(picture(800, 600, exif=False)), "UC-01 · 1", mm) for mm in (None, 100.0)
    )
    with Image.open(io.BytesIO(scaled.jpeg)) as kept:
        strip = kept.crop((0, 600, kept.width, kept.height)).convert("L")
        dark = sum(1 for value in strip.get_flattened_data() if value < 90)
    with Image.open(io.BytesIO(plain.jpeg)) as kept:
        bare = sum(1 for v in kept.crop((0, 600, kept.width, kept.height)).convert("L").get_flattened_data() if v < 90)
    assert dark > bare > 0
    assert pictures.scale_bar(800, 100.0) == (160, "20 mm")


@pytest.mark.parametrize(
    ("raw", "across", "field"),
    [
        (b"no picture at all", None, "photograph"),
        (picture()[:400], None, "photograph"),
        (b"x" * (pictures.MOST_BYTES + 1), None, "photograph"),
        (picture(4, 4), None, "photograph"),
        (picture(), 0.0, "across_mm"),
        (picture(), float("nan"), "across_mm"),
    ],
)
def test_what_is_no_picture_is_refused_with_its_field(raw, across, field):
    with pytest.raises(FieldError) as refused:
        pictures.made_of(pictures.opened(raw), "x", across)
    assert refused.value.field == field


@pytest.mark.parametrize(("kind", "side"), [("PNG", 5600), ("WEBP", 5600), ("JPEG", 7800)])
def test_a_picture_of_more_points_than_memory_is_refused_before_it_is_decoded(kind, side):
    out = io.BytesIO()
    Image.new("L" if kind != "WEBP" else "RGB", (side, side)).save(out, kind)
    assert len(out.getvalue()) < pictures.MOST_BYTES
    with pytest.raises(FieldError, match="too many pixels"):
        pictures.opened(out.getvalue())


@pytest.fixture
def taken(lab):
    """A run with one photograph of its frame step."""
    code = lab.start("unconfined_compression")
    known = uuid.uuid4()

    def take(place="frame", **more):
        with lab.database.writing() as session:
            run = runs.find(session, code, to_write=True)
            by = session.get(Person, lab.ids["AT"])
            tape = read_tape(session, run.id)
            return photographs.add(
                session,
                run,
                tape,
                known,
                pictures.marked(picture(), "", None),
                by,
                lab.clock.now(),
                place=place,
                **more,
            )

    return lab, code, take


def tape_of(lab, code):
    with lab.database.reading() as session:
        return read_tape(session, runs.find(session, code).id)


def test_sent_twice_it_is_kept_once_and_its_hash_is_on_the_tape(taken):
    lab, code, take = taken
    first, second = take(caption="the plane"), take(caption="the plane")
    assert first == second
    (event,) = [e for e in tape_of(lab, code) if e.path == "@photograph"]
    assert event.value["hash"] == first
    (one,) = photographs.taken(tape_of(lab, code))
    assert (one.number, one.caption, one.place) == (1, "the plane", "frame")
    assert audit(lab.database)[1] == []


def test_a_place_that_is_no_step_and_no_row_is_refused(taken):
    _, _, take = taken
    with pytest.raises(FieldError, match="no step"):
        take(place="somewhere[2]")


def test_one_is_left_out_with_a_reason_and_stays_on_the_tape(taken):
    lab, code, take = taken
    kept = take()
    with lab.database.writing() as session:
        run = runs.find(session, code, to_write=True)
        by, tape = session.get(Person, lab.ids["AT"]), read_tape(session, run.id)
        with pytest.raises(FieldError):
            photographs.leave_out(session, run, tape, kept, " ", by, lab.clock.now())
        photographs.leave_out(session, run, tape, kept, "a thumb before it", by, lab.clock.now())
    assert photographs.taken(tape_of(lab, code)) == []
    assert len(photographs.taken(tape_of(lab, code), with_left_out=True)) == 1


@pytest.mark.sqlite_file
def test_a_picture_that_was_exchanged_or_deleted_is_found(taken):
    lab, _, take = taken
    take()
    with lab.database.engine.begin() as connection:
        for (sql,) in connection.execute(
            text("SELECT name FROM sqlite_master WHERE type = 'trigger' AND tbl_name = 'photograph'")
        ).all():
            connection.execute(text(f'DROP TRIGGER "{sql}"'))
        connection.execute(text("UPDATE photograph SET data = replace(data, 'A', 'B')"))
    faults = "\n".join(audit(lab.database)[1])
    assert "photograph 1 is not the one that was taken" in faults
    with lab.database.engine.begin() as connection:
        connection.execute(text("DELETE FROM photograph"))
    assert "photograph 1 is gone" in "\n".join(audit(lab.database)[1])
    assert json.dumps(faults)
