"""The cylinder's readings as the clock calls them."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.called import Called, Taken
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.times import exact
from vadum.soil.contract.timetable import covered, due_at, minutes_words, slots
from vadum.soil.methods.hydrometer import pipette
from vadum.soil.methods.hydrometer.record import COLD, WARM, Reading, Record
from vadum.soil.methods.hydrometer.school import HydrometerSchool
from vadum.soil.methods.hydrometer.suspension import (
    bulb_missing,
    corrections,
    dry_mass_g,
    elapsed_min,
    gravity_of,
    stem_field,
    stem_reading,
)

STALE_S = 60  # a hydrometer that went in so long before its reading went in for one that was never taken


def named(record: Record) -> str:
    """The cylinder as it is called."""
    return f"cylinder {record.cylinder}" if record.cylinder else "the cylinder"


def schedule_min(record: Record, school: HydrometerSchool) -> tuple[float, ...]:
    """When this cylinder is read, minutes: by the school's list, or when each size of a pipette has fallen to its
    depth in a bath of this temperature."""
    bath = record.bath_temperature_c
    if school.by != "pipette" or bath is None or not COLD <= bath <= WARM:
        return school.schedule_min
    gravity = gravity_of(record) or pipette.PLANNED_GRAVITY
    return tuple(pipette.drawn_at_min(size, school.pipette_depth_mm, bath, gravity) for size in school.pipette_sizes_mm)


def ready_to_start(record: Record) -> bool:
    """Whether everything before time zero is there."""
    return (
        record.started_at is None
        and record.hydrometer_type is not None
        and not bulb_missing(record)
        and dry_mass_g(record) is not None
        and record.soaked_from_at is not None
        and record.mixed_min is not None
        and (pipette.is_pipette(record) or bool(corrections(record)))
    )


def open_row(record: Record, school: HydrometerSchool) -> int | None:
    """The row that was begun, by putting the hydrometer in, and not read yet."""
    last = record.readings[-1] if record.readings else Reading()
    begun = bool(record.readings) and stem_reading(last, record) is None and not last.excluded_because
    return len(record.readings) - 1 if begun else None


def called_of(record: Record, school: HydrometerSchool) -> Called:
    """The timetable of one cylinder."""
    stem, at = stem_field(record), schedule_min(record, school)
    by_pipette = pipette.is_pipette(record)
    taken = [
        Taken(i, elapsed_min(record, row), row.read_at)
        for i, row in enumerate(record.readings)
        if stem_reading(row, record) is not None
    ]
    return Called(
        key="readings",
        words=named(record),
        by="clock",
        unit="min",
        at=at,
        reads=(stem, "temperature_c"),
        window_s=tuple(school.window_s(t) for t in at),
        began_at=record.started_at,
        lead_s=school.lead_s,
        after_s=school.after_s,
        taken=tuple(taken),
        rows=len(record.readings),
        stays_until=school.left_in_min,
        start_s=school.shake_s,
        open_row=open_row(record, school),
        most_open_s=2 * school.most_lead_s + STALE_S,
        begin_field="started_at",
        plan_field="planned_start_at",
        ready=ready_to_start(record),
        insert_field="inserted_at",
        after_field="temperature_c",
        moment_field="read_at",
        gauge="pipette" if by_pipette else "hydrometer",
        begins="set down",
        prepares="turn {} end over end",
        how=f"Draw from {school.pipette_depth_mm:g} mm, then the temperature."
        if by_pipette
        else "Top of the meniscus, then the temperature.",
        name=record.cylinder or "",
    )


def called(facts: Any, school: HydrometerSchool) -> tuple[Called, ...]:
    """The timetable of the run's cylinder."""
    return (called_of(facts.record, school),)


def taken_by_time(record: Record, school: HydrometerSchool) -> dict[float, tuple[int, float]]:
    """For each scheduled time that a reading stands for: its row and the reading's own minutes."""
    its = called_of(record, school)
    return {its.at[i]: (one.row, one.at or 0.0) for i, one in covered(its).items()}


def board(facts: Any, school: HydrometerSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The timetable as the desk lists it: each scheduled reading with its words and the moment it is due."""
    its: Called = facts.timetable
    listed = []
    for slot in slots(its, now):
        word = minutes_words(slot.at)
        off = f" {abs(slot.off_s):.0f} s {slot.state}" if slot.state in ("late", "early") else ""
        words = f"{word}{off}" if off else f"{word} missed" if slot.state == "missed" else word
        due = exact(due_at(its, slot.at), now) if its.began_at and slot.state != "missed" else ""
        listed.append((slot, words, due))
    return {"slots": listed, "stem": its.reads[0], "by_pipette": its.gauge == "pipette"}
