"""What the desk draws of a direct shear: the box in section, its hanger, the settlement, where each stage stands."""

import math
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Outcome
from vadum.soil.methods.direct_shear import box as boxes
from vadum.soil.methods.direct_shear.facts import Facts, Sheared, rate_for
from vadum.soil.methods.direct_shear.flow import settles, stage_words
from vadum.soil.methods.direct_shear.rules import may_stop, passed_mm, past_peak_words
from vadum.soil.methods.direct_shear.school import ShearSchool
from vadum.soil.shared.consolidation_picture import drawn

DISCS_KG = (50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 0.5, 0.2, 0.1)
MOST_DISCS = 8


def discs(hanger_kg: float) -> list[tuple[float, float]]:
    """The discs that make up a hanger's mass, heavy to light: kg of each, and its width as a share of the widest.

    Parameters: `hanger_kg` all that hangs, in kg.
    Returns: pairs, at most eight; the hanger itself is what they do not make up.
    Source: a drawing, no weighing.

    >>> [kg for kg, _ in discs(36.7)]
    [20.0, 10.0, 5.0, 1.0, 0.5, 0.2]
    """
    found: list[tuple[float, float]] = []
    left = hanger_kg + 1e-6
    for kg in DISCS_KG:
        while left >= kg and len(found) < MOST_DISCS:
            found.append((kg, 0.42 + 0.58 * min(1.0, math.sqrt(kg / 10))))
            left -= kg
    return found


def _hanger(facts: Facts, stage: Sheared | None) -> dict[str, Any]:
    """What hangs, the stress it makes, and what is still to be hung."""
    record = facts.record
    ratio = record.lever_ratio if known(record.lever_ratio) and record.lever_ratio > 0 else None
    hangs = stage.stage.hanger_kg if stage and known(stage.stage.hanger_kg) else None
    wanted = stage.stage.wanted_kpa if stage and known(stage.stage.wanted_kpa) else None
    more = ""
    if wanted is not None and ratio is not None:
        lacks = boxes.hanger_for_kg(wanted, boxes.direct_kg(record), ratio, facts.box.area_mm2) - (hangs or 0.0)
        # Within a twentieth of a kilogram, or half a percent, there is nothing left to hang.
        if abs(lacks) > max(0.05, 0.005 * (hangs or 0.0)):
            verb = f"hang {lacks:.2f} kg more" if lacks > 0 else f"take {-lacks:.2f} kg off"
            more = f"for {plain(wanted)} kPa {verb if hangs else verb.removesuffix(' more')}"
    return {
        "kpa": "" if stage is None or stage.normal_kpa is None else f"{stage.normal_kpa:.1f}",
        "kg": "" if hangs is None else f"{hangs:.2f}",
        "ratio": "" if ratio is None else f"{ratio:g}",
        "cap": "" if not known(record.cap_kg) else f"{boxes.direct_kg(record):.2f}",
        "area": f"{facts.box.area_mm2 / 100:.1f}",
        "more": more,
        "discs": discs(hangs) if hangs is not None else [],
    }


def _box(facts: Facts, stage: Sheared | None) -> dict[str, Any]:
    last = stage.points[-1] if stage and stage.points else None
    vertical = last.vertical_mm if last else None
    own = stage.stage if stage else None
    return {
        "out": own is not None and own.screws_out == "yes",
        "lifted": own is not None and own.zeroed == "yes",
        "flooded": own is not None and own.flooded == "yes",
        "filled": stage is not None and stage.state.mass_g is not None,
        "gap": "" if own is None or not known(own.gap_mm) else f"gap {plain(own.gap_mm)} mm",
        "travel_share": 0.0 if last is None else max(0.0, min(0.25, last.travel_mm / facts.box.width_mm)),
        "travel": "" if last is None else f"{last.travel_mm:.2f} mm",
        "force": "" if last is None else f"{last.force_n:.0f} N",
        "vertical": ""
        if vertical is None
        else f"{abs(vertical):.3f} mm {'down' if vertical > 0 else 'up' if vertical < 0 else ''}".strip(),
        "shape": "square" if facts.box.square else "round",
        "width": f"{facts.box.width_mm:g}",
    }


def _settling(facts: Facts, school: ShearSchool, stage: Sheared | None) -> dict[str, Any] | None:
    """The settlement of a stage by root and by logarithm of time, with what it gives."""
    if stage is None:
        return None
    settled = stage.settled
    rate = rate_for(settled, facts.record, school)
    return drawn(
        settled.readings,
        settled.root,
        settled.log,
        (settled.t50_min, settled.t90_min, settled.t100_min),
        what="Settlement",
        unit="mm",
        path=stage.path("t90_min"),
        by_hand=settled.by_hand,
        rate="" if rate is None else f"{plain(rate, 2)} mm/min",
    )


def _passed(stage: Sheared | None, school: ShearSchool) -> dict[str, Any] | None:
    """How far past its peak the stage is: the share of the peak now, and what may be done."""
    if stage is None or stage.over or stage.peak is None or not stage.points:
        return None
    words = past_peak_words(stage, school)
    if not words and stage.fell_percent < 1:
        return None
    past = passed_mm(stage, school) or 0.0
    return {
        "now": f"{100 - stage.fell_percent:.1f}",
        "share": max(0.0, min(1.0, stage.fell_percent / (2 * school.past_peak_percent))),
        "limit": f"{100 - school.past_peak_percent:g} %",
        "peak": f"{stage.peak.travel_mm:.2f} mm",
        "words": words,
        "may": may_stop(stage, school),
        "stop_mm": f"{stage.points[-1].travel_mm + max(0.0, school.past_peak_mm - past):.1f} mm",
    }


def board(facts: Facts, school: ShearSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The box as it stands, the hanger, the settlement and the stages."""
    stage = facts.in_hand if facts.hand is not None else (facts.stages[-1] if facts.stages else None)
    settling = stage is not None and not stage.points and settles(facts, school)
    return {
        "box": _box(facts, stage),
        "hanger": _hanger(facts, stage),
        "settled": _settling(facts, school, stage) if settling else None,
        "passed": _passed(stage, school),
        "stages": [
            {
                "n": st.row + 1,
                "normal": st.normal_kpa if st.normal_kpa is not None else st.stage.wanted_kpa,
                "words": stage_words(st),
                "here": facts.hand == st.row,
                "done": st.counts,
                "out": bool(st.stage.excluded_because),
                "because": st.stage.excluded_because,
                "row": st.row,
            }
            for st in facts.stages
        ],
        "wanted_stages": school.least_stages,
        "stage_in_hand": None if facts.hand is None else facts.hand + 1,
    }
