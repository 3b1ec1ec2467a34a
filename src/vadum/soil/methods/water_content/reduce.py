"""Water content from a tin's weighings, with the constancy of its dry mass and its error from the balance."""

import math
from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import rounded
from vadum.soil.contract.outcome import Cell, Line, Missing, Outcome, Table, Value
from vadum.soil.methods.water_content.drying import constancy, dry_weighings, is_dry
from vadum.soil.methods.water_content.facts import Facts
from vadum.soil.methods.water_content.record import Record
from vadum.soil.methods.water_content.school import WaterContentSchool
from vadum.soil.shared.water_by_tin import TinRow, measured_percent, water_content_percent, water_line


class Masses(NamedTuple):
    """Tin, tin + wet soil, tin + dry soil, all g."""

    tin: float
    wet: float
    dry: float


def standard_error_percent(masses: Masses, readability_g: float) -> float:
    """Standard uncertainty of w, percentage points, from three readings of one balance.

    Each reading carries `readability / sqrt(12)`; the derivatives of `w = 100 (M1 - M2)/(M2 - Mc)` are
    `100/Ms`, `-100 (M1 - Mc)/Ms^2` and `100 (M1 - M2)/Ms^2`. Source: GUM, rectangular distribution.

    >>> round(standard_error_percent(Masses(20.0, 70.0, 60.0), 0.01), 4)
    0.0117
    """
    dry = masses.dry - masses.tin
    per_wet = 100 / dry
    per_dry = 100 * (masses.wet - masses.tin) / dry**2
    per_tin = 100 * (masses.wet - masses.dry) / dry**2
    return readability_g / math.sqrt(12) * math.sqrt(per_wet**2 + per_dry**2 + per_tin**2)


def _masses(record: Record) -> Masses | None:
    weighings = dry_weighings(record)
    tin, wet = record.mass_tin_g, record.mass_wet_g
    if not weighings or not (known(tin) and known(wet)):
        return None
    row = TinRow(mass_tin_g=tin, mass_wet_g=wet, mass_dry_g=weighings[-1].mass_g)
    return None if measured_percent(row) is None else Masses(tin, wet, weighings[-1].mass_g)


def _missing(record: Record) -> tuple[Missing, ...]:
    wanted = (
        ("mass_tin_g", record.mass_tin_g, "the empty tin's mass"),
        ("mass_wet_g", record.mass_wet_g, "the tin weighed with the wet soil"),
        ("in_oven_at", record.in_oven_at, "the time drying began"),
    )
    waits = [Missing(name="water content", waits_for=text, at=path) for path, value, text in wanted if value is None]
    if not dry_weighings(record):
        waits.append(Missing(name="water content", waits_for="a dry weighing", at="weighings[0].mass_dry_g"))
    return tuple(waits)


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
    record = facts.record
    masses = _masses(record)
    values: list[Value] = []
    working: list[Line] = []
    if masses:
        content = water_content_percent(masses.wet, masses.dry, masses.tin)
        step = record.report_to_percent if record.report_to_percent in (0.1, 1.0) else 0.1
        provisional = not is_dry(record, school)
        error = None
        if known(record.balance_readability_g) and record.balance_readability_g > 0:
            error = standard_error_percent(masses, record.balance_readability_g)
        values = [
            Value(
                key="water_content_percent",
                symbol="w",
                name="water content",
                value=content,
                unit="%",
                reported=rounded(content, step),
                uncertainty=error,
                provisional=provisional,
            ),
            Value(
                key="mass_dry_soil_g",
                symbol="M_s",
                name="dry soil",
                value=masses.dry - masses.tin,
                unit="g",
                reported=rounded(masses.dry - masses.tin, 0.01),
                provisional=provisional,
            ),
        ]
        working = [
            water_line("water_content_percent", masses.wet, masses.dry, masses.tin),
            Line(
                gives="mass_dry_soil_g",
                symbol="M_s",
                formula="M_2 - M_c",
                inputs={"M_2": masses.dry, "M_c": masses.tin},
                value=masses.dry - masses.tin,
                unit="g",
                source="ASTM D2216",
            ),
        ]
        change = constancy(record, school)
        if change:
            working.append(change.line())
    return Outcome(
        method="water_content",
        school=school.name,
        values=tuple(values),
        missing=_missing(record),
        working=tuple(working),
        series={"weighings": _drying_curve(record, school)},
    )
