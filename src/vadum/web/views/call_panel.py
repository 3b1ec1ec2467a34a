"""What the call panel shows of readings that a travel calls: the next call, those taken so far, and the pace."""

from typing import Any

from vadum.recording.live import guide
from vadum.recording.what_is_called import called_now
from vadum.soil.contract import paths
from vadum.soil.contract.called import Called, Taken
from vadum.soil.contract.fields import unit_of
from vadum.soil.contract.outcome import Advice
from vadum.soil.contract.travel import interval_s, rate_of
from vadum.tape.runs import Read


def _entry(read: Read, path: str) -> dict[str, str]:
    entry = read.folded.came_from.get(path)
    if entry is None:
        return {"id": "", "value": ""}
    return {"id": entry.id, "value": str(read.folded.typed(path))}


def _row(read: Read, called: Called, one: Taken) -> dict[str, Any]:
    # An instrument may fill another field than the one that a hand reads.
    fields = dict.fromkeys((*called.reads, *called.channels.values()))
    stands = next((f for f in fields if read.folded.came_from.get(called.path(one.row, f))), called.reads[0])
    path = called.path(one.row, stands)
    taken = _entry(read, path)
    missed = _entry(read, called.path(one.row, called.missed_field)) if called.missed_field else {"id": ""}
    source = read.folded.came_from.get(path)
    noted = paths.reading_at(read.folded.record, called.path(one.row, called.note_field)) if called.note_field else ""
    return {
        "at": "" if one.at is None else f"{one.at:.2f}",
        "read": taken["value"],
        "shows": one.shows,
        "entry": taken["id"],
        "missed": one.missed and not taken["value"],
        "missedEntry": missed["id"],
        "noted": noted or "",
        "by": "" if source is None or source.source == "hand" else source.source,
    }


def call_panel(read: Read, advice: Advice) -> dict[str, Any] | None:
    """The data of the call panel; None while no travel calls."""
    called = called_now(read, advice.wants)
    if called is None:
        return None
    rate = rate_of(called)
    last = next((t.moment for t in reversed(called.taken) if t.moment is not None), None)
    field = paths.field_of(read.method.Record, called.path(0))
    title, unit = (field.title if field else None) or called.reads[0], unit_of(called.reads[0])
    second = called.reads[1] if len(called.reads) > 1 else ""
    also = paths.field_of(read.method.Record, called.path(0, second)) if second else None
    return {
        "words": called.words,
        "path": called.key,
        "field": called.reads[0],
        "reads": f"{title}, {unit}" if unit else title,
        "beside": second,
        "besideReads": f"{also.title}, {unit_of(second)}" if also else "",
        "gauge": title,
        "unit": called.unit,
        "shows": called.shows,
        "called": [f"{at:.2f}" for at in called.at],
        "waits": [round(interval_s(called, i), 2) for i in range(len(called.at))],
        "at": called.next_row,
        "rows": [_row(read, called, one) for one in called.taken],
        "pace": None if rate is None or called.pace is None else guide(called.pace, rate),
        "rate": "" if called.pace is None else f"{called.pace.rate:.3g}",
        "lastMs": int(last.timestamp() * 1000) if last else 0,
        "alarm": advice.alarm,
        "grave": advice.grave,
        "stop": called.stop_field,
        "stops": list(called.stops),
        "notes": list(called.notes),
        "noteField": called.note_field,
        "missedField": called.missed_field,
        "travelField": called.travel_field,
        "timeField": called.moment_field,
    }
