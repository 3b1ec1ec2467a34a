"""One conformance suite over all methods: rooms, names, partial records, working, truth, checks, JSON."""

import importlib
import json
import math
import tomllib
from collections import Counter
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, get_args

import pytest
from pydantic import BaseModel
from tools.new_method import missing_of

import vadum
from vadum.soil.contract import paths
from vadum.soil.contract.fields import UNITLESS_ENDINGS, UNITS, RecordPart, unit_of
from vadum.soil.contract.method import Method
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.rules import Forecast, Rule, name_of
from vadum.soil.contract.school import School, settings_of, source_of
from vadum.soil.contract.working import recomputed, with_numbers
from vadum.soil.register import METHODS

NOW = datetime(2026, 5, 12, 10, 21, tzinfo=UTC)
ROOT = Path(vadum.__file__).parent
ROOMS = ("record", "school", "facts", "rules", "flow", "reduce", "virtual")
EXAMPLES = Path(__file__).parents[1] / "examples"
LEAST_TRIED = 100
MOST_ASKED = 6
MOST_ROWS = 40  # of a list are taken apart one by one: a block's rows are all alike
EVERY = pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)


def every_school() -> list[Any]:
    return [pytest.param(m, s, id=f"{m.name}-{s.name}") for m in METHODS.values() for s in m.schools.values()]


EVERY_SCHOOL = pytest.mark.parametrize(("method", "school"), every_school())
FEW = 4  # of a method's schools are taken apart field by field: the code behind all of them is one
FEW_SCHOOLS = pytest.mark.parametrize(
    ("method", "school"),
    [
        pytest.param(m, s, id=f"{m.name}-{s.name}")
        for m in METHODS.values()
        for s in [*list(m.schools.values())[: FEW - 1], *list(m.schools.values())[FEW - 1 :][-1:]]
    ],
)


def rows_of(record: type[BaseModel]) -> dict[str, type[BaseModel]]:
    return dict(paths.lists(record))


def fields_of(method: Method) -> dict[str, Any]:
    return dict(paths.patterns(method.Record))


def partial_records(record: RecordPart, most_rows: int) -> list[RecordPart]:
    """The record with each of its fields taken away in turn, and growing field by field."""
    data = record.model_dump(exclude_defaults=True)
    shorter = [{k: v for k, v in data.items() if k != gone} for gone in data]
    growing = [dict(list(data.items())[:n]) for n in range(len(data) + 1)]
    for row, values in data.items():
        if isinstance(values, tuple):
            growing += [{**data, row: values[:n]} for n in sorted({0, 1, 2, 3, len(values) // 2, len(values) - 1})]
            for i, one in enumerate(values[:most_rows]):
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
    assert list((ROOT / f"soil/methods/{method.name}/schools").glob("*.toml"))
    assert (EXAMPLES / f"{method.name}.toml").is_file()


def folders() -> list[str]:
    return sorted(p.name for p in (ROOT / "soil/methods").iterdir() if p.is_dir() and p.name[0] != "_")


@pytest.mark.parametrize("name", folders())
def test_a_methods_folder_is_filled_and_registered(name):
    """A method that was just laid out fails here, in its own name alone, and is told what comes next."""
    left = missing_of(name)
    assert not left, "still missing, in order: " + "; ".join(left)


@EVERY
def test_every_number_ends_in_its_unit_and_has_words(method):
    numbers = 0
    for path, field in fields_of(method).items():
        name = paths.field_name(path)
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
    for unknown in ("pressure_torr", "area_ha", "stress_psi", "rate_mm_s2"):
        assert not unknown.endswith((*UNITS, *UNITLESS_ENDINGS)), unknown


@EVERY
def test_the_steps_fill_every_field(method):
    filled = {field for step in method.steps for field in step.fields}
    assert filled == set(fields_of(method))


@EVERY
def test_the_sheet_shows_columns_that_exist(method):
    for row, columns in method.columns.items():
        assert set(columns) <= set(rows_of(method.Record)[row].model_fields)


@EVERY
def test_a_number_has_one_known_unit_and_bounds_that_are_a_range(method):
    for path, field in fields_of(method).items():
        extra = field.json_schema_extra
        if isinstance(extra, dict) and "may_be" in extra:
            low, high, _ = extra["may_be"]
            assert low < high, path


@EVERY
def test_the_flow_names_fields_values_and_hands_that_exist(method):
    names, keys = set(fields_of(method)), [task.key for task in method.flow]
    assert len(set(keys)) == len(keys)
    for task in method.flow:
        assert set(task.fields) <= names, task.key
        assert task.title
        assert task.hands_s > 0
        for school in method.schools.values():
            assert task.waits(school) >= 0
            facts = method.facts(method.Record(), school)
            for path in (*task.wanted(facts, school), *task.beside(facts, school)):
                assert paths.field_of(method.Record, path), (task.key, path)


@EVERY
def test_what_no_school_changes_is_a_laboratory_setting_and_nothing_else_is(method):
    kind = type(method.school())
    for name, field in settings_of(kind):
        found = {json.dumps(s.model_dump(mode="json")[name]) for s in method.schools.shipped.values()}
        assert not (source_of(field) and len(found) > 1), f"{name} differs between schools: no laboratory setting"


@FEW_SCHOOLS
def test_partial_records_reduce_and_advise(method, school):
    trial = method.virtual(7, school, None)
    most_rows = MOST_ROWS if school.name == method.school().name else 1  # rules of rows are those of the first school
    for record in [method.Record(), *partial_records(trial.record, most_rows)]:
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


def tripping(method: Method) -> list[tuple[str, str, Any]]:
    """Cases that trip a rule: those of the table, and those in the method's own example file."""
    from tests.soil.tripping import TRIPPED

    found = [(words, *case) for words, case in TRIPPED.get(method.name, {}).items()]
    for case in tomllib.loads((EXAMPLES / f"{method.name}.toml").read_text("utf-8")).get("trip", []):
        found.append((case["rule"], case["school"], case.get("mistake", case.get("set"))))
    return found


def tripped_record(method: Method, school: School, changes: Any) -> RecordPart:
    """The good record of a virtual soil, with the changes of a case: a function's, or paths with their values."""
    if isinstance(changes, str):
        return method.virtual(3, school, changes).record
    good = method.virtual(3, school, None).record
    data = good.model_dump()
    if callable(changes):
        return type(good).model_validate({**data, **changes(data)})
    for path, value in changes.items():
        part: Any = data
        *before, last = paths.parse(path).steps
        for step in before:
            part[step.name] = [dict(row) for row in part[step.name]]
            part = part[step.name][-1 if step.row == paths.NEXT else step.row]
        part[last.name] = None if value == "none" else value
    return type(good).model_validate(data)


@EVERY
def test_every_rule_holds_on_a_good_record_and_is_tripped_by_some_case(method):
    """Each rule of the table speaks for some case, with what was seen, a limit, a source and what to do."""
    spoken: set[int] = set()
    for words, school_name, changes in tripping(method):
        school = method.school(school_name)
        record = tripped_record(method, school, changes)
        read = method.read(record, school)
        good = method.read(method.virtual(3, school, None).record, school)
        assert not [v for v in good.outcome.verdicts if v.level in ("stop", "redo")], words
        bad = [v for v in read.outcome.verdicts if v.level != "fine"]
        stood = {(v.rule, v.level, v.found) for v in good.outcome.verdicts}
        assert [v for v in bad if (v.rule, v.level, v.found) not in stood], words
        assert all(v.remedy and v.found and v.limit and v.source for v in bad), words
        for i, rule in enumerate(method.rules):
            if [v for v in rule(read.facts, school) if v.level != "fine"]:
                spoken.add(i)
    silent = [name_of(r) for i, r in enumerate(method.rules) if i not in spoken and not isinstance(r, Forecast)]
    assert not silent, f"no case trips: {silent}"


def test_every_rule_with_a_figure_holds_at_its_limit_and_not_beyond_it():
    """From the tables: the setting that is a rule's limit is put on the figure that was seen, and a hair off it."""
    tried: set[tuple[str, str, str]] = set()
    asked: Counter[tuple[str, str, str]] = Counter()  # another figure of the rule moves with the setting: not this one
    for method in METHODS.values():
        for _, school_name, changes in [("good", None, {}), *tripping(method)]:
            school: Any = method.school(school_name)
            record = method.read(tripped_record(method, school, changes), school).record
            facts = method.facts(record, school)
            for rule in (r for r in method.rules if isinstance(r, Rule)):
                for seen in rule.seen(facts, school):
                    if seen.value is None or not seen.value > 1e-6:
                        continue
                    for name, _ in settings_of(type(school)):
                        limit = getattr(school, name)
                        one = (method.name, rule.name, name)
                        if one in tried or asked[one] == MOST_ASKED:
                            continue
                        if not isinstance(limit, float) or limit != seen.limit_value:
                            continue  # a count that happens to be the same is no limit of a figure
                        asked[one] += 1
                        beyond = seen.value * (1 - 1e-6 if seen.upper else 1 + 1e-6)
                        for put, held in ((seen.value, True), (beyond, False)):
                            other = school.model_copy(update={name: put})
                            again = rule.seen(method.facts(record, other), other)
                            mine = [s for s in again if s.value == seen.value and s.limit_value == put]
                            if mine:
                                assert mine[0].held is held, f"{method.name}: {rule.name} at {put}"
                                tried.add(one)
    assert len(tried) >= LEAST_TRIED, sorted(tried)


def cases() -> list[Any]:
    found = []
    for path in sorted(EXAMPLES.glob("*.toml")):
        for case in tomllib.loads(path.read_text("utf-8")).get("case", []):
            found.append(pytest.param(path.stem, case, id=f"{path.stem}-{case['id']}"))
    return found


@pytest.mark.parametrize(("name", "case"), cases())
def test_independent_examples_agree(name, case):
    method = METHODS[name]
    school = method.school(case["school"])
    school = type(school).model_validate(school.model_dump() | case.get("settings", {}))
    outcome = method.outcome(method.Record.model_validate(case["record"]), school)
    for key, expected in case["values"].items():
        value = outcome.value(key)
        assert value.value == pytest.approx(expected["value"], abs=expected["tolerance"])
        for attribute in ("reported", "name", "provisional"):
            if attribute in expected:
                assert getattr(value, attribute) == expected[attribute]
    worked = {line.gives: line for line in outcome.working}
    for key, expected in case.get("working", {}).items():
        assert worked[key].value == pytest.approx(expected["value"], abs=expected["tolerance"])
        assert recomputed(worked[key]) == pytest.approx(worked[key].value)
    for key in case.get("withheld", []):
        assert outcome.value(key).withheld, key
    for rule, level in case.get("levels", {}).items():
        assert level in {v.level for v in outcome.verdicts if v.rule == rule}, rule
