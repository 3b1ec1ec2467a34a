"""What the desk draws of a double ring: the rings, and the velocity of each interval in both."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Outcome
from vadum.soil.methods.double_ring.facts import Facts
from vadum.soil.methods.double_ring.flow import steady_words
from vadum.soil.methods.double_ring.school import RingSchool

SHOWN = 7


def board(facts: Facts, school: RingSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The rings and the last intervals."""
    record = facts.record
    steady = {r.row for r in facts.steady_rates} if facts.is_steady else set()
    intervals = [
        {
            "path": f"readings[{r.row}]",
            "at": f"{r.minutes:g}",
            "inner_ml": record.readings[r.row].inner_ml,
            "inner_cm3": f"{r.inner_cm3:.0f}",
            "inner": f"{r.inner_mm_h:.3g}",
            "annulus": f"{r.annulus_mm_h:.3g}" if r.annulus_mm_h is not None else "",
            "ratio": f"{r.ratio:.2f}" if r.ratio is not None else "",
            "steady": r.row in steady,
        }
        for r in facts.rates[-SHOWN:]
    ]
    return {
        "intervals": intervals,
        "more": max(0, len(facts.rates) - SHOWN),
        "inner": f"{record.inner_diameter_mm:g}" if known(record.inner_diameter_mm) else "",
        "outer": f"{record.outer_diameter_mm:g}" if known(record.outer_diameter_mm) else "",
        "steady": steady_words(facts, school) if facts.rates else "",
        "filled": facts.called.filled,
    }
