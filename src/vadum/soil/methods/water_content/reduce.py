"""Water content from a tin's weighings, with the constancy of its dry mass and its error from the balance."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.water_content.drying import dry_weighings
from vadum.soil.methods.water_content.facts import Facts
from vadum.soil.methods.water_content.record import Record
from vadum.soil.methods.water_content.school import WaterContentSchool
from vadum.soil.shared.water_by_tin import Masses, TinRow, measured_percent


def standard_error_percent(masses: Masses, readability_g: float) -> float:
    """Standard uncertainty of w, percentage points, from three readings of one balance.

    Each reading carries `readability / sqrt(12)`; the derivatives of `w = 100 (M1 - M2)/(M2 - Mc)` are
    `100/Ms`, `-100 (M1 - Mc)/Ms^2` and `100 (M1 - M2)/Ms^2`. Source: GUM, rectangular distribution.

    Parameters: `masses`; `readability_g` in g.
    Returns: %.

    >>> round(standard_error_percent(Masses(20.0, 70.0, 60.0), 0.01), 4)
    0.0117
    """
    dry = masses.dry_g - masses.tin_g
    per_wet = 100 / dry
    per_dry = 100 * (masses.wet_g - masses.tin_g) / dry**2
    per_tin = 100 * (masses.wet_g - masses.dry_g) / dry**2
    return readability_g / math.sqrt(12) * math.sqrt(per_wet**2 + per_dry**2 + per_tin**2)


def _drying_curve(record: Record, school: WaterContentSchool) -> Table:
    tin, wet = record.mass_tin_g, record.mass_wet_g
    if not (known(tin) and known(wet)) or wet <= tin:
        return ()
    rows: list[dict[str, Cell]] = []
    for weighing in dry_weighings(record):
        row = TinRow(mass_tin_g=tin, mass_wet_g=wet, mass_dry_g=weighing.mass_g)
        content = measured_percent(row)
        if content is not None:
            rows.append(
                {
                    "weighing": weighing.row + 1,
                    "mass_dry_g": weighing.mass_g,
                    "water_content_percent": content,
                    "drying_h": weighing.drying_h,
                }
            )
    return tuple(rows)


def reduce(facts: Facts, school: WaterContentSchool) -> Outcome:
    """The record's water content so far; provisional until the mass is constant or long enough in the heat."""
    record, masses = facts.record, facts.masses
    results = Results(school.standard, provisional=not facts.dry)
    if masses:
        line = masses.line("water_content_percent")
        known_balance = known(record.balance_readability_g) and record.balance_readability_g > 0
        readability = record.balance_readability_g if known_balance else school.assumed_readability_g
        error = standard_error_percent(masses, readability or school.assumed_readability_g)
        note = "" if known_balance else f"# balance taken to read to {school.assumed_readability_g:g} g"
        results.give(
            "water_content_percent",
            "w",
            "water content",
            line.value,
            "%",
            facts.step.percent,
            line.formula,
            line.inputs,
            source=line.source,
            note=note,
            uncertainty=error,
        )
        inputs = {"M_2": masses.dry_g, "M_c": masses.tin_g}
        dry = masses.dry_g - masses.tin_g
        results.give("mass_dry_soil_g", "M_s", "dry soil", dry, "g", 0.01, "M_2 - M_c", inputs)
        if facts.change:
            results.working.append(facts.change.line())
    missing = (
        ()
        if facts.weighings
        else (Missing(name="water content", waits_for="a dry weighing", at="weighings[0].mass_dry_g"),)
    )
    wet = (
        ()
        if record.mass_wet_g is not None
        else (Missing(name="water content", waits_for="the tin weighed with the wet soil", at="mass_wet_g"),)
    )
    return Outcome(
        method="water_content",
        school=school.name,
        values=tuple(results.values),
        missing=(*wet, *missing),
        working=tuple(results.working),
        series={"weighings": _drying_curve(record, school)},
    )
