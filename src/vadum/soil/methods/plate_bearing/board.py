"""What the desk draws of a bearing test: the load ladder, and the plan before the start."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.outcome import Outcome
from vadum.soil.methods.plate_bearing.facts import Facts
from vadum.soil.methods.plate_bearing.school import BearingSchool
from vadum.soil.shared.plate.ladder import ladder_board


def board(facts: Facts, school: BearingSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The ladder with its rungs, the one in hand, the plan."""

    def about_mm(kpa: float) -> float | None:
        """As if it went on like between the last two steps."""
        if len(facts.kpa) < 2:
            return None
        (q0, q1), (s0, s1) = facts.kpa[-2:], facts.settled[-2:]
        return s1 + (kpa - q1) * (s1 - s0) / (q1 - q0) if q1 > q0 else None

    return ladder_board(facts, school, now, about_mm)
