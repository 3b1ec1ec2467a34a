"""The reaction, before leaving the yard and while the plunger goes in."""

from typing import Literal, NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.methods.field_cbr.record import Record
from vadum.soil.methods.field_cbr.school import SpotSchool
from vadum.soil.shared.bearing.curve import lifts_at_percent, reaction_kn
from vadum.soil.shared.bearing.ends import EndResult

WANTED_MM = 5.0
Standstill = Literal["none", "the soil's own", "the vehicle lifted", "not to be told"]


class Plan(NamedTuple):
    """What the push wants, what the axle gives, and the ratio at which the vehicle lifts."""

    wanted_mm: float
    wants_kn: float | None
    gives_kn: float | None
    lifts_percent: float | None


def plan(record: Record, school: SpotSchool) -> Plan:
    """The reaction as far as it is known; the axle's load less the school's margin."""
    to = record.wanted_mm if known(record.wanted_mm) and 0 < record.wanted_mm <= 12 else WANTED_MM
    expected, axle = record.expected_percent, record.axle_kn
    wants = reaction_kn(expected, to) if known(expected) and expected > 0 else None
    good = known(axle) and axle > 0
    gives = axle * (1 - school.reaction_margin_percent / 100) if good and axle is not None else None
    lifts = lifts_at_percent(axle, school.reaction_margin_percent, to) if good and axle is not None else None
    return Plan(to, wants, gives, lifts)


def near_reaction(force_kn: float, gives_kn: float | None, school: SpotSchool) -> bool:
    """Whether a force is nearly all that the axle gives."""
    return gives_kn is not None and force_kn >= (1 - school.near_reaction_percent / 100) * gives_kn


def lifted(flat: "Plateau", gives_kn: float | None, school: SpotSchool) -> bool:
    """Whether a force that stands still is the vehicle's weight: it moved, or the axle gives no more."""
    moved = flat.vehicle_mm is not None and flat.vehicle_mm > school.most_vehicle_mm
    return moved or near_reaction(flat.force_kn, gives_kn, school)


def standstill(record: Record, flat: "Plateau | None", its: Plan, school: SpotSchool) -> Standstill:
    """What a force that stands still was: nothing, the soil's own, the vehicle lifting, or not to be told.

    Well below what the axle gives it is the soil's; without the axle's load and without a gauge on the vehicle nobody
    can tell, and what was read beyond its start is not reported.
    """
    if flat is None:
        return "the vehicle lifted" if record.stopped == "reaction lifted" else "none"
    if lifted(flat, its.gives_kn, school) or record.stopped == "reaction lifted":
        return "the vehicle lifted"
    if its.gives_kn is None and flat.vehicle_mm is None:
        return "not to be told"
    return "the soil's own"


class Plateau(NamedTuple):
    """The force stopped rising: from which reading, at what force in kN, and how far the vehicle moved in mm."""

    row: int
    force_kn: float
    vehicle_mm: float | None


def plateau(record: Record, found: EndResult, school: SpotSchool) -> Plateau | None:
    """The force stands still at the record's end while the plunger goes on; None while it rises."""
    points = found.points
    if len(points) < 4 or points[-1].force_kn <= 0:
        return None
    last = points[-1]
    start = next(
        (p for p in points if last.force_kn - p.force_kn <= school.plateau_percent / 100 * last.force_kn), last
    )
    if last.penetration_mm - start.penetration_mm < school.plateau_mm:
        return None
    moved = [r.vehicle_mm for r in record.readings if known(r.vehicle_mm)]
    zero = record.vehicle_zero_mm
    travel = abs(moved[-1] - zero) if moved and known(zero) else None
    return Plateau(start.row, last.force_kn, travel)
