"""Pressures and suctions in the units that gauges and tables use, and what they are in kPa and in cm of water."""

from typing import Literal

Unit = Literal["kPa", "hPa", "mbar", "bar", "MPa", "cm of water", "m of water", "mm of mercury", "psi", "pF"]
# kPa for one of each; the water is the conventional one, 1 cm = 98.0665 Pa, mercury that of 0 °C
KPA = {
    "kPa": 1.0,
    "hPa": 0.1,
    "mbar": 0.1,
    "bar": 100.0,
    "MPa": 1000.0,
    "cm of water": 0.0980665,
    "m of water": 9.80665,
    "mm of mercury": 0.133322387,
    "psi": 6.894757293,
}
KPA_PER_CM = KPA["cm of water"]


def in_kpa(value: float, unit: str) -> float:
    """A pressure in kPa.

    Parameters: the figure and its unit, one of `KPA` or `pF` (the logarithm of cm of water).
    Returns: kPa.
    Source: the definitions of the units.
    Raises: KeyError for a unit that is none of them.

    >>> round(in_kpa(1, "bar") / KPA_PER_CM, 1), round(in_kpa(1, "bar") / KPA["mm of mercury"], 2)
    (1019.7, 750.06)
    >>> round(in_kpa(1, "hPa") / KPA_PER_CM, 4), round(in_kpa(4.2, "pF"))
    (1.0197, 1554)
    """
    if unit == "pF":
        return float(10.0**value) * KPA_PER_CM
    return value * KPA[unit]


def in_cm(kpa: float) -> float:
    """A pressure as a column of water.

    Parameters: kPa.
    Returns: cm of water.
    Source: the conventional water, 1 cm = 98.0665 Pa.

    >>> round(in_cm(0.5), 6)
    5.098581
    """
    return kpa / KPA_PER_CM
