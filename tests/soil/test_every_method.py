"""One conformance suite over all methods: rooms, names, partial records, working, truth, checks, JSON."""

import importlib
import inspect
import json
import math
import tomllib
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, get_args

import pytest
from pydantic import BaseModel

import vadum
from vadum.soil.contract.fields import UNITLESS_ENDINGS, UNITS, RecordPart, unit_of
from vadum.soil.contract.method import Method, School
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.working import recomputed, with_numbers
from vadum.soil.register import METHODS

NOW = datetime(2026, 5, 12, 10, 21, tzinfo=UTC)
ROOT = Path(vadum.__file__).parent
ROOMS = ("record", "schools", "reduce", "checks", "advise", "steps", "virtual")
EXAMPLES = Path(__file__).parents[1] / "examples"
EVERY = pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)


def every_school() -> list[Any]:
    return [pytest.param(m, s, id=f"{m.name}-{s.name}") for m in METHODS.values() for s in m.schools.values()]


EVERY_SCHOOL = pytest.mark.parametrize(("method", "school"), every_school())


def rows_of(record: type[BaseModel]) -> dict[str, type[BaseModel]]:
    found = {}
    for name, field in record.model_fields.items():
        for inner in get_args(field.annotation):
            if inspect.isclass(inner) and issubclass(inner, BaseModel):
                found[name] = inner
    return found


def fields_of(method: Method) -> dict[str, Any]:
    rows = rows_of(method.Record)
    flat = {name: field for name, field in method.Record.model_fields.items() if name not in rows}
    for row, model in rows.items():
        flat |= {f"{row}[].{name}": field for name, field in model.model_fields.items()}
    return flat


def partial_records(record: RecordPart) -> list[RecordPart]:
    """The record with each of its fields taken away in turn, and growing field by field."""
    data = record.model_dump(exclude_defaults=True)
    shorter = [{k: v for k, v in data.items() if k != gone} for gone in data]
    growing = [dict(list(data.items())[:n]) for n in range(len(data) + 1)]
    for row, values in data.items():
        if isinstance(values, tuple):
            growing += [{**data, row: values[:n]} for n in range(len(values))]
            for i, one in enumerate(values):
                for gone in one:
                    cut = [dict(v) for v in values]
                    del cut[i][gone]
                    shorter.append({**data, row: cut})
    return [type(record).model_validate(d) for d in shorter + growing]


@EVERY
def test_every_method_has_all_its_rooms(method):
    for room in ROOMS:
        assert importlib.import_module(f"vadum.soil.methods.{method.name}.{room}").__doc__
    assert importlib.import_module(f"vadum.figures.{method.name}").FIGURE
    assert (ROOT / f"web/templates/desk/{method.name}.html").is_file()
    assert (EXAMPLES / f"{method.name}.toml").is_file()
    assert {p.name for p in (ROOT / "soil/methods").iterdir() if p.is_dir() and p.name[0] != "_"} == set(METHODS)


@EVERY
def test_every_number_ends_in_its_unit_and_has_words(method):
    numbers = 0
    for path, field in fields_of(method).items():
        name = path.rpartition(".")[2]
        assert field.title, f"{method.name}.{path} has no title"
        assert field.default in (None, ()), f"{path} is not optional"
        kinds = {inner for outer in get_args(field.annotation) for inner in (outer, *get_args(outer)[:1])}
        numbers += bool(kinds & {float, int})
        assert not kinds & {float, int} or name.endswith((*UNITS, *UNITLESS_ENDINGS)), path
    assert numbers, "a method without a number, or a test that does not see them"


def test_the_longest_ending_is_the_unit_and_an_unknown_one_has_none():
    for ending, unit in UNITS.items():
        field = f"settling{ending}" if ending.startswith("_") else ending
        assert unit_of(field) == unit, ending
    for unknown in ("pressure_bar", "area_mm2", "stress_psi", "rate_mm_s2"):
        assert not unknown.endswith((*UNITS, *UNITLESS_ENDINGS)), unknown


@EVERY
def test_the_steps_fill_every_field(method):
    filled = {field for step in method.steps for field in step.fields}
    assert filled == set(fields_of(method))


@EVERY
def test_the_sheet_shows_columns_that_exist(method):
    for row, columns in method.columns.items():
        assert set(columns) <= set(rows_of(method.Record)[row].model_fields)


@EVERY_SCHOOL
def test_partial_records_reduce_and_advise(method, school):
    trial = method.virtual(7, school, None)
    for record in [method.Record(), *partial_records(trial.record)]:
        outcome = method.judge(record, school, NOW)
        assert outcome.advice.headline
        for value in outcome.values:
            assert value.value is None or math.isfinite(value.value)
    empty = method.outcome(method.Record(), school)
    assert not any(v.reportable for v in empty.values)
    assert empty.missing


@EVERY_SCHOOL
def test_working_recomputes_and_every_value_has_it(method, school):
    outcome = method.judge(method.virtual(3, school, None).record, school, NOW)
    for line in outcome.working:
        assert recomputed(line) == pytest.approx(line.value, rel=1e-9, abs=1e-9), line.gives
        assert with_numbers(line)
    worked = {line.gives for line in outcome.working}
    assert {v.key for v in outcome.values if v.value is not None} <= worked


@EVERY_SCHOOL
def test_the_virtual_soils_truth_comes_back(method, school):
    for seed in range(25):
        trial = method.virtual(seed, school, None)
        outcome = method.outcome(trial.record, school)
        assert outcome.worst() in ("watch", "fine"), [v for v in outcome.verdicts if v.level in ("stop", "redo")]
        for key, truth in trial.truth.items():
            assert outcome.value(key).value == pytest.approx(truth, abs=trial.tolerance[key])


@EVERY
def test_typical_mistakes_are_noticed(method):
    school = method.school()
    for mistake in method.mistakes:
        levels = [method.outcome(method.virtual(seed, school, mistake).record, school).worst() for seed in range(10)]
        assert levels.count("fine") == 0, mistake


@EVERY_SCHOOL
def test_an_outcome_survives_json(method, school):
    outcome = method.judge(method.virtual(5, school, None).record, school, NOW)
    assert Outcome.model_validate_json(outcome.model_dump_json()) == outcome


@EVERY
def test_schools_describe_themselves_and_survive_json(method):
    for name, school in method.schools.items():
        assert school.name == name
        assert isinstance(school, School)
        assert type(school).model_validate_json(school.model_dump_json()) == school
    json.dumps(method.Record.model_json_schema())


@EVERY
def test_every_check_says_fine_when_it_holds_or_speaks_when_it_does_not(method):
    """Each check of the module is tripped, or spoken, by some record of the virtual soils or of the cases below."""
    module = importlib.import_module(f"vadum.soil.methods.{method.name}.checks")
    from tests.soil.tripping import TRIPPED

    cases = TRIPPED[method.name]
    assert {c.__name__ for c in module.ALL} == set(cases), "every check needs a record that trips it"
    for check in module.ALL:
        school_name, changes = cases[check.__name__]
        school = method.school(school_name)
        good = method.virtual(3, school, None).record
        assert not [v for v in check(good, school) if v.level != "fine"], check.__name__
        bad = type(good).model_validate({**good.model_dump(), **changes(good.model_dump())})
        verdicts = [v for v in check(bad, school) if v.level != "fine"]
        assert verdicts, check.__name__
        assert all(v.remedy and v.found and v.limit and v.source for v in verdicts)


def cases() -> list[Any]:
    found = []
    for path in sorted(EXAMPLES.glob("*.toml")):
        for case in tomllib.loads(path.read_text("utf-8"))["case"]:
            found.append(pytest.param(path.stem, case, id=f"{path.stem}-{case['id']}"))
    return found


@pytest.mark.parametrize(("name", "case"), cases())
def test_independent_examples_agree(name, case):
    method = METHODS[name]
    school = method.school(case["school"])
    outcome = method.outcome(method.Record.model_validate(case["record"]), school)
    for key, expected in case["values"].items():
        value = outcome.value(key)
        assert value.value == pytest.approx(expected["value"], abs=expected["tolerance"])
        for attribute in ("reported", "name", "provisional"):
            if attribute in expected:
                assert getattr(value, attribute) == expected[attribute]
    worked = {line.gives: line for line in outcome.working}
    for key, expected in case["working"].items():
        assert worked[key].value == pytest.approx(expected["value"], abs=expected["tolerance"])
        assert recomputed(worked[key]) == pytest.approx(worked[key].value)
    for rule, level in case["levels"].items():
        assert level in {v.level for v in outcome.verdicts if v.rule == rule}, rule
