"""What the call desk shows of a push: the next call, the readings so far, the pace, and the zero."""

from typing import Any, cast

from vadum.soil.contract.outcome import Advice
from vadum.soil.shared.bearing.calls import Pace, next_call, pace
from vadum.soil.shared.bearing.ends import Found, all_found, force_of, penetration_of
from vadum.soil.shared.bearing.record import BearingRecord, CalledRow, End, Stopped
from vadum.soil.shared.bearing.school import BearingSchool
from vadum.tape.runs import Read

STOPS: tuple[Stopped, ...] = ("ring at its limit", "reaction lifted", "stone under the plunger", "gauge at its end")
ALLOWED_BAND = 0.28  # share of the guide, as call.css draws it
NOTES = ("datum jumped", "gauge stuck")


def guide(pace: Pace) -> dict[str, Any]:
    """The pace as the guide shows it; its stone stands from 0, slow, to 1, fast, the allowed band in the middle."""
    half = (pace.high_mm_min - pace.low_mm_min) / 2
    place = 0.5 + ALLOWED_BAND / 2 * (pace.mm_min - pace.low_mm_min - half) / half
    return {"word": pace.word, "rate": f"{pace.mm_min:.2f}", "place": min(max(place, 0.0), 1.0)}


def _entry(read: Read, path: str) -> dict[str, str]:
    entry = read.folded.came_from.get(path)
    if entry is None:
        return {"id": "", "value": ""}
    return {"id": entry.id, "value": str(read.folded.typed(path))}


def _row(read: Read, end: End, i: int, row: CalledRow, record: BearingRecord, school: BearingSchool) -> dict[str, Any]:
    path = f"{end.rows_path}[{i}]"
    # An instrument may give a force where a ring would be read.
    field = "force_kn" if row.force_kn is not None else "ring_div"
    taken = _entry(read, f"{path}.{field}")
    missed = _entry(read, f"{path}.missed")
    force = force_of(end, i, record.ring())
    at = penetration_of(end, i, school)
    source = read.folded.came_from.get(f"{path}.{field}")
    return {
        "at": "" if at is None else f"{at:.2f}",
        "div": taken["value"],
        "kn": "" if force is None else f"{force:.2f}",
        "entry": taken["id"],
        "missed": row.missed is not None and not taken["value"],
        "missedEntry": missed["id"],
        "noted": row.noted or "",
        "by": "" if source is None or source.source == "hand" else source.source,
    }


def push_now(read: Read, advice: Advice) -> tuple[End, BearingSchool] | None:
    """The push that the advice asks a called reading of; None when it asks for something else."""
    record, school = cast(BearingRecord, read.folded.record), cast(BearingSchool, read.school)
    if not advice.wants or not read.run.in_hand:
        return None
    wanted = advice.wants[0].partition("[")
    if not wanted[1] or not wanted[2].endswith((".ring_div", ".force_kn")):
        return None
    # A push that has no seating yet is not among the record's ends, but nor is it called.
    return next(((e, school) for e in record.ends() if e.rows_path == wanted[0]), None)


def _zero(read: Read, found: Found) -> dict[str, Any]:
    prefix = found.end.prefix
    return {
        "words": found.end.words,
        "path": f"{prefix}zero_mm",
        "because": f"{prefix}zero_because",
        "entries": [e["id"] for e in (_entry(read, f"{prefix}zero_mm"), _entry(read, f"{prefix}zero_because"))],
        "shown": f"{found.shift_mm:.2f}",
        "computed": "" if found.computed is None else f"{found.computed.shift_mm:.2f}",
    }


def calling(read: Read) -> dict[str, Any]:
    """The data of the call panel, and of the zeros that an analyst may draw."""
    record, school = cast(BearingRecord, read.folded.record), cast(BearingSchool, read.school)
    zeros = [_zero(read, f) for f in all_found(record, school) if len(f.points) >= 5]
    advice = read.method.advised(record, school, read.outcome, read.run.started_at)
    its = push_now(read, advice)
    if its is None:
        return {"now": None, "zeros": zeros}
    end, school = its
    call, rate = next_call(end, school), pace(end, school)
    last = next((r.read_at for r in reversed(end.rows) if r.read_at is not None), None)
    return {
        "zeros": zeros,
        "now": {
            "words": end.words,
            "path": end.rows_path,
            "field": end.force_field,
            "reads": "ring, divisions" if end.force_field == "ring_div" else "force, kN",
            "gauge": "ring" if end.force_field == "ring_div" else "force",
            "called": [f"{at:.2f}" for at in school.called_mm],
            "waits": [round(school.interval_s(i), 2) for i in range(len(school.called_mm))],
            "at": call.row if call else len(end.rows),
            "rows": [_row(read, end, i, r, record, school) for i, r in enumerate(end.rows)],
            "pace": None if rate is None else guide(rate),
            "rate": f"{school.rate_mm_min:g}",
            "lastMs": int(last.timestamp() * 1000) if last else 0,
            "alarm": advice.alarm,
            "stop": f"{end.prefix}stopped",
            "stops": list(STOPS),
            "notes": list(NOTES),
        },
    }
