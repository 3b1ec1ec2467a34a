"""What the desk draws of a strain modulus: the load ladder, and the plan before the start."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.outcome import Outcome
from vadum.soil.methods.plate_modulus.facts import Facts
from vadum.soil.methods.plate_modulus.school import ModulusSchool
from vadum.soil.shared.plate.ladder import ladder_board


def board(facts: Facts, school: ModulusSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The ladder with its rungs, the one in hand, the plan."""
    fit = facts.first.fit

    def about_mm(kpa: float) -> float | None:
        return None if fit is None else fit.at(kpa / facts.per_unit)

    return ladder_board(facts, school, now, about_mm)
