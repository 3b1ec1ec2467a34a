"""Tables in: every separator and both decimal signs; a wrong cell named by line and column; all or nothing."""

import pytest

from vadum.soil.contract.errors import FieldError
from vadum.soil.methods.sieve import METHOD as SIEVE
from vadum.soil.methods.sieve.record import Limit, Sieve
from vadum.tape import runs, table_import
from vadum.tape.table_import import Asked, bring_in, guessed
from vadum.tape.typed_table import TableError, take_apart


def asked(text, rows="sieves", **more):
    return Asked(rows=rows, text=text, **more)


def bring(lab, code, table):
    """As the page does it: undone as a whole when anything is wrong."""
    wrong = ()
    try:
        with lab.database.writing() as session:
            found, wrong = bring_in(session, runs.find(session, code), table, lab.person("AT"), lab.clock.now())
            if wrong:
                raise RuntimeError("undone")
    except RuntimeError:
        return None, wrong
    return found, wrong


@pytest.fixture
def code(lab):
    made = lab.start("sieve", "aashto_soil")
    lab.post(made, "mass_total_g", "500")
    return made


GOOD = "sieve mm;retained g\n19;0\n9,5;0\n4,75;10,5\n2;50\n0,425;120\n0,25;90\n0,106;110\n0,075;60\npan;59,3\n"


@pytest.mark.parametrize(
    "text",
    [
        GOOD,
        GOOD.replace(";", "\t"),
        GOOD.replace(",", ".").replace(";", ","),
        GOOD.replace(",", ".").replace(";", " | "),
        GOOD.replace("\n", "\r\n"),
        "\ufeff" + GOOD,
        GOOD.replace("sieve mm", "aperture").replace("retained g", "retained").replace(";", "   "),
    ],
    ids=["semicolons", "tabs", "commas", "bars", "windows", "bom", "spaces"],
)
def test_a_table_fills_the_sieves_that_stand_and_the_pan(lab, code, text):
    _found, wrong = bring(lab, code, asked(text, source="balance.csv"))
    assert wrong == ()
    read = lab.read(code)
    assert [s.mass_retained_g for s in read.folded.record.sieves] == [0, 0, 10.5, 50, 120, 90, 110, 60]
    assert read.folded.record.mass_pan_g == 59.3
    kept = read.folded.came_from["sieves[2].mass_retained_g"]
    assert kept.source == "import: balance.csv"
    assert kept.value in ("10,5", "10.5"), "the digits stay as they came"


def test_a_wrong_cell_is_named_with_its_line_and_column_and_nothing_is_kept(lab, code):
    before = lab.read(code).entries
    text = GOOD.replace("120", "12,x").replace("110", "")
    _, wrong = bring(lab, code, asked(text))
    assert [(w.line, w.column) for w in wrong] == [(6, "retained g")]
    assert "'12,x' is not a number" in wrong[0].problem
    assert lab.read(code).entries == before


def test_a_line_that_physics_forbids_is_named_and_kept_only_when_insisted_on(lab, code):
    text = GOOD.replace("\n2;50\n", "\n2;-50\n")
    _, wrong = bring(lab, code, asked(text))
    assert wrong[0].line == 5
    assert "-50" in wrong[0].problem
    assert lab.read(code).folded.record.mass_pan_g is None
    _, wrong = bring(lab, code, asked(text, insist=True))
    assert wrong == ()
    assert lab.read(code).outcome.worst() == "stop"


def test_a_sieve_that_has_its_mass_already_is_not_written_over(lab, code):
    lab.post(code, "sieves[3].mass_retained_g", "48")
    _, wrong = bring(lab, code, asked(GOOD))
    assert [(w.line, w.problem) for w in wrong] == [(5, "2 mm has retained already; strike it first")]


@pytest.mark.parametrize(
    ("text", "line", "problem"),
    [
        (GOOD + "4.75;3\n", 11, "4.75 mm stands twice in this table"),
        (GOOD + "pan;3\n", 11, "the pan stands twice in this table"),
        ("mm;g\npan;\n", 2, "the pan has no reading"),
    ],
)
def test_what_stands_twice_or_has_no_mass_is_named(lab, code, text, line, problem):
    _, wrong = bring(lab, code, asked(text))
    assert [(w.line, w.problem) for w in wrong] == [(line, problem)]
    assert lab.read(code).folded.record.mass_pan_g is None


def test_a_pan_that_has_its_mass_is_not_written_over(lab, code):
    lab.post(code, "mass_pan_g", "4")
    _, wrong = bring(lab, code, asked("mm;g\npan;5\n"))
    assert "strike it first" in wrong[0].problem


def test_a_pan_in_a_specification_is_no_number(lab, code):
    _, wrong = bring(lab, code, asked("size;min;max\npan;0;3\n", rows="envelope"))
    assert [(w.line, w.column) for w in wrong] == [(2, "size")]


def test_an_unknown_aperture_becomes_a_new_row(lab, code):
    bring(lab, code, asked("mm;g\n0,6;33,1\n"))
    record = lab.read(code).folded.record
    assert (record.sieves[8].aperture_mm, record.sieves[8].mass_retained_g) == (0.6, 33.1)


def test_a_specification_is_pasted_with_its_limits(lab, code):
    bring(lab, code, asked("size\tmin\tmax\n4.75\t85\t100\n0.075\t0\t10\n", rows="envelope"))
    assert lab.read(code).folded.record.envelope == (
        Limit(aperture_mm=4.75, least_percent=85, most_percent=100),
        Limit(aperture_mm=0.075, least_percent=0, most_percent=10),
    )


def test_readings_of_a_cylinder_come_by_their_own_minutes(lab):
    code = lab.start("hydrometer", "d422")
    text = "time min;reading;temp\n2;34,0;20,1\n5;30,5;20,1\n"
    _, wrong = bring(lab, code, asked(text, rows="readings"))
    assert wrong == ()
    rows = lab.read(code).folded.record.readings
    assert [(r.elapsed_min, r.reading_g_l, r.temperature_c) for r in rows] == [(2, 34, 20.1), (5, 30.5, 20.1)]


def test_a_match_is_remembered_for_the_next_table_with_these_heads(lab):
    first, second = lab.start("sieve", "aashto_soil"), lab.start("sieve", "aashto_soil")
    odd = "A;B\n19;1\n9,5;2\n"
    columns = ("aperture_mm", "mass_retained_g")
    with lab.database.reading() as session:
        read = lab.read(first)
        assert table_import.remembered(session, read.method, "sieves", take_apart(odd)) is None
    bring(lab, first, asked(odd, columns=columns))
    with lab.database.reading() as session:
        read = lab.read(second)
        found = table_import.preview(session, read, asked("A;B\n4,75;3\n"))
        assert found.fields == columns
        other = table_import.preview(session, read, asked("A;C\n4,75;3\n"))
        assert table_import.remembered(session, read.method, "sieves", other.cells) is None


def test_a_match_is_not_remembered_from_a_table_that_was_undone(lab, code):
    bring(lab, code, asked("A;B\n19;x\n", columns=("aperture_mm", "mass_retained_g")))
    with lab.database.reading() as session:
        assert table_import.remembered(session, lab.read(code).method, "sieves", take_apart("A;B\n1;2")) is None


@pytest.mark.parametrize(
    ("text", "more", "field"),
    [
        ("  \n \n", {}, "text"),
        ("\n".join(["mm;g", *("1;2" for _ in range(600))]), {}, "text"),
        (GOOD, {"columns": ("aperture_mm",)}, "columns"),
        (GOOD, {"columns": ("aperture_mm", "aperture_mm")}, "columns"),
        (GOOD, {"columns": ("", "")}, "columns"),
        (GOOD, {"columns": ("aperture_mm", "colour")}, "columns"),
    ],
)
def test_a_table_that_cannot_be_read_says_why(lab, code, text, more, field):
    with lab.database.reading() as session, pytest.raises(TableError) as told:
        table_import.preview(session, lab.read(code), asked(text, **more))
    assert told.value.field == field


def test_a_list_that_the_method_does_not_have_is_refused(lab, code):
    with lab.database.reading() as session, pytest.raises(FieldError, match="sieves, envelope"):
        table_import.preview(session, lab.read(code), asked(GOOD, rows="weighings"))


def test_an_empty_row_is_named_and_a_column_without_a_head_is_not_used(lab, code):
    _, wrong = bring(lab, code, asked("mm;g\n19;1;9\n;\n"))
    assert [(w.line, w.problem) for w in wrong] == [(3, "the row is empty")]
    assert take_apart("mm;g\n19;1;9\n").heads == ("mm", "g", "column 3")


def test_thousands_are_not_guessed_at(lab, code):
    _, wrong = bring(lab, code, asked("mm;g\n19;1.234,5\n"))
    assert "two decimal signs" in wrong[0].problem


@pytest.mark.parametrize(
    ("heads", "fields"),
    [
        ("aperture;retained", ("aperture_mm", "mass_retained_g")),
        ("Sieve size (mm);Weight retained (g)", ("aperture_mm", "mass_retained_g")),
        ("mass_retained_g;aperture_mm", ("mass_retained_g", "aperture_mm")),
        ("opening;note;mass", ("aperture_mm", "", "mass_retained_g")),
    ],
)
def test_columns_are_matched_by_their_heads(heads, fields):
    row = ";".join("1" for _ in fields)
    assert guessed(take_apart(f"{heads}\n{row}"), Sieve, SIEVE.synonyms) == fields


def test_without_heads_the_fields_own_order_stands():
    cells = take_apart("19;0\n9,5;4")
    assert cells.heads == ("column 1", "column 2")
    assert guessed(cells, Sieve, SIEVE.synonyms) == ("aperture_mm", "mass_retained_g")
