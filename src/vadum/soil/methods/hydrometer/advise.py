"""What now, at the cylinder: prepare, set down, and the readings by the clock."""

from datetime import datetime, timedelta

from vadum.soil.contract.advice import ask, done, fault, still_open
from vadum.soil.contract.outcome import Advice, Due, Outcome
from vadum.soil.contract.times import clock, minutes_between, span
from vadum.soil.methods.hydrometer.record import Blank, Reading, Record
from vadum.soil.methods.hydrometer.schools import HydrometerSchool
from vadum.soil.methods.hydrometer.suspension import (
    bulb_missing,
    corrections,
    dry_mass_g,
    gravity_of,
    stem_field,
    stem_reading,
)
from vadum.soil.methods.hydrometer.timing import Slot, due_at, timetable, words

STALE_S = 60


def named(record: Record) -> str:
    """The cylinder as it is called."""
    return f"cylinder {record.cylinder}" if record.cylinder else "the cylinder"


def _blank(record: Record, headline: str, detail: str) -> Advice:
    row = next(
        (i for i, b in enumerate(record.blanks) if stem_reading(b, record) is None or b.temperature_c is None),
        len(record.blanks),
    )
    blank = record.blanks[row] if row < len(record.blanks) else Blank()
    field = stem_field(record)
    wants = tuple(f"blanks[{row}].{f}" for f in (field, "temperature_c") if getattr(blank, f) is None)
    return ask(headline, detail, wants, 120, "blank")


def ready_to_start(record: Record, school: HydrometerSchool) -> bool:
    """Whether everything before time zero is there."""
    return (
        record.started_at is None
        and record.hydrometer_type is not None
        and dry_mass_g(record) is not None
        and record.soaked_from_at is not None
        and record.mixed_min is not None
        and bool(corrections(record))
    )


def _prepare(record: Record, school: HydrometerSchool, now: datetime) -> Advice | None:
    if record.hydrometer_type is None:
        return ask(
            "Take a hydrometer and a cylinder.",
            "The hydrometer's number brings its kind and its bulb.",
            still_open(record, "hydrometer", "hydrometer_type", "cylinder"),
            60,
            "hydrometer",
        )
    if bulb_missing(record):
        return ask(
            "Give the hydrometer's sizes: bulb and stem.",
            "Register it in the kit with its calibration, and its number brings them.",
            bulb_missing(record),
            300,
            "hydrometer's sizes",
        )
    if dry_mass_g(record) is None:
        return ask(
            "Weigh the fine soil.",
            "About 50 g of clay, 65 to 100 g of sandy soil; oven-dry mass, or air-dry with its water content.",
            still_open(record, "mass_taken_g", "air_dry_water_percent", "mass_dry_g"),
            300,
            "soil",
        )
    if record.soaked_from_at is None:
        return ask(
            "125 mL of dispersant over it; stir, cover, let it soak.",
            f"{span(school.soak_min)}. Enter when it stands.",
            (
                "soaked_from_at",
                *still_open(record, "dispersant_made_on", "specific_gravity_ratio", "specific_gravity_from"),
                *still_open(record, "passing_percent", "came_through_mm"),
            ),
            300,
            "soak",
        )
    ready = record.soaked_from_at + timedelta(minutes=school.soak_min)
    left = minutes_between(now, ready)
    if record.mixed_min is None:
        due = Due(
            what=f"Mix the soil of {named(record)} and wash it into the cylinder",
            kind="wait",
            at=ready,
            since=record.soaked_from_at,
            path="mixed_min",
            hands_s=900,
            label=f"mix, {named(record)}",
            detail="Cup mixer, without loss into the litre, to the mark.",
        )
        if left > 0:
            return Advice(
                headline=f"Soaking until {clock(ready, now)}.",
                detail="Nothing to do for this soil until then.",
                amount=clock(ready, now),
                amount_note=f"in {span(left)}",
                wants=("mixed_min",),
                due=(due,),
            )
        return Advice(
            headline="Soaked. Mix it, wash it into the cylinder without loss, make up to the mark.",
            detail=f"About 10 min in the cup mixer ({span(school.mix_min)} at least) or 1 min of air jet.",
            wants=("mixed_min",),
            due=(due,),
        )
    if not corrections(record):
        return _blank(
            record,
            "Blank: hydrometer and thermometer into the control cylinder.",
            "Dispersant and water without soil; read at the top of the meniscus.",
        )
    return None


def _start(record: Record, school: HydrometerSchool, now: datetime) -> Advice:
    headline = f"Turn {named(record)} end over end for a minute; set it down."
    detail = "60 turns. Soil stuck above the mark: shake again. Enter at the moment it stands: time zero."
    planned = record.planned_start_at
    if planned is not None:
        left = minutes_between(now, planned)
        due = Due(
            what=f"Set {named(record)} down",
            kind="reading",
            at=planned,
            since=planned - timedelta(seconds=school.shake_s),
            path="started_at",
            hands_s=school.shake_s + 10,
            lead_s=school.shake_s,
            window_s=15,
            label=f"{record.cylinder or ''} start".strip(),
            detail=f"Turn it end over end for {school.shake_s} s before.",
        )
        return Advice(
            headline=headline,
            detail=detail,
            amount=f"{planned.astimezone(now.tzinfo):%H:%M:%S}",
            amount_note=f"in {span(left)}" if left > 0 else "was planned",
            wants=("started_at",),
            due=(due,),
        )
    return Advice(
        headline=headline,
        detail=detail,
        wants=("started_at",),
        due=(
            Due(
                what=f"Start {named(record)}",
                kind="hands",
                path="started_at",
                hands_s=school.shake_s + 60,
                label="start",
                detail="The rack says when it clashes with no other cylinder.",
            ),
        ),
    )


def _due(record: Record, school: HydrometerSchool, slot: Slot, path: str, now: datetime) -> Due:
    at = due_at(record, slot.minutes)
    left_in = slot.minutes <= school.left_in_min
    lead = 0 if left_in else school.lead_s
    local = at - timedelta(seconds=lead)
    put = "It stays in." if left_in else f"Put the hydrometer in at {local.astimezone(now.tzinfo):%H:%M:%S}."
    return Due(
        what=f"Read {named(record)} at {words(slot.minutes)}",
        kind="reading",
        at=at,
        since=local,
        path=path,
        hands_s=lead + school.after_s,
        lead_s=lead,
        window_s=school.window_s(slot.minutes),
        label=f"{record.cylinder or ''} {words(slot.minutes)}".strip(),
        detail=f"{put} Then the temperature.",
    )


def _readings(record: Record, school: HydrometerSchool, now: datetime) -> Advice | None:
    field = stem_field(record)
    slots = timetable(record, school, now)
    ahead = [s for s in slots if s.state in ("next", "ahead")]
    last = record.readings[-1] if record.readings else Reading()
    open_row = bool(record.readings) and stem_reading(last, record) is None and not last.excluded_because
    if last.inserted_at is not None and (now - last.inserted_at).total_seconds() > 2 * school.most_lead_s + STALE_S:
        open_row = False  # it went in for a reading that was never taken: the next has a row of its own
    row = len(record.readings) - 1 if open_row else len(record.readings)
    path = f"readings[{row}].{field}"
    dues = tuple(_due(record, school, slot, path, now) for slot in ahead)
    cold = [
        i
        for i, r in enumerate(record.readings)
        if stem_reading(r, record) is not None and r.temperature_c is None and not r.excluded_because
    ]
    if cold:
        at = f"readings[{cold[0]}].temperature_c"
        what = f"Temperature of {named(record)}"
        return Advice(
            headline=f"{what}, in the suspension.",
            detail="The thermometer comes out again.",
            wants=(at, path) if ahead else (at,),
            due=(Due(what=what, kind="hands", path=at, hands_s=20, label="temperature"), *dues),
        )
    if not ahead:
        return None
    slot = ahead[0]
    at_time = due_at(record, slot.minutes)
    left = minutes_between(now, at_time)
    insert = at_time - timedelta(seconds=school.lead_s)
    local = at_time.astimezone(now.tzinfo)
    put = f"Hydrometer in at {insert.astimezone(now.tzinfo):%H:%M:%S}, gently."
    if slot.minutes <= school.left_in_min:
        put = "It stays in."
    amount = f"{local:%H:%M:%S}" if left < 12 * 60 else clock(at_time, now)
    if left * 60 < -school.window_s(slot.minutes):
        return Advice(
            headline=f"{named(record).capitalize()} at {words(slot.minutes)} is {span(-left)} late: read it now.",
            detail="It is kept with its true time, which the diameter uses.",
            amount=amount,
            amount_note="was due",
            wants=(path, f"readings[{row}].temperature_c"),
            due=dues,
        )
    return Advice(
        headline=f"Read {named(record)} at {words(slot.minutes)}.",
        detail=f"{put} Top of the meniscus, then the temperature.",
        amount=amount,
        amount_note=f"in {span(left)}" if left > 0 else "now",
        wants=(path, f"readings[{row}].temperature_c"),
        due=dues,
    )


def advise(record: Record, school: HydrometerSchool, outcome: Outcome, now: datetime) -> Advice:
    """The one next action at this cylinder; the rack merges several."""
    if record.started_at is None and not any(r.elapsed_min is not None for r in record.readings):
        return _prepare(record, school, now) or _start(record, school, now)
    reading = _readings(record, school, now) if record.started_at is not None else None
    if reading:
        return reading
    if len({t for t, _ in corrections(record)}) < 2:
        return _blank(
            record,
            "A second blank, at another temperature.",
            "So that the two span the test: cooler or warmer than the first by what the room moved.",
        )
    if gravity_of(record) is None:
        return ask(
            "The percentages wait for the specific gravity.",
            "Measured on this sample, or assumed: say which.",
            ("specific_gravity_ratio", "specific_gravity_from"),
            60,
            "specific gravity",
        )
    return fault(outcome) or done(
        "Wash the suspension over the finest sieve for the sand; the sample's card joins both curves."
    )
