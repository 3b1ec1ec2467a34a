"""What the desk draws of a triaxial test: the cell with its lines and pressures, and where each specimen stands."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.outcome import Outcome
from vadum.soil.methods.triaxial.facts import Facts
from vadum.soil.methods.triaxial.school import TriaxialSchool


def board(facts: Facts, school: TriaxialSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The cell as it stands, and the specimens."""
    return {}
