"""No reading, however typed, makes the core raise; one that cannot be is stopped by name and never computed with."""

import json
import random
from datetime import UTC, datetime

import pytest
from pydantic import ValidationError

from tests.poisons import all_poisons, every_school, sampled
from tests.soil.test_following_advice import flat, with_typed
from vadum.figures.register import figure
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
