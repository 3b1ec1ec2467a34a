"""Before a plate test starts: reaction against the greatest load, distances, and the hours its holds come to."""

from collections.abc import Sequence
from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.shared.physics import GRAVITY_M_S2
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate.record import PlateRecord
from vadum.soil.shared.plate.rest import rests_at_min
from vadum.soil.shared.plate.school import PlateSchool
from vadum.soil.shared.plate.steps import Target

USUAL_GROUND = "sand"


class Plan(NamedTuple):
    """What a test wants before it starts: its steps, the greatest load and the reaction in kN, the kentledge's mass in
    kg, clear distances in mm (None where the plate is not known), its widest grain in mm, its minutes of holding."""

    targets: tuple[Target, ...]
    greatest_kn: float
    reaction_kn: float
    kentledge_kg: float
    supports_mm: float
    datum_mm: float
    pit_m: float | None
    grain_mm: float
    minutes: float


def supports_wanted_mm(width_mm: float, school: PlateSchool) -> float:
    """Clear distance that the reaction's supports keep from the plate's edge.

    Parameters: the plate's diameter or side in mm.
    Returns: mm.
    Source: the school's: a table by width, or so many widths and a least one.
    """
    by_width = next((clear for up_to, clear in school.supports_by_width_mm if width_mm <= up_to), None)
    if by_width is None and school.supports_by_width_mm:
        by_width = school.supports_by_width_mm[-1][1]
    return max(by_width or 0.0, school.supports_widths_ratio * width_mm, school.supports_least_mm)


def held_min(target: Target, ground: str | None, school: PlateSchool) -> float:
    """About how long a step will be held, min: by the clock; by the creep that is usual of the ground; by the time
    curve at the most that the school asks."""
    if target.cycle == "preload":
        return school.preload_hold_s / 60
    if school.rest_by == "time curve":
        return school.most_hold_min or school.hold_min
    if school.rest_by == "time" or school.rest_mm_min is None:
        return school.hold_min
    if target.cycle in ("down", "again"):
        return max(school.hold_min, school.rest_over_min)
    creep = dict(school.creeps_mm).get(ground or USUAL_GROUND, 0.0)
    least = max(school.hold_min, school.rest_over_min, rests_at_min(creep, school.rest_mm_min))
    return min(least, school.most_hold_min) if school.most_hold_min is not None else least


def plan(record: PlateRecord, school: PlateSchool, targets: Sequence[Target], width_mm: float, square: bool) -> Plan:
    """The whole test as it is planned.

    Parameters: `targets` in their order; `width_mm` the plate's diameter or side in mm.
    """
    most = max((t.kpa for t in targets), default=0.0)
    load = loads.load_for_kn(most, loads.area_mm2(width_mm, square))
    reaction = load * school.reaction_factor + school.reaction_margin_kn
    minutes = sum(held_min(t, record.ground, school) + school.change_within_s / 60 for t in targets)
    return Plan(
        tuple(targets),
        load,
        reaction,
        1000 * reaction / GRAVITY_M_S2,
        supports_wanted_mm(width_mm, school),
        max(school.datum_least_mm, school.datum_widths_ratio * width_mm),
        school.pit_widths_ratio * width_mm / 1000 if school.pit_widths_ratio else None,
        width_mm / school.width_to_grain_ratio,
        minutes,
    )


def gives_kn(record: PlateRecord) -> float | None:
    """What the reaction gives, kN: as said, else the weight of its mass."""
    if known(record.reaction_kn):
        return float(record.reaction_kn)
    return record.reaction_kg * GRAVITY_M_S2 / 1000 if known(record.reaction_kg) else None


def distances(record: PlateRecord, its: Plan) -> list[tuple[str, float | None, float, str, str]]:
    """Each distance that must be kept: words, what was measured, what is wanted, unit, field."""
    found: list[tuple[str, float | None, float, str, str]] = [
        ("supports from the plate", record.supports_mm, its.supports_mm, "mm", "supports_mm"),
        ("datum legs from the plate", record.datum_legs_mm, its.datum_mm, "mm", "datum_legs_mm"),
    ]
    if its.pit_m is not None:
        found.append(("width of the pit", getattr(record, "pit_width_m", None), its.pit_m, "m", "pit_width_m"))
    return found
