"""What the readings come to, worked out once: the record, and what values, rules and flow share."""

from typing import NamedTuple

from vadum.soil.methods.liquid_limit.record import Record
from vadum.soil.methods.liquid_limit.school import LiquidLimitSchool


class Facts(NamedTuple):
    """The record."""

    record: Record


def facts(record: Record, school: LiquidLimitSchool) -> Facts:
    """The facts of a record under a school."""
    return Facts(record)
