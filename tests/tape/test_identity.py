"""The laboratory on its paper: marks that reach nowhere, units and signs that change nothing stored, schools by job."""

import io
import re

import pytest
from PIL import Image

from tests.tape.test_tape import signed
from vadum.paper.drawn_mark import drawable
from vadum.paper.open_data import as_json
from vadum.paper.printed import chart_svg, pdf
from vadum.paper.sheet import sheet_of
from vadum.soil.contract.errors import FieldError, UnknownName
from vadum.soil.contract.shown import shown_values
from vadum.soil.contract.shown_units import CUSTOMARY, SI, STRESSES, Style, converted, in_decimals, reported_as
from vadum.soil.register import METHODS
from vadum.tape import identity, people, runs, signatures
from vadum.tape.identity import NewIdentity
from vadum.web.decimal_sign import page_in_decimals

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M0 0h9v9z" fill="#a8431a"/></svg>'
WHOLE = NewIdentity(
    name="Underford",
    address="The Old Ferry House\nUnderford",
    contact="bench@underford.example",
    accreditation="T 114",
    units="US",
    stress="psi",
    decimal=",",
    dates="2026-05-12",
)


def sheet(lab, code, *, data=False):
    with lab.database.reading() as session:
        read = runs.compute(runs.find(session, code), runs.read_tape(session, runs.find(session, code).id))
        who = identity.identity(session)
        who = who._replace(style=SI) if data else who
        place = runs.place_of(session, read.run)
        return read, sheet_of(read, place, people.by_initials(session), lab.clock.now(), None, who)


def be(lab, new=WHOLE):
    with lab.database.writing("MR") as session:
        identity.be(session, new)


def png(mode="RGBA"):
    out = io.BytesIO()
    Image.new(mode, (40, 20)).save(out, "PNG")
    return out.getvalue()


def test_the_paper_says_who_and_for_whom_and_which_sheet_it_is(lab):
    be(lab)
    with lab.database.writing("MR") as session:
        identity.set_accredited(session, "water_content", True)
        identity.set_mark(session, "mark", identity.sound_mark(SVG))
        identity.set_mark(session, "accreditation", identity.sound_mark(png()))
    code = signed(lab)
    _, made = sheet(lab, code)
    head = made.letterhead
    assert (head.name, head.lines) == ("Underford", ("The Old Ferry House", "Underford", "bench@underford.example"))
    assert (head.accredited, head.mark, head.accreditation_mark) == (True, "mark.svg", "accreditation.png")
    assert made.number == f"{code}/1"
    assert re.fullmatch(r"2026-\d\d-\d\d \d\d:\d\d", made.printed)


def test_a_sheet_that_is_signed_anew_is_another_sheet(lab):
    code = signed(lab)
    with lab.database.writing() as session:
        run = runs.find(session, code)
        end = signatures.tape_end(session, run)
        signatures.reopen(session, run, lab.person("AT"), lab.clock.now(), end, "a digit")
    assert sheet(lab, code)[1].number == f"{code}/1"
    assert sheet(lab, code)[1].replaces == ""
    lab.sign(code)
    assert sheet(lab, code)[1].number == f"{code}/2"
    assert sheet(lab, code)[1].replaces == f"Replaces sheet {code}/1: a digit. No reported value changed."


def test_a_sheet_that_replaces_another_says_what_changed(lab):
    code = signed(lab)
    lab.reopen(code, reason="tare read wrongly")
    lab.post(code, "mass_tin_g", "22.10")
    lab.sign(code, reason="as it stands")
    words = sheet(lab, code)[1].replaces
    assert words.startswith(f"Replaces sheet {code}/1: tare read wrongly. ")
    assert "Water content, %: 25.0 before, not reported now" in words, "that tare is another tin's"


def test_the_pdf_carries_marks_number_and_pages(lab):
    be(lab)
    with lab.database.writing("MR") as session:
        identity.set_mark(session, "mark", identity.sound_mark(SVG))
        identity.set_mark(session, "accreditation", identity.sound_mark(png()))
    read, made = sheet(lab, signed(lab))
    assert pdf(made, chart_svg(read, made.style), {}, {"mark.svg": SVG}).startswith(b"%PDF")
    assert pdf(made, chart_svg(read, made.style), {}, {}).startswith(b"%PDF"), (
        "a mark that is gone leaves its place empty"
    )


def test_units_and_signs_are_shown_and_nothing_stored_changes(lab):
    code = signed(lab)
    read, plain = sheet(lab, code)
    be(lab)
    after, shown = sheet(lab, code)
    assert after.outcome == read.outcome
    assert [e.hash for e in after.entries] == [e.hash for e in read.entries]
    assert shown.values[0].reported == plain.values[0].reported.replace(".", ",")
    assert any("," in cell for table in shown.tables for row in table.rows for cell in row)
    assert shown.units.startswith("Results in US customary units (psi")
    data = as_json(*sheet(lab, code, data=True))
    assert plain.values[0].reported in data, "files for programs keep SI units and points"


@pytest.mark.parametrize("its", METHODS.values(), ids=METHODS.keys())
def test_every_value_is_shown_in_customary_units_and_says_the_same(its):
    school = its.school()
    outcome = its.read(its.virtual(3, school, None).record, school).outcome
    for stress in STRESSES:
        style = Style("US", stress)
        for si, us in zip(shown_values(outcome, its.leads), shown_values(outcome, its.leads, style), strict=True):
            stored = outcome.value(si.key)
            other = STRESSES[stress] if si.unit == "kPa" else CUSTOMARY.get(si.unit)
            if other is None or us.unit == si.unit:
                assert us == si
                continue
            assert us.unit == other.sign
            wanted = converted(stored.value, other)
            digits = len(us.reported.partition(".")[2])
            figure = float(re.sub(r"[^\d.eE+-]", "", us.reported) or "nan")
            assert abs(figure - wanted) <= max(0.51 * 10.0**-digits, 0.051 * abs(wanted)), (si, us)


@pytest.mark.parametrize(
    ("reported", "unit", "shown"),
    [
        ("1.95", "Mg/m³", "121.7"),
        ("19.08", "kN/m³", "121.46"),
        ("25.4", "mm", "1.000"),
        ("100", "kPa", "2090"),
        ("22.0", "mm/h", "0.866"),
        ("0.305", "m", "1.001"),
        ("NP", "mm", None),
        ("4 or 5", "mm", None),
        ("12 % at 2.5 mm", "mm", None),
    ],
)
def test_a_reported_figure_in_another_unit_by_a_known_pair(reported, unit, shown):
    other = STRESSES["psf"] if unit == "kPa" else CUSTOMARY[unit]
    assert reported_as(reported, None, other) == shown


def test_pairs_that_everybody_knows():
    assert converted(6.894757, STRESSES["psi"]) == pytest.approx(1.0, rel=1e-6)
    assert converted(95.7605, STRESSES["tsf"]) == pytest.approx(1.0, rel=1e-5)
    assert converted(1.0, CUSTOMARY["Mg/m³"]) == pytest.approx(62.428, rel=1e-5)
    assert converted(9.80665, CUSTOMARY["kN/m³"]) == pytest.approx(62.428, rel=1e-5)
    assert converted(-40.0, CUSTOMARY["°C"]) == pytest.approx(-40.0)
    assert converted(4.448222, CUSTOMARY["N"]) == pytest.approx(1.0, rel=1e-6)
    assert converted(0.271447, CUSTOMARY["MN/m³"]) == pytest.approx(1.0, rel=1e-5)
    assert converted(0.45359237, CUSTOMARY["kg"]) == pytest.approx(1.0, rel=1e-9)


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("41.2 > 38.9", "41,2 > 38,9"),
        ("-0.5 %", "-0,5 %"),
        ("± 0.21", "± 0,21"),
        ("12.05.2026", "12.05.2026"),
        ("10:21:18", "10:21:18"),
        ("LL-01.2", "LL-01.2"),
        ("S0.425", "S0.425"),
        ("ASTM D6913, 4.75", "ASTM D6913, 4.75"),
        ("v1.2.3", "v1.2.3"),
        ("end of 3.", "end of 3."),
        ("12.5kg", "12.5kg"),
    ],
)
def test_only_figures_change_their_sign(text, shown):
    assert in_decimals(text, ",") == shown
    assert in_decimals(text, ".") == text


def test_a_page_keeps_its_points_where_a_program_reads():
    html = '<input value="1.5"><svg><path d="M1.5 2.5"/><text x="1.5">1.5</text></svg>'
    html += "<script>1.5</script><code>1.5</code>1.5"
    wanted = html.replace(">1.5</text>", ">1,5</text>").removesuffix("1.5") + "1,5"
    assert page_in_decimals(html, ",") == wanted


BAD = {
    "a script": SVG.replace(b"<path", b"<script>alert(1)</script><path"),
    "a handler": SVG.replace(b"<path", b'<path onload="alert(1)"'),
    "a picture from elsewhere": SVG.replace(b"<path", b'<image href="http://example.com/x.png"/><path'),
    "an address in a style": SVG.replace(b"<path", b"<style>path{fill:url(http://example.com/x)}</style><path"),
    "an import": SVG.replace(b"<path", b"<style>@import 'x.css'</style><path"),
    "a link out": SVG.replace(b"<path", b'<use href="http://example.com/x.svg#a"/><path'),
    "a document type": b"<!DOCTYPE svg [<!ENTITY a 'aaaa'>]>" + SVG,
    "a foreign object": SVG.replace(b"<path", b"<foreignObject/><path"),
    "no svg": b"<html></html>",
    "nothing that is drawn": b"hello",
    "half a PNG": png()[:30],
    "too large": b"\x89PNG" + b"0" * 400_000,
}


@pytest.mark.parametrize("content", BAD.values(), ids=BAD.keys())
def test_a_mark_that_reaches_out_or_is_no_picture_is_refused(lab, content):
    with lab.database.writing("MR") as session, pytest.raises(FieldError) as refused:
        identity.set_mark(session, "mark", identity.sound_mark(content))
    assert refused.value.field == "file"


# Sound to a reader of XML, and drawn by nobody.
UNDRAWABLE = {
    "a size that is none": b'<svg xmlns="http://www.w3.org/2000/svg" width="wide" height="-1"/>',
    "no size at all": b'<svg xmlns="http://www.w3.org/2000/svg" width="0" height="0"><path d="M0 0h1"/></svg>',
}


@pytest.mark.parametrize("content", UNDRAWABLE.values(), ids=UNDRAWABLE.keys())
def test_a_mark_that_cannot_be_drawn_is_refused_when_it_is_set(content):
    with pytest.raises(FieldError, match="drawn"):
        drawable(content)


def test_a_mark_that_can_be_drawn_is_taken():
    assert drawable(SVG).suffix == "svg"
    assert drawable(png()).suffix == "png"


def test_uses_within_uses_are_ended_before_they_take_the_machine():
    """Ten uses of ten uses, twelve times over: a drawing of a million million shapes in two thousand characters."""
    uses = [f'<use href="#g{i}"/>' * 10 for i in range(12)]
    layers = "".join(f'<g id="g{i + 1}">{use}</g>' for i, use in enumerate(uses))
    shape = '<g id="g0"><path d="M0 0h1v1z"/></g>'
    bomb = f'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9">{shape}{layers}</svg>'
    with pytest.raises(FieldError):
        drawable(bomb.encode())


def test_a_mark_of_an_older_database_that_cannot_be_drawn_stops_no_sheet(lab):
    bad = UNDRAWABLE["a size that is none"]
    with lab.database.writing("MR") as session:
        identity.set_mark(session, "mark", identity.SoundMark("image/svg+xml", bad))
    read, made = sheet(lab, signed(lab))
    assert made.letterhead.mark == "mark.svg"
    assert pdf(made, chart_svg(read, made.style), {}, {"mark.svg": bad}).startswith(b"%PDF")


def test_a_mark_is_taken_exchanged_and_taken_away(lab):
    for content, suffix in ((SVG, "svg"), (png("P"), "png")):
        with lab.database.writing("MR") as session:
            identity.set_mark(session, "mark", identity.sound_mark(content))
            assert identity.identity(session).marks["mark"].suffix == suffix
    with lab.database.writing("MR") as session:
        identity.set_mark(session, "mark", None)
        assert identity.identity(session).marks == {}
        with pytest.raises(FieldError):
            identity.set_mark(session, "flag", identity.sound_mark(SVG))


def test_a_person_has_the_laboratorys_way_until_they_choose_their_own(lab):
    be(lab)
    me = lab.person("AT")
    with lab.database.writing() as session:
        assert identity.style_of(session, me) == Style("US", "psi", ",", "2026-05-12")
        identity.like(session, me, "units", "SI")
        identity.like(session, me, "decimal", ".")
        assert identity.style_of(session, me) == Style("SI", "psi", ".", "2026-05-12")
        assert identity.style_of(session, lab.person("BL")).units == "US"
        identity.like(session, me, "units", "")
        assert identity.style_of(session, me).units == "US"
        for key, value in (("colour", "red"), ("units", "cubits"), ("decimal", ";")):
            with pytest.raises(FieldError):
                identity.like(session, me, key, value)


def test_the_jobs_school_goes_before_the_laboratorys_and_that_before_the_first(lab):
    its = METHODS["liquid_limit"]
    first, second, third = list(its.schools)[:3]
    place = lab.place()
    with lab.database.writing("MR") as session:
        assert identity.schools_of(session, place.job)["liquid_limit"] == first
        identity.set_school(session, "liquid_limit", second)
        assert identity.schools_of(session, place.job)["liquid_limit"] == second
        identity.set_job_school(session, place.job, "liquid_limit", third)
        assert identity.schools_of(session, place.job)["liquid_limit"] == third
        assert identity.schools_of(session, None)["liquid_limit"] == second
        for wrong in (("liquid_limit", "alchemy"), ("alchemy", "")):
            with pytest.raises(UnknownName):
                identity.set_school(session, *wrong)
    code = lab.start("liquid_limit")
    assert lab.read(code).school.name == third
    with lab.database.writing("MR") as session:
        identity.set_job_school(session, place.job, "liquid_limit", "")
        identity.set_school(session, "liquid_limit", "")
        assert identity.schools_of(session, place.job)["liquid_limit"] == first
