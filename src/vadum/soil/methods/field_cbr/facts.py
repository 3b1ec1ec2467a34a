"""What a push in place comes to, worked out once: its curve, its calls, and its reaction."""

from typing import NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.methods.field_cbr.reaction import Plan, Plateau, plan, plateau
from vadum.soil.methods.field_cbr.record import Record
from vadum.soil.methods.field_cbr.school import SpotSchool
from vadum.soil.shared.bearing.calls import called_of
from vadum.soil.shared.bearing.ends import EndResult, pushes_of


class Facts(NamedTuple):
    """The one push with its calls, what the reaction wants and gives, and where the force stood still."""

    record: Record
    pushes: tuple[EndResult, ...]
    calls: tuple[Called, ...]
    plan: Plan
    flat: Plateau | None


def facts(record: Record, school: SpotSchool) -> Facts:
    """The facts of a record under a school."""
    pushes = pushes_of(record, school)
    calls = tuple(called_of(record, end, school) for end in record.ends())
    return Facts(record, pushes, calls, plan(record, school), plateau(record, pushes[0], school))
