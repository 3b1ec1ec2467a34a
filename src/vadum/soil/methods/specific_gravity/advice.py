"""What now, at the pycnometers."""

from datetime import datetime

from vadum.soil.contract.flow import ask, done, fault, oven_advice
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.times import span
from vadum.soil.methods.specific_gravity.record import Determination, Record
from vadum.soil.methods.specific_gravity.school import SpecificGravitySchool

FILLING = ("pycnometer", "mass_pycnometer_g", "mass_full_g", "full_at_c")


def advise(record: Record, school: SpecificGravitySchool, outcome: Outcome, now: datetime) -> Advice:
    """The next pycnometer, its weighing, or that it is done."""
    kept = [(i, d) for i, d in enumerate(record.determinations) if not d.excluded_because]

    for i, row in kept:
        at = f"determinations[{i}]."
        if row.mass_with_soil_g is None or row.temperature_c is None:
            wants = tuple(f"{at}{f}" for f in FILLING if getattr(row, f) is None)
            first = wants + tuple(f for f in ("deaired_by", "deaired_min") if getattr(record, f) is None)
            slurry = tuple(f"{at}{f}" for f in ("mass_with_soil_g", "temperature_c") if getattr(row, f) is None)
            return ask(
                f"Pycnometer {row.pycnometer or i + 1}: draw the air, fill to the mark, weigh, then its temperature.",
                f"Vacuum {span(school.vacuum_min)} or boiling {span(school.boiling_min)}; water of the same warmth.",
                (*first, *slurry),
                900,
                f"pycnometer {row.pycnometer or i + 1}",
            )
    short = school.least_determinations - len(kept)
    if short > 0:
        at = f"determinations[{len(record.determinations)}]."
        return ask(
            "Take a clean pycnometer and put the soil in.",
            "Its number brings its mass empty and full of water. 50 g or so of soil through 4.75 mm, as slurry.",
            tuple(f"{at}{f}" for f in FILLING),
            600,
            f"pycnometer {len(kept) + 1}",
        )
    dishes = [
        (f"determinations[{i}].mass_dry_soil_g", d.pycnometer or str(i + 1))
        for i, d in kept
        if d.mass_dry_soil_g is None
    ]
    drying = oven_advice(
        dishes, record.in_oven_at, school.oven_min, now, "Pour out without loss. ", vessel="dish of pycnometer"
    )
    if drying:
        return drying
    faults = [v for v in outcome.verdicts if v.level in ("stop", "redo")]
    if any(v.rule == "determinations agree" for v in faults):
        at = f"determinations[{len(record.determinations)}]."
        return ask("The pycnometers disagree: run another.", faults[0].found, (f"{at}pycnometer",), 900, "another")
    return fault(outcome) or done("The pycnometers agree.")


def soil_in(row: Determination) -> bool:
    """Whether the pycnometer has been weighed with its soil."""
    return row.mass_with_soil_g is not None
