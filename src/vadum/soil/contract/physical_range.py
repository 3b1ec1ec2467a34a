"""What a single reading may be at all: by its unit, between bounds that no soil, tool or calendar passes.

A reading outside is kept on the tape as typed; it earns a *stop* that names it and never reaches arithmetic. The
bounds are wide on purpose: what is merely unlikely is a method's own rule.
"""

import math
from datetime import date, datetime
from functools import cache
from typing import Any, NamedTuple

from vadum.soil.contract.fields import FIRST_YEAR, LAST_YEAR, UNITS, RecordPart, ending_of, kind_of, unit_of
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Outcome, Verdict, judged

RULE = "a reading that can be"
SOURCE = "physics; bounds by unit, laboratory setting"
LEAST = 1e-9  # closer to zero than any gauge reads, in any unit: a slip, and a divisor that would overflow


class Bounds(NamedTuple):
    """Least and most of a unit."""

    least: float
    most: float


# Zero and a little below it are left to the methods: a gauge drifts, a balance shows -0.01 g.
BOUNDS: dict[str, Bounds] = {
    "g": Bounds(-1e3, 1e6),  # a tonne on a laboratory's floor scale
    "kg": Bounds(-10, 1e5),  # a loaded lorry as reaction, with room
    "mg/kg": Bounds(-1e3, 1e6),
    "kg/m²": Bounds(-10, 1e5),
    "cm": Bounds(-1e3, 1e5),
    "cm²": Bounds(-10, 1e6),
    "cm³": Bounds(-1e3, 1e7),
    "mL": Bounds(-1e3, 1e6),
    "mm": Bounds(-1e4, 1e6),
    "m": Bounds(-1e4, 1e4),
    "%": Bounds(-99.9, 1e4),  # nothing loses all of itself; a fibrous peat holds 2000 % of water
    "°C": Bounds(-100, 1500),
    "g/L": Bounds(-1e3, 1e4),
    "Mg/m³": Bounds(-1, 30),
    "kN/m³": Bounds(-10, 300),
    "N/div": Bounds(-10, 1e5),
    "div": Bounds(-1e5, 1e6),
    "kN": Bounds(-1e3, 1e5),
    "N": Bounds(-1e6, 1e8),
    "mm/min": Bounds(-1e3, 1e3),
    "%/min": Bounds(-1e3, 1e3),
    "mm/h": Bounds(-1e4, 1e6),
    "cm/s": Bounds(-1e3, 1e3),
    "m/s": Bounds(-10, 10),
    "kPa": Bounds(-1e5, 1e6),
    "kN/m²": Bounds(-1e5, 1e6),
    "MN/m²": Bounds(-1e3, 1e6),
    "MN/m³": Bounds(-1e3, 1e6),
    "N·m": Bounds(-1e4, 1e5),
    "N·m/kPa": Bounds(-1, 1e3),
    "N·m/div": Bounds(-1, 1e3),
    "MPa": Bounds(-1e3, 1e6),
    "1/cm": Bounds(-1e3, 1e3),
    "pH": Bounds(-2, 16),
    "°": Bounds(-360, 360),
    "h": Bounds(-1e3, 1e5),
    "min": Bounds(-1e4, 1e7),
    "s": Bounds(-1e5, 1e8),
    "drops": Bounds(0, 1e6),  # six days at the crank
}
BY_ENDING: dict[str, Bounds] = {"_sg": Bounds(-1, 30), "_count": Bounds(-1e4, 1e6)}
# A size of a thing that is there is above zero.
SIZES = ("diameter", "aperture", "_area_")
OTHERWISE = Bounds(-1e6, 1e6)


class Checked(NamedTuple):
    """A record with only what can be, and a stop for each reading that was left out of it."""

    record: RecordPart
    verdicts: tuple[Verdict, ...]


@cache
def bounds_of(field: str) -> Bounds:
    """Between what a number of that name may lie.

    >>> bounds_of("mass_wet_g").most, bounds_of("reading_sg").most
    (1000000.0, 30)
    """
    ending = ending_of(field)
    found = BY_ENDING.get(ending) or BOUNDS.get(UNITS.get(ending, ""), OTHERWISE)
    return found._replace(least=LEAST) if any(size in field for size in SIZES) else found


def problem_of(field: str, reading: Any) -> str:
    """Why a reading cannot be, or an empty text.

    >>> problem_of("diameter_mm", 123456789012345678.0)
    'above 0, at most 1000000 mm'
    >>> problem_of("diameter_mm", 71.2)
    ''
    """
    if isinstance(reading, bool) or reading is None or isinstance(reading, str):
        return ""
    if isinstance(reading, datetime | date):
        return "" if FIRST_YEAR <= reading.year <= LAST_YEAR else f"the years {FIRST_YEAR} to {LAST_YEAR}"
    if not isinstance(reading, int | float):
        return ""
    least, most = bounds_of(field)
    held = math.isfinite(reading) and least <= reading <= most and (reading == 0 or abs(reading) >= LEAST)
    if held:
        return ""
    low = "above 0, at most" if least == LEAST else f"{plain(least, 7)} to"
    return f"{low} {plain(most, 8)} {unit_of(field)}".rstrip()


def _as_read(reading: Any) -> str:
    if isinstance(reading, datetime | date):
        return reading.isoformat()
    if not math.isfinite(reading):
        return "no number"
    return f"{reading:.6g}"


def _stop(part: type[RecordPart], name: str, path: str, reading: Any, limit: str) -> Verdict:
    title = part.model_fields[name].title or name.replace("_", " ")
    seen = f"{title}: {_as_read(reading)} {unit_of(name)}".rstrip()
    return Verdict(
        rule=RULE,
        level="stop",
        found=seen,
        limit=limit,
        source=SOURCE,
        remedy=f"Strike it and enter it again: {seen} cannot be.",
        at=(path,),
    )


@cache
def _numbers(part: type[RecordPart]) -> dict[str, Bounds]:
    """The bounds of the fields that hold numbers."""
    found = {}
    for name, field in part.model_fields.items():
        if field.default != () and kind_of(field)[0] in ("number", "count"):
            found[name] = bounds_of(name)
    return found


def _all_can_be(part: RecordPart) -> bool:
    """Whether every reading can be, told quickly: the rows of a series are nearly always all right."""
    numbers, values = _numbers(type(part)), part.__dict__
    for name in part.model_fields_set:
        reading = values[name]
        if reading is None or isinstance(reading, str):
            continue
        bounds = numbers.get(name)
        if bounds is not None:
            if not bounds.least <= reading <= bounds.most or 0 < abs(reading) < LEAST:
                return False
        elif isinstance(reading, tuple):
            if not all(_all_can_be(row) for row in reading):
                return False
        elif problem_of(name, reading):
            return False
    return True


def _part_checked(part: RecordPart, prefix: str) -> tuple[RecordPart, list[Verdict]]:
    if _all_can_be(part):
        return part, []
    out: dict[str, Any] = {}
    found: list[Verdict] = []
    for name in type(part).model_fields:
        if name not in part.model_fields_set:
            continue
        reading = getattr(part, name)
        if isinstance(reading, tuple):
            rows = [_part_checked(row, f"{prefix}{name}[{i}].") for i, row in enumerate(reading)]
            if any(verdicts for _, verdicts in rows):
                out[name] = tuple(row for row, _ in rows)
                found += [v for _, verdicts in rows for v in verdicts]
            continue
        limit = problem_of(name, reading)
        if limit:
            out[name] = None
            found.append(_stop(type(part), name, f"{prefix}{name}", reading, limit))
    return (part.model_copy(update=out) if out else part), found


def checked(record: RecordPart) -> Checked:
    """The record without the readings that cannot be, and a stop for each of them; never raises."""
    clean, found = _part_checked(record, "")
    return Checked(clean, tuple(found))


def with_stops(outcome: Outcome, stops: tuple[Verdict, ...]) -> Outcome:
    """The outcome judged with these stops before its own verdicts."""
    return judged(outcome.model_copy(update={"verdicts": (*stops, *outcome.verdicts)}) if stops else outcome)
