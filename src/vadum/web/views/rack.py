"""The rack's words: the call that is due, with its fields, and the sheet of calls."""

from datetime import datetime
from typing import Any, NamedTuple

from vadum.bench.rack import Call, Cylinder, Rack, slot_words
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
    answered = [c for c in rack.calls if c.kind in ("read", "temperature", "start")]
    mine = [c for c in answered if pick in (c.code, c.name)] if pick else []
    call = next(iter(mine or answered), None)
    if call is None:
        return None
    cylinder = next(c for c in rack.cylinders if c.code == call.code)
    before = (c for c in rack.calls if c.code == call.code and c.kind in ("insert", "shake") and c.at <= call.at)
    begin = next(before, None)
    first = begin if begin and begin.at > now and not call.is_in and call.kind in ("read", "start") else call
    verbs = {"insert": "Hydrometer into", "shake": "Turn end over end:"}
    if first is not call:
        headline = f"{verbs[first.kind]} cylinder {call.name} at {exact(first.at, now)}."
        then = "set it down" if call.kind == "start" else call.what
        detail = f"Then {then} at {exact(call.at, now)}."
    else:
        ahead = f" at {exact(call.at, now)}" if call.at > now else ""
        headline = f"{call.what[0].upper()}{call.what[1:]}{ahead}."
        detail = "Top of the meniscus, then the temperature." if call.kind == "read" else ""
        if call.kind == "start":
            detail = "Enter at the moment it stands: time zero."
        if call.late_s > 0:
            detail = f"{span(call.late_s / 60)} late: it is kept with its true time. {detail}"
    counts = int(first.at.timestamp() * 1000)
    insert = call.path.partition("]")[0] + "].inserted_at" if call.kind == "read" and not call.is_in else ""
    return Asked(call, headline, detail, counts, _fields(call, cylinder), insert)


def _fields(call: Call, cylinder: Cylinder) -> tuple[tuple[str, str, str, str, str], ...]:
    """Path, label, step, last value and kind of each field."""
    last_t = "" if cylinder.last_temperature is None else f"{cylinder.last_temperature:g}"
    temperature = ("temperature, °C", "0.1", last_t, "number")
    if call.kind == "temperature":
        return ((call.path, *temperature),)
    if call.kind == "start":
        return ((call.path, "time zero", "", "", "moment"),)
    last = "" if cylinder.last_reading is None else f"{cylinder.last_reading:g}"
    label, step = ("reading, sg", "0.0005") if cylinder.in_sg else ("reading, g/L", "0.5")
    return ((call.path, label, step, last, "number"), (call.temperature_path, *temperature))


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
