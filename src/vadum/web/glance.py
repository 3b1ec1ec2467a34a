"""A glance at an instrument that no run listens to: its figure for a round that goes through many runs."""

import time
from typing import Any

from sqlmodel import Session

from vadum.instruments.address import allowed_address
from vadum.instruments.profile import profile
from vadum.recording.live import is_simulated, live_figures
from vadum.soil.contract.errors import FieldError
from vadum.tape import kit
from vadum.web.context import Shop

PATIENCE_S = 2.0
LOOK_S = 0.05
HOLDER = "glance"


def weighs(session: Session, code: str) -> bool:
    """Whether a registered instrument shows a mass."""
    try:
        _, profile_name = kit.instrument(session, code)
        return any(channel.unit == "g" for channel in profile(profile_name).channels.values())
    except FieldError:
        return False


def figure(its: Shop, session: Session, code: str) -> dict[str, Any]:
    """What it shows now, each figure with its unit; raises FieldError for one that is not registered or is silent.

    The line stays open for the next glance, as long as somebody looks.
    """
    address, profile_name = kit.instrument(session, code)
    allowed_address(address, its.settings.instrument_hosts)
    station = its.stations.open(code, address, profile_name, HOLDER)
    asked = time.monotonic()
    its.glances[code] = asked
    while not station.newest or station.state != "connected":
        if time.monotonic() - asked > PATIENCE_S:
            raise FieldError("instrument", f"{code} says nothing: {station.why or 'no figure comes'}; type it")
        time.sleep(LOOK_S)
    shown = live_figures(station, station.newest[-1], 0.0, None)["values"]
    its.shown_at_a_glance[code] = {text for text, _ in shown.values()} | its.shown_at_a_glance.get(code, set())
    return {"instrument": code, "values": shown, "simulated": is_simulated(station)}


def source_of(its: Shop, code: str, value: Any) -> str:
    """The source of a figure that a glance brought: the instrument's when it showed it, else empty."""
    if str(value) not in its.shown_at_a_glance.get(code, set()):
        return ""
    station = its.stations.get(code)
    return f"{'simulated' if station is not None and is_simulated(station) else 'instrument'}: {code}"


def let_go(its: Shop, unseen_s: float = 60.0) -> None:
    """Close the lines that nobody has glanced at for a while and no run hears."""
    now = time.monotonic()
    for code, asked in list(its.glances.items()):
        if now - asked < unseen_s:
            continue
        its.glances.pop(code, None)
        its.shown_at_a_glance.pop(code, None)
        station = its.stations.get(code)
        if station is not None:
            its.stations.release(station, HOLDER)
