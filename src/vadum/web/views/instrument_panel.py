"""What a desk shows of an instrument: whether it is heard, its figures, and the pace of a plunger."""

from typing import Any

from vadum.instruments.station import Station
from vadum.instruments.transport import Heard, State
from vadum.soil.shared.bearing.calls import Timed, pace_of, rate_mm_min
from vadum.soil.shared.bearing.school import BearingSchool
from vadum.web.views.call_panel import guide

PACE_OVER_S, LEAST_S = 6.0, 1.0  # of the instrument's own time
STANDS_MM_MIN = 0.02
DIGITS = {"penetration": 3, "force": 3, "mass": 2}


def is_simulated(station: Station) -> bool:
    """Whether it is one of the program's own: its readings are marked, and never signed for."""
    return station.address.startswith("simulated://")


def line_status(station: Station, state: State, why: str, takes: bool) -> dict[str, Any]:
    """What a desk says of the line, and whether the instrument takes the readings."""
    return {
        "instrument": station.code,
        "kind": station.profile.kind,
        "title": station.profile.title,
        "state": state,
        "why": why,
        "simulated": is_simulated(station),
        "takes": takes,
        "commands": sorted(station.profile.commands),
    }


def live_figures(station: Station, heard: Heard, zero_mm: float, school: BearingSchool | None) -> dict[str, Any]:
    """One sample with units, penetrations from their zero, and the pace when it is a frame's."""
    shown: dict[str, Any] = {"seq": heard.seq, "values": {}}
    for name, value in heard.values.items():
        value -= zero_mm if name == "penetration" else 0.0
        shown["values"][name] = [f"{value:.{DIGITS.get(name, 1)}f}", station.profile.channels[name].unit]
    rate = _rate_mm_min(station, heard) if school is not None and "penetration" in heard.values else None
    if school is not None and rate is not None and rate > STANDS_MM_MIN:
        shown["pace"] = guide(pace_of(rate, school))
    return shown


def _rate_mm_min(station: Station, heard: Heard) -> float | None:
    rows = [
        Timed(0, h.seconds, h.values["penetration"])
        for h in (*list(station.newest)[-200:], heard)
        if "penetration" in h.values and heard.seconds - h.seconds <= PACE_OVER_S
    ]
    return rate_mm_min(rows) if rows and rows[-1].seconds - rows[0].seconds > LEAST_S else None
