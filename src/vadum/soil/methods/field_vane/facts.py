"""What the readings come to, worked out once."""

from typing import NamedTuple

from vadum.soil.methods.field_vane.record import Record
from vadum.soil.methods.field_vane.school import FieldVaneSchool


class Facts(NamedTuple):
    """TO FILL: the record and all that values, rules, flow and calls share; what stands or falls together is one part,
    None as a whole."""

    record: Record


def facts(record: Record, school: FieldVaneSchool) -> Facts:
    """The facts of a record under a school."""
    return Facts(record)
