"""What the boards of both bearing ratios need beside record and outcome: the zeros that an analyst may draw."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.outcome import Outcome
from vadum.soil.shared.bearing.ends import EndResult, PushFacts
from vadum.soil.shared.bearing.school import BearingSchool

LEAST_POINTS = 5  # for a curve that a tangent can be laid along


def _zero(found: EndResult) -> dict[str, Any]:
    prefix = found.end.prefix
    return {
        "words": found.end.words,
        "path": f"{prefix}zero_mm",
        "because": f"{prefix}zero_because",
        "shown": f"{found.shift_mm:.2f}",
        "computed": "" if found.computed is None else f"{found.computed.shift_mm:.2f}",
    }


def board(facts: PushFacts, school: BearingSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The zeros of the pushes that have a curve."""
    return {"zeros": [_zero(f) for f in facts.pushes if len(f.points) >= LEAST_POINTS]}
