"""What the desk draws of a well: the reservoir over its hole, each head with its fall and how steady it is."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Outcome
from vadum.soil.methods.well_permeameter.facts import Facts
from vadum.soil.methods.well_permeameter.school import WellSchool
from vadum.soil.shared.conductivity import MM_H

SHOWN = 6


def board(facts: Facts, school: WellSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The hole, the heads, the last rates."""
    record = facts.record
    heads = []
    for one in facts.heads:
        steady = one.steady
        within = "" if steady is None else f"{max(steady.farthest_percent, steady.trend_percent):.0f} %"
        heads.append(
            {
                "path": f"heads[{one.row}]",
                "words": one.words,
                "head_mm": one.head.head_mm,
                "reservoir": one.head.reservoir_used or "",
                "rate": f"{steady.value:.2f}" if steady is not None else "",
                "within": within,
                "k": f"{MM_H * one.kfs_cm_s:.3g}" if one.kfs_cm_s is not None else "",
                "here": one.row == facts.hand,
            }
        )
    shown = facts.in_hand or (facts.heads[-1] if facts.heads else None)
    rates = shown.rates if shown is not None else ()
    held = shown is not None and shown.is_steady
    words = f"Steady: the last {school.steady_many} rates within {school.steady_percent:g} %." if held else ""
    return {
        "heads": heads,
        "hole": f"{2 * record.hole_radius_mm:g}" if known(record.hole_radius_mm) else "",
        "depth": f"{record.hole_depth_m:g}" if known(record.hole_depth_m) else "",
        "head": f"{10 * shown.head_cm:g}" if shown is not None and shown.head_cm is not None else "",
        "ground": record.ground or "",
        "alpha": f"{facts.alpha:g}",
        "last": [f"{r.mm_min:.2f}" for r in rates[-SHOWN:]],
        "steady": words,
        "filled": facts.holding.filled if facts.holding is not None else (0.4 if facts.heads else None),
    }
