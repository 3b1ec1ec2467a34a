"""What the desk draws of a direct shear: the box in section, its hanger, and where each stage stands."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.outcome import Outcome
from vadum.soil.methods.direct_shear.facts import Facts
from vadum.soil.methods.direct_shear.school import ShearSchool


def board(facts: Facts, school: ShearSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The box as it stands, the hanger, the consolidation and the stages."""
    return {}
