"""What now, at the mould and at the frame: water, blows, days in the water, calls, tins."""

from datetime import datetime, timedelta

from vadum.soil.contract.flow import ask, done, fault, oven_advice, still_open
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Due, Outcome
from vadum.soil.contract.times import clock, minutes_between, span
from vadum.soil.methods.cbr.record import Record
from vadum.soil.methods.cbr.school import MouldSchool
from vadum.soil.methods.cbr.specimen import water_wanted_g
from vadum.soil.shared.bearing.calls import call_advice, seating_words
from vadum.soil.shared.bearing.record import End


def _make(record: Record, school: MouldSchool) -> Advice | None:
    """Up to the struck mould and its tin."""
    if record.mould_mass_g is None or record.mould_volume_cm3 is None or record.specimen_height_mm is None:
        return ask(
            "Take a mould and weigh it with its base plate, without the collar.",
            f"Its number brings mass, volume and height. {plain(school.mould_cm3)} cm³ here.",
            still_open(record, "mould", "mould_mass_g", "mould_volume_cm3", "specimen_height_mm"),
            180,
            "mould",
        )
    soil = still_open(record, "mass_portion_g", "portion_water_percent", "optimum_water_percent")
    if soil:
        more = still_open(record, "maximum_dry_density_mg_m3", "target_percent", "oversize_percent")
        return ask(
            "Screen the stones out, weigh the soil for the mould, note its water content.",
            "With the optimum of its compaction test the water to add is told in grams.",
            soil + more,
            900,
            "soil",
        )
    if record.water_added_ml is None and record.mass_with_soil_g is None:
        grams = water_wanted_g(record)
        lose = grams is not None and grams < 0
        return ask(
            "Let it dry to the optimum, in the open, stirred." if lose else "Add water to the optimum and mix.",
            f"To {plain(record.optimum_water_percent or 0, 3)} %. Cover; let it stand. "
            f"{'Enter the loss with a minus.' if lose else 'Enter what went in.'}",
            ("water_added_ml",),
            1200,
            "water",
            amount=f"{abs(grams):.0f} {'g' if lose else 'mL'}" if grams is not None else "",
            amount_note="of water to lose" if lose else "to add now",
        )
    if record.mass_with_soil_g is None:
        return ask(
            "Compact, collar off, strike level, weigh.",
            f"{school.effort}. Layers even; holes filled with fines.",
            ("mass_with_soil_g",),
            1500,
            "compact",
        )
    tin = record.tins[0] if record.tins else None
    if tin is None or tin.mass_wet_g is None:
        wants = tuple(
            f"tins[0].{f}" for f in ("tin", "mass_tin_g", "mass_wet_g") if tin is None or getattr(tin, f) is None
        )
        return ask("A tin of the trimmings: water content as compacted.", "100 g or more.", wants, 120, "tin")
    return None


def _waiting_tin(record: Record, school: MouldSchool, now: datetime) -> Advice | None:
    """The oven's advice for the tins that are not dry yet."""
    open_tins = [
        (f"tins[{i}].mass_dry_g", t.tin or str(i + 1), t.weighed_wet_at or now)
        for i, t in enumerate(record.tins)
        if t.mass_wet_g is not None and t.mass_dry_g is None
    ]
    if not open_tins:
        return None
    first = open_tins[0][2]
    together = [(path, name) for path, name, at in open_tins if abs(minutes_between(first, at)) < 120]
    return oven_advice(together, first, school.oven_min, now)


def _soak(record: Record, school: MouldSchool, now: datetime) -> Advice | None:
    """Four days in the water, the swell read each day."""
    if record.condition is None:
        return ask(
            "Soaked or unsoaked?",
            "Soaked stands for a road in its worst season.",
            ("condition",),
            10,
            "condition",
        )
    discs = still_open(record, "surcharge", "surcharge_kg")
    if record.surcharge_kg is None:
        return ask(
            "Put the surcharge discs on.", "As the construction above will weigh; 2 kg each.", discs, 60, "discs"
        )
    if record.condition == "unsoaked":
        return None
    if record.soak_started_at is None:
        wants = (*still_open(record, "swell_zero_mm"), "soak_started_at")
        return ask(
            "Perforated plate, discs, swell gauge at its mark; into the tank.",
            "Water from below and above. Read the gauge before the water rises, then enter the time.",
            wants,
            300,
            "into the tank",
        )
    if record.soak_ended_at is not None:
        return None
    days = int(school.soak_days)
    many = len(record.swell)
    last = many >= days
    at = record.soak_started_at + timedelta(days=min(many + 1, days))
    path = "soak_ended_at" if last else f"swell[{many}].gauge_mm"
    mould = f" of mould {record.mould}" if record.mould else ""
    what = f"Lift the specimen{mould} out, drain 15 min" if last else f"Read the swell gauge{mould}, day {many + 1}"
    due = Due(
        what=what,
        kind="wait",
        at=at,
        since=record.swell[-1].read_at if many and record.swell[-1].read_at else record.soak_started_at,
        path=path,
        hands_s=900 if last else 60,
        window_s=None,
        label="out of the tank" if last else f"swell {many + 1}",
        detail="Discs on while it drains." if last else "Do not touch the tripod.",
    )
    left = minutes_between(now, at)
    headline = f"{what}." if left <= 0 else f"Soaking; next at {clock(at, now)}: {what[0].lower()}{what[1:]}."
    return Advice(
        headline=headline,
        detail=due.detail,
        amount="" if left <= 0 else clock(at, now),
        amount_note="" if left <= 0 else f"in {span(left)}",
        wants=(path,),
        due=(due,),
    )


def _seat(record: Record, school: MouldSchool, end: End, first: bool) -> Advice | None:
    if first and (not record.forces_known() or record.expected_percent is None):
        wants = still_open(record, "proving_ring", "ring_factor_n_div", "ring_most_div", "force_by")
        if record.forces_known():
            wants = ()
        return ask(
            "Ring, gauge and plunger; what ratio do you expect?",
            "Their numbers bring the calibration that holds today.",
            (*wants, *still_open(record, "gauge", "plunger", "plunger_diameter_mm", "expected_percent")),
            120,
            "ring and gauge",
        )
    seating, seated = f"{end.prefix}seating_n", f"{end.prefix}seated_div"
    by_ring = end.force_field == "ring_div"
    if end.seating_n is not None and (end.seated_div is not None or not by_ring):
        return None
    amount, note = seating_words(record, school)
    headline = f"Discs on, plunger down: seat the {end.words}."
    if not first:
        headline = "Turn the mould over, base plate off: seat the bottom end."
    return ask(
        headline,
        "Then both gauges to zero; a ring that keeps its seating reading is entered as it stands.",
        tuple(p for p, v in ((seating, end.seating_n), (seated, end.seated_div)) if v is None)[: 2 if by_ring else 1],
        120,
        f"seat, {end.words}",
        amount=amount,
        amount_note=note,
    )


def _push(record: Record, school: MouldSchool, now: datetime) -> Advice | None:
    top = record.ends()[0]
    advice = _seat(record, school, top, True) or call_advice(record, top, school, now)
    if advice is not None or not school.both_ends:
        return advice
    ends = record.ends()
    empty = top._replace(
        key="bottom",
        words="bottom end",
        rows=(),
        rows_path="bottom",
        prefix="bottom_",
        seated_div=None,
        seating_n=None,
        stopped=None,
    )
    bottom = ends[1] if len(ends) > 1 else empty
    return _seat(record, school, bottom, False) or call_advice(record, bottom, school, now)


def _after(record: Record, school: MouldSchool) -> Advice | None:
    """Tins from the tested ends."""
    words = ("top", "bottom") if school.both_ends else ("top",)
    for i, end in enumerate(words, 1):
        tin = record.tins[i] if len(record.tins) > i else None
        if tin is None or tin.mass_wet_g is None:
            wants = tuple(
                f"tins[{i}].{f}" for f in ("tin", "mass_tin_g", "mass_wet_g") if tin is None or getattr(tin, f) is None
            )
            return ask(
                f"A tin from under the plunger, {end} end.", "30 mm deep; extrude if needed.", wants, 180, f"tin, {end}"
            )
    return None


def _sooner(first: Advice, other: Advice | None, now: datetime) -> Advice:
    """Of a wait and another wait the one that asks first, with both due moments."""
    if other is None or not other.due:
        return first
    merged = (*first.due, *other.due)

    def at(advice: Advice) -> datetime:
        return next((d.at for d in advice.due if d.at), now)

    leading = other if at(other) < at(first) else first
    return leading.model_copy(update={"due": merged})


def advise(record: Record, school: MouldSchool, outcome: Outcome, now: datetime) -> Advice:
    """The one next action, from the mould to the dry tins."""
    making = _make(record, school)
    if making:
        return making
    tin = _waiting_tin(record, school, now)
    soaking = _soak(record, school, now)
    if soaking:
        waits = bool(soaking.due and soaking.due[0].at)
        return _sooner(soaking, tin, now) if waits else soaking
    pushing = _push(record, school, now)
    if pushing:
        return pushing.model_copy(update={"due": (*pushing.due, *(tin.due if tin else ()))})
    return _after(record, school) or tin or fault(outcome, ("remarks",)) or done("Both ends and the tins are in.")
