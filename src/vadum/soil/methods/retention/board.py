"""What the desk draws of the rack: the lines with their pressures, the cells hanging on them, the day's masses."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.times import local
from vadum.soil.methods.retention.facts import Facts, filled_of
from vadum.soil.methods.retention.flow import verdict_on
from vadum.soil.methods.retention.school import RetentionSchool
from vadum.soil.shared.pressure_units import in_cm


def board(facts: Facts, school: RetentionSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The rack of cells."""
    counted = [o for o in facts.ones if o.counts]
    used = sorted({o.step for o in counted if not o.over and o.cell.saturated_g is not None}, reverse=True)
    lines = [
        {
            "step": k,
            "words": facts.pressures[k].words,
            "cm": f"{in_cm(facts.pressures[k].kpa) + facts.pressures[k].column_cm:.0f}",
        }
        for k in used
        if k < len(facts.pressures)
    ]
    nearest = next((o for o in counted if o.may_go_on and o.weighed and o.weighed[-1].weighing.then is None), None)
    columns = []
    for one in counted:
        last = one.weighed[-1] if one.weighed else None
        today = last is not None and last.at is not None and local(last.at, now).date() == now.date()
        path = f"cells[{one.row}]"
        columns.append(
            {
                "path": path,
                "name": one.name,
                "filled": filled_of(one),
                "step": one.step,
                "over": one.over,
                "today": today,
                "mass_path": f"{path}.weighings[{last.row}].mass_g" if last is not None else f"{path}.saturated_g",
                "mass": (last.mass_g if last is not None else one.cell.saturated_g),
                "change": f"{one.change_g:+.2f}" if one.change_g is not None else "",
                "word": "done" if one.over else verdict_on(one, school) if one.weighed else "",
                "settled": one.may_go_on or one.over,
                "here": nearest is one,
            }
        )
    if nearest is None:
        for column in columns:
            if not column["today"] and not column["over"]:
                column["here"] = True
                break
    return {
        "columns": columns,
        "lines": lines,
        "settles": f"{school.settled_g:g} g a day over {school.settled_days} days",
    }
