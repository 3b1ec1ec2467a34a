"""What the desk draws of a direct shear: the box in section, its hanger, the settlement, where each stage stands."""

import math
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.times import span
from vadum.soil.methods.direct_shear import box as boxes
from vadum.soil.methods.direct_shear.facts import Facts, Sheared, rate_for
from vadum.soil.methods.direct_shear.flow import settles, stage_words
from vadum.soil.methods.direct_shear.rules import may_stop, passed_mm, past_peak_words
from vadum.soil.methods.direct_shear.school import ShearSchool
from vadum.soil.shared.consolidation import Moved, RootTime

DISCS_KG = (50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 0.5, 0.2, 0.1)
MOST_DISCS = 8
WIDE, HIGH = 300.0, 120.0  # of the settlement's picture


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


def _line(read: tuple[Moved, ...], x_of: Any, most_x: float, most_y: float) -> str:
    return " ".join(f"{WIDE * x_of(r.minutes) / most_x:.1f},{HIGH * r.moved / most_y:.1f}" for r in read)


def _root(read: tuple[Moved, ...], root: RootTime | None, most_x: float, most_y: float) -> dict[str, Any]:
    """The construction by the root of time, in the picture's own units."""
    if root is None:
        return {}
    x90 = math.sqrt(root.t90_min)
    foot = min(most_x, (most_y - root.start) / root.slope)
    return {
        "first": f"0,{HIGH * root.start / most_y:.1f} {WIDE * foot / most_x:.1f},"
        f"{HIGH * (root.start + root.slope * foot) / most_y:.1f}",
        "second": f"0,{HIGH * root.start / most_y:.1f} {WIDE * min(1.25 * x90, most_x) / most_x:.1f},"
        f"{HIGH * (root.start + root.slope / 1.15 * min(1.25 * x90, most_x)) / most_y:.1f}",
        "x": WIDE * x90 / most_x,
        "y": HIGH * root.at_90 / most_y,
        "end": HIGH * root.at_100 / most_y,
    }


def _settling(facts: Facts, school: ShearSchool, stage: Sheared | None) -> dict[str, Any] | None:
    """The settlement of a stage by root and by logarithm of time, with what it gives."""
    if stage is None or len(stage.settled.readings) < 2:
        return None
    read, root, log = stage.settled.readings, stage.settled.root, stage.settled.log
    most_y = 1.1 * max(max(r.moved for r in read), 1e-6)
    most_root = math.sqrt(max(r.minutes for r in read)) or 1.0
    timed = tuple(r for r in read if r.minutes > 0)
    low = math.log10(timed[0].minutes) if timed else 0.0
    wide = max(math.log10(timed[-1].minutes) - low, 1e-6) if timed else 1.0
    rate = rate_for(stage.settled, facts.record, school)
    said = [
        f"{word} {span(value)}"
        for word, value in (
            ("t50", stage.settled.t50_min),
            ("t90", stage.settled.t90_min),
            ("t100", stage.settled.t100_min),
        )
        if value is not None
    ]
    return {
        "root": _line(read, math.sqrt, most_root, most_y),
        "construction": _root(read, root, most_root, most_y),
        "log": _line(timed, lambda t: math.log10(t) - low, wide, most_y),
        "log_at": None
        if log is None
        else {
            "x": WIDE * (math.log10(log.t50_min) - low) / wide,
            "end": HIGH * log.at_100 / most_y,
            "words": f"t50 {span(log.t50_min)}",
        },
        "ticks": [(WIDE * n / most_root, f"{n * n}") for n in _nice_roots(most_root)],
        "decades": [
            (WIDE * (d - low) / wide, f"{10.0**d:g}") for d in range(math.ceil(low), math.floor(low + wide) + 1)
        ],
        "most": f"{most_y / 1.1:.3f}",
        "said": ", ".join(said),
        "by_hand": stage.settled.by_hand,
        "rate": "" if rate is None else f"{plain(rate, 2)} mm/min",
        "path": stage.path("t90_min"),
        "most_root": most_root,
    }


def _nice_roots(most: float) -> list[int]:
    step = max(1, round(most / 6))
    return list(range(0, int(most) + 1, step))


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
