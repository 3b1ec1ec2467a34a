"""What the readings come to, worked out once: the record, and what values, rules and flow share."""

from typing import NamedTuple

from vadum.soil.methods.water_content.record import Record
from vadum.soil.methods.water_content.school import WaterContentSchool


class Facts(NamedTuple):
    """The record."""

    record: Record


def facts(record: Record, school: WaterContentSchool) -> Facts:
    """The facts of a record under a school."""
    return Facts(record)
