"""Following what the advice asks for, field after field, leads from an empty record to a sheet that can be signed."""

from datetime import UTC, datetime
from typing import Any

import pytest
from pydantic import BaseModel

from vadum.soil.contract.method import Method
from vadum.soil.register import METHODS

MORNING = datetime(2026, 1, 5, 8, 0, tzinfo=UTC)
# The liquid limit and the water content walk through their own tests: their advice answers to what the soil does.
WALKED = [m for m in METHODS.values() if m.name not in ("liquid_limit", "water_content")]
SCHOOLS = [pytest.param(m, s, id=f"{m.name}-{s.name}") for m in WALKED for s in m.schools.values()]


def flat(record: BaseModel) -> dict[str, Any]:
    """Every reading of a record by its path."""
    found = {}
    for name, value in record:
        if isinstance(value, tuple):
            for i, row in enumerate(value):
                found |= {f"{name}[{i}].{f}": v for f, v in row if v is not None}
        elif value is not None:
            found[name] = value
    return found


def with_reading(method: Method, record: Any, path: str, value: Any) -> Any:
    """The record with one more reading."""
    data = record.model_dump(exclude_none=True)
    name, bracket, rest = path.partition("[")
    if not bracket:
        return method.Record.model_validate({**data, name: value})
    index, field = int(rest.partition("]")[0]), rest.rpartition(".")[2]
    rows = [dict(row) for row in data.get(name, ())]
    assert index <= len(rows), f"{path} is beyond the next row"
    if index == len(rows):
        rows.append({})
    rows[index][field] = value
    return method.Record.model_validate({**data, name: rows})


def begun(method: Method, school: Any) -> Any:
    record = method.Record()
    for path, value in method.begins_with(school):
        record = with_reading(method, record, path, value)
    return record


def moments_with(method: Method, path: str, values: dict[str, Any]) -> dict[str, Any]:
    """The times that go with a reading, as its entry would give them."""
    row, _, field = path.rpartition(".")
    model: Any = method.Record.model_fields[row.partition("[")[0]].annotation.__args__[0] if row else method.Record
    prefix = f"{row}." if row else ""
    found = {}
    for name, its in model.model_fields.items():
        sources = (its.json_schema_extra or {}).get("moment_of") or ()
        if field in ([sources] if isinstance(sources, str) else sources) and f"{prefix}{name}" in values:
            found[f"{prefix}{name}"] = values[f"{prefix}{name}"]
    return found


@pytest.mark.parametrize(("method", "school"), SCHOOLS)
def test_the_advice_leads_from_nothing_to_a_finished_run(method, school):
    values = flat(method.virtual(3, school, None).record)
    record, now, asked = begun(method, school), MORNING, []
    for path in method.begins_with(school):
        values.pop(path[0], None)
    for _ in range(300):
        outcome = method.judge(record, school, now)
        advice = outcome.advice
        assert advice.headline
        if advice.finished:
            break
        assert advice.wants, f"it is not finished and asks for nothing: {advice.headline}"
        path = next((p for p in advice.wants if p in values), None)
        assert path, f"{advice.headline} asks for {advice.wants}"
        for at, value in {**moments_with(method, path, values), path: values[path]}.items():
            record = with_reading(method, record, at, value)
            values.pop(at)
            if isinstance(value, datetime):
                now = max(now, value)
        for due in advice.due:
            if due.at and due.path == path:
                now = max(now, due.at)
        asked.append(path)
    assert advice.finished, advice
    assert outcome.worst() in ("fine", "watch"), [v for v in outcome.verdicts if v.level in ("stop", "redo")]
    assert any(v.reportable for v in outcome.values)
    assert len(asked) == len(set(asked)), "nothing is asked for twice"


@pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)
def test_every_due_moment_leads_to_a_field_of_the_record(method):
    school = method.school()
    record = method.virtual(3, school, None).record
    data = record.model_dump(exclude_none=True)
    for many in range(len(data)):
        part = method.Record.model_validate(dict(list(data.items())[:many]))
        for due in method.judge(part, school, MORNING).advice.due:
            name, bracket, rest = due.path.partition("[")
            assert name in method.Record.model_fields, due
            if bracket:
                row = method.Record.model_fields[name].annotation.__args__[0]
                assert rest.rpartition(".")[2] in row.model_fields, due
            assert due.hands_s > 0
            assert due.lead_s <= due.hands_s
