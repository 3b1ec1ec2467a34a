"""Calling: which penetration comes next, at what pace the plunger goes, and readings out of an instrument's samples."""

from datetime import UTC, datetime, timedelta
from typing import Any, NamedTuple

from vadum.soil.contract.called import Called, Pace, Taken
from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Advice, Due
from vadum.soil.shared.bearing.alarms import alarm
from vadum.soil.shared.bearing.curve import seating_n
from vadum.soil.shared.bearing.ends import force_of, is_over, penetration_of
from vadum.soil.shared.bearing.record import BearingRecord, CalledRow, End, Stopped
from vadum.soil.shared.bearing.school import BearingSchool
from vadum.soil.shared.proving_ring import divisions_of

STANDSTILL_S = 120  # laboratory setting
STOPS: tuple[Stopped, ...] = ("ring at its limit", "reaction lifted", "stone under the plunger", "gauge at its end")
CHANNELS = {"ring": "ring_div", "force": "force_kn", "vehicle": "vehicle_mm"}


class Call(NamedTuple):
    """The reading to call next: its row and its penetration."""

    row: int
    at_mm: float


class Timed(NamedTuple):
    """When a row was read, s, and where, mm."""

    row: int
    seconds: float
    penetration_mm: float


def next_call(end: End, school: BearingSchool) -> Call | None:
    """The first call behind the last row; None when the push is over."""
    row = len(end.rows)
    if end.stopped is not None or row >= len(school.called_mm):
        return None
    return Call(row, school.called_mm[row])


def timed(end: End, school: BearingSchool) -> list[Timed]:
    """The rows whose time is known: all by the instrument's clock, or all by the reading's."""
    read = [i for i, r in enumerate(end.rows) if known(r.ring_div) or known(r.force_kn)]
    by_instrument = [i for i in read if known(end.rows[i].elapsed_s)]
    if len(by_instrument) >= 2:
        read = by_instrument
    found = []
    for i in read:
        row, at = end.rows[i], penetration_of(end, i, school)
        seconds = row.elapsed_s if len(by_instrument) >= 2 else row.read_at.timestamp() if row.read_at else None
        if seconds is not None and at is not None:
            found.append(Timed(i, seconds, at))
    return found


def rate_mm_min(rows: list[Timed]) -> float | None:
    """Rate from the first to the last of the rows, mm/min; None where time does not pass.

    >>> rate_mm_min([Timed(0, 0.0, 0.0), Timed(1, 15.0, 0.25), Timed(2, 30.0, 0.5)])
    1.0
    """
    if len(rows) < 2 or rows[-1].seconds <= rows[0].seconds:
        return None
    return 60 * (rows[-1].penetration_mm - rows[0].penetration_mm) / (rows[-1].seconds - rows[0].seconds)


def pace_of(school: BearingSchool) -> Pace:
    """The plunger's rate and the band that the school allows, mm/min.

    >>> pace_of(BearingSchool(name="n", title="t", standard="s", about="a")).word(1.1)
    'right'
    """
    share = school.rate_tolerance_percent / 100
    return Pace(school.rate_mm_min, school.rate_mm_min * (1 - share), school.rate_mm_min * (1 + share))


def called_of(record: BearingRecord, end: End, school: BearingSchool) -> Called:
    """A push as readings that its penetration calls."""
    ring = record.ring()
    taken = []
    seconds = {t.row: t.seconds for t in timed(end, school)}
    for i, row in enumerate(end.rows):
        force = force_of(end, i, ring)
        moment = datetime.fromtimestamp(seconds[i], UTC) if i in seconds else None
        shows = "" if force is None else f"{force:.2f}"
        gone = row.missed is not None or (row.ring_div is None and row.force_kn is None)
        taken.append(Taken(i, penetration_of(end, i, school), moment, gone, shows))
    return Called(
        key=end.rows_path,
        words=end.words,
        by="travel",
        unit="mm",
        at=school.called_mm,
        reads=(end.force_field,),
        pace=pace_of(school),
        over=is_over(end, school),
        taken=tuple(taken),
        rows=len(end.rows),
        channels=CHANNELS,
        travel_channels=("penetration",),
        travel_field="penetration_mm",
        time_field="elapsed_s",
        moment_field="read_at",
        missed_field="missed",
        note_field="noted",
        notes=("datum jumped", "gauge stuck"),
        stop_field=f"{end.prefix}stopped",
        stops=STOPS,
        interpolates=school.interpolates,
        shows="force, kN",
    )


def called(facts: Any, school: BearingSchool) -> tuple[Called, ...]:
    """Every push of a record as called readings."""
    record: BearingRecord = facts.record
    return tuple(called_of(record, end, school) for end in record.ends())


def seating_words(record: BearingRecord, school: BearingSchool) -> tuple[str, str]:
    """The seating load of the expected ratio: in N, and in divisions of this ring."""
    if not known(record.expected_percent) or record.expected_percent <= 0:
        return "", ""
    newtons = seating_n(record.expected_percent, school.seating_classes)
    ring = record.ring()
    if ring is None:
        return f"{newtons:g} N", "seating load"
    try:
        return f"{newtons:g} N", f"{divisions_of(ring, newtons / 1000):.1f} ring divisions"
    except ReductionError:
        return f"{newtons:g} N", "below the ring's table"


def call_advice(record: BearingRecord, end: End, school: BearingSchool, now: datetime) -> Advice | None:
    """What now while the plunger goes in; None when this push is over."""
    call = next_call(end, school)
    if call is None:
        return None
    path = f"{end.rows_path}[{call.row}].{end.force_field}"
    gauge = "the ring" if end.force_field == "ring_div" else "the force"
    last = next((r for r in reversed(end.rows) if r.read_at is not None), None)
    started = call.row > 0 and last is not None and last.read_at is not None
    at = last.read_at + timedelta(seconds=school.interval_s(call.row)) if started and last and last.read_at else None
    if at is not None and (now - at).total_seconds() > STANDSTILL_S:
        at = None  # nobody pushes any more: it is work that waits, no reading that falls due
    due = Due(
        what=f"Read {gauge} at {call.at_mm:.2f} mm",
        kind="reading" if at else "hands",
        at=at,
        path=path,
        hands_s=8 if at else int(60 * school.called_mm[-1] / school.rate_mm_min) + 120,
        window_s=6 if at else None,
        label=f"{call.at_mm:.2f} mm",
        detail=f"{end.words}: {call.row + 1} of {len(school.called_mm)}.",
    )
    headline = f"Read {gauge} at {call.at_mm:.2f} mm." if call.row else f"Both gauges at zero: read {gauge}, start."
    return Advice(
        headline=headline,
        detail=f"{end.words}, {school.rate_mm_min:g} mm/min; a missed one is left empty.",
        amount=f"{call.at_mm:.2f} mm",
        amount_note=f"{call.row + 1} of {len(school.called_mm)}",
        wants=(path,),
        due=(due,),
        alarm=alarm(record, end, school),
    )


def read_rows(rows: tuple[CalledRow, ...]) -> int:
    """How many rows hold a reading."""
    return sum(r.ring_div is not None or r.force_kn is not None for r in rows)
