"""What the pycnometers come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import error_of_mean, mean
from vadum.soil.methods.specific_gravity.pycnometer import Determined, counting, full_at_test_g
from vadum.soil.methods.specific_gravity.record import Determination, Record
from vadum.soil.methods.specific_gravity.school import SpecificGravitySchool
from vadum.soil.shared.physics import WATER_RANGE_C, water_density_mg_m3


class Gravity(NamedTuple):
    """The mean of the pycnometers that count, its error, and how far they lie apart."""

    mean: float
    error: float | None
    apart: float


class Facts(NamedTuple):
    """What each pycnometer that counts gives, and their mean."""

    record: Record
    found: tuple[Determined, ...]
    gravity: Gravity | None


def full_now_g(row: Determination) -> float | None:
    """The pycnometer full of water at the test's temperature, g; as calibrated where a temperature is missing."""
    empty, full = row.mass_pycnometer_g, row.mass_full_g
    low, high = WATER_RANGE_C
    warm = [t for t in (row.full_at_c, row.temperature_c) if known(t) and low <= t <= high]
    if known(empty) and known(full) and len(warm) == 2:
        return full_at_test_g(empty, full, *(water_density_mg_m3(t) for t in warm))
    return full if known(full) else None


def facts(record: Record, school: SpecificGravitySchool) -> Facts:
    """The facts of a record under a school."""
    found = tuple(counting(record))
    gravities = [one.gravity for one in found]
    its = Gravity(mean(gravities), error_of_mean(gravities), max(gravities) - min(gravities)) if found else None
    return Facts(record, found, its)
