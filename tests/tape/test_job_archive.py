"""A whole job out of one laboratory and into another: chains intact, nothing half done, nothing believed unread."""

import hashlib
import io
import json
import uuid
import zipfile

import pytest
from PIL import Image
from sqlalchemy import select

from tests.conftest import Lab
from tests.tape.test_tape import signed
from vadum.paper.sheet import sheet_of
from vadum.soil.contract.errors import FieldError
from vadum.tape import (
    identity,
    instrument_log,
    job_export,
    job_file,
    job_import,
    people,
    photographs,
    pictures,
    put_right,
    runs,
)
from vadum.tape.audit import audit
from vadum.tape.entries import read_tape
from vadum.tape.identity import NewIdentity
from vadum.tape.job_file import MANIFEST, ArchiveError
from vadum.tape.signatures import may_check, standing
from vadum.tape.specimens import NewSpecimen, add, begin_on
from vadum.tape.tables import Entry, ImportedRun, Job, KitItem, LedgerLine, Run, Sample


def picture():
    out = io.BytesIO()
    Image.new("RGB", (60, 40), (120, 90, 70)).save(out, "JPEG")
    return out.getvalue()


@pytest.fixture
def full(lab):
    """A job with a checked run, an open one that listens to an instrument and has a picture, one set aside."""
    done = signed(lab)
    lab.check(done)
    code, hidden = lab.start("water_content"), lab.start("sieve")
    lab.post(code, "tin", "31")
    with lab.database.writing("MR") as session:
        identity.be(session, NewIdentity(name="Underford"))
        add(session, session.get(Sample, lab.sample_id), NewSpecimen(code="A", mass_g=200))
        run, me = runs.find(session, code, to_write=True), lab.person("AT")
        begin_on(session, run, "A", None, me)
        tape = read_tape(session, run.id)
        photographs.add(
            session, run, tape, uuid.uuid4(), pictures.marked(picture(), "", None), me, lab.clock.now(), caption="wet"
        )
        instrument_log.note_instrument(session, run, "F1", "listening", me, lab.clock.now(), "simulated://frame")
        instrument_log.keep_trace(session, run.id, "F1", "seq,seconds,mass", ["1,0.1,20.1"])
        put_right.set_aside(session, runs.find(session, hidden), me, lab.clock.now(), "the wrong bag")
    return lab


def exported(lab):
    with lab.database.reading() as session:
        job = session.execute(select(Job)).scalars().first()
        return job_export.export(session, job, lab.clock.now())


@pytest.fixture
def other(tmp_path, database_kind):
    folder = tmp_path / "other"
    folder.mkdir()
    made = Lab(folder, database_kind)
    yield made
    made.database.close()


def bring(lab, content, code="J9"):
    with lab.database.writing("MR") as session:
        return job_import.bring_in(session, job_file.opened(content), lab.person("MR"), lab.clock.now(), code)


def test_a_job_comes_into_another_laboratory_with_every_chain_intact(full, other):
    made = bring(other, exported(full))
    assert (made.code, made.runs, made.renamed) == ("J9", 3, ())
    assert audit(other.database) == (3, [])
    with full.database.reading() as here, other.database.reading() as there:
        for run in here.execute(select(Run)).scalars():
            twin = there.execute(select(Run).where(Run.code == run.code)).scalar_one()
            old, new = read_tape(here, run.id), read_tape(there, twin.id)
            assert [e.hash for e in new[: len(old)]] == [e.hash for e in old]
            assert twin.state == run.state
        assert there.execute(select(Job).where(Job.code == "J9")).scalar_one().title == "A job"


def test_an_open_run_goes_on_there_and_listens_to_no_instrument_of_the_same_name(full, other):
    bring(other, exported(full))
    read = other.read("WC-02")
    assert instrument_log.listens_to(read) is None
    assert read.entries[-1].value["detail"] == "brought in from elsewhere"
    other.post("WC-02", "mass_wet_g", "61.2")
    with other.database.reading() as session:
        run = runs.find(session, "WC-02")
        assert photographs.taken(read.entries)[0].caption == "wet"
        assert photographs.faults(session, run, read.entries) == []
        assert len(instrument_log.traces(session, run.id)) == 1
    assert audit(other.database) == (3, [])


def test_a_sheet_says_from_where_it_came_and_whose_initials_those_are(full, other):
    bring(other, exported(full))
    with other.database.reading() as session:
        run = runs.find(session, "WC-01")
        origin = job_import.origin_of(session, run)
        read = runs.compute(run, read_tape(session, run.id))
        here = people.by_initials(session)
        everyone = here | job_import.people_of(origin, here, read.entries)
        where = f"from {origin.laboratory}, where it was {origin.code}"
        sheet = sheet_of(read, runs.place_of(session, run), everyone, other.clock.now(), origin=where)
    assert ("brought in", "from Underford, where it was WC-01") in sheet.people
    assert "Ana Tell, Underford (AT)" in dict(sheet.people)["read by"]


def test_a_signature_of_elsewhere_is_no_signature_here(full, other):
    """Whoever wrote the file, with whatever initials: nobody of this laboratory looked."""
    full.reopen("WC-01")
    full.sign("WC-01")
    bring(other, exported(full))
    came = other.read("WC-01")
    assert came.run.state == "signed"
    assert standing(came).words == "signed at Underford"
    with other.database.reading() as session:
        for checker in ("MR", "BL"):
            assert may_check(session, came.entries, other.person(checker)).startswith(
                "it was signed at another laboratory"
            )
    with pytest.raises(runs.NotAllowed, match="sign it here before"):
        other.check("WC-01")
    with other.database.reading() as session:
        run = runs.find(session, "WC-01")
        here = people.by_initials(session)
        read = other.read("WC-01")
        everyone = here | job_import.people_of(job_import.origin_of(session, run), here, read.entries)
        sheet = sheet_of(read, runs.place_of(session, run), everyone, other.clock.now())
    assert sheet.mark == "Signed at Underford. Not signed or checked by this laboratory."


def test_opened_and_signed_here_it_is_this_laboratorys_own(full, other):
    bring(other, exported(full))
    assert standing(other.read("WC-01")).words == "checked at Underford"
    other.reopen("WC-01")
    assert standing(other.read("WC-01")).words == "in hand, from Underford"
    other.sign("WC-01")
    assert standing(other.read("WC-01")).words == "to be checked, from Underford"
    other.check("WC-01")
    assert standing(other.read("WC-01")).words == "checked, from Underford"
    assert audit(other.database) == (3, [])


def test_in_the_ledger_an_import_is_the_act_of_who_brought_it_in(full, other):
    bring(other, exported(full))
    with other.database.reading() as session:
        lines = session.execute(select(LedgerLine).where(LedgerLine.words == "brought in with its job")).scalars()
        assert {line.by for line in lines} == {"MR"}


def test_a_run_gets_the_next_number_where_its_own_is_taken(full, other):
    other.start("water_content")
    made = bring(other, exported(full))
    assert ("WC-01", "WC-02") in made.renamed
    assert audit(other.database) == (4, [])
    assert other.start("water_content") == "WC-04", "and the count goes on behind"


def test_it_travels_on_and_stays_bound_to_where_it_was_begun(full, other, tmp_path, database_kind):
    bring(other, exported(full))
    with other.database.reading() as session:
        job = session.execute(select(Job).where(Job.code == "J9")).scalar_one()
        again = job_export.export(session, job, other.clock.now())
    folder = tmp_path / "third"
    folder.mkdir()
    third = Lab(folder, database_kind)
    third.start("sieve")
    bring(third, again)
    assert audit(third.database) == (4, [])
    third.database.close()


def test_the_same_job_is_brought_in_once_and_a_taken_code_is_told(full, other):
    content = exported(full)
    with pytest.raises(FieldError, match="taken by another job here"):
        bring(other, content, "")
    bring(other, content)
    with pytest.raises(ArchiveError, match="is here already"):
        bring(other, content, "J8")
    with pytest.raises(ArchiveError, match="is here already"):
        bring(full, content, "J8")
    assert audit(other.database) == (3, [])


def nothing_came(lab):
    with lab.database.reading() as session:
        assert [j.code for j in session.execute(select(Job)).scalars()] == ["J1"]
        assert session.execute(select(Entry)).first() is None
        assert session.execute(select(ImportedRun)).first() is None


def changed(content, name, change, *, mend=False):
    """The archive with one file changed; `mend` writes the hash of the change into the manifest."""
    files = {}
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        files = {i.filename: archive.read(i) for i in archive.infolist()}
    which = next(n for n in files if n.startswith(name))
    files[which] = change(files[which])
    if mend:
        manifest = json.loads(files[MANIFEST])
        manifest["files"][which] = hashlib.sha256(files[which]).hexdigest()
        files[MANIFEST] = json.dumps(manifest).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for one, data in files.items():
            archive.writestr(one, data)
    return out.getvalue()


def told(**change):
    def made(raw):
        manifest = json.loads(raw)
        manifest.update(change)
        return json.dumps(manifest).encode()

    return made


def in_a_run(**change):
    def made(raw):
        manifest = json.loads(raw)
        manifest["runs"][0].update(change)
        return json.dumps(manifest).encode()

    return made


def in_the_ground(kind, **change):
    """A location or sample of the file with other quantities; Infinity is what a hostile hand writes."""

    def made(raw):
        manifest = json.loads(raw)
        manifest[kind][0].update(change)
        return json.dumps(manifest).encode()

    return made


def one_digit(raw):
    return raw.replace(b'"61.2"', b'"62.2"') if b'"61.2"' in raw else raw.replace(b'"31"', b'"32"')


def last_line_gone(raw):
    return b"".join(raw.splitlines(keepends=True)[:-1])


DAMAGES = {
    "a reading changed on the way": ("tapes/", lambda raw: raw.replace(b'"value"', b'"valve"'), False),
    "a reading changed with its hash mended": ("tapes/", lambda raw: raw.replace(b'"AT"', b'"BL"'), True),
    "the end of a tape cut off": ("tapes/", last_line_gone, True),
    "a tape of nothing": ("tapes/", lambda raw: b"", True),
    "a tape that is no JSON": ("tapes/", lambda raw: b"{", True),
    "another picture": ("photographs/", lambda raw: raw + b"x", True),
    "another format": (MANIFEST, told(format="vadum job 99"), False),
    "no runs told of": (MANIFEST, told(runs=None), False),
    "a file too many": (MANIFEST, told(files={}), False),
    "a state that does not travel": (MANIFEST, in_a_run(state="practice"), False),
    "a check that the tape holds and the manifest does not": (MANIFEST, in_a_run(state="signed"), False),
    "a run set aside by the manifest alone": (MANIFEST, in_a_run(state="aside"), False),
    "another school than it was begun by": (MANIFEST, in_a_run(school="moist"), False),
    "another code than it was begun with": (MANIFEST, in_a_run(code="LL-77"), False),
    "bound to another sample": (MANIFEST, in_a_run(bound_sample=4711), False),
    "a method nobody knows": (MANIFEST, in_a_run(method="alchemy"), False),
    "a column nobody knows": (MANIFEST, told(owed=[{"sample_id": 1, "colour": "red"}]), False),
    "a sample nobody knows": (MANIFEST, in_a_run(sample_id=77), False),
    "a run without its number": (MANIFEST, in_a_run(number="many"), False),
    "a manifest that is a list": (MANIFEST, lambda raw: b"[]", False),
    "people that are none": (MANIFEST, told(people=7), False),
    "an easting without end": (MANIFEST, in_the_ground("spots", easting_m=float("inf")), False),
    "a northing that is no number": (MANIFEST, in_the_ground("spots", northing_m=float("nan")), False),
    "a depth that no hole has": (MANIFEST, in_the_ground("spots", depth_m=1e308), False),
    "a sample as deep as the earth": (MANIFEST, in_the_ground("samples", depth_top_m=1e9), False),
    "a mass below nothing": (MANIFEST, in_the_ground("samples", mass_g=-4), False),
    "a schedule of a test nobody knows": (
        MANIFEST,
        told(owed=[{"sample_id": 1, "method": "alchemy", "due_on": "2026-05-20"}]),
        False,
    ),
    "a schedule at the end of time": (
        MANIFEST,
        told(owed=[{"sample_id": 1, "method": "sieve", "due_on": "9999-12-31"}]),
        False,
    ),
    "a procedure nobody has": (MANIFEST, told(schools=[{"method": "sieve", "school": "by_eye"}]), False),
}


@pytest.mark.parametrize("damage", DAMAGES.values(), ids=DAMAGES.keys())
def test_a_file_that_was_changed_brings_in_nothing(full, other, damage):
    name, change, mend = damage
    with pytest.raises(ArchiveError):
        bring(other, changed(exported(full), name, change, mend=mend))
    nothing_came(other)


@pytest.mark.parametrize("content", [b"", b"PK", b"not a zip at all", picture()])
def test_what_is_no_zip_is_refused(other, content):
    with pytest.raises(ArchiveError):
        bring(other, content)
    nothing_came(other)


def test_a_zip_that_unfolds_without_end_is_refused_before_it_is_read(other):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(MANIFEST, b"0" * 60_000_000)
    with pytest.raises(ArchiveError, match="unfolds"):
        bring(other, out.getvalue())


def flipped(content, bit):
    found = bytearray(content)
    found[bit // 8] ^= 1 << bit % 8
    return bytes(found)


def test_a_bit_flipped_or_an_end_cut_off_is_refused_or_changes_nothing(full):
    """120 flips spread over the file and 40 cuts: what opens at all holds the very tapes and pictures it held."""
    content = exported(full)
    whole = [c.tape for c in job_file.opened(content).runs]
    step = len(content) * 8 // 120
    damaged = [flipped(content, n * step + n % 8) for n in range(120)]
    damaged += [content[: n * len(content) // 40] for n in range(40)]
    refused = 0
    for one in damaged:
        try:
            assert [c.tape for c in job_file.opened(one).runs] == whole
        except ArchiveError:
            refused += 1
    assert refused > 140


def with_more(content, names):
    """The archive with further files, each told of in its manifest."""
    out = io.BytesIO(content)
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        manifest = json.loads(archive.read(MANIFEST))
        kept = {i.filename: archive.read(i) for i in archive.infolist() if i.filename != MANIFEST}
    kept |= dict.fromkeys(names, b"")
    manifest["files"] |= {name: hashlib.sha256(b"").hexdigest() for name in names}
    with zipfile.ZipFile(out, "w") as archive:
        for name, raw in (kept | {MANIFEST: json.dumps(manifest).encode()}).items():
            archive.writestr(name, raw)
    return out.getvalue()


@pytest.mark.parametrize("name", ["../../bench.html", "/etc/passwd", "tapes/../x.jsonl", "C:\\x.jpg", "tapes/1.jsonl/"])
def test_a_name_that_leads_elsewhere_is_refused(full, name):
    with pytest.raises(ArchiveError, match="no part of a job"):
        job_file.opened(with_more(exported(full), [name]))


def test_more_files_than_a_job_can_hold_are_refused(full):
    names = [f"raw/{n}.jsonl" for n in range(1000, 21_000)]
    with pytest.raises(ArchiveError, match="more than a job"):
        job_file.opened(with_more(exported(full), names))


def test_a_picture_that_would_not_print_is_refused(full):
    """Every picture of a file is drawn once before it comes in: a broken one, one of a thousand million points."""
    content = exported(full)

    def grey(raw):
        out = io.BytesIO()
        Image.open(io.BytesIO(raw)).convert("CMYK").save(out, "JPEG")
        return out.getvalue()

    for change in (grey, lambda raw: raw[: len(raw) // 2], lambda raw: b"\xff\xd8\xff" + raw[3:200]):
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            name = next(n for n in archive.namelist() if n.startswith("photographs/"))
            raw = change(archive.read(name))
        with pytest.raises(FieldError):
            pictures.size_of_kept(raw)
        with pytest.raises(ArchiveError):
            job_file.opened(changed(content, name, lambda _, raw=raw: raw, mend=True))


def test_the_kit_travels_as_it_was_and_enters_no_register(full, other):
    content = exported(full)
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        kit = json.loads(archive.read("kit.json"))
    assert {(k["kind"], k["code"]) for k in kit} >= {("tin", "31")}
    assert kit[0]["history"][0]["data"]["mass_g"] > 0
    with other.database.reading() as session:
        before = session.execute(select(KitItem)).all()
    bring(other, content)
    with other.database.reading() as session:
        assert len(session.execute(select(KitItem)).all()) == len(before)
