"""What the desk draws of a lime demand: the bottles in their bath, what each was told and got, the time for reading."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.lime_demand.facts import Facts, in_order
from vadum.soil.methods.lime_demand.reduce import rule_words
from vadum.soil.methods.lime_demand.school import LimeSchool


def _gate(facts: Facts, school: LimeSchool, now: datetime) -> dict[str, Any] | None:
    """How far the hour and the quarter behind it have come, as shares of the bar; None before the water."""
    began = facts.record.water_in_at
    if began is None:
        return None
    passed = minutes_between(began, now)
    whole = school.stands_min + school.gate_min
    left = whole - passed
    taken = [one.minutes / whole for one in facts.bottles if one.minutes is not None and 0 <= one.minutes <= whole]
    shakes = [
        (at / whole, any(t.at is not None and abs(t.at - at) < 5 for t in facts.shaking.taken))
        for at in facts.shaking.at
    ]
    return {
        "opens_ratio": school.stands_min / whole,
        "now_ratio": min(max(passed / whole, 0.0), 1.0),
        "left": f"{max(left, 0):.0f}",
        "is_open": school.stands_min <= passed <= whole,
        "is_shut": passed > whole,
        "opens_in": f"{max(school.stands_min - passed, 0):.0f}",
        "gate": f"{school.gate_min:g}",
        "read_ratios": taken,
        "shakes": shakes,
    }


def _rinse(place: int) -> str:
    """Whether the probe is rinsed before the bottle of that place."""
    return "" if place == 0 else "rinsed" if place == 1 else "not"


def board(facts: Facts, school: LimeSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """Six bottles as columns, and the words of what decided."""
    columns = []
    ordered = in_order(facts.bottles)
    left = [b for b in ordered if b.ph25 is None]
    hand = left[0].row if left and facts.record.water_in_at is not None and all(b.weighed for b in ordered) else None
    weighing = next((b.row for b in ordered if not b.weighed), None)
    for place, one in enumerate(ordered):
        columns.append(
            {
                "path": f"bottles[{one.row}]",
                "words": one.words,
                "only": one.is_lime_only,
                "told_lime": f"{one.told_lime_g:.3f}" if one.told_lime_g is not None else "",
                "told_soil": f"{one.told_soil_g:.2f}" if one.told_soil_g is not None else "",
                "lime_g": one.bottle.lime_g,
                "soil_g": one.bottle.soil_g,
                "temperature_c": one.bottle.temperature_c,
                "read_ph": one.bottle.read_ph,
                "ph25": f"{one.ph25:.2f}" if one.ph25 is not None else "",
                "here": one.row in (hand, weighing if hand is None else None),
                "probe": one.row == hand,
                "rinse": _rinse(place),
                "weighed": one.weighed,
                "decides": facts.decision is not None and facts.decision.row == one.row,
            }
        )
    return {
        "columns": columns,
        "bath": f"{facts.record.bath_c:.1f}" if known(facts.record.bath_c) else "",
        "gate": _gate(facts, school, now),
        "only_word": facts.only_word,
        "only_band": f"{school.only_ph[0]:.2f} to {school.only_ph[1]:.2f}",
        "decided": rule_words(facts, school) if facts.points else "",
        "watered": facts.record.water_in_at is not None,
    }
