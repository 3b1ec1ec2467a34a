"""Lists that are pasted: read alike whatever they list, seen before they are made, made whole, undone whole."""

from datetime import date

import pytest
from sqlalchemy import select

from tests.serving import AT
from vadum.soil.contract.errors import FieldError
from vadum.soil.register import METHODS
from vadum.tape import find, ground, kit, pasted_kinds, pasted_plan, runs, schedule
from vadum.tape.audit import audit
from vadum.tape.pasted_kinds import KINDS
from vadum.tape.pasted_list import day_of, read_list
from vadum.tape.pasted_plan import Doer
from vadum.tape.runs import NotAllowed
from vadum.tape.tables import Job, LedgerLine, Owed

TINS = KINDS["tins"].columns


@pytest.mark.parametrize(
    "text",
    [
        "41;21.37;aluminium, 60 mL\n42;20.98;aluminium, 60 mL",
        "41\t21,37\taluminium, 60 mL\r\n42\t20,98\taluminium, 60 mL\r\n",
        "41 | 21.37 | aluminium, 60 mL\n42 | 20.98 | aluminium, 60 mL",
        "41 21.37 aluminium, 60 mL\n\n42 20.98 aluminium, 60 mL",
        'tin,mass (g),what it is\n41,21.37,"aluminium, 60 mL"\n42,20.98,"aluminium, 60 mL"',
        "what;tin number;empty mass, kg\naluminium, 60 mL;41;0,02137\naluminium, 60 mL;42;0,02098",
    ],
)
def test_separators_signs_heads_and_units_give_the_same_list(text):
    listed = read_list(TINS, text)
    assert not listed.problems
    assert not listed.asks
    assert [line.values for line in listed.lines] == [
        {"code": "41", "mass_g": "21.37", "title": "aluminium, 60 mL"},
        {"code": "42", "mass_g": "20.98", "title": "aluminium, 60 mL"},
    ]


def test_a_head_that_names_no_column_is_shown_as_not_used():
    listed = read_list(TINS, "number;mass kg;colour\n41;0.02137;red")
    assert listed.unused == ("colour",)
    assert listed.lines[0].values == {"code": "41", "mass_g": "21.37"}


def test_a_head_without_its_unit_is_asked_about_and_never_guessed():
    listed = read_list(TINS, "number;mass\n41;0.02137")
    assert [(c.key, q) for c, q in listed.asks] == [("mass_g", "no unit given: is it g?")]
    with pytest.raises(FieldError, match="mass: no unit given"):
        listed.refuse()
    assert read_list(TINS, "number;mass\n41;0.02137", {"mass_g": "kg"}).lines[0].values["mass_g"] == "21.37"


def doer(lab, session, due_on=None):
    return Doer(session, session.get(Job, 1), lab.person("BL"), AT, due_on)


def made(lab, name, text, due_on=None):
    with lab.database.writing("BL") as session:
        return pasted_kinds.make(KINDS[name], text, doer(lab, session, due_on), {})


def does(lab, name, text, due_on=None):
    with lab.database.reading() as session:
        result, _ = pasted_kinds.look(KINDS[name], text, doer(lab, session, due_on), {})
    return list(result.does.values())


def undone(lab, result):
    with lab.database.writing("BL") as session:
        return pasted_kinds.undo(session, result, lab.person("BL"), AT)


def test_tins_are_registered_weighed_again_and_taken_back(lab):
    text = "number;mass g;what\n41;21.37;aluminium\n42;20,98\n43\n12;21.41"
    assert does(lab, "tins", text) == ["new", "new", "new, not weighed yet", "weighed again: 21.37 g before"]
    result = made(lab, "tins", text)
    tares = lambda: [kit_state(lab, code).tare_g for code in ("41", "42", "43", "12")]  # noqa: E731
    assert tares() == [21.37, 20.98, None, 21.41]
    assert undone(lab, result) == 4
    assert kit_state(lab, "12").tare_g == 21.37
    assert kit_state(lab, "41").item.retired_at is not None
    assert does(lab, "tins", "41;21.40") == ["weighed again: 21.37 g before"]
    again = made(lab, "tins", "41;21.40")
    assert kit_state(lab, "41").item.retired_at is None
    undone(lab, again)
    assert kit_state(lab, "41").item.retired_at is not None, "it was out of use before"


def kit_state(lab, code):
    with lab.database.reading() as session:
        return kit.state(session, kit.find(session, "tin", code), AT.date())


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("tins", "", "is empty"),
        ("tins", "number;mass g", "headings but no lines"),
        ("tins", "41;21.3\n41;20", "line 2: tin 41 appears twice, first on line 1"),
        ("tins", "41;heavy", "line 1: mass: "),
        ("tins", "41;21.3\n42;-4", "line 2"),
        ("tins", "4/1;21.3", "line 1"),
        ("tins", "l2;20", "line 1: .*'l2' looks like '12'"),
        ("tins", "\n".join(f"{i};20" for i in range(100, 700)), "at most 500"),
        ("schedule", "B1;sieve\nT9;sieve", "line 2: .*'T9' is not a sample"),
        ("schedule", "B1;sieve\nB1;alchemy", "line 2: Test not recognised: 'alchemy'"),
        ("schedule", "B1;sieve;31.02.2026", "line 1: due: '31.02.2026' is not a day"),
        ("locations", "TP8;crater", "line 1: kind: "),
        ("samples", "TP99;B1", "line 1: .*TP99 is not a location"),
        ("samples", "TP1;B7;2.5;2.0", "line 1: depth base: lies above"),
    ],
)
def test_a_list_that_is_wrong_is_refused_whole_by_its_line(lab, name, text, says):
    with pytest.raises(FieldError, match=says):
        made(lab, name, text, date(2026, 5, 20))
    with lab.database.reading() as session:
        assert len(kit.states(session, AT.date())) == 4


PITS = "location;kind;easting (m);depth (cm)\nTP8;test pit;402,5;350\nBH2;borehole;410;1200"


def test_locations_and_their_samples_come_from_lists_and_go_again(lab):
    spots = made(lab, "locations", PITS)
    with lab.database.reading() as session:
        found = {s.code: s for s in ground.spots_of(session, session.get(Job, 1))}
    assert (found["TP8"].easting_m, found["TP8"].depth_m, found["BH2"].kind) == (402.5, 3.5, "borehole")
    text = "TP8;B1;1.2;1.5;bag;9000\ntp8;T1;2.0;2.4;tube"
    assert does(lab, "samples", text) == ["new sample of TP8"] * 2
    samples = made(lab, "samples", text)
    with pytest.raises(NotAllowed, match="2 samples"):
        undone(lab, spots)
    assert undone(lab, samples) == 2
    assert undone(lab, spots) == 2
    with lab.database.reading() as session:
        assert not {"TP8", "BH2"} & {s.code for s in ground.spots_of(session, session.get(Job, 1))}


def test_what_was_used_meanwhile_is_not_taken_back(lab):
    samples = made(lab, "samples", "TP1;B9;1.2;1.5;bag")
    with lab.database.writing("BL") as session:
        place = ground.place(session, samples[0].id)
        runs.start(session, place, "sieve", None, lab.person("BL"), AT)
    with pytest.raises(NotAllowed, match="1 run"):
        undone(lab, samples)


def test_a_schedule_comes_as_lines_or_as_a_grid_and_is_taken_back(lab):
    due = date(2026, 5, 20)
    lines = made(lab, "schedule", "sample;test;by\nB1;liquid limit;2026-05-19\nTP1 B1;SV;", due)
    grid = made(lab, "schedule", "sample\tLiquid limit\tPlastic limit\nB1\tx\t22.05.2026", due)
    assert [m.former_due_on for m in grid] == [date(2026, 5, 19), None]
    assert owed(lab) == {"liquid_limit": due, "sieve": due, "plastic_limit": date(2026, 5, 22)}
    undone(lab, grid)
    assert owed(lab) == {"liquid_limit": date(2026, 5, 19), "sieve": due}
    undone(lab, lines)
    assert owed(lab) == {}


def owed(lab):
    with lab.database.reading() as session:
        return {row.method: row.due_on for row, _ in schedule.owed(session)}


def test_days_are_read_as_laboratories_write_them():
    assert day_of("2026-05-19") == day_of("19.5.2026") == date(2026, 5, 19)
    with pytest.raises(ValueError, match="not a day"):
        day_of("05/19/2026")


def test_every_kind_of_list_names_its_columns_once():
    for kind in KINDS.values():
        labels = [column.label for column in kind.columns]
        assert len(labels) == len(set(labels))
        assert any(column.required for column in kind.columns)
    assert len(METHODS) == 22


def test_a_test_that_stood_withdrawn_stands_withdrawn_again(lab):
    due = date(2026, 5, 20)
    made(lab, "schedule", "B1;sieve", due)
    with lab.database.writing("BL") as session:
        schedule.withdraw(session, schedule.on_sample(session, lab.sample_id, "sieve"), lab.person("BL"), "not needed")
    again = made(lab, "schedule", "B1;sieve", due)
    assert owed(lab) == {"sieve": due}
    undone(lab, again)
    assert owed(lab) == {}
    with lab.database.reading() as session:
        assert schedule.on_sample(session, lab.sample_id, "sieve").withdrawn_because == "not needed"


@pytest.mark.parametrize(("name", "text"), [("tins", "71;20\n7l;21"), ("locations", "TP1O;test pit\nTP10;test pit")])
def test_two_lines_that_look_alike_are_refused_before_anything_is_made(lab, name, text):
    with lab.database.reading() as session:
        result, _ = pasted_kinds.look(KINDS[name], text, doer(lab, session), {})
    assert "looks like" in result.listed.problems[0].problem


def test_only_a_tin_is_weighed_back(lab):
    with lab.database.writing("BL") as session:
        balance = kit.add_item(session, kit.NewItem(kind="balance", code="B7")).id
    with pytest.raises(NotAllowed, match="is not a tin"):
        undone(lab, (pasted_plan.Made(what="tare", id=balance, former_g=20),))


def planned(lab, name, text, due_on=None):
    """What a list comes to, found without the lock."""
    with lab.database.reading() as session:
        return pasted_kinds.plan(KINDS[name], text, doer(lab, session, due_on), {})


def carried(lab, before, name, text, due_on=None):
    again = []

    def anew(session):
        again.append(True)
        return pasted_kinds.plan(KINDS[name], text, doer(lab, session, due_on), {})

    with lab.database.writing("BL") as session:
        locks = KINDS[name].locks(doer(lab, session))
        found = pasted_plan.carry_out(before, session, locks, lambda: anew(session))
    return found, bool(again)


LISTS = {
    "tins": "tin;mass g\n51;21.37\n52;20.98\n12;21.40",
    "locations": "location;depth m\nBH7;3\nBH8;4",
    "samples": "location;sample;top m\nTP1;B2;2\nTP1;B3;3",
    "schedule": "sample;test;due\nTP1 B1;sieve analysis;2026-06-01\nTP1 B1;liquid limit;2026-06-02",
}


@pytest.mark.parametrize("name", LISTS)
def test_a_list_that_was_planned_is_written_as_planned_where_only_readings_came_since(lab, name):
    before = planned(lab, name, LISTS[name])
    code = lab.start("water_content")
    lab.post(code, "mass_tin_g", "21.37")
    found, again = carried(lab, before, name, LISTS[name])
    assert (found, again) == (before.made, False)
    assert audit(lab.database)[1] == []


@pytest.mark.parametrize("name", LISTS)
def test_a_list_is_planned_anew_where_somebody_wrote_in_between(lab, name):
    before = planned(lab, name, LISTS[name])
    made(lab, "tins", "tin;mass g\n99;20")
    made(lab, "locations", "location\nBH99")
    found, again = carried(lab, before, name, LISTS[name])
    assert (len(found), again) == (len(before.made), True)
    assert audit(lab.database)[1] == []


@pytest.mark.parametrize("name", ["tins", "locations", "samples"])
def test_what_another_made_in_between_is_refused_as_ever(lab, name):
    before = planned(lab, name, LISTS[name].replace("12;21.40", "53;20"))
    alike = {"tins": "5l;20", "locations": "BH 7;2", "samples": "TP1;b2;1"}
    made(lab, name, LISTS[name].split("\n")[0] + "\n" + alike[name])
    with pytest.raises(FieldError):
        carried(lab, before, name, LISTS[name])
    assert audit(lab.database)[1] == []


def test_days_of_tests_are_changed_together_and_the_ledger_says_so(lab):
    made(lab, "schedule", LISTS["schedule"])
    later = LISTS["schedule"].replace("2026-06-01", "2026-07-01")
    found, again = carried(lab, planned(lab, "schedule", later), "schedule", later)
    assert (found[0].former_due_on, again) == (date(2026, 6, 1), False)
    with lab.database.reading() as session:
        days = {o.method: o.due_on for o in session.execute(select(Owed)).scalars()}
        words = [line.words for line in session.execute(select(LedgerLine)).scalars() if line.kind == "owed"]
    assert days == {"sieve": date(2026, 7, 1), "liquid_limit": date(2026, 6, 2)}
    assert words == ["", "", "changed due on"]
    assert audit(lab.database)[1] == []


def test_what_was_pasted_is_found_at_once(lab):
    for name in ("tins", "locations", "samples"):
        carried(lab, planned(lab, name, LISTS[name]), name, LISTS[name])
    with lab.database.reading() as session:
        assert [h.kind for h in find.look(session, "51")][:1] == ["kit"]
        assert [h.kind for h in find.look(session, "BH8")] == ["spot"]
        assert "sample" in {h.kind for h in find.look(session, "TP1 B3")}


@pytest.mark.parametrize("there", [False, True])
def test_a_test_that_is_named_twice_is_there_once_by_the_last_day(lab, there):
    """Its sample has two names: with and without the depth."""
    if there:
        made(lab, "schedule", "sample;test;due\nTP1 B1;sieve;2026-05-30")
    text = "sample;test;due\nTP1 B1;sieve;2026-06-01\nTP1 1.0 B1;sieve;2026-06-05"
    assert len(made(lab, "schedule", text)) == 1
    with lab.database.reading() as session:
        assert [o.due_on for o in session.execute(select(Owed)).scalars()] == [date(2026, 6, 5)]
    assert audit(lab.database)[1] == []
