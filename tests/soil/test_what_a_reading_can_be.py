"""No reading, however typed, makes the core raise; one that cannot be is stopped by name and never computed with."""

import contextlib
import json
import math
import random
import sys
from datetime import UTC, datetime

import pytest
from pydantic import ValidationError

from tests.poisons import all_poisons, every_school, sampled
from tests.soil.test_following_advice import flat, with_typed
from vadum.figures.register import figure
from vadum.soil.contract.fields import unit_of
from vadum.soil.contract.physical_range import RULE, checked, problem_of
from vadum.soil.register import METHODS

NOON = datetime(2026, 5, 12, 10, tzinfo=UTC)
SCHOOLS = every_school()


def thinned(data, dice):
    """The same record as it stands somewhere in the middle of the work."""
    keep = dice.random() + 0.3
    found = {}
    for name, value in data.items():
        if isinstance(value, list):
            found[name] = [thinned(row, dice) for row in value[: dice.randrange(len(value) + 1)]]
        elif dice.random() < keep:
            found[name] = value
    return found


@pytest.mark.parametrize(("its", "school"), SCHOOLS, ids=[f"{m.name}-{s.name}" for m, s in SCHOOLS])
def test_no_reading_makes_the_core_raise(its, school):
    dice = random.Random(f"{its.name} {school.name}")
    whole = its.virtual(dice.randrange(5), school, None).record.model_dump(mode="json", exclude_none=True)
    rows = {name: len(value) for name, value in whole.items() if isinstance(value, list)}
    for path, typed in sampled(all_poisons(its, rows), 20, dice.random()):
        data = thinned(whole, dice) if dice.random() < 0.5 else whole
        try:
            record = its.Record.model_validate(with_typed(data, path, typed, most_beyond=99))
        except ValidationError:
            continue  # refused at the door, with its field
        outcome = its.judge(record, school, NOON)
        json.dumps(outcome.model_dump(mode="json"), allow_nan=False)
        figure(its.name).data(outcome)
        stopped = [v for v in outcome.verdicts if v.rule == RULE and path in v.at]
        value = flat(record).get(path)
        assert bool(stopped) == bool(problem_of(path.rpartition(".")[2], value)), (path, typed)
        if stopped:
            assert path not in flat(checked(record).record)
            assert all(v.withheld for v in outcome.values)


def whole_of(its, school):
    """A full record, and the count of rows of each of its lists."""
    whole = its.virtual(1, school, None).record.model_dump(mode="json", exclude_none=True)
    return whole, {name: len(value) for name, value in whole.items() if isinstance(value, list)}


def typed_in_turn(its, school, *typed):
    """The full record with each of its fields in turn typed so, where the door lets that in."""
    whole, rows = whole_of(its, school)
    for path, one in all_poisons(its, rows):
        if one not in typed:
            continue
        with contextlib.suppress(ValidationError):
            yield path, its.Record.model_validate(with_typed(whole, path, one, most_beyond=99))


def test_a_temperature_that_cannot_be_is_no_end_of_a_cylinder():
    for its, school in SCHOOLS:
        for path, record in typed_in_turn(its, school, "-1", "100"):
            if unit_of(path) == "°C":
                assert its.judge(record, school, NOON).verdicts, (its.name, school.name, path)


@pytest.mark.parametrize(("its", "school"), SCHOOLS, ids=[f"{m.name}-{s.name}" for m, s in SCHOOLS])
def test_a_zero_in_any_field_makes_no_division_by_it(its, school):
    for path, record in typed_in_turn(its, school, "0"):
        outcome = its.judge(record, school, NOON)
        numbers = [v.value for v in outcome.values if v.value is not None]
        assert all(map(math.isfinite, numbers)), path


@pytest.mark.parametrize("its", METHODS.values(), ids=METHODS)
def test_a_sheet_is_printed_with_a_zero_that_was_kept(its):
    school = its.school()
    for path, record in typed_in_turn(its, school, "0"):
        outcome = its.outcome(record, school)
        if any(path in v.at and v.level == "stop" for v in outcome.verdicts):
            assert its.with_uncertainties(record, school, outcome).verdicts == outcome.verdicts, path


def calls_of(work):
    """How many functions some work calls: its length in steps, whatever the machine."""
    many = 0

    def count(frame, event, arg):
        nonlocal many
        many += event in ("call", "c_call")

    sys.setprofile(count)
    try:
        work()
    finally:
        sys.setprofile(None)
    return many


@pytest.mark.parametrize("its", METHODS.values(), ids=METHODS)
def test_a_moment_typed_a_century_off_makes_no_work_of_a_century(its):
    for n, school in enumerate(its.schools.values()):
        record = its.Record.model_validate(whole_of(its, school)[0])
        usual = calls_of(lambda: its.judge(record, school, NOON))  # noqa: B023
        hours = () if n else ("999999",)  # a count of hours is read alike by every school
        for path, far in typed_in_turn(its, school, "2199-12-31T23:59:59+00:00", *hours):
            if unit_of(path) not in ("", "s", "min", "h"):
                continue
            worked = calls_of(lambda: its.judge(far, school, NOON))  # noqa: B023
            assert worked < 10 * usual + 200_000, (school.name, path)


def test_a_reading_of_nothing_is_struck_before_it_is_asked_for_again():
    its = METHODS["unconfined_compression"]
    whole, _ = whole_of(its, its.school())
    outcome = its.judge(its.Record.model_validate(whole | {"mass_g": 0}), its.school(), NOON)
    stop = next(v for v in outcome.verdicts if v.at == ("mass_g",) and v.level == "stop")
    assert stop.found == "mass of the specimen reads 0 g"
    assert outcome.advice is not None
    assert not outcome.advice.finished
    assert "mass of the specimen reads 0 g" in outcome.advice.headline


def test_a_full_record_of_every_school_holds_only_what_can_be():
    for its, school in SCHOOLS:
        for seed in range(3):
            assert checked(its.virtual(seed, school, None).record).verdicts == (), (its.name, school.name, seed)


def test_a_scanned_code_in_a_diameter_is_asked_back_before_anything_else_is():
    its = METHODS["ring_density"]
    record = its.Record.model_validate({"ring_diameter_mm": "123456789012345678", "ring_height_mm": "nan"})
    outcome = its.judge(record, its.school(), NOON)
    stops = [v for v in outcome.verdicts if v.level == "stop"]
    assert [v.at for v in stops] == [("ring_diameter_mm",), ("ring_height_mm",)]
    assert "1.23457e+17 mm" in stops[0].found
    assert outcome.advice is not None
    assert not outcome.advice.finished
