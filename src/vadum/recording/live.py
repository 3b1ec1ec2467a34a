"""What is shown of an instrument while it is heard: whether it is there, its figures, and the pace of a travel."""

from typing import Any

from vadum.instruments.station import Station
from vadum.instruments.transport import Heard, State
from vadum.soil.contract.called import Called, Pace

PACE_OVER_S, LEAST_S = 6.0, 1.0  # of the instrument's own time
STANDS_MM_MIN = 0.02
DIGITS = {"penetration": 3, "travel": 3, "force": 3, "mass": 2, "load": 2} | {f"gauge_{g}": 2 for g in "abcd"}
ALLOWED_BAND = 0.28  # share of the guide, as the call panel draws it


def is_simulated(station: Station) -> bool:
    """Whether it is one of the program's own: its readings are marked, and never signed for."""
    return station.address.startswith("simulated://")


def line_status(station: Station, state: State, why: str, takes: bool, samples: bool = False) -> dict[str, Any]:
    """What a desk says of the line, whether the instrument takes the readings, and whether it samples vessels."""
    return {
        "instrument": station.code,
        "kind": station.profile.kind,
        "title": station.profile.title,
        "state": state,
        "why": why,
        "simulated": is_simulated(station),
        "takes": takes,
        "samples": samples,
        "commands": sorted(station.profile.commands),
    }


def guide(pace: Pace, rate: float) -> dict[str, Any]:
    """A rate as the guide shows it; its stone stands from 0, slow, to 1, fast, the allowed band in the middle."""
    half = (pace.high - pace.low) / 2
    place = 0.5 + ALLOWED_BAND / 2 * (rate - pace.low - half) / half if half > 0 else 0.5
    return {"word": pace.word(rate), "rate": f"{rate:.2f}", "place": min(max(place, 0.0), 1.0)}


def live_figures(station: Station, heard: Heard, zero_mm: float, called: Called | None) -> dict[str, Any]:
    """One sample with units, its travel from its zero, and the pace of what is called by a travel."""
    travels = called.travel_channels if called else ("penetration", "travel")
    shown: dict[str, Any] = {"seq": heard.seq, "values": {}}
    for name, value in heard.values.items():
        value -= zero_mm if name in travels else 0.0
        shown["values"][name] = [f"{value:.{DIGITS.get(name, 1)}f}", station.profile.channels[name].unit]
    rate = _rate_mm_min(station, heard, travels) if called is not None else None
    if called is not None and called.pace is not None and rate is not None and rate > STANDS_MM_MIN:
        shown["pace"] = guide(called.pace, rate)
    return shown


def _rate_mm_min(station: Station, heard: Heard, travels: tuple[str, ...]) -> float | None:
    name = next((n for n in travels if n in heard.values), None)
    if name is None:
        return None
    near = [
        h
        for h in (*list(station.newest)[-200:], heard)
        if name in h.values and heard.seconds - h.seconds <= PACE_OVER_S
    ]
    seconds = near[-1].seconds - near[0].seconds
    return 60 * (near[-1].values[name] - near[0].values[name]) / seconds if seconds > LEAST_S else None
