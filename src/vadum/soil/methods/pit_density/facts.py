"""What the readings come to, worked out once: the record, and what values, rules and flow share."""

from typing import NamedTuple

from vadum.soil.methods.pit_density.record import Record
from vadum.soil.methods.pit_density.school import PitDensitySchool


class Facts(NamedTuple):
    """The record."""

    record: Record


def facts(record: Record, school: PitDensitySchool) -> Facts:
    """The facts of a record under a school."""
    return Facts(record)
