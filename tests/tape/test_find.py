"""What the find box searches: every thing by the words it is known by, in step with whatever is written."""

import pytest
from sqlalchemy import select

from tests.serving import AT
from vadum.tape import find, ground, kit, people, put_right, runs
from vadum.tape.ground import NewJob, NewSample, NewSpot
from vadum.tape.kit import NewItem
from vadum.tape.labels import kit_label, named_by_label, sample_label, specimen_label
from vadum.tape.people import NewPerson
from vadum.tape.specimens import NewSpecimen
from vadum.tape.specimens import add as cut
from vadum.tape.tables import Findable, Job, Sample, Spot


def hits(lab, text):
    with lab.database.reading() as session:
        return find.look(session, text)


def kinds(lab, text):
    return [hit.kind for hit in hits(lab, text)]


def test_a_tin_comes_before_a_run_of_the_same_number(lab):
    for _ in range(12):
        lab.start("liquid_limit")
    found = hits(lab, "12")
    assert (found[0].kind, found[0].exact) == ("kit", True)
    assert "run" in [hit.kind for hit in found], "LL-12 begins no word with 12, but holds one"


@pytest.mark.parametrize(
    ("text", "kind"),
    [
        ("TP1 1.0", "sample"),
        ("tp1 b1", "sample"),
        ("B1 TP1", "sample"),
        ("LL-01", "run"),
        ("ll 01", "run"),
        ("liquid lim", "run"),
        ("Ana", "person"),
        ("tell", "person"),
        ("a job", "job"),
        ("TP1", "spot"),
        ("31", "kit"),
    ],
)
def test_each_thing_is_found_by_its_words_in_any_order(lab, text, kind):
    lab.start("liquid_limit")
    assert kind in kinds(lab, text)


@pytest.mark.parametrize(
    "text", ["", "   ", "%", "'", '"', "* OR 1", "kind : run", "NEAR(", ") AND (", "ñandú", "—", "x" * 80]
)
def test_no_text_breaks_the_search(lab, text):
    assert isinstance(hits(lab, text), list)


def test_a_name_with_accents_is_found_without_them(lab):
    with lab.database.writing() as session:
        ground.add_job(session, NewJob(code="Z1", title="Carrière de Sablé"), AT)
    assert kinds(lab, "sable") == ["job"]
    assert kinds(lab, "CARRIÈRE") == ["job"]


def test_a_new_name_is_found_and_the_old_one_no_more_also_in_what_lies_within(lab):
    code = lab.start("sieve")
    with lab.database.writing() as session:
        spot = session.execute(select(Spot).where(Spot.code == "TP1")).scalar_one()
        put_right.change_spot(session, spot, NewSpot(code="QX7", note="beside the weir"))
    assert kinds(lab, "QX7") == ["spot", "sample", "run"]
    assert kinds(lab, "weir") == ["spot"]
    assert hits(lab, "TP1") == []
    with lab.database.reading() as session:
        assert runs.find(session, code) is not None


def test_what_is_deleted_is_found_no_more(lab):
    with lab.database.writing() as session:
        job = session.execute(select(Job)).scalars().first()
        spot = ground.add_spot(session, job, NewSpot(code="VAIN"))
        ground.add_sample(session, spot, NewSample(code="V1"))
    assert kinds(lab, "VAIN") == ["spot", "sample"]
    with lab.database.writing() as session:
        spot = session.execute(select(Spot).where(Spot.code == "VAIN")).scalar_one()
        sample = session.execute(select(Sample).where(Sample.spot_id == spot.id)).scalar_one()
        put_right.delete_empty(session, sample)
        put_right.delete_empty(session, spot)
    assert hits(lab, "VAIN") == []


def test_practice_is_found_nowhere(lab):
    with lab.database.writing() as session:
        place = ground.practice_place(session, AT)
        runs.start(session, place, "sieve", None, lab.person("AT"), AT, seed="3")
    assert hits(lab, "virtual") == []
    assert hits(lab, "practice") == []
    assert hits(lab, "PR-SV-01") == []


def test_the_table_can_be_made_anew_at_any_time_and_is_the_same(lab):
    lab.start("liquid_limit")
    with lab.database.writing() as session:
        people.add(
            session, NewPerson(login="zoe", name="Zoë Ash", initials="ZA", role="checker", passphrase="as long as"), "x"
        )
        kit.add_item(session, NewItem(kind="ph_meter", code="PH9", title="by the window"))

    def held():
        with lab.database.reading() as session:
            rows = session.execute(select(Findable)).scalars()
            return {(r.kind, r.subject): (r.code, r.words) for r in rows}

    before = held()
    with lab.database.writing() as session:
        find.rebuild(session.connection())
    assert held() == before
    assert kinds(lab, "zoe ash") == ["person"]
    assert kinds(lab, "ph meter") == ["kit"]


def test_a_label_names_the_very_thing_in_any_case(lab):
    with lab.database.writing() as session:
        sample = session.get(Sample, lab.sample_id)
        cut(session, sample, NewSpecimen(code="a"))
        kit.add_item(session, NewItem(kind="shear_box", code="b2"))
    with lab.database.reading() as session:
        for says in (sample_label(lab.sample_id), specimen_label(lab.sample_id, "a")):
            assert [h.kind for h in named_by_label(session, says.lower())] == ["sample"]
        assert named_by_label(session, specimen_label(lab.sample_id, "z")) == []
        assert named_by_label(session, sample_label(99)) == []
        box = named_by_label(session, kit_label("shear_box", "b2"))
        assert [h.kind for h in box] == ["kit"]
        assert named_by_label(session, "TIN-77") == []
        assert named_by_label(session, "LL-01") == [], "a run's code is no label"
