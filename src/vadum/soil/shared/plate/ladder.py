"""What the desk draws of a plate test: the load ladder with the rung in hand, its rest, its gauges; the plan before."""

import math
from collections.abc import Callable, Mapping
from datetime import datetime
from itertools import pairwise
from typing import Any, get_args

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.times import local, span
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate.advice import may_begin, rest_words, wanted
from vadum.soil.shared.plate.facts import PlateFacts
from vadum.soil.shared.plate.plan import distances, gives_kn
from vadum.soil.shared.plate.record import GAUGES, LETTERS, Cycle
from vadum.soil.shared.plate.rest import NEARLY, creep_mm, rests_at_min
from vadum.soil.shared.plate.rules import rest_limit
from vadum.soil.shared.plate.school import PlateSchool
from vadum.soil.shared.plate.steps import (
    HELD,
    Loaded,
    Target,
    gauge_places,
    gauges_in_use,
    held_by_time,
    hold_min,
    hold_of_min,
    tilt_mm_m,
    times_of,
)

MOST_AHEAD, MOST_DONE = 2, 6
PARTS = {"preload": "preload", "first": "", "down": "unloading", "again": "again"}
TREND = (240.0, 92.0)  # the trend's picture, wide and high
PLAN = (560.0, 210.0)
MARGIN_M = 0.3
ARROW = 22.0  # how long the arrow of a tilt is drawn at the most
STEEP_MM_M = 2.0


def _stress(f: PlateFacts, kpa: float) -> str:
    return f"{kpa / f.per_unit:.2f}" if f.per_unit >= 1000 else f"{kpa / f.per_unit:.0f}"


def _ahead(f: PlateFacts, target: Target, first: bool, about: Callable[[float], float | None]) -> dict[str, Any]:
    load = loads.load_for_kn(target.kpa, f.plate_mm2)
    figure, unit = wanted(f, target)
    sinks = about(target.kpa) if target.cycle == "first" and f.steps else None
    return {
        "stress": _stress(f, target.kpa),
        "load": f"{load:.1f}",
        "pump": figure if unit == "bar" else "",
        "about": "" if sinks is None else f"{sinks:.1f}",
        "part": PARTS[target.cycle],
        "next": first,
        "says": f"{figure} {unit}",
    }


def _done(f: PlateFacts, one: Loaded) -> dict[str, Any]:
    pump = one.step.pump_bar
    return {
        "row": one.row,
        "stress": "" if one.kpa is None else _stress(f, one.kpa),
        "load": "" if one.load_kn is None else f"{one.load_kn:.1f}",
        "pump": f"{pump:.1f}" if known(pump) else "",
        "settled": "zero"
        if one.cycle == "preload"
        else ""
        if one.settlement_mm is None
        else f"{one.settlement_mm:.2f}",
        "held": "" if one.held_min is None else span(one.held_min),
        "part": PARTS[one.cycle],
        "out": bool(one.step.excluded_because),
    }


def _trend(one: Loaded, s: PlateSchool) -> dict[str, Any] | None:
    """The rate from reading to reading against its limit, and when it will have fallen to it: places in the picture."""
    minutes, mm = one.timed
    limit = s.rest_mm_min
    if s.rest_by != "rate" or limit is None or len(minutes) < 2:
        return None
    pairs = [(t1, (b - a) / (t1 - t0)) for (t0, a), (t1, b) in pairwise(zip(minutes, mm, strict=True)) if t1 > t0]
    times, rates = [t for t, _ in pairs], [rate for _, rate in pairs]
    if not rates:
        return None
    creep = creep_mm(minutes, mm)
    rests = None if creep is None or creep <= 0 else max(rests_at_min(creep, limit), times[-1])
    wide, high = TREND
    end = max(times[-1], min(rests or 0.0, 3 * times[-1])) * 1.15
    top = max([*rates, 2.5 * limit])

    def x(t: float) -> float:
        return round(wide * t / end, 1)

    def y(rate: float) -> float:
        return round(high * (1 - max(0.0, min(rate, top)) / top), 1)

    ahead = []
    if creep is not None and rests is not None and rests > times[-1]:
        steps = [times[-1] + (min(rests, end) - times[-1]) * i / 8 for i in range(9)]
        ahead = [(x(t), y(creep / math.log(10) / t)) for t in steps]
    shown = list(zip(times, rates, strict=True))[-8:]
    every = next((w for w in (1, 2, 5, 10, 30, 60, 120, 300, 600) if end / w <= 7), 1440)
    return {
        "wide": wide,
        "high": high,
        "points": [(x(t), y(r), f"{r:.3f}") for t, r in shown],
        "ahead": ahead,
        "limit": y(limit),
        "limit_words": f"at rest below {rest_limit(s)}",
        "ticks": [(x(t), f"{t:g}") for t in (every * i for i in range(int(end / every) + 1))],
        "rest_x": None if rests is None or rests > end else x(rests),
        "rate": f"{rates[-1]:.3f}",
    }


def _tilt(f: PlateFacts, one: Loaded, many: int) -> dict[str, Any] | None:
    """The plate from above: where the gauges stand, and which way it dips."""
    if many < 2:
        return None
    last = one.last
    circle = f.record.gauge_circle_mm if known(f.record.gauge_circle_mm) else 0.85 * f.width_mm
    places = [
        (round(34 * x / (circle / 2), 1), round(-34 * y / (circle / 2), 1)) for x, y in gauge_places(many, circle)
    ]
    slope = tilt_mm_m(last.gauges, circle) if last else None
    spread = last.spread_mm if last else None
    mean = last.mean_mm if last else None
    size = 0.0 if slope is None else math.hypot(*slope)
    return {
        "places": [(LETTERS[i], *p) for i, p in enumerate(places)],
        "square": f.square,
        "arrow": None
        if slope is None or size < 1e-6
        else tuple(round(ARROW * min(1.0, size / STEEP_MM_M) * v / size, 1) for v in (slope[0], -slope[1])),
        "dips": "" if slope is None else f"{size:.1f} mm/m",
        "spread": "" if spread is None or not mean else f"{100 * spread / mean:.0f} %" if mean > 0.2 else "",
        "assumed": not known(f.record.gauge_circle_mm),
    }


def _in_hand(f: PlateFacts, s: PlateSchool, now: datetime) -> dict[str, Any] | None:
    one, rest = f.hand, f.rest
    if one is None or rest is None or one.kpa is None:
        return None
    many = gauges_in_use(f.record)
    pump = one.step.pump_bar
    began = one.step.loaded_at
    shown = [r for r in one.readings if r.mean_mm is not None][-2:]
    least = hold_min(one, s)
    pumped = known(pump)
    top = pump if pumped else one.load_kn
    return {
        "row": one.row,
        "stress": _stress(f, one.kpa),
        "load": "" if one.load_kn is None else f"{one.load_kn:.1f}",
        "pump": f"{pump:.1f}" if pumped else "",
        "least": "" if top is None else f"{top * (1 - s.most_fall_percent / 100):.1f} {'bar' if pumped else 'kN'}",
        "settled": "" if one.settlement_mm is None else f"{one.settlement_mm:.2f}",
        "moving": not rest.at_rest,
        "part": PARTS[one.cycle],
        "since": "" if began is None else f"{local(began, now):%H:%M:%S}",
        "since_ms": None if began is None else int(began.timestamp() * 1000),
        "least_s": round(60 * least),
        "rest": rest_words(f),
        "at_rest": rest.at_rest,
        "rate": "" if one.rate_mm_min is None else f"{one.rate_mm_min:.3f} mm/min",
        "trend": _trend(one, s),
        "readings": [
            {
                "at": ""
                if r.minutes is None
                else f"{r.minutes:.0f} min"
                if r.minutes >= 1
                else f"{60 * r.minutes:.0f} s",
                "gauges": ["" if g is None else f"{g:.2f}" for g in r.gauges],
                "mean": f"{r.mean_mm:.2f}",
            }
            for r in shown
        ],
        "letters": LETTERS[:many],
        "tilt": _tilt(f, one, many),
        "topped": len(one.step.top_ups),
        "words": rest_limit(s),
    }


def _panel(f: PlateFacts, s: PlateSchool) -> dict[str, Any] | None:
    """What the entry panel needs to go on by itself, also without a network: paths, letters, what to pump to next."""
    if f.over:
        return None
    one, rest, many = f.hand, f.rest, gauges_in_use(f.record)
    held = one is not None and rest is not None and not rest.at_rest
    reads = f.ladder.reads[0]
    coming = [
        {"says": " ".join(wanted(f, t)), "stress": _stress(f, t.kpa), "part": PARTS[t.cycle]} | _held(t.cycle, s)
        for t in f.ahead
    ]
    last = None if one is None else next((r for r in reversed(one.step.readings) if not r.missed), None)
    return {
        "step": -1 if one is None else one.row,
        "steps": len(f.steps),
        "holds": one is not None,
        "held": held,
        "beganMs": None if one is None or one.step.loaded_at is None else int(one.step.loaded_at.timestamp() * 1000),
        "byTime": one is not None and held_by_time(one.cycle, s),
        "leastS": 0 if one is None else round(60 * hold_min(one, s)),
        "timesS": [] if f.holding is None else [round(60 * t) for t in f.holding.at],
        "rest": _rest_limit(f, s),
        "marks": [] if one is None else [[60 * t, mm / f.lever] for t, mm in zip(*one.timed, strict=True)],
        "readings": 0 if one is None else len(one.step.readings),
        "gauges": [{"field": GAUGES[i], "letter": LETTERS[i], "was": _was(last, GAUGES[i])} for i in range(many)],
        "load": reads,
        "loadWords": "pump, bar" if reads == "pump_bar" else "load, kN",
        "unit": "bar" if reads == "pump_bar" else "kN",
        "from": "from_bar" if reads == "pump_bar" else "from_kn",
        "coming": coming,
        "stressUnit": f.unit,
        "stop": "stopped" if f.steps else "",
        "stops": _stops(f),
        "notes": list(f.holding.notes) if f.holding else [],
    }


def _held(cycle: Cycle, s: PlateSchool) -> dict[str, Any]:
    """How a step to come is held: by time alone or to rest, how long at the least, when its gauges are read."""
    return {
        "byTime": held_by_time(cycle, s),
        "leastS": round(60 * hold_of_min(cycle, s)),
        "timesS": [round(60 * t) for t in times_of(cycle, s)],
    }


def _rest_limit(f: PlateFacts, s: PlateSchool) -> dict[str, float] | None:
    """The rate at which a step has come to rest, as the gauges show it, mm/min, and the interval that it is taken over;
    None where a step ends otherwise."""
    if s.rest_by != "rate" or s.rest_mm_min is None:
        return None
    return {"mmMin": s.rest_mm_min / f.lever, "overS": 60 * NEARLY * s.rest_over_min, "share": HELD}


def _stops(f: PlateFacts) -> list[str]:
    field = type(f.record).model_fields["stopped"]
    return [a for inner in get_args(field.annotation) for a in get_args(inner)]


def _was(row: Any, field: str) -> str:
    value = None if row is None else getattr(row, field)
    return "" if value is None else f"{value:.2f}"


def _more(f: PlateFacts) -> str:
    """What comes behind the rungs that are drawn, in a few words."""
    left = list(f.ahead)[MOST_AHEAD:]
    if not left:
        return ""
    parts = []
    for cycle, words in (("first", "to"), ("down", "then down to"), ("again", "and up again to")):
        last = [t.kpa for t in left if t.cycle == cycle]
        if last:
            parts.append(f"{words} {_stress(f, last[-1])}")
    return f"{len(left)} more: {', '.join(parts)}"


def _path(f: PlateFacts) -> dict[str, Any]:
    """The whole test as one path: up, down, up again, with what is done of it."""
    top = max([f.plan.greatest_kn * 1e6 / f.plate_mm2, *(one.kpa or 0.0 for one in f.steps)])
    columns: dict[str, list[dict[str, Any]]] = {"first": [], "down": [], "again": []}
    marks = [(one.cycle, one.kpa or 0.0, True) for one in f.steps] + [(t.cycle, t.kpa, False) for t in f.ahead]
    for cycle, kpa, done in marks:
        column = "first" if cycle == "preload" else cycle
        columns[column].append({"y": round(100 * (1 - kpa / top), 1) if top else 100, "done": done})
    return {"columns": [(name, marks) for name, marks in columns.items() if marks]}


def _plan(f: PlateFacts, s: PlateSchool) -> dict[str, Any]:
    """The plan before the start, drawn to scale: plate, supports, datum legs, pit; what is short is marked."""
    its, record = f.plan, f.record
    gives = gives_kn(record)
    rows = distances(record, its)
    half = f.width_mm / 2000
    found: list[dict[str, Any]] = []
    for words, measured, want, unit, field in rows:
        per = 1000.0 if unit == "mm" else 1.0
        short = known(measured) and measured < want
        found.append(
            {
                "words": words,
                "field": field,
                "wanted": f"{want / per:.2f} m",
                "measured": "" if not known(measured) else f"{measured / per:.2f} m",
                "short": short,
                "at_m": None if not known(measured) else measured / per,
                "want_m": want / per,
            }
        )
    reach = max(
        [
            half + float(row["at_m"] or row["want_m"])
            if row["field"] == "supports_mm"
            else float(row["at_m"] or row["want_m"])
            for row in found
            if row["field"] != "pit_width_m"
        ]
        + [half + 1.0]
    )
    scale = (PLAN[0] / 2 - 20) / (reach + MARGIN_M)
    pit = next((row for row in found if row["field"] == "pit_width_m"), None)
    return {
        "wide": PLAN[0],
        "high": PLAN[1],
        "middle": (PLAN[0] / 2, PLAN[1] / 2),
        "plate": round(half * scale, 1),
        "square": f.square,
        "supports": [
            round((half + float(row[key])) * scale, 1) if row[key] is not None else None
            for row in found
            if row["field"] == "supports_mm"
            for key in ("want_m", "at_m")
        ],
        "datum": [
            round(float(row[key]) * scale, 1) if row[key] is not None else None
            for row in found
            if row["field"] == "datum_legs_mm"
            for key in ("want_m", "at_m")
        ],
        "pit": None if pit is None else round(float(pit["at_m"] or pit["want_m"]) / 2 * scale, 1),
        "metre": round(scale, 1),
        "distances": found,
        "gives": "" if gives is None else f"{gives:.1f} kN",
        "wants": f"{its.reaction_kn:.1f} kN",
        "greatest": f"{its.greatest_kn:.1f} kN",
        "share": 0.0 if gives is None else min(1.0, gives / its.reaction_kn / 1.6),
        "enough": gives is not None and gives >= its.reaction_kn,
        "kentledge": f"{plain(its.kentledge_kg / 1000, 3)} t",
        "hours": span(its.minutes),
        "holds": f"{len(its.targets)} steps, {rest_limit(s)}",
        "grain": f"{its.grain_mm:.0f} mm",
        "zone_m": f"{reach + 1:.1f}",
    }


def ladder_board(
    f: PlateFacts, s: PlateSchool, now: datetime, about: Callable[[float], float | None]
) -> Mapping[str, Any]:
    """The ladder of a plate test.

    Parameters: `about(kpa)` the settlement in mm that is foreseen at a stress in kPa, None where nothing is.
    """
    hand = f.hand
    done = [one for one in f.steps if hand is None or one.row < hand.row]
    ahead = list(f.ahead)[:MOST_AHEAD]
    begins = bool(f.steps) or (may_begin(f, s) and known(f.record.plate_width_mm))
    ends = f.rest is None or f.rest.at_rest
    return {
        "ladder": {
            "begun": begins,
            "above": [_ahead(f, t, i == 0 and ends, about) for i, t in enumerate(ahead)][::-1],
            "more": _more(f),
            "in_hand": None if f.over else _in_hand(f, s, now),
            "below": [_done(f, one) for one in (f.steps if f.over else done)][::-1][: 30 if f.over else MOST_DONE],
            "unit": f.unit,
            "pumped": loads.reads_pump(f.record) and loads.piston_of(f.record) is not None,
            "climb": _path(f),
            "plan": _plan(f, s),
            "over": f.over,
            "next_words": f.next_words,
        },
        "panel": _panel(f, s) if begins else None,
    }
