"""Sieves and hydrometers: known curves come back, splits, late readings, both stems, and the join of the two."""

import math
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.timetable import minutes_words, slots
from vadum.soil.methods.hydrometer import METHOD as HYDROMETER
from vadum.soil.methods.hydrometer import stokes
from vadum.soil.methods.hydrometer.record import Blank, Reading, Record
from vadum.soil.methods.hydrometer.school import SCHOOLS
from vadum.soil.methods.hydrometer.suspension import correction_at, settled
from vadum.soil.methods.hydrometer.timing import called_of
from vadum.soil.methods.hydrometer.virtual import correction_g_l, reading_at
from vadum.soil.methods.sieve import METHOD as SIEVE
from vadum.soil.methods.sieve.record import Limit, Sieve
from vadum.soil.methods.sieve.record import Record as Stack
from vadum.soil.methods.sieve.rules import load_limit_g
from vadum.soil.shared.grading import (
    GradePoint,
    finer_percent,
    log_normal_percent,
    ordered,
    outside_words,
    shares_percent,
    size_mm,
)
from vadum.soil.shared.physics import water_density_mg_m3, water_viscosity_poise
from vadum.soil.soil_card.evidence import Evidence, Told
from vadum.soil.soil_card.merged import join_verdict, merged, step_at_join

T0 = datetime(2026, 5, 12, 9, 0, tzinfo=UTC)
TEACHING = SCHOOLS["teaching"]


# Printed tables of ASTM D422: K, a, L; and handbook water. The older viscosity there makes K about 0.15 % larger.
PRINTED_K = (
    (20, 2.65, 0.01365),
    (20, 2.70, 0.01344),
    (25, 2.65, 0.01286),
    (25, 2.75, 0.01249),
    (16, 2.65, 0.01435),
    (18, 2.60, 0.01421),
    (22, 2.80, 0.01276),
    (30, 2.70, 0.01199),
)


@pytest.mark.parametrize(("temperature", "gravity", "printed"), PRINTED_K)
def test_the_settling_constant_agrees_with_the_printed_table(temperature, gravity, printed):
    assert stokes.settling_constant(temperature, gravity) == pytest.approx(printed, abs=5e-5)


def test_the_settling_constant_at_20_degrees_and_2_65():
    assert stokes.settling_constant(20, 2.65) == pytest.approx(0.01365, abs=0.00002)


def test_depths_factors_and_water_agree_with_the_printed_tables():
    depths_152h = {0: 16.3, 10: 14.7, 20: 13.0, 30: 11.4, 50: 8.1, 60: 6.5}
    assert {r: round(stokes.depth_152h_cm(r), 1) for r in depths_152h} == pytest.approx(depths_152h, abs=0.06)
    depths_151h = {1.000: 16.3, 1.010: 13.7, 1.020: 11.0, 1.030: 8.4}
    assert {r: stokes.depth_151h_cm(r) for r in depths_151h} == pytest.approx(depths_151h, abs=0.06)
    factors = {2.45: 1.05, 2.55: 1.02, 2.60: 1.01, 2.65: 1.00, 2.70: 0.99, 2.75: 0.98, 2.85: 0.96, 2.95: 0.94}
    assert {g: stokes.gravity_correction(g) for g in factors} == pytest.approx(factors, abs=0.006)
    assert [100 * water_viscosity_poise(t) for t in (10, 15, 20, 25, 30)] == pytest.approx(
        [1.307, 1.138, 1.002, 0.890, 0.798], abs=0.006
    )
    assert [water_density_mg_m3(t) for t in (10, 20, 30)] == pytest.approx([0.9997, 0.9982, 0.9957], abs=0.0003)


@pytest.mark.parametrize("call", [lambda: stokes.settling_constant(20, 1.0), lambda: water_density_mg_m3(55)])
def test_what_a_formula_does_not_hold_for_is_refused(call):
    with pytest.raises(ReductionError):
        call()
    with pytest.raises(ReductionError):
        stokes.diameter_mm(0.0136, 10, 0)


def cylinder(kind, school=TEACHING, soil=(0.008, 1.9), gravity=2.68, mass=50.0, passing=None, warm=21.0):
    """A record of that kind of hydrometer in one soil, without scatter or rounding."""
    shape = Record(hydrometer_type=kind, mass_dry_g=mass, specific_gravity_ratio=gravity, cylinder="A", started_at=T0)
    if kind.startswith("calibrated"):
        step = 0.2645 if kind.endswith("sg") else 0.164
        bulb = {"bulb_length_cm": 14.0, "bulb_volume_cm3": 67.0, "stem_zero_cm": 10.499, "stem_step_cm": step}
        shape = shape.model_copy(update=bulb)
    # The same litre: (R_sg - 1) G / (G - 1) 1000 is the suspended mass, a R_g/L is it too.
    to_sg = stokes.gravity_correction(gravity) * (gravity - 1) / gravity / 1000

    def stem(value):
        sg = kind in ("151H", "calibrated, sg")
        return {"reading_sg": 1 + value * to_sg} if sg else {"reading_g_l": value}

    rows = []
    for minutes in school.schedule_min:
        reading = reading_at(minutes, warm, shape, school, soil)
        rows.append(Reading(read_at=T0 + timedelta(minutes=minutes), temperature_c=warm, **stem(reading)))
    blanks = tuple(Blank(temperature_c=t, **stem(correction_g_l(t))) for t in (warm - 1, warm + 1))
    return shape.model_copy(update={"readings": tuple(rows), "blanks": blanks, "passing_percent": passing})


@pytest.mark.parametrize("kind", ["151H", "152H", "calibrated, g/L", "calibrated, sg"])
@pytest.mark.parametrize("school", SCHOOLS.values(), ids=SCHOOLS)
def test_a_grading_made_from_a_known_curve_comes_back(kind, school):
    record = cylinder(kind, school)
    found = settled(record, school)
    assert len(found) == len(school.schedule_min)
    for one in found:
        assert one.finer_percent == pytest.approx(log_normal_percent(one.diameter_mm, 0.008, 1.9), abs=0.35)


def test_both_hydrometers_give_the_same_soil():
    curves = [[(s.diameter_mm, s.finer_percent) for s in settled(cylinder(k), TEACHING)] for k in ("151H", "152H")]
    for (d1, p1), (d2, p2) in zip(*curves, strict=True):
        assert d1 == pytest.approx(d2, rel=0.01)
        assert p1 == pytest.approx(p2, abs=0.4)


def test_the_bulb_drops_out_of_the_depth_while_the_hydrometer_stays_in():
    school = SCHOOLS["d7928"]
    found = settled(cylinder("152H", school), school)
    assert [s.depth.left_in for s in found] == [True, True, False, False, False, False, False, False]
    assert found[0].depth.cm - stokes.depth_152h_cm(found[0].reading) == pytest.approx(67.0 / 27.8 / 2)


def test_a_calibrated_hydrometer_without_its_sizes_is_waited_for_and_not_guessed():
    record = cylinder("calibrated, g/L").model_copy(update={"stem_step_cm": None})
    outcome = HYDROMETER.judge(record, TEACHING, T0)
    assert settled(record, TEACHING) == []
    assert "the hydrometer's bulb and stem" in {m.waits_for for m in outcome.missing}
    fresh = Record(hydrometer_type="calibrated, sg")
    assert "bulb and stem" in HYDROMETER.judge(fresh, TEACHING, T0).advice.headline


def test_only_the_share_that_passed_the_sieve_counts_for_the_whole():
    found = settled(cylinder("152H", passing=80.0), TEACHING)
    assert all(s.of_whole_percent == pytest.approx(0.8 * s.finer_percent) for s in found)


def test_the_correction_is_linear_between_the_blanks_and_watched_beyond_them():
    record = cylinder("152H")
    assert correction_at(record, 21.0) == pytest.approx(correction_g_l(21.0))
    for away, level in ((1.5, "watch"), (4.0, "redo")):
        rows = [*record.readings[:-1], record.readings[-1].model_copy(update={"temperature_c": 21.0 + away})]
        moved = record.model_copy(update={"readings": tuple(rows)})
        verdicts = HYDROMETER.outcome(moved, TEACHING).verdicts
        assert level in {v.level for v in verdicts if v.rule.startswith("blanks span")}


def test_a_late_reading_is_used_with_its_true_time():
    record = cylinder("152H")
    late = T0 + timedelta(minutes=9.5)
    value = reading_at(9.5, 21.0, record, TEACHING, (0.008, 1.9))
    row = record.readings[2].model_copy(update={"read_at": late, "reading_g_l": value})
    moved = record.model_copy(update={"readings": (*record.readings[:2], row, *record.readings[3:])})
    found = settled(moved, TEACHING)[2]
    assert found.elapsed_min == pytest.approx(9.5)
    assert found.finer_percent == pytest.approx(log_normal_percent(found.diameter_mm, 0.008, 1.9), abs=0.35)
    [verdict] = [v for v in HYDROMETER.outcome(moved, TEACHING).verdicts if v.rule == "readings on time"]
    assert verdict.level == "watch"
    assert "8 min: 2 min late" in verdict.found


def states(record, minutes):
    return [s.state for s in slots(called_of(record, TEACHING), T0 + timedelta(minutes=minutes))]


def test_the_timetable_tells_done_late_missed_next_and_ahead():
    record = cylinder("152H")
    assert states(record.model_copy(update={"started_at": None, "readings": ()}), 5) == ["ahead"] * 7
    two = record.model_copy(update={"readings": record.readings[:2]})
    assert states(two, 5) == ["done", "done", "next", "ahead", "ahead", "ahead", "ahead"]
    assert states(two, 13)[2:4] == ["missed", "next"], "half-way to the next it is given up"
    skipped = record.model_copy(update={"readings": (*record.readings[:2], record.readings[3])})
    assert states(skipped, 17) == ["done", "done", "missed", "done", "next", "ahead", "ahead"]
    late = record.readings[1].model_copy(update={"read_at": T0 + timedelta(minutes=4, seconds=40)})
    assert states(record.model_copy(update={"readings": (record.readings[0], late)}), 5)[1] == "late"


def test_advice_walks_a_cylinder_from_the_shelf_to_its_last_reading():
    """Following what it says, one field after the other, ends with a finished run."""
    record, now, asked = Record(), T0, []
    answers = {
        "hydrometer": "H1",
        "hydrometer_type": "152H",
        "cylinder": "A",
        "mass_taken_g": 52.0,
        "air_dry_water_percent": 2.0,
        "mass_dry_g": 51.0,
        "mixed_min": 10.0,
        "specific_gravity_ratio": 2.7,
        "specific_gravity_from": "measured",
        "passing_percent": 100.0,
        "came_through_mm": 2.0,
        "dispersant_made_on": now.date(),
    }
    for _ in range(120):
        outcome = HYDROMETER.judge(record, TEACHING, now)
        if outcome.advice.finished:
            break
        due = next((d.at for d in outcome.advice.due if d.at), None)
        path = outcome.advice.wants[0]
        if due and due > now and not path.endswith("temperature_c"):
            now = due
        asked.append(path)
        name, _, field = path.partition("[")
        if not field:
            value = now if name.endswith("_at") else answers[name]
            record = record.model_copy(update={name: value})
            continue
        row, field = int(field.partition("]")[0]), path.rpartition(".")[2]
        rows = list(getattr(record, name))
        if row == len(rows):
            rows.append(Reading() if name == "readings" else Blank())
        minutes = (now - record.started_at) / timedelta(minutes=1) if record.started_at else 0
        value = {"temperature_c": 20.0 + row * (name == "blanks"), "reading_g_l": 4.0}[field]
        if name == "readings" and field == "reading_g_l":
            value = reading_at(max(minutes, 0.1), 20.0, record, TEACHING, (0.008, 1.9))
            rows[row] = rows[row].model_copy(update={"read_at": now})
        rows[row] = rows[row].model_copy(update={field: value})
        record = record.model_copy(update={name: tuple(rows)})
    assert outcome.advice.finished, outcome.advice
    assert sum(p.endswith("reading_g_l") and p.startswith("readings") for p in asked) == 7
    assert [p for p in asked if p == "started_at"] == ["started_at"]


def test_a_reading_past_its_window_is_asked_for_at_once():
    record = cylinder("152H").model_copy(update={"readings": ()})
    advice = HYDROMETER.judge(record, TEACHING, T0 + timedelta(minutes=2, seconds=40)).advice
    assert "late: read it now" in advice.headline
    assert advice.wants[0] == "readings[0].reading_g_l"


def test_scheduled_times_are_called_as_a_person_says_them():
    assert [minutes_words(t) for t in (0.5, 2, 250, 480, 1440)] == ["30 s", "2 min", "250 min", "8 h", "24 h"]


# Sieves.
def stack(*rows, **fields):
    sieves = tuple(Sieve(aperture_mm=a, mass_retained_g=m) for a, m in rows)
    return Stack.model_validate({"sieves": sieves, **fields})


def passing(outcome):
    return {r["size_mm"]: r["finer_percent"] for r in outcome.series["curve"]}


def test_a_moist_sample_is_reduced_on_its_dry_mass():
    record = stack((2, 40), (0.075, 120), mass_total_g=220, water_content_percent=10)
    assert passing(SIEVE.outcome(record, SIEVE.school())) == pytest.approx({2: 80.0, 0.075: 20.0})


def test_sieves_finer_than_one_not_weighed_yet_are_not_told():
    record = stack((2, 40), (0.425, None), (0.075, 120), mass_total_g=200)
    outcome = SIEVE.outcome(record, SIEVE.school())
    assert passing(outcome) == {2: 80.0}
    assert any("sieve" in m.waits_for for m in outcome.missing)


@given(st.lists(st.floats(0.1, 200), min_size=3, max_size=9), st.floats(0, 60))
def test_passing_never_rises_and_the_classes_add_up(masses, pan):
    apertures = sorted((19, 9.5, 4.75, 2, 0.85, 0.425, 0.25, 0.15, 0.075), reverse=True)[: len(masses)]
    rows = tuple(zip(apertures, masses, strict=True))
    record = stack(*rows, mass_total_g=sum(masses) + pan, mass_pan_g=pan)
    found = passing(SIEVE.outcome(record, SIEVE.school()))
    values = [found[a] for a in apertures]
    assert values == sorted(values, reverse=True)
    assert values[-1] == pytest.approx(100 * pan / (sum(masses) + pan))
    shares = shares_percent(ordered(GradePoint(a, p) for a, p in found.items()), "astm")
    if shares["fines"] is not None:
        assert shares["gravel"] + shares["sand"] + shares["fines"] == pytest.approx(100)


@given(st.floats(0.2, 0.9), st.floats(0.6, 1.4), st.sampled_from((10, 30, 50, 60)))
def test_sizes_of_a_known_curve_come_back_and_are_never_extrapolated(middle, spread, finer):
    def true(size):
        return 50 * (1 + math.erf(math.log(size / middle) / (spread * math.sqrt(2))))

    points = ordered(GradePoint(0.05 * 1.15**i, true(0.05 * 1.15**i)) for i in range(40))
    size = size_mm(points, finer)
    if size is None:
        assert outside_words(points, finer).startswith(("finer than", "coarser than"))
    else:
        assert true(size) == pytest.approx(finer, abs=0.3)
        assert finer_percent(points, size) == pytest.approx(finer, abs=1e-6)


def test_a_size_beyond_the_finest_sieve_is_said_and_not_computed():
    record = stack((2, 40), (0.075, 20), mass_total_g=200, mass_washed_g=70, mass_pan_g=8)
    outcome = SIEVE.outcome(record, SIEVE.school())
    d10 = outcome.value("d10_mm")
    assert (d10.value, d10.reported) == (None, "finer than 0.075")
    assert outcome.value("uniformity_ratio") is None


def test_an_overloaded_sieve_is_told_by_its_area():
    # 7 kg/m2 on 200 mm: 7000 x pi 0.1^2 = 219.9 g; 9.5 mm: 2.5 x 9.5 kg/m2 = 746 g.
    assert load_limit_g(0.425, 200, SIEVE.school()) == pytest.approx(200, abs=1)
    assert load_limit_g(9.5, 200, SIEVE.school()) == pytest.approx(670, abs=8)


def test_an_envelope_passes_or_fails_sieve_by_sieve():
    record = stack((4.75, 20), (2, 40), (0.425, 60), (0.075, 60), mass_total_g=200).model_copy(
        update={
            "envelope_name": "filter",
            "envelope": (
                Limit(aperture_mm=4.75, least_percent=85, most_percent=100),
                Limit(aperture_mm=2, least_percent=75, most_percent=90),
                Limit(aperture_mm=0.425, least_percent=10, most_percent=30),
                Limit(aperture_mm=0.02, least_percent=0, most_percent=3),
            ),
        }
    )
    outcome = SIEVE.outcome(record, SIEVE.school())
    assert [r["verdict"] for r in outcome.series["envelope"]] == ["pass", "too coarse", "too fine", "not tested"]
    told = [v for v in outcome.verdicts if v.rule == "within the filter"]
    assert [v.level for v in told] == ["watch", "watch"]
    assert "2 mm: 70 % passing, too coarse" in told[0].found


# Joined.
def told(method, record, school):
    return Told(method.code + "-1", method.outcome(record, school), school, record)


def both(fines_of_sieve=None, passing_2mm=100.0):
    """A sieve and a hydrometer run of one soil; the sieve's fines may be told wrong."""
    soil = (0.03, 1.9)
    sizes = (2.0, 0.85, 0.425, 0.25, 0.15, 0.106, 0.075)
    finer = {s: log_normal_percent(s, *soil) for s in sizes} | {2.0: 100.0}
    if fines_of_sieve is not None:
        finer[0.075] = fines_of_sieve
    retained, above = [], 100.0
    for size in sizes:
        retained.append((size, 3 * (above - finer[size])))
        above = finer[size]
    sieve = told(SIEVE, stack(*retained, mass_total_g=300), SIEVE.school())
    cyl = cylinder("152H", SCHOOLS["d422"], soil, mass=60.0, passing=passing_2mm)
    return Evidence([sieve, told(HYDROMETER, cyl, SCHOOLS["d422"])])


def test_sieve_and_hydrometer_of_one_soil_join_into_its_curve():
    grading = merged(both())
    assert abs(grading.step_points) < 1.0
    assert join_verdict(grading).level == "fine"
    sources = [p.source for p in grading.points]
    assert sources == sorted(sources, reverse=True), "sieves above, hydrometer below"
    for point in grading.points:
        assert point.finer_percent == pytest.approx(log_normal_percent(point.size_mm, 0.03, 1.9), abs=1.0) or (
            point.size_mm == 2.0
        )
    shares = grading.shares("astm")
    assert shares["gravel"] + shares["sand"] + shares["silt"] + shares["clay"] == pytest.approx(100)


@pytest.mark.parametrize(("fines", "level"), [(51.0, "watch"), (44.0, "redo")])
def test_fines_that_contradict_each_other_are_told(fines, level):
    grading = merged(both(fines_of_sieve=fines))
    verdict = join_verdict(grading)
    assert verdict.level == level
    assert "0.075 mm" in verdict.found
    if level == "redo":
        assert {p.source for p in grading.points} == {"sieve"}, "two curves that contradict make no third one"


def test_without_overlap_the_hydrometers_slope_says_where_the_curve_should_arrive():
    # Slope (38 - 20) / ln 4 = 12.98 a unit; ln(0.075 / 0.04) = 0.6286: 40.04 (a quarter) to 54.32 (twice).
    settled_ = [GradePoint(0.04, 38), GradePoint(0.01, 20)]
    for fines, step in ((42, 0.0), (36, 4.04), (60, -5.68)):
        found = step_at_join([GradePoint(2, 90), GradePoint(0.075, fines)], settled_)
        assert found == (pytest.approx(step, abs=0.01), 0.075)
    alone = step_at_join([GradePoint(2, 90), GradePoint(0.075, 30)], settled_[:1])
    assert alone[0] == pytest.approx(8), "one reading above the sieve's fines is a step too"


PIPETTE = {
    "hydrometer_type": "pipette",
    "mass_dry_g": 20.0,
    "specific_gravity_ratio": 2.65,
    "specific_gravity_from": "measured",
    "passing_percent": 100.0,
    "bath_temperature_c": 20.0,
    "blanks": [{"drawn_ml": 25.0, "mass_container_g": 20.0, "mass_dried_g": 20.1}],
}


def drawn(minutes, solids, **more):
    sample = {"drawn_ml": 25.0, "mass_container_g": 20.0, "mass_dried_g": 20.0 + solids, "temperature_c": 20.0}
    return {**sample, "elapsed_min": minutes, **more}


def test_a_pipette_is_reduced_by_what_its_samples_dried_to():
    school = HYDROMETER.school("pipette")
    rows = [drawn(4.65, 0.4), drawn(51.667, 0.3), drawn(464.85, 0.2)]
    found = HYDROMETER.outcome(HYDROMETER.Record.model_validate({**PIPETTE, "readings": rows}), school)
    # (0.2 g - 0.1 g) of 25 mL in a litre of 20 g: 20 %.
    assert found.value("finer_than_2um_percent").value == pytest.approx(20.0, rel=1e-3)
    assert found.value("finer_than_20um_percent").value == pytest.approx(60.0, rel=1e-3)
    sizes = [row["size_mm"] for row in found.series["readings"]]
    assert sizes == pytest.approx([0.02, 0.006, 0.002], rel=0.002)


def test_a_pipette_waits_for_its_blank_and_for_its_containers():
    school = HYDROMETER.school("pipette")
    rows = [drawn(4.65, 0.4) | {"mass_dried_g": None}]
    record = HYDROMETER.Record.model_validate({**PIPETTE, "blanks": [], "readings": rows})
    words = {m.waits_for for m in HYDROMETER.outcome(record, school).missing}
    assert {"a sample of the dispersant alone", "1 container(s) to dry"} <= words


def test_a_warmer_bath_calls_the_samples_earlier():
    school = HYDROMETER.school("pipette")
    cold, warm = (
        HYDROMETER.read(HYDROMETER.Record.model_validate({**PIPETTE, "bath_temperature_c": t}), school).facts.timetable
        for t in (20.0, 25.0)
    )
    assert [w / c for w, c in zip(warm.at, cold.at, strict=True)] == pytest.approx([0.89] * 3, abs=0.01)
