"""The rack: merged calls, planned starts on the tape, and the kit and the school that begin a run."""

from datetime import timedelta

import pytest

from vadum.bench.foreman import Foreman
from vadum.bench.rack import rack
from vadum.soil.shared.start_times import overlap
from vadum.tape import kit, posting, runs
from vadum.tape.kit import NewItem
from vadum.tape.runs import Shelf

READY = (
    ("hydrometer_type", "152H"),
    ("mass_dry_g", "51"),
    ("specific_gravity_ratio", "2.7"),
    ("soaked_from_at", "2026-05-11T15:00:00+02:00"),
    ("mixed_min", "10"),
    ("blanks[0].reading_g_l", "4"),
    ("blanks[0].temperature_c", "20"),
)


def prepared(lab, name):
    code = lab.start("hydrometer", "teaching")
    for path, value in (("cylinder", name), *READY):
        lab.post(code, path, value)
    return code


def the_rack(lab):
    shelf = Shelf()
    now = lab.clock.now()
    with lab.database.reading() as session:
        moments = [m for _, found in Foreman(shelf).in_hand(session, now) for m in found]
        found = [
            (shelf.read(session, r), runs.place_of(session, r)) for r in runs.open_of(session, ("hydrometer",), 24)
        ]
        made = rack(found, moments, now)
        session.expunge_all()
    return made


def test_an_empty_rack_calls_nothing(lab):
    assert the_rack(lab).vessels == ()
    assert the_rack(lab).calls == ()


def test_a_started_cylinder_calls_in_and_read_for_every_scheduled_time(lab):
    code = prepared(lab, "A")
    lab.post(code, "started_at", lab.clock.now().isoformat())
    made = the_rack(lab)
    assert [c.stage for c in made.vessels] == ["running"]
    kinds = [c.kind for c in made.calls]
    assert kinds == ["insert", "read"] * 7
    assert made.calls[0].at == lab.clock.now() + timedelta(seconds=90)
    assert made.calls[1].path == "readings[0].reading_g_l"
    assert made.calls[1].after_path == "readings[0].temperature_c"


def test_a_temperature_that_is_owed_is_called_first(lab):
    code = prepared(lab, "A")
    lab.post(code, "started_at", lab.clock.now().isoformat())
    lab.clock.step(minutes=2)
    lab.post(code, "readings[0].reading_g_l", "31")
    assert next((c.kind, c.path) for c in the_rack(lab).calls) == ("after", "readings[0].temperature_c")


def test_a_late_reading_says_how_late_and_keeps_its_true_time(lab):
    code = prepared(lab, "A")
    start = lab.clock.now()
    lab.post(code, "started_at", start.isoformat())
    lab.clock.step(minutes=2, seconds=40)
    call = next(c for c in the_rack(lab).calls if c.kind == "read")
    assert call.late_s == pytest.approx(35)
    lab.post(code, "readings[0].reading_g_l", "31")
    lab.post(code, "readings[0].temperature_c", "20")
    read = lab.read(code)
    assert read.folded.record.readings[0].read_at == start + timedelta(minutes=2, seconds=40)
    assert read.outcome.series["readings"][0]["elapsed_min"] == pytest.approx(2 + 40 / 60)


def test_a_hydrometer_that_went_in_for_a_reading_never_taken_does_not_belong_to_the_next(lab):
    code = prepared(lab, "A")
    lab.post(code, "started_at", lab.clock.now().isoformat())
    lab.clock.step(minutes=1, seconds=30)
    lab.post(code, "readings[0].inserted_at", lab.clock.now().isoformat())
    call = next(c for c in the_rack(lab).calls if c.kind == "read")
    assert (call.path, call.is_in) == ("readings[0].reading_g_l", True)
    lab.clock.step(minutes=4)
    call = next(c for c in the_rack(lab).calls if c.kind == "read")
    assert (call.path, call.is_in) == ("readings[1].reading_g_l", False)


def test_the_bench_gives_a_late_reading_up_half_way_to_the_next(lab):
    code = prepared(lab, "A")
    lab.post(code, "started_at", lab.clock.now().isoformat())
    foreman = Foreman(Shelf())

    def first():
        with lab.database.reading() as session:
            [(_, found)] = foreman.in_hand(session, lab.clock.now())
            return found[0].due.label

    assert first() == "A 2 min"
    lab.clock.step(minutes=2, seconds=30)
    assert first() == "A 2 min"
    lab.clock.step(seconds=40)
    assert first() == "A 4 min", "the 2-minute reading is given up at 3 minutes"


def test_ready_cylinders_are_planned_so_that_no_two_need_the_same_hands(lab):
    running = prepared(lab, "A")
    lab.post(running, "started_at", (lab.clock.now() - timedelta(minutes=3)).isoformat())
    for name in "BCD":
        prepared(lab, name)
    made = the_rack(lab)
    assert [p.name for p in made.proposals] == ["B", "C", "D"]
    assert made.proved
    assert all(p.clean_at <= p.start_at for p in made.proposals)
    for proposal in made.proposals:
        lab.post(proposal.code, "planned_start_at", proposal.start_at.isoformat())
    planned = the_rack(lab)
    assert [c.stage for c in planned.vessels] == ["running", "planned", "planned", "planned"]
    assert not planned.proposals
    for proposal in made.proposals:
        lab.clock.step(seconds=(proposal.start_at - lab.clock.now()).total_seconds())
        lab.post(proposal.code, "started_at", lab.clock.now().isoformat())
    moments = []
    with lab.database.reading() as session:
        for _, found in Foreman(Shelf()).in_hand(session, lab.clock.now()):
            moments += [(m.run_code, *m.busy(lab.clock.now())) for m in found if m.due.window_s is not None]
    base = lab.clock.now()
    blocks = [(c, int((a - base).total_seconds()), int((b - base).total_seconds())) for c, a, b in moments]
    from vadum.soil.shared.start_times import Block

    for i, (code, a, b) in enumerate(blocks):
        for other, c, d in blocks[i + 1 :]:
            assert code == other or not overlap(Block(a, b), Block(c, d))


def test_starting_at_once_says_which_reading_would_suffer(lab):
    running = prepared(lab, "A")
    lab.post(running, "started_at", (lab.clock.now() - timedelta(minutes=2)).isoformat())
    prepared(lab, "B")
    [proposal] = the_rack(lab).proposals
    assert any("Read cylinder A at 4 min" in s for s in proposal.suffers)
    assert proposal.clean_at > lab.clock.now()


def test_a_run_begins_with_its_schools_sieves_on_its_tape(lab):
    code = lab.start("sieve", "iso_soil")
    entries = lab.read(code).entries
    assert [e.value for e in entries[1:]] == ["20", "6.3", "2", "0.63", "0.2", "0.063"]
    assert {e.source for e in entries[1:]} == {"school"}


def test_a_piece_of_kit_brings_what_it_measured_last(lab):
    from vadum.soil.shared.apparatus import CALIBRATIONS

    with lab.database.writing() as session:
        mould = kit.add_item(session, NewItem(kind="mould", code="M9"))
        for mass, days in ((4200, 20), (4211.5, 2)):
            seen = CALIBRATIONS["mould"].model_validate({"mould_mass_g": mass, "mould_volume_cm3": 944})
            kit.add_calibration(session, mould, seen, "BL", lab.clock.now() - timedelta(days=days))
        glass = kit.add_item(session, NewItem(kind="pycnometer", code="P9"))
        seen = CALIBRATIONS["pycnometer"].model_validate(
            {"mass_pycnometer_g": 170, "mass_full_g": 670, "full_at_c": 20}
        )
        kit.add_calibration(session, glass, seen, "BL", lab.clock.now())
    code = lab.start("compaction")
    lab.post(code, "mould", "M9")
    read = lab.read(code)
    assert read.folded.record.mould_mass_g == 4211.5
    assert read.folded.came_from["mould_mass_g"].source == "kit: mould M9"
    code = lab.start("specific_gravity")
    lab.post(code, "determinations[0].pycnometer", "P9")
    assert lab.read(code).folded.record.determinations[0].mass_full_g == 670


def test_a_blinded_sieve_is_told_on_the_run_that_uses_it(lab):
    from vadum.soil.shared.apparatus import CALIBRATIONS

    with lab.database.writing() as session:
        item = kit.add_item(session, NewItem(kind="sieve", code="S2", interval_days=365))
        seen = CALIBRATIONS["sieve"].model_validate({"sieve_diameter_mm": 200, "sieve_state": "blinded"})
        assert not kit.add_calibration(session, item, seen, "BL", lab.clock.now()).passed
    code = lab.start("sieve", "iso_soil")
    lab.post(code, "sieves[2].sieve", "S2")
    verdict = next(v for v in lab.read(code).outcome.verdicts if v.rule == "sieve sound")
    assert (verdict.level, verdict.found) == ("redo", "2 mm S2 blinded")


def test_a_hydrometer_takes_the_samples_specific_gravity_and_share_along(lab):
    code = lab.start("specific_gravity")
    for i in range(2):
        row = {
            "mass_pycnometer_g": "178.42",
            "mass_full_g": "676.98",
            "full_at_c": "21.3",
            "mass_with_soil_g": "715.25",
            "temperature_c": "24.7",
            "mass_dry_soil_g": "61.35",
        }
        lab.post(code, f"determinations[{i}]", row)
    with lab.database.writing() as session:
        run = runs.start(session, lab.place(), "hydrometer", None, lab.person("AT"), lab.clock.now())
        posting.bring(session, Shelf(), run, lab.person("AT"), lab.clock.now())
        begun = run.code
    read = lab.read(begun)
    assert read.folded.record.specific_gravity_ratio == pytest.approx(2.7021, abs=1e-3)
    assert read.folded.record.specific_gravity_from == "measured"
    assert read.folded.came_from["specific_gravity_ratio"].source == f"run: {code}"
