"""What now, at the mould: how much water for the next point, when the peak has passed, the oven."""

from datetime import datetime

from vadum.soil.contract.flow import done, fault
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.task import ask, still_open
from vadum.soil.contract.waits import oven_advice
from vadum.soil.methods.compaction.facts import Facts
from vadum.soil.methods.compaction.points import Made, estimates_percent, points, portion_dry_g
from vadum.soil.methods.compaction.record import Point, Record
from vadum.soil.methods.compaction.school import CompactionSchool


def water_to_add_g(dry_g: float, from_percent: float, to_percent: float) -> float:
    """`dM = M_dry (w2 - w1)`, g of water, for a dry mass in g and water contents in percent.

    Parameters: `dry_g` in g; `from_percent` in %; `to_percent` in %.
    Returns: g.
    Source: mass balance of the portion.

    >>> round(water_to_add_g(2400, 12.0, 14.0), 6)
    48.0
    """
    return dry_g * (to_percent - from_percent) / 100


def next_target_percent(made: list[Made], school: CompactionSchool) -> float | None:
    """Water content to compact next, percent; None when the curve has points enough on both sides of its densest.

    Wetter in steps until the density has fallen on enough points; where the wet side is full and the dry side is not,
    drier (with a fresh portion, or by letting the batch dry).
    """
    counting = sorted((m for m in made if m.counts), key=lambda m: m.water_percent)
    if not counting:
        return None
    top = max(range(len(counting)), key=lambda i: counting[i].dry_mg_m3)
    wetter, drier = len(counting) - 1 - top, top
    if wetter < school.least_each_side:
        return counting[-1].water_percent + school.step_percent
    if drier < school.least_each_side:
        return max(counting[0].water_percent - school.step_percent, 0.0)
    if len(counting) < school.least_points:
        # Both sides are filled: a point between the densest and its higher neighbour says most about the peak.
        left, right = counting[top - 1], counting[top + 1]
        other = left if left.dry_mg_m3 > right.dry_mg_m3 else right
        return (counting[top].water_percent + other.water_percent) / 2
    return None


def _prepare(record: Record, school: CompactionSchool) -> Advice | None:
    mould = still_open(record, "mould", "mould_mass_g", "mould_volume_cm3")
    if record.mould_mass_g is None or record.mould_volume_cm3 is None:
        return ask(
            "Take the mould, its base plate on.",
            f"Its number brings mass and volume. {plain(school.mould_cm3)} cm³ for this effort.",
            mould,
            120,
            "mould",
        )
    soil = still_open(record, "mass_portion_g", "portion_water_percent")
    if soil:
        more = still_open(record, "specific_gravity_ratio", "specific_gravity_from")
        what = "Weigh one portion of the soil" if school.fresh_portions else "Weigh the batch"
        return ask(
            f"{what} and note its water content.",
            "With its dry mass the water for each point is told in grams.",
            soil + more,
            600,
            "soil",
        )
    return None


def effort_words(school: CompactionSchool) -> str:
    """The effort as it is said at the mould."""
    if school.blows is None:
        return f"{school.layers_count} layers, 60 s each under the hammer"
    rammer = f"{plain(school.rammer_kg)} kg from {plain(school.drop_mm or 0)} mm"
    return f"{school.layers_count} × {school.blows} blows, {rammer}"


def _compact(index: int, row: Point, school: CompactionSchool) -> Advice:
    path = f"points[{index}].mass_with_soil_g"
    return ask(
        f"Point {index + 1}: compact, trim level, weigh the mould.",
        f"{effort_words(school)}. Layers even; the last within 6 mm above the mould's edge.",
        (path,),
        900,
        f"point {index + 1}",
    )


def _wet(record: Record, school: CompactionSchool, made: list[Made], target: float | None) -> Advice:
    """Water for the next point."""
    index = len(record.points)
    open_row = index > 0 and record.points[-1].water_added_ml is None and record.points[-1].mass_with_soil_g is None
    index = index - 1 if open_row else index
    wants = (f"points[{index}].water_added_ml",)
    dry = portion_dry_g(record)
    base = record.portion_water_percent
    if target is None or dry is None or base is None:
        return ask(
            "Wet the first portion to a little drier than it balls.",
            "Squeezed in the hand it just holds together. Mix well, let it stand covered; fat clay overnight.",
            wants,
            900,
            f"water, point {index + 1}",
        )
    last = base
    if not school.fresh_portions:
        done = [e for e in estimates_percent(record, school) if e is not None]
        last = done[-1] if done else base
    grams = water_to_add_g(dry, last, target)
    what = "A fresh portion" if school.fresh_portions else "The batch, broken up"
    if grams < 0:
        return ask(
            f"{what}: let it dry to {plain(target, 3)} % in the open, stirred.",
            "The dry side of the peak needs another point; in air, never in the oven. Enter the loss with a minus.",
            wants,
            1200,
            f"drier, point {index + 1}",
            amount=f"{-grams:.0f} g",
            amount_note="of water to lose",
        )
    return ask(
        f"{what}: add water to {plain(target, 3)}\u00a0% and mix.",
        f"From {plain(last, 3)} %, {dry:.0f} g dry. Cover; let it stand.",
        wants,
        900,
        f"water, point {index + 1}",
        amount=f"{grams:.0f} mL",
        amount_note="to add now",
    )


def advise(facts: Facts, school: CompactionSchool, outcome: Outcome, now: datetime) -> Advice:
    """The one next action at the mould."""
    record = facts.record
    preparing = _prepare(record, school)
    if preparing:
        return preparing
    for i, row in enumerate(record.points):
        if row.excluded_because:
            continue
        if row.mass_with_soil_g is None and row.water_added_ml is not None:
            return _compact(i, row, school)
        at = f"points[{i}]."
        wants = tuple(f"{at}{f}" for f in ("tin", "mass_tin_g", "mass_wet_g") if getattr(row, f) is None)
        if row.mass_with_soil_g is not None and row.mass_wet_g is None:
            return ask(
                f"Point {i + 1}: split it, a slice through its middle into a tin.",
                "100 g or more, from top to bottom; lid on at once.",
                wants,
                120,
                f"tin, point {i + 1}",
            )
    made = points(record, school)
    target = next_target_percent(made, school)
    if not any(m.counts for m in made):
        return _wet(record, school, made, None)
    if target is not None:
        return _wet(record, school, made, target)
    tins = [
        (f"points[{m.row}].mass_dry_g", record.points[m.row].tin or f"point {m.row + 1}")
        for m in made
        if m.counts and record.points[m.row].mass_dry_g is None
    ]
    drying = oven_advice(tins, record.in_oven_at, school.oven_min, now, "The peak has passed. ", oven_c=school.oven_c)
    if drying:
        return drying
    again = (f"points[{len(record.points)}].water_added_ml",)
    return fault(outcome, again) or done("The peak lies between the points.")
