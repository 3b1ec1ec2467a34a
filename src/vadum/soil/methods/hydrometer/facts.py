"""What the readings of a cylinder come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.methods.hydrometer.record import Record
from vadum.soil.methods.hydrometer.school import HydrometerSchool
from vadum.soil.methods.hydrometer.suspension import Settled, corrections, dry_mass_g, gravity_of, settled
from vadum.soil.methods.hydrometer.timing import called_of, taken_by_time


class Facts(NamedTuple):
    """The dry mass in g, the specific gravity, the blanks as (°C, correction), what settled, and the timetable.

    `taken` gives for each scheduled minute that a reading stands for its row and the reading's own minutes.
    """

    record: Record
    mass_g: float | None
    gravity: float | None
    corrections: tuple[tuple[float, float], ...]
    settled: tuple[Settled, ...]
    timetable: Called
    taken: dict[float, tuple[int, float]]


def facts(record: Record, school: HydrometerSchool) -> Facts:
    """The facts of a record under a school."""
    return Facts(
        record,
        dry_mass_g(record),
        gravity_of(record),
        tuple(corrections(record)),
        tuple(settled(record, school)),
        called_of(record, school),
        taken_by_time(record, school),
    )
