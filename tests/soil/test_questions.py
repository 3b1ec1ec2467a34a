"""A figure that cannot be meant is asked about before it is kept, by class of slip; sound readings are left alone."""

from datetime import UTC, datetime, timedelta

import pytest

from tests.soil.test_following_advice import flat, with_typed
from vadum.soil.contract import paths
from vadum.soil.contract.fields import kind_of
from vadum.soil.contract.outcome import Advice, Due
from vadum.soil.contract.questions import asked, asked_of_results, expected, expected_by_advice, too_early
from vadum.soil.register import METHODS

EVERY_SCHOOL = [(m, s) for m in METHODS.values() for s in m.schools.values()]
MOST_QUESTIONS = 1 / 200


def question(method, school, record, path, value):
    """What is asked when the value is typed at a place of the record, which does not hold it yet."""
    data = record.model_dump(exclude_none=True)
    before = method.Record.model_validate(without(data, path))
    read = method.read(before, school)
    after = method.read(method.Record.model_validate(with_typed(without(data, path), path, value)), school)
    found = asked(expected(method, read.facts, school, read.record, path), path, str(value))
    stops = [v.found for v in after.outcome.verdicts if v.level == "stop" and path in v.at]
    return found or (stops[0] if stops else asked_of_results(read.outcome, after.outcome))


def without(data, path):
    """The record's data without one reading."""
    *way, last = paths.parse(path).steps
    copy = part = {
        k: [dict(r) if isinstance(r, dict) else r for r in v] if isinstance(v, (list, tuple)) else v
        for k, v in data.items()
    }
    for step in way:
        rows = [dict(row) for row in part[step.name]]
        part[step.name], part = rows, rows[step.row]
    part.pop(last.name, None)
    return copy


def record_of(name, school=None, seed=5):
    method = METHODS[name]
    chosen = method.school(school)
    return method, chosen, method.virtual(seed, chosen, None).record


def numbers(method, record):
    """The readings of a record that are figures, by their places."""
    for path, value in flat(record).items():
        field = paths.field_of(method.Record, path)
        if field is not None and kind_of(field)[0] in ("number", "count") and isinstance(value, int | float):
            yield path, value


# Class of slip, method, place, what was typed, a word of the question.
SLIPS = [
    ("a target", "lime_demand", "bottles[1].soil_g", 0.5, "target"),
    ("a target, ten times", "lime_demand", "bottles[1].lime_g", 8.0, "target"),
    ("a lost first digit", "unconfined_compression", "diameter_middle_mm", 8.2, "companion"),
    ("a factor of ten", "unconfined_compression", "height_2_mm", 7.62, "companion"),
    ("metres for millimetres", "unconfined_compression", "diameter_top_mm", 0.038, "companion"),
    ("kilograms for grams", "unconfined_compression", "mass_g", 0.16, "density"),
    ("a lost first digit of a mass", "unconfined_compression", "mass_g", 59.4, "density"),
    ("height and diameter exchanged", "unconfined_compression", "height_1_mm", 38.1, "companion"),
    ("wet and dry exchanged", "ring_density", "mass_dry_g", 99.0, ""),
    ("centimetres for millimetres", "ring_density", "ring_diameter_mm", 7.6, "usually"),
    ("a factor of ten in a density", "pit_density", "sand_density_mg_m3", 14.2, "usually"),
    ("a factor of a hundred in a density", "specific_gravity", "determinations[0].mass_full_g", 66.5, ""),
    ("a hydrometer read without its point", "hydrometer", "readings[0].reading_g_l", 502.0, "usually"),
    ("fahrenheit for celsius", "hydrometer", "readings[0].temperature_c", 68.0, "usually"),
    ("a plate in centimetres", "plate_modulus", "plate_width_mm", 30.0, "usually"),
    ("a pump read with a digit too many", "plate_modulus", "steps[1].pump_bar", 4000.0, ""),
]


@pytest.mark.parametrize(("slip", "name", "path", "typed", "word"), SLIPS, ids=[s[0] for s in SLIPS])
def test_a_slip_is_asked_about_before_it_is_kept(slip, name, path, typed, word):
    method, school, record = record_of(name)
    found = question(method, school, record, path, typed)
    assert found, slip
    assert word in found


def test_a_reading_far_from_the_one_before_is_asked_about():
    method, school, record = record_of("unconfined_compression")
    row = 8
    before = record.shear[row - 1] if hasattr(record, "shear") else record.readings[row - 1]
    field = "force_n" if before.force_n is not None else "ring_div"
    typed = round(10 * getattr(before, field), 1)
    assert "before" in question(method, school, record, f"readings[{row}].{field}", typed)


@pytest.mark.parametrize("factor", [0.001, 0.1, 10, 1000])
def test_twins_of_a_specimen_name_a_factor(factor):
    method, school, record = record_of("unconfined_compression")
    assert question(method, school, record, "diameter_bottom_mm", 38.1 * factor)


def test_sound_readings_are_not_asked_about():
    """Of the readings of virtual soils over every school: one question in two hundred at the most, for every method."""
    many: dict[str, int] = {}
    raised: dict[str, list[str]] = {}
    for method, school in EVERY_SCHOOL:
        for seed in (101, 102):
            record = method.virtual(seed, school, None).record
            read = method.read(record, school)
            for path, value in numbers(method, record):
                many[method.name] = many.get(method.name, 0) + 1
                if said := asked(expected(method, read.facts, school, read.record, path), path, str(value)):
                    raised.setdefault(method.name, []).append(f"{school.name} {path}: {said}")
            empty = method.read(method.Record(), school).outcome
            if said := asked_of_results(empty, read.outcome):
                raised.setdefault(method.name, []).append(f"{school.name}: {said}")
    unjust = {name: found[:4] for name, found in raised.items() if len(found) > MOST_QUESTIONS * many[name]}
    assert not unjust


@pytest.mark.parametrize("name", METHODS)
def test_only_figures_are_expected_anywhere_and_every_place_of_a_record_can_be_asked_about(name):
    """Every place that a record holds, moments, choices and notes among them, is held against what speaks there."""
    method = METHODS[name]
    for school in method.schools.values():
        record = method.virtual(103, school, None).record
        read = method.read(record, school)
        for path in flat(record):
            field = paths.field_of(method.Record, path)
            found = expected(method, read.facts, school, read.record, path)
            assert not found or kind_of(field)[0] in ("number", "count"), path


@pytest.mark.parametrize(
    ("amount", "path", "typed", "asks"),
    [
        ("60 mL", "points[0].water_added_ml", 600, True),
        ("60 mL", "points[0].water_added_ml", 6, True),
        ("60 mL", "points[0].water_added_ml", 65, False),
        ("0.76–1.5 mm/min", "rate_mm_min", 15, True),
        ("0.76–1.5 mm/min", "rate_mm_min", 1, False),
        ("250 N", "seating_n", 25, True),
        ("412.5 g", "trials[2].mass_dish_g", 41.25, True),
    ],
)
def test_an_amount_that_was_told_is_asked_about_when_another_is_typed(amount, path, typed, asks):
    told = expected_by_advice(Advice(headline="Add it.", amount=amount, wants=(path,)))[path]
    assert (not told.low <= typed <= told.high) == asks


@pytest.mark.parametrize("amount", ["", "14:05", "since 14:05", "3 of 4", "12 g"])
def test_an_amount_of_another_kind_is_held_against_nothing(amount):
    assert expected_by_advice(Advice(headline="Wait.", amount=amount, wants=("points[0].water_added_ml",))) == {}


IN = datetime(2026, 5, 12, 10, 0, tzinfo=UTC)


def drying(**its):
    """An advice that waits for two tins until sixteen hours after they went in."""
    wants = ("trials[0].mass_dry_g", "trials[1].mass_dry_g")
    due = Due(what="Weigh", kind="wait", at=IN + timedelta(hours=16), since=IN, path=wants[0], **its)
    return Advice(headline="In the oven.", wants=wants, due=(due,))


@pytest.mark.parametrize("path", ["trials[0].mass_dry_g", "trials[1].mass_dry_g"])
def test_a_weighing_before_its_wait_is_over_is_asked_about_and_one_nearly_in_time_is_not(path):
    assert too_early(drying(), path, IN + timedelta(hours=13)) == "Too early by 3 h: due tomorrow 02:00"
    # Two hundredths of sixteen hours, 19 min, are let pass.
    assert too_early(drying(), path, IN + timedelta(hours=15, minutes=39))
    assert not too_early(drying(), path, IN + timedelta(hours=15, minutes=42))
    assert not too_early(drying(window_s=3600), path, IN + timedelta(hours=15, minutes=5))


def test_what_is_not_waited_for_or_called_by_a_clock_is_not_too_early():
    assert not too_early(drying(), "trials[0].mass_wet_g", IN)
    assert not too_early(drying(by="clock"), "trials[0].mass_dry_g", IN)
