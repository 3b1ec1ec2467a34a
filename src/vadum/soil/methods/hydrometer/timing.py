"""The cylinder's timetable: when each reading falls due, which are done, late or missed, and when hands are taken."""

from datetime import datetime, timedelta
from typing import Literal, NamedTuple

from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.hydrometer.record import Record
from vadum.soil.methods.hydrometer.schools import HydrometerSchool
from vadum.soil.methods.hydrometer.suspension import elapsed_min, stem_reading
from vadum.soil.shared.start_times import Block

State = Literal["done", "late", "early", "missed", "next", "ahead"]
MOST_EARLY = 0.9  # a reading taken after nine tenths of its time stands for it


class Slot(NamedTuple):
    """One scheduled reading: minutes after time zero, how it stands, its row, and seconds late (early below 0)."""

    minutes: float
    state: State
    row: int | None
    off_s: float


def words(minutes: float) -> str:
    """A scheduled time as it is called.

    >>> words(0.5), words(8), words(1440)
    ('30 s', '8 min', '24 h')
    """
    if minutes < 1:
        return f"{minutes * 60:g} s"
    return f"{minutes:g} min" if minutes < 360 else f"{minutes / 60:g} h"


def covered(record: Record, school: HydrometerSchool) -> dict[float, tuple[int, float]]:
    """For each scheduled time that a reading stands for: its row and the reading's own minutes.

    A reading stands for the last scheduled time that it has reached, or nearly.
    """
    found: dict[float, tuple[int, float]] = {}
    for i, row in enumerate(record.readings):
        minutes = elapsed_min(record, row)
        if stem_reading(row, record) is None or minutes is None:
            continue
        reached = [t for t in school.schedule_min if minutes >= min(MOST_EARLY * t, t - school.window_s(t) / 60)]
        if reached and reached[-1] not in found:
            found[reached[-1]] = (i, minutes)
    return found


def given_up_after_min(school: HydrometerSchool, index: int) -> float:
    """Minutes after which a reading not taken is called missed: half-way to the next, or 6 h after the last."""
    schedule = school.schedule_min
    if index + 1 < len(schedule):
        return (schedule[index] + schedule[index + 1]) / 2
    return schedule[index] + 360


def timetable(record: Record, school: HydrometerSchool, now: datetime) -> list[Slot]:
    """Every scheduled reading as it stands at now."""
    taken = covered(record, school)
    since = minutes_between(record.started_at, now) if record.started_at else -1.0
    newest = max(taken, default=-1.0)
    slots: list[Slot] = []
    next_found = False
    for i, t in enumerate(school.schedule_min):
        if t in taken:
            row, minutes = taken[t]
            off = (minutes - t) * 60
            window = school.window_s(t)
            state: State = "done" if abs(off) <= window + 0.5 else ("late" if off > 0 else "early")
            slots.append(Slot(t, state, row, off))
        elif t < newest or since > given_up_after_min(school, i):
            slots.append(Slot(t, "missed", None, 0.0))
        elif not next_found and record.started_at is not None:
            next_found = True
            slots.append(Slot(t, "next", None, max(0.0, (since - t) * 60)))
        else:
            slots.append(Slot(t, "ahead", None, 0.0))
    return slots


def due_at(record: Record, minutes: float) -> datetime:
    """The clock time of a scheduled reading; the cylinder must have been set down."""
    assert record.started_at is not None
    return record.started_at + timedelta(minutes=minutes)


def hands(school: HydrometerSchool) -> tuple[Block, ...]:
    """When a cylinder takes hands, in seconds from its time zero: shaking and the readings left in, then each reading.

    The hydrometer goes in `lead_s` before a reading; the temperature follows within `after_s`.
    """
    left_in = [t for t in school.schedule_min if t <= school.left_in_min]
    end = round(left_in[-1] * 60) + school.after_s if left_in else 0
    blocks = [Block(-school.shake_s, max(end, 10), "shake and set down")]
    for t in school.schedule_min:
        if t <= school.left_in_min:
            continue
        at = round(t * 60)
        begin, finish = at - school.lead_s, at + school.after_s
        if begin < blocks[-1].end_s:
            last = blocks.pop()
            blocks.append(Block(last.begin_s, max(finish, last.end_s), last.label))
        else:
            blocks.append(Block(begin, finish, words(t)))
    return tuple(blocks)
