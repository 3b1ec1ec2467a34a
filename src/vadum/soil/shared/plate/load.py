"""From pump pressure or load to the stress under a plate, and back to the pressure that a stress wants."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.shared.plate.record import PlateRecord, Step

KN_PER_BAR_CM2 = 0.01  # 1 bar is 0.1 N/mm², 1 cm² is 100 mm²: 10 N


def area_mm2(width_mm: float, square: bool) -> float:
    """Area under a plate.

    Parameters: `width_mm` its diameter or side in mm; `square` or round.
    Returns: mm².
    Source: geometry.

    >>> round(area_mm2(300, False)), area_mm2(300, True)
    (70686, 90000.0)
    """
    return width_mm * width_mm * (1.0 if square else math.pi / 4)


def perimeter_mm(width_mm: float, square: bool) -> float:
    """Perimeter of a plate.

    Parameters: its diameter or side in mm; square or round.
    Returns: mm.
    Source: geometry.

    >>> round(perimeter_mm(300, False)), perimeter_mm(300, True)
    (942, 1200.0)
    """
    return width_mm * (4.0 if square else math.pi)


def force_kn(pump_bar: float, piston_cm2: float) -> float:
    """The load that a pump pressure makes.

    Parameters: gauge pressure in bar, piston area in cm².
    Returns: kN. Source: `F = p A`, 1 bar = 0.1 MPa.

    >>> round(force_kn(99.0, 20.0), 2)
    19.8
    """
    return KN_PER_BAR_CM2 * pump_bar * piston_cm2


def stress_kpa(load_kn: float, plate_mm2: float) -> float:
    """Mean stress under a plate.

    Parameters: load in kN, area in mm².
    Returns: kPa.
    Source: `sigma = F / A`.

    >>> round(stress_kpa(35.34, 70685.83), 2)
    499.96
    """
    return 1e6 * load_kn / plate_mm2


def load_for_kn(kpa: float, plate_mm2: float) -> float:
    """The load that a stress wants under a plate.

    Parameters: stress in kPa, area in mm².
    Returns: kN.
    Source: `F = sigma A`.

    >>> round(load_for_kn(500, 70685.83), 2)
    35.34
    """
    return kpa * plate_mm2 / 1e6


def pump_for_bar(load_kn: float, piston_cm2: float) -> float:
    """The pump pressure that a load wants.

    Parameters: load in kN, piston area in cm², above 0.
    Returns: bar.
    Source: `p = F / A`, 1 bar = 0.1 MPa.

    >>> round(pump_for_bar(19.8, 20), 1)
    99.0
    """
    return load_kn / (KN_PER_BAR_CM2 * piston_cm2)


def piston_of(record: PlateRecord) -> float | None:
    """The piston's area, cm²; None while it is not known."""
    return record.piston_cm2 if known(record.piston_cm2) and record.piston_cm2 > 0 else None


def reads_pump(record: PlateRecord) -> bool:
    """Whether the load is read as a pump pressure."""
    return record.force_by != "load cell"


def load_of(step: Step, record: PlateRecord) -> float | None:
    """A step's load, kN: as the cell read it, else by pump pressure and piston; None while neither is known."""
    if known(step.force_kn):
        return float(step.force_kn)
    piston = piston_of(record)
    return None if piston is None or not known(step.pump_bar) else force_kn(step.pump_bar, piston)


def fell_percent(step: Step, record: PlateRecord) -> tuple[float, bool] | None:
    """How far a held load had fallen at the lowest, percent of its step, and whether it was topped up; None while
    nothing is known of it."""
    pairs = [(step.lowest_bar, step.pump_bar, False), (step.lowest_kn, step.force_kn, False)]
    pairs += [(up.from_bar, step.pump_bar, True) for up in step.top_ups]
    pairs += [(up.from_kn, step.force_kn, True) for up in step.top_ups]
    found = [(100 * (1 - low / top), up) for low, top, up in pairs if known(low) and known(top) and top > 0]
    lasting = [f for f in found if not f[1]]
    return max(lasting or found, default=None)
