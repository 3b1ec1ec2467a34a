"""What the desk draws of the cylinders: each with its level, when it will be empty, and what is amiss."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.times import exact
from vadum.soil.methods.falling_head.facts import Facts, One
from vadum.soil.methods.falling_head.forecast import empty_at
from vadum.soil.methods.falling_head.school import InfiltrationSchool
from vadum.soil.shared.conductivity import MM_H


def _words(one: One, school: InfiltrationSchool, now: datetime) -> tuple[str, str]:
    """A word and a time under a cylinder."""
    if one.is_empty or one.standing.ended == "empty":
        return "empty", ""
    if one.standing.ended:
        return one.standing.ended, ""
    if one.may_stop:
        return "may stop", ""
    at = empty_at(one, school)
    if at is not None:
        return "empty ≈", exact(at, now)
    if one.standing.started_at is not None:
        return "since", exact(one.standing.started_at, now)
    return ("set", "") if one.standing.insertion_mm is not None else ("to be set", "")


def board(facts: Facts, school: InfiltrationSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The cylinders side by side."""
    columns = []
    leaks = {
        v.at[0].split(".")[0] for v in outcome.verdicts if v.rule == "no leak round the base" and v.level != "fine"
    }
    for one, called in zip([o for o in facts.ones if o.counts], facts.calls, strict=True):
        word, time = _words(one, school, now)
        path = f"cylinders[{one.row}]"
        columns.append(
            {
                "path": path,
                "name": one.name,
                "filled": called.filled,
                "level": f"{one.points[-1].level_cm:.1f}" if one.points else "",
                "word": word,
                "time": time,
                "leaks": path in leaks,
                "k": f"{MM_H * one.found.fit.k_cm_s:.3g}" if one.found is not None else "",
                "gain": f"{100 * one.gain.value:.0f}" if one.gain is not None else "",
                "placed": one.standing.latitude_degrees is not None,
                "readings": len(one.points),
            }
        )
    return {"columns": columns}
