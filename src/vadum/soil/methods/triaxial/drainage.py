"""How a specimen drains: its consolidation, where the water leaves, and the rate of strain that leaves time for it."""

from typing import get_args

from vadum.soil.contract.fields import known
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.triaxial.record import Drained, Record, Specimen, Through
from vadum.soil.methods.triaxial.school import TriaxialSchool
from vadum.soil.shared.consolidation import Consolidation, Moved, consolidation_of


def elapsed_min(row: Drained, specimen: Specimen) -> float | None:
    """Time of a reading since the specimen was let drain, min; None where it is not known."""
    if known(row.elapsed_min):
        return row.elapsed_min
    if row.read_at is None or specimen.drained_from_at is None:
        return None
    return minutes_between(specimen.drained_from_at, row.read_at)


def drainage_of(specimen: Specimen) -> Consolidation:
    """The consolidation of a specimen, with what a hand has moved in place of what was found."""
    read = []
    for row in specimen.consolidation:
        minutes = elapsed_min(row, specimen)
        if known(row.volume_cm3) and minutes is not None and minutes >= 0 and not row.excluded_because:
            read.append(Moved(minutes, row.volume_cm3))
    return consolidation_of(read, specimen.t50_min, specimen.t90_min, specimen.t100_min)


# lambda of `cv = pi D^2 / (lambda t100)` of a specimen twice as high as wide, by where its water leaves.
LAMBDA = {"radial": 64.0, "radial and one end": 80.0, "radial and both ends": 100.0}


def drains_through(record: Record, school: TriaxialSchool) -> Through:
    """Where the water leaves: as it was said, else by the side drains and the school's ends."""
    if record.drains_through is not None:
        return record.drains_through
    one = school.drained_ends == 1
    if record.side_drains == "yes":
        return "radial and one end" if one else "radial and both ends"
    return "one end" if one else "both ends"


def needed_percent_min(drainage: Consolidation, record: Record, school: TriaxialSchool) -> float | None:
    """The greatest rate of strain that lets the pore pressure become even, or drain, %/min.

    `4 % / (10 t50)`, `4 % / (16 t90)`, or `tf = F t100`; a quick test at its own.

    Parameters: `drainage` with t50, t90, t100 in min; `record` with the kind; `school` the rule.
    Returns: %/min; None while nothing tells how long the soil needs.
    Source: ASTM D4767, D7181, D2850; BS 1377-8.
    """
    expected = record.expected_failure_percent
    strain = expected if known(expected) and expected > 0 else school.expected_failure_percent
    drained = record.kind in ("CID", "CAD")
    if school.rate_by == "fixed":
        return school.brittle_percent_min if record.brittle == "yes" else school.fixed_percent_min
    if school.rate_by == "F t100":
        if drainage.t100_min is None:
            return None
        factors = school.drained_factors if drained else school.undrained_factors
        factor = factors[list(get_args(Through)).index(drains_through(record, school))]
        return strain / max(factor * drainage.t100_min, school.least_failure_min)
    if school.rate_by == "16 t90" or drained:
        return None if drainage.t90_min is None else strain / (16 * drainage.t90_min)
    return None if drainage.t50_min is None else strain / (10 * drainage.t50_min)


def water_out_cm3(specimen: Specimen) -> float | None:
    """Water that left in consolidation, cm³: as entered, else by its last reading; None before any."""
    if known(specimen.volume_out_cm3):
        return specimen.volume_out_cm3
    read = [r.volume_cm3 for r in specimen.consolidation if known(r.volume_cm3) and not r.excluded_because]
    return read[-1] if read else None
