"""What now, for a tin that is to be dried."""

from datetime import datetime, timedelta

from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Due, Outcome
from vadum.soil.contract.times import clock, minutes_between, span
from vadum.soil.methods.water_content.drying import constancy, dry_weighings, is_dry, next_weighing_at
from vadum.soil.methods.water_content.record import Record
from vadum.soil.methods.water_content.school import WaterContentSchool

PLACES = {"oven": "oven", "microwave": "microwave", "direct heat": "heat"}


def _start(record: Record, school: WaterContentSchool) -> Advice | None:
    setup = tuple(path for path in ("tin", "mass_tin_g", "mass_wet_g") if getattr(record, path) is None)
    if setup:
        what = "Take a clean, dry tin" if "tin" in setup else "Weigh the tin with the wet soil"
        if "tin" not in setup and "mass_tin_g" in setup:
            what = "Weigh the empty tin"
        extra = tuple(path for path in ("largest_particle_mm",) if getattr(record, path) is None)
        return Advice(
            headline=f"{what}.",
            detail="Its number brings its tare from the register. Lid with it.",
            wants=setup + extra,
            due=(Due(what=what, kind="hands", path=setup[0], hands_s=120),),
        )
    if record.in_oven_at is None:
        place = PLACES[school.dried_by]
        heat = ""
        if school.temperature_c:
            heat = f" at {plain(school.temperature_c[0])}–{plain(school.temperature_c[1])} °C"
        what = f"Lid off, tin {record.tin or ''} into the {place}{heat}".replace("  ", " ")
        return Advice(
            headline=f"{what}.",
            detail=f"It may come out after {span(school.first_min)}. Enter when it is in.",
            wants=("in_oven_at", "oven_temperature_c") if school.temperature_c else ("in_oven_at",),
            due=(Due(what=what, kind="hands", path="in_oven_at", hands_s=60),),
        )
    return None


def _constant_words(record: Record, school: WaterContentSchool) -> str:
    change = constancy(record, school)
    if change is None:
        return "long enough in the heat"
    moved = abs(change.after_g - change.before_g)
    return f"constant: {plain(moved, 3)} g ≤ {plain(change.limit_g, 3)} g"


def advise(record: Record, school: WaterContentSchool, outcome: Outcome, now: datetime) -> Advice:
    """Time left in the heat, the next weighing, or that it is done."""
    start = _start(record, school)
    if start:
        return start
    if is_dry(record, school):
        return Advice(
            headline="Dry. The sheet can be signed.",
            detail=f"Mass {_constant_words(record, school)}. The specimen is spent: no other test takes it.",
            finished=True,
        )
    ready = next_weighing_at(record, school)
    row = len(record.weighings)
    path = f"weighings[{row}].mass_dry_g"
    tin = f"tin {record.tin}" if record.tin else "the tin"
    if ready is None:
        return Advice(headline=f"Weigh {tin} again.", wants=(path,), due=())
    wants = (path, f"weighings[{row}].mirror") if school.dried_by == "direct heat" else (path,)
    again = bool(dry_weighings(record))
    due = Due(
        what=f"Weigh {tin} {'again' if again else 'dry'}",
        kind="wait",
        at=ready,
        since=record.in_oven_at,
        path=path,
        hands_s=int(60 + 60 * school.cool_min),
        label=f"{tin} {'again' if again else 'dry'}",
        detail=f"Cool {span(school.cool_min)} with the lid on.",
    )
    left = minutes_between(now, ready)
    if left > 0:
        return Advice(
            headline=f"{tin.capitalize()} stays in the {PLACES[school.dried_by]} until {clock(ready, now)}.",
            detail="Not constant yet; one more spell." if again else f"{span(left)} to go.",
            amount=clock(ready, now),
            amount_note=f"in {span(left)}",
            wants=wants,
            due=(due,),
        )
    late = timedelta(minutes=-left)
    return Advice(
        headline=f"{tin.capitalize()} may come out.",
        detail=f"Cool {span(school.cool_min)} with the lid on, then weigh.",
        amount=f"since {clock(now - late, now)}",
        wants=wants,
        due=(due,),
    )
