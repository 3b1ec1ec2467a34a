"""Calling: which penetration comes next, at what pace the plunger goes, and readings out of an instrument's samples."""

from datetime import UTC, datetime
from typing import NamedTuple

from vadum.soil.contract.called import Called, Pace, Taken
from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.shared.bearing.ends import PushFacts, force_of, is_over, penetration_of
from vadum.soil.shared.bearing.record import BearingRecord, CalledRow, End, Stopped
from vadum.soil.shared.bearing.school import BearingSchool
from vadum.soil.shared.proving_ring import divisions_of

STOPS: tuple[Stopped, ...] = ("ring at its limit", "reaction lifted", "stone under the plunger", "gauge at its end")
CHANNELS = {"ring": "ring_div", "force": "force_kn", "vehicle": "vehicle_mm"}


class Timed(NamedTuple):
    """When a row was read, s, and where, mm."""

    row: int
    seconds: float
    penetration_mm: float


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

    >>> pace_of(BearingSchool(name="bs", title="t", standard="s", about="a")).word(1.1)
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


def called(facts: PushFacts, school: BearingSchool) -> tuple[Called, ...]:
    """Every push of a record as called readings."""
    return facts.calls


def seating_words(record: BearingRecord, school: BearingSchool) -> tuple[str, str]:
    """The seating load of the expected ratio: in N, and in divisions of this ring."""
    if not known(record.expected_percent) or record.expected_percent <= 0:
        return "", ""
    newtons = school.seating_n(record.expected_percent)
    ring = record.ring()
    if ring is None:
        return f"{newtons:g} N", "seating load"
    try:
        return f"{newtons:g} N", f"{divisions_of(ring, newtons / 1000):.1f} ring divisions"
    except ReductionError:
        return f"{newtons:g} N", "below the ring's table"


def gauge_words(record: BearingRecord) -> str:
    """What is read at each call."""
    return "the ring" if record.force_field == "ring_div" else "the force"


def read_rows(rows: tuple[CalledRow, ...]) -> int:
    """How many rows hold a reading."""
    return sum(r.ring_div is not None or r.force_kn is not None for r in rows)
