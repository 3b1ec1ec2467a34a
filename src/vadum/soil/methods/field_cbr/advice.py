"""What now, in the yard and under the vehicle: reaction, setting up, calls, stripping in its order."""

from datetime import datetime

from vadum.soil.contract.flow import ask, done, fault, oven_advice, still_open
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.methods.field_cbr.reaction import lifting, plan
from vadum.soil.methods.field_cbr.record import Record
from vadum.soil.methods.field_cbr.school import SpotSchool
from vadum.soil.shared.bearing.calls import call_advice, seating_words
from vadum.soil.shared.bearing.ends import found_of


def _yard(record: Record, school: SpotSchool) -> Advice | None:
    wants = still_open(record, "expected_percent", "axle_kn", "wanted_mm", "vehicle")
    if record.expected_percent is None or record.axle_kn is None:
        return ask(
            "Before leaving: will the vehicle hold it down?",
            "The expected ratio and the rear axle's load say whether it lifts.",
            wants,
            120,
            "reaction",
        )
    if not record.forces_known():
        its = plan(record, school)
        headline = "Take ring, gauge, plunger and discs."
        if its.lifts_percent is not None:
            headline += f" The vehicle lifts at a ratio of about {its.lifts_percent:.0f} %."
        return ask(
            headline,
            "Their numbers bring the calibrations that hold today.",
            still_open(record, "proving_ring", "ring_factor_n_div", "ring_most_div", "gauge", "plunger", "force_by"),
            180,
            "ring and gauge",
            amount=f"{its.wants_kn:.1f} kN" if its.wants_kn is not None else "",
            amount_note="wanted from the axle",
        )
    return None


def _set_up(record: Record, school: SpotSchool) -> Advice | None:
    if record.springs is None or record.stands is None:
        return ask(
            "Raise the rear clear of its springs; set it on the stands, trolley jack out.",
            "Chocks at the front, gear and handbrake first. Nobody underneath while it is on the jack.",
            still_open(record, "springs", "stands"),
            600,
            "raise",
        )
    if record.surcharge_kg is None:
        return ask(
            "Level the spot; ring, plunger and discs on.",
            "No stone over the limit beneath; datum beam's legs well outside, gauge foot on it.",
            still_open(record, "surcharge", "surcharge_kg", "datum_legs_mm", "depth_m"),
            600,
            "set up",
        )
    by_ring = record.force_field == "ring_div"
    if record.seating_n is None or (record.seated_div is None and by_ring):
        amount, note = seating_words(record, school)
        return ask(
            "Seat the plunger with the jack.",
            "Then both gauges to zero; a ring that keeps its seating reading is entered as it stands.",
            still_open(record, "seating_n", *(("seated_div",) if by_ring else ()), "vehicle_zero_mm"),
            120,
            "seat",
            amount=amount,
            amount_note=note,
        )
    return None


def _strip(record: Record) -> Advice | None:
    if record.ring_after_div is None and record.force_field == "ring_div":
        return ask(
            "Strip down: datum off, discs off, then take the load off with the jack and see the ring read zero.",
            "Then ring and plunger, stands out last, down.",
            ("ring_after_div", *still_open(record, "stone_under_mm")),
            600,
            "strip",
        )
    tin = record.tins[0] if record.tins else None
    if tin is None or tin.mass_wet_g is None:
        wants = tuple(
            f"tins[0].{f}" for f in ("tin", "mass_tin_g", "mass_wet_g") if tin is None or getattr(tin, f) is None
        )
        return ask(
            "A tin from beneath the plunger; density beside it.",
            "Sealed at once; look for a stone where it stood.",
            wants,
            300,
            "tin",
        )
    return None


def advise(record: Record, school: SpotSchool, outcome: Outcome, now: datetime) -> Advice:
    """The one next action."""
    (spot,) = record.ends()
    calling = call_advice(record, spot, school, now)
    lifts = lifting(record, found_of(record, spot, school), school)
    if calling and lifts:
        calling = calling.model_copy(update={"alarm": lifts})
    working = _yard(record, school) or _set_up(record, school) or calling or _strip(record)
    if working:
        return working
    tins = [
        (f"tins[{i}].mass_dry_g", t.tin or str(i + 1), t)
        for i, t in enumerate(record.tins)
        if t.mass_wet_g is not None and t.mass_dry_g is None
    ]
    if tins:
        waiting = oven_advice([t[:2] for t in tins], tins[0][2].weighed_wet_at or now, school.oven_min, now)
        if waiting:
            return waiting
    return fault(outcome, ("remarks",)) or done("The spot is stripped and its tin is dry.")
