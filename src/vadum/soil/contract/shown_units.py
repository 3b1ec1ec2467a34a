"""Units as a person or a sheet shows them: what is stored and worked out stays in SI, only what is read is converted.

Pint does the arithmetic. A rounded result is converted from its full figure, and rounded again to the
power of ten below the step it had: less would lose what was measured.
"""

import math
import re
from functools import cache
from typing import Any, Literal, NamedTuple

System = Literal["SI", "US"]
Stress = Literal["psf", "psi", "tsf"]
Dates = Literal["12 May 2026", "2026-05-12", "05/12/2026", "12.05.2026"]
STRFTIME: dict[str, str] = {
    "12 May 2026": "%d %b %Y",
    "2026-05-12": "%Y-%m-%d",
    "05/12/2026": "%m/%d/%Y",
    "12.05.2026": "%d.%m.%Y",
}


class Style(NamedTuple):
    """How figures and days are shown: the system of units, the stress in it, the decimal sign, a day."""

    units: System = "SI"
    stress: Stress = "psf"
    decimal: Literal[".", ","] = "."
    dates: str = "12 May 2026"

    @property
    def day_format(self) -> str:
        """A day as strftime writes it."""
        return STRFTIME[self.dates]


SI = Style()


class Shown(NamedTuple):
    """A unit that is shown instead of another: its sign, both as Pint knows them, and how the other is written."""

    sign: str
    stored: str
    shown: str
    written: str

    def digits(self, decimals: int) -> int:
        """Decimals that keep what so many decimals of the stored unit held; below zero for tens and hundreds.

        >>> CUSTOMARY["mm"].digits(2), STRESSES["psf"].digits(0)
        (4, -1)
        """
        slope, _ = line_of(self)
        return -math.floor(math.log10(abs(10.0**-decimals * slope)) + 1e-9)


STRESSES = {
    "psf": Shown("psf", "kPa", "force_pound / foot**2", "kPa"),
    "psi": Shown("psi", "kPa", "psi", "kPa"),
    "tsf": Shown("tsf", "kPa", "2000 * force_pound / foot**2", "kPa"),
}
# Lengths of time, shares, angles and grams are the same on both sides of the ocean; a conductivity in cm/s is too.
CUSTOMARY: dict[str, Shown] = {
    "mm": Shown("in", "mm", "inch", "mm"),
    "cm": Shown("in", "cm", "inch", "cm"),
    "m": Shown("ft", "m", "foot", "m"),
    "kg": Shown("lb", "kg", "pound", "kg"),
    "N": Shown("lbf", "N", "force_pound", "N"),
    "kN": Shown("lbf", "kN", "force_pound", "kN"),
    "Mg/m³": Shown("pcf", "Mg/m**3", "pound / foot**3", "Mg/m³"),
    "kN/m³": Shown("pcf", "kN/m**3", "force_pound / foot**3", "kN/m³"),
    "MPa": Shown("psi", "MPa", "psi", "MPa"),
    "MN/m²": Shown("psi", "MPa", "psi", "MN/m²"),
    "MN/m³": Shown("pci", "MN/m**3", "force_pound / inch**3", "MN/m³"),
    "mm/h": Shown("in/h", "mm/hour", "inch / hour", "mm/h"),
    "mm/min": Shown("in/min", "mm/minute", "inch / minute", "mm/min"),
    "mm²": Shown("in²", "mm**2", "inch**2", "mm²"),
    "cm³": Shown("in³", "cm**3", "inch**3", "cm³"),
    "mm²/min": Shown("in²/min", "mm**2/minute", "inch**2/minute", "mm²/min"),
    "kPa/m": Shown("psf/ft", "kPa/m", "force_pound / foot**3", "kPa/m"),
    "1/cm": Shown("1/in", "1/cm", "1/inch", "1/cm"),
    "°C": Shown("°F", "degC", "degF", "°C"),
}


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry()


def unit_shown(unit: str, style: Style) -> Shown | None:
    """What a unit is shown as; None where it stays.

    >>> unit_shown("kPa", Style("US", "tsf")).sign, unit_shown("kPa", SI), unit_shown("%", Style("US"))
    ('tsf', None, None)
    """
    if style.units != "US":
        return None
    return STRESSES[style.stress] if unit == "kPa" else CUSTOMARY.get(unit)


def line_of(unit: Shown) -> tuple[float, float]:
    """Slope and start of the straight line from the stored figure to the one that is shown."""
    return _line(unit.stored, unit.shown)


@cache
def _line(stored: str, shown: str) -> tuple[float, float]:
    registry = _registry()
    scale = 1.0
    if "*" in shown and shown.split(" * ")[0].isdigit():
        first, _, shown = shown.partition(" * ")
        scale = float(first)
    at0, at1 = (float(registry.Quantity(x, stored).to(shown).magnitude) / scale for x in (0.0, 1.0))
    return at1 - at0, at0


def converted(value: float, unit: Shown) -> float:
    """A figure in the unit that is shown.

    Parameters: `value` in the unit it is stored in; `unit`, the stored unit and the one that is shown.
    Returns: the figure in the unit that is shown.
    Source: the definitions of the units in Pint's registry.

    >>> round(converted(100.0, STRESSES["psf"]), 2), round(converted(95.76, STRESSES["tsf"]), 3)
    (2088.54, 1.0)
    >>> round(converted(1.0, CUSTOMARY["Mg/m³"]), 3), round(converted(20.0, CUSTOMARY["°C"]), 1)
    (62.428, 68.0)
    """
    slope, start = line_of(unit)
    return slope * value + start


_FIGURE = re.compile(r"^(?P<before>[<>≤≥#± ]*|about )(?P<number>-?\d+(?:\.\d+)?)(?P<after>[ #]*)$")


def reported_as(reported: str, value: float | None, unit: Shown) -> str | None:
    """A rounded figure in another unit, rounded anew; None where its text is no figure.

    >>> reported_as("1.95", 1.9523, CUSTOMARY["Mg/m³"]), reported_as("250", 250.0, STRESSES["psf"])
    ('121.9', '5220')
    >>> reported_as("> 12", None, CUSTOMARY["mm"]), reported_as("NP", None, CUSTOMARY["mm"])
    ('> 0.47', None)
    """
    found = _FIGURE.match(reported)
    if not found:
        return None
    number = found["number"]
    digits = unit.digits(len(number.partition(".")[2]))
    exact = float(number) if value is None or found["before"].strip() else value
    figure = round(converted(exact, unit), digits)
    return f"{found['before']}{figure:.{max(digits, 0)}f}{found['after']}"


_GRAIN = re.compile(r"d\d+_mm")


def for_result(key: str, style: Style) -> Style:
    """The style of one result: sieves and grain sizes are named in millimetres in both systems.

    >>> for_result("d60_mm", Style("US")).units, for_result("settlement_mm", Style("US")).units
    ('SI', 'US')
    """
    return style._replace(units="SI") if _GRAIN.fullmatch(key) else style


def worth(reported: str, value: float | None, unit: str, style: Style, key: str = "") -> tuple[str, str]:
    """A figure as it is reported, and its unit's sign, in the units of a style; words stay, and so does their unit.

    `key`: the result's, where it is one that keeps its unit in every style.

    >>> worth("119", 119.2, "kPa", Style("US", "psi")), worth("119", 119.2, "kPa", SI)
    (('17.3', 'psi'), ('119', 'kPa'))
    """
    other = unit_shown(unit, for_result(key, style))
    told = reported_as(reported, value, other) if other else None
    return (reported, unit) if other is None or told is None else (told, other.sign)


def spread_as(value: float, unit: str, style: Style, key: str = "", spec: str = "%.2g") -> str:
    """A difference or a scatter in the units of a style, by a printf `spec`: where a scale has its zero moves neither.

    >>> spread_as(10.0, "°C", Style("US")), spread_as(-4.0, "kPa", Style("US", "psi"), spec="%+.2g")
    ('18', '-0.58')
    """
    other = unit_shown(unit, for_result(key, style))
    return spec % (value * line_of(other)[0] if other else value)


_SIGNS = "|".join(re.escape(sign) for sign in sorted([*CUSTOMARY, "kPa"], key=len, reverse=True))
_MEASURE = re.compile(rf"(?<![\w.,])(?P<number>-?\d+(?:\.\d+)?) (?P<unit>{_SIGNS})(?![\w/²³·])")
_BARE = re.compile(r"(?<![\w.])\d+(?:\.\d+)?(?! ?(?:%|°|g\b|min\b|h\b|s\b|d\b|days?\b))(?![\w.])")


def text_in_units(text: str, style: Style) -> str:
    """A short text with its measures in the units of a style; whole, or as it stands where a figure in it bears no
    unit of its own and could not be told from a count.

    >>> text_in_units("q_u 119 kPa at 4.2 %", Style("US", "psi")), text_in_units("from 10 to 20 mm", Style("US"))
    ('q_u 17.3 psi at 4.2 %', 'from 10 to 20 mm')
    """
    if style.units == "SI" or _BARE.search(_MEASURE.sub("", text)):
        return text

    def other(found: re.Match[str]) -> str:
        unit = unit_shown(found["unit"], style)
        figure = reported_as(found["number"], None, unit) if unit else None
        return f"{figure} {unit.sign}" if unit and figure else found[0]

    return _MEASURE.sub(other, text)


_NUMBER = re.compile(r"(?<![\w.,/:-])([-+]?\d+)\.(\d+)(?![\w]*\.\d)(?!\w)")
_STANDARD = re.compile(r"\b(?:ISO|ASTM|DIN|EN|BS|AASHTO|CEN|TP|USBR|NF|SN|ÖNORM)\b")


def in_decimals(text: str, sign: str) -> str:
    """A text with its decimal figures written with the sign; times, dates, codes and standards stay.

    >>> in_decimals("41.2 > 38.9 g at 10.21.18 of LL-01.2", ","), in_decimals("ASTM D4318, 7.1", ",")
    ('41,2 > 38,9 g at 10.21.18 of LL-01.2', 'ASTM D4318, 7.1')
    """
    if sign == "." or _STANDARD.search(text):
        return text
    return _NUMBER.sub(rf"\1{sign}\2", text)
