"""The rack's words: the call that is due, with its fields, and the sheet of calls."""

from datetime import datetime
from typing import Any, NamedTuple

from vadum.bench.rack import Call, Rack, Vessel, slot_words
from vadum.soil.contract import paths
from vadum.soil.contract.fields import RecordPart, unit_of
from vadum.soil.contract.times import exact, span


class CallView(NamedTuple):
    """One line of the call sheet."""

    call: Call
    clock: str
    counts_to_ms: int
    late: str


class Asked(NamedTuple):
    """The call the hands are at: its field or fields, and what the steppers begin from."""

    call: Call
    headline: str
    detail: str
    counts_to_ms: int
    fields: tuple[tuple[str, str, str, str, str], ...]
    insert_path: str


def _asked(rack: Rack, now: datetime, pick: str) -> Asked | None:
    """The call to answer: the picked cylinder's, else the soonest that is answered by a reading or a start."""
    answered = [c for c in rack.calls if c.kind in ("read", "after", "start")]
    mine = [c for c in answered if pick in (c.code, c.name)] if pick else []
    call = next(iter(mine or answered), None)
    if call is None:
        return None
    vessel = next(v for v in rack.vessels if v.code == call.code)
    called = vessel.called
    before = (c for c in rack.calls if c.code == call.code and c.kind in ("insert", "shake") and c.at <= call.at)
    begin = next(before, None)
    first = begin if begin and begin.at > now and not call.is_in and call.kind in ("read", "start") else call
    if first is not call:
        words = first.what[0].upper() + first.what[1:]
        headline = f"{words} at {exact(first.at, now)}."
        then = called.begins if call.kind == "start" else call.what
        detail = f"Then {then} at {exact(call.at, now)}."
    else:
        ahead = f" at {exact(call.at, now)}" if call.at > now else ""
        headline = f"{call.what[0].upper()}{call.what[1:]}{ahead}."
        detail = called.how if call.kind == "read" else ""
        if call.kind == "start":
            detail = "Enter at the moment it stands: time zero."
        if call.late_s > 0:
            detail = f"{span(call.late_s / 60)} late: it is kept with its true time. {detail}"
    counts = int(first.at.timestamp() * 1000)
    row = paths.parse(call.path).row
    inserts = call.kind == "read" and not call.is_in and called.insert_field and row is not None
    insert = called.path(row, called.insert_field) if inserts and row is not None else ""
    return Asked(call, headline, detail, counts, _fields(call, vessel, vessel.record), insert)


def _fields(call: Call, vessel: Vessel, record: type[RecordPart]) -> tuple[tuple[str, str, str, str, str], ...]:
    """Path, label, step, last value and kind of each field."""
    if call.kind == "start":
        return ((call.path, "time zero", "", "", "moment"),)
    wanted = (call.path,) if call.kind == "after" or not call.after_path else (call.path, call.after_path)
    return tuple(_number(path, vessel, record) for path in wanted)


def _number(path: str, vessel: Vessel, record: type[RecordPart]) -> tuple[str, str, str, str, str]:
    name, field = paths.field_name(path), paths.field_of(record, path)
    unit = unit_of(name)
    title = (field.title if field else None) or name
    extra = field.json_schema_extra if field else None
    step = str(extra.get("step", "")) if isinstance(extra, dict) else ""
    last = f"{vessel.last[name]:g}" if name in vessel.last else ""
    return path, f"{title}, {unit}" if unit else title, step, last, "number"


def rack_values(rack: Rack, now: datetime, pick: str) -> dict[str, Any]:
    """All that the rack's fragments show."""
    views = [
        CallView(
            call,
            exact(call.at, now),
            int(call.at.timestamp() * 1000),
            f"{span(call.late_s / 60)} late" if call.late_s > 0 else "",
        )
        for call in rack.calls
    ]
    return {
        "rack": rack,
        "asked": _asked(rack, now, pick),
        "calls": views[:16],
        "more_calls": max(0, len(views) - 16),
        "exact": exact,
        "slot_words": slot_words,
        "now": now,
        "pick": pick,
    }
