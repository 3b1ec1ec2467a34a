"""What now, at the sieves: wash, oven, shaker, one sieve after the other."""

from datetime import datetime, timedelta

from vadum.soil.contract.fields import known
from vadum.soil.contract.flow import ask, done, fault, oven_advice, still_open
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Due, Outcome
from vadum.soil.contract.times import clock, minutes_between, span
from vadum.soil.methods.sieve.record import Record
from vadum.soil.methods.sieve.school import SieveSchool


def _soil(record: Record, school: SieveSchool) -> Advice | None:
    if known(record.split_at_mm):
        wants = still_open(record, "mass_coarse_g", "mass_finer_g", "mass_part_g", "water_content_percent")
        if record.mass_coarse_g is None or record.mass_finer_g is None:
            return ask(
                f"Separate at {plain(record.split_at_mm)} mm; weigh both, riffle a part of the finer.",
                "Keep the dust. The finer may be moist: give its water content then.",
                wants,
                900,
                "split",
            )
    elif record.mass_total_g is None:
        return ask(
            "Weigh the soil you sieve.",
            "Oven-dry, or moist with its water content. Much gravel: name a separating sieve and split.",
            ("mass_total_g", "water_content_percent", "largest_particle_mm", "split_at_mm"),
            300,
            "soil",
        )
    return None


def _wash(record: Record, school: SieveSchool, now: datetime) -> Advice | None:
    if school.wash_over_mm is None or record.mass_washed_g is not None:
        return None
    if record.in_oven_at is None:
        return ask(
            f"Wash it over {plain(school.wash_over_mm)} mm until the water runs clear, then into the oven.",
            "Soaked with dispersant first where it is clayey; a guard sieve above. Enter when it is in.",
            ("in_oven_at",),
            1500,
            "wash",
        )
    return oven_advice([("mass_washed_g", "of washed soil")], record.in_oven_at, school.oven_min, now, vessel="pan")


def _shake(record: Record, school: SieveSchool, now: datetime) -> Advice | None:
    begun = any(s.mass_retained_g is not None for s in record.sieves)
    if begun or record.mass_pan_g is not None:
        return None
    first = next((i for i, s in enumerate(record.sieves) if s.mass_retained_g is None), 0)
    path = f"sieves[{first}].mass_retained_g"
    if record.shaken_from_at is None:
        return ask(
            "Stack the sieves, soil on top, into the shaker.",
            f"{span(school.shake_min)}. Enter when it runs.",
            ("shaken_from_at",),
            180,
            "stack",
        )
    ready = record.shaken_from_at + timedelta(minutes=school.shake_min)
    due = Due(
        what="Take the stack from the shaker and weigh each sieve",
        kind="wait",
        at=ready,
        since=record.shaken_from_at,
        path=path,
        hands_s=600,
        label="sieve stack",
        detail="From the coarsest down; brush each out.",
    )
    left = minutes_between(now, ready)
    if left > 0:
        return Advice(
            headline=f"Shaking until {clock(ready, now)}.",
            detail="Nothing to do for this soil until then.",
            amount=clock(ready, now),
            amount_note=f"in {span(left)}",
            wants=(path,),
            due=(due,),
        )
    return None


def advise(record: Record, school: SieveSchool, outcome: Outcome, now: datetime) -> Advice:
    """The one next action at the sieves."""
    advice = _soil(record, school) or _wash(record, school, now) or _shake(record, school, now)
    if advice:
        return advice
    rows = sorted(
        (i for i, s in enumerate(record.sieves) if known(s.aperture_mm)),
        key=lambda i: -(record.sieves[i].aperture_mm or 0.0),
    )
    still = [i for i in rows if record.sieves[i].mass_retained_g is None]
    if still:
        wants = tuple(f"sieves[{i}].mass_retained_g" for i in still[:3])
        aperture = record.sieves[still[0]].aperture_mm or 0.0
        due = Due(
            what=f"Weigh what stays on {plain(aperture)} mm",
            kind="hands",
            path=wants[0],
            hands_s=60 * len(still),
            label=f"{plain(aperture)} mm",
        )
        return Advice(
            headline=f"{plain(aperture)} mm: brush it out and weigh.",
            detail="Nothing on it: type 0. A sieve you did not use: strike its aperture in the steps.",
            amount=f"{len(rows) - len(still)} of {len(rows)}",
            amount_note="sieves weighed",
            wants=wants,
            due=(due,),
        )
    if not rows:
        path = f"sieves[{len(record.sieves)}].aperture_mm"
        return ask("Name the sieves of the stack.", "Aperture in mm, from the coarsest.", (path,), 60, "sieves")
    if record.mass_pan_g is None:
        return ask("The pan: weigh it too.", "With it the sum is checked.", ("mass_pan_g",), 60, "pan")
    further = still_open(record, "further_minute_g") if school.separation_only else ()
    return fault(outcome) or done("Every sieve is weighed and the sum holds.", further)
