"""What the desk draws of a profile: the rod with its marks, the vane where it stands, each depth as it was tested."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.outcome import Outcome
from vadum.soil.methods.field_vane.facts import Facts, finished
from vadum.soil.methods.field_vane.school import VaneSchool

MARK_M = 0.2  # a rod is marked every 200 mm


def _keys(notes: tuple[str, ...]) -> list[tuple[str, str]]:
    """Each note with its key: the first of its letters that no note before it has."""
    found: dict[str, str] = {}
    for word in notes:
        found[word] = next(letter for letter in word if letter not in found.values())
    return list(found.items())


def _axis(strongest: float) -> list[tuple[str, float]]:
    """Where the strengths' axis is numbered: kPa, and the share of its length."""
    most = max(strongest, 1.0)
    step = next((s for s in (1, 2, 5, 10, 20, 50, 100) if most / s <= 4), 200)
    return [(f"{step * i}", step * i / most) for i in range(int(most / step) + 1)]


def board(facts: Facts, school: VaneSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The rod, the tested depths, and the one in hand."""
    called, record = facts.called, facts.record
    deepest = max([1.0, *called.at, *(t.depth_m or 0.0 for t in facts.tested)])
    row = called.next_row
    here = called.at[row] if row < len(called.at) else None
    if row < len(facts.tested) and facts.tested[row].depth_m is not None:
        here = facts.tested[row].depth_m
    step = MARK_M if deepest <= 4 else 0.5 if deepest <= 10 else 1.0
    marks = [round(step * i, 2) for i in range(int(deepest / step) + 1)]
    strongest = max((t.strength_kpa or 0.0 for t in facts.tested), default=0.0)
    listed = [
        {
            "row": t.row,
            "words": t.words,
            "depth_m": t.depth_m,
            "strength": "" if t.strength_kpa is None else f"{t.strength_kpa:.1f}",
            "remoulded": "" if t.remoulded_kpa is None else f"{t.remoulded_kpa:.1f}",
            "sensitivity": "" if t.sensitivity is None else f"{t.sensitivity:.1f}",
            "share": 0.0 if not strongest or t.strength_kpa is None else max(0.0, t.strength_kpa / strongest),
            "weak_share": 0.0 if not strongest or t.remoulded_kpa is None else max(0.0, t.remoulded_kpa / strongest),
            "noted": t.noted,
            "counts": t.counts,
            "done": finished(record.depths[t.row], record),
            "out": bool(record.depths[t.row].excluded_because),
        }
        for t in facts.tested
    ]
    at_hand = record.depths[row] if row < len(record.depths) else None
    low, high = school.rate_degrees_min
    return {
        "rod": {
            "marks": marks,
            "vane_m": here or 0.0,
            "here": "" if here is None else f"{here:.2f}",
            "water_m": None if record.water_depth_m is None else max(0.0, record.water_depth_m),
            "deepest_m": deepest,
            "to": school.depth_to,
        },
        "tested": listed,
        "planned_m": called.at[len(facts.tested) :] if record.first_m is not None else (),
        "in_hand": {
            "row": row,
            "words": "" if here is None else f"{here:.2f}",
            "noted": (at_hand and at_hand.noted) or "",
            "turns": school.turns_count,
            "slowly": f"{low:g} to {high:g}° a minute",
            "least_min": school.least_peak_min,
            "most_min": school.most_peak_min,
            "over": facts.over,
        },
        "notes": _keys(called.notes),
        "axis": _axis(strongest),
    }
