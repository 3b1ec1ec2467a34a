"""Following what the advice asks for, field after field, leads from an empty record to a sheet that can be signed."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from vadum.soil.contract import paths
from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.method import Method
from vadum.soil.contract.questions import expected_by_advice, too_early
from vadum.soil.register import METHODS

MORNING = datetime(2026, 1, 5, 8, 0, tzinfo=UTC)
# The liquid limit and the water content walk through their own tests: their advice answers to what the soil does.
WALKED = [m for m in METHODS.values() if m.name not in ("liquid_limit", "water_content")]
SCHOOLS = [pytest.param(m, s, id=f"{m.name}-{s.name}") for m in WALKED for s in m.schools.values()]


def flat(record: RecordPart) -> dict[str, Any]:
    """Every reading of a record by its path, rows in rows too."""
    return dict(paths.readings_of(record))


def with_typed(data: dict[str, Any], path: str, value: Any, most_beyond: int = 0) -> dict[str, Any]:
    """A record's data with one more reading; rows that are missed are empty, no more than so many."""
    whole = part = dict(data)
    *way, last = paths.parse(path).steps
    for step in way:
        rows = [dict(row) for row in part.get(step.name, ())]
        assert step.row is not None
        assert step.row <= len(rows) + most_beyond, f"{path} is beyond the next row"
        rows += [{} for _ in range(step.row + 1 - len(rows))]
        part[step.name], part = rows, rows[step.row]
    part[last.name] = value
    return whole


def with_reading(method: Method, record: Any, path: str, value: Any) -> Any:
    """The record with one more reading."""
    return method.Record.model_validate(with_typed(record.model_dump(exclude_none=True), path, value))


def begun(method: Method, school: Any) -> Any:
    record = method.Record()
    for path, value in method.begins_with(school):
        record = with_reading(method, record, path, value)
    return record


def moments_with(method: Method, path: str, values: dict[str, Any]) -> dict[str, Any]:
    """The times that go with a reading, as its entry would give them."""
    row, field = paths.parse(path).parent, paths.field_name(path)
    model: Any = method.Record if not row else paths.holder_of(method.Record, path)[0]
    prefix = f"{row}." if row else ""
    found = {}
    for name, its in model.model_fields.items():
        sources = (its.json_schema_extra or {}).get("moment_of") or ()
        if field in ([sources] if isinstance(sources, str) else sources) and f"{prefix}{name}" in values:
            found[f"{prefix}{name}"] = values[f"{prefix}{name}"]
    return found


READ_WITH = {"force_n": "pore_kpa"}


@pytest.mark.parametrize(("method", "school"), SCHOOLS)
def test_the_advice_leads_from_nothing_to_a_finished_run(method, school):
    values = flat(method.virtual(3, school, None).record)
    record, now, asked, questioned = begun(method, school), MORNING, [], []
    for path in method.begins_with(school):
        values.pop(path[0], None)
    for _ in range(500):
        outcome = method.judge(record, school, now)
        advice = outcome.advice
        assert advice.headline
        if advice.finished:
            break
        assert advice.wants, f"it is not finished and asks for nothing: {advice.headline}"
        questioned += [
            f"{told.words} {values[p]}"
            for p, told in expected_by_advice(advice).items()
            if p in values and not told.low <= values[p] <= told.high
        ]
        path = next((p for p in advice.wants if p in values), None)
        assert path, f"{advice.headline} asks for {advice.wants}"
        # Load and pore pressure of one shortening are read together.
        row, with_it = paths.parse(path).parent, READ_WITH.get(paths.field_name(path), "")
        beside = {p: values[p] for p in advice.wants if p in values and p == f"{row}.{with_it}"}
        for at, value in {**moments_with(method, path, values), path: values[path], **beside}.items():
            record = with_reading(method, record, at, value)
            values.pop(at)
            if isinstance(value, datetime):
                now = max(now, value)
        for due in advice.due:
            if due.at and due.path == path:
                if due.at - now > timedelta(hours=1) and due.since and due.by != "clock":
                    assert too_early(advice, path, now), "whoever comes hours too early is asked"
                assert not too_early(advice, path, max(now, due.at))
                now = max(now, due.at)
        asked.append(path)
    assert advice.finished, advice
    assert outcome.worst() in ("fine", "watch"), [v for v in outcome.verdicts if v.level in ("stop", "redo")]
    assert any(v.reportable for v in outcome.values)
    assert len(asked) == len(set(asked)), "nothing is asked for twice"
    assert not questioned, "what a soil answers to the amount that it was told is no slip"


@pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)
def test_every_due_moment_leads_to_a_field_of_the_record(method):
    school = method.school()
    record = method.virtual(3, school, None).record
    data = record.model_dump(exclude_none=True)
    for many in range(len(data)):
        part = method.Record.model_validate(dict(list(data.items())[:many]))
        for due in method.judge(part, school, MORNING).advice.due:
            assert paths.field_of(method.Record, due.path) is not None, due
            assert due.hands_s > 0
            assert due.lead_s <= due.hands_s


EVERY = [pytest.param(m, s, id=f"{m.name}-{s.name}") for m in METHODS.values() for s in m.schools.values()]


@pytest.mark.parametrize(("method", "school"), EVERY)
def test_a_run_that_is_cut_anywhere_says_what_it_waits_for_and_where(method, school):
    """No desk stands still without a word: it asks, waits, names what is wrong or is done, and what a value still needs
    has a field that the desk can open."""
    data = method.virtual(3, school, None).record.model_dump(exclude_none=True)
    first = school is next(iter(method.schools.values()))
    for many in range(0, len(data) + 1, 1 if first else 5):
        record = method.Record.model_validate(dict(list(data.items())[:many]))
        outcome = method.judge(record, school, MORNING)
        advice = outcome.advice
        assert advice.headline
        wrong = [v for v in outcome.verdicts if v.level in ("stop", "redo")]
        assert advice.finished or advice.wants or any(d.at for d in advice.due) or wrong, advice
        for want in advice.wants:
            assert paths.field_of(method.Record, want) is not None, want
        for one in outcome.missing:
            assert one.at, f"{one.name} waits for {one.waits_for} and no field is named"
            assert paths.field_of(method.Record, one.at) is not None, one
