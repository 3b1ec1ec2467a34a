"""A virtual soil that answers field vane."""

import random

from vadum.soil.contract.method import Trial
from vadum.soil.methods.field_vane.record import Record
from vadum.soil.methods.field_vane.school import FieldVaneSchool

MISTAKES = {"example": "TO FILL: a mistake that hands make"}


def virtual(seed: int, school: FieldVaneSchool, mistake: str | None = None) -> Trial:
    """TO FILL: a full record of a soil whose truth is returned beside it."""
    dice = random.Random(seed)
    record = Record(example_mm=round(dice.uniform(1, 9) + (20 if mistake else 0), 1))
    return Trial(record, {}, {}, mistake)
