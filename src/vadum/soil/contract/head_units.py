"""The unit that the head of a pasted column names, and how its figures become those of the field they go into.

Loggers and spreadsheets write "Time (min)", "Force [kN]", "disp, in", "mm x 10", "div". Pint does the arithmetic; a
unit that is not known, or measures something else than the field does, is asked about and never guessed.
"""

import re
from decimal import Decimal
from functools import cache
from typing import Any, NamedTuple

# Written forms that Pint does not read as a laboratory means them.
_WRITTEN = {
    "sec": "s",
    "secs": "s",
    "seconds": "s",
    "mins": "min",
    "minutes": "min",
    "hr": "h",
    "hrs": "h",
    "hours": "h",
    "µm": "micrometer",
    "um": "micrometer",
    "kgf": "kilogram_force",
    "lbf": "force_pound",
    "lbs": "pound",
    "psi": "psi",
    "psf": "force_pound / foot**2",
    "ksf": "1000 * force_pound / foot**2",
    "tsf": "2000 * force_pound / foot**2",
    "in": "inch",
    "cc": "cm**3",
    "ml": "mL",
    "n": "N",
    "kn": "kN",
    "pa": "Pa",
    "kpa": "kPa",
    "mpa": "MPa",
    "g/cm3": "g / cm**3",
    "g/cc": "g / cm**3",
    "mg/m3": "megagram / m**3",
    "t/m3": "megagram / m**3",
    "kg/m3": "kg / m**3",
    "kn/m3": "kN / m**3",
    "kn/m2": "kN / m**2",
    "n/mm2": "N / mm**2",
    "mn/m2": "MN / m**2",
    "cm3": "cm**3",
    "cm2": "cm**2",
    "mm2": "mm**2",
    "m3": "m**3",
    "n m": "N * m",
    "nm": "N * m",
    "n·m": "N * m",
    "knm": "kN * m",
    "%": "percent",
    "c": "degC",
    "°c": "degC",
    "degc": "degC",
    "deg c": "degC",
    "f": "degF",
    "°f": "degF",
    "degf": "degF",
    "deg f": "degF",
    "k": "K",
    "°": "degree",
    "deg": "degree",
    "div": "div",
    "divs": "div",
    "divisions": "div",
}
# The units of fields as Pint knows them, where they are not their own name.
_FIELDS = {
    "Mg/m³": "megagram / m**3",
    "kN/m³": "kN / m**3",
    "kN/m²": "kN / m**2",
    "MN/m²": "MN / m**2",
    "MN/m³": "MN / m**3",
    "kg/m²": "kg / m**2",
    "cm³": "cm**3",
    "cm²": "cm**2",
    "mm²": "mm**2",
    "N·m": "N * m",
    "°C": "degC",
    "°": "degree",
    "%": "percent",
}
_BRACKETED = re.compile(r"[(\[]\s*([^)\]]+?)\s*[)\]]\s*$")
_AFTER_COMMA = re.compile(r",\s*([^,]+?)\s*$")
_TIMES = re.compile(
    r"^(?P<unit>.+?)\s*[x×*]\s*(?P<by>10\s*\^?\s*-?\d+|\d+(?:[.,]\d+)?)$|^(?P<by0>[\d.,]+)\s*(?P<unit0>[a-zµ°%].*)$"
)


_TIMES_AT_END = re.compile(r"(\S+\s*[x×*]\s*10(?:\s*\^?\s*-?\d+)?)\s*$")
_BARE = frozenset(
    {
        *_WRITTEN,
        "mm",
        "cm",
        "m",
        "ft",
        "s",
        "min",
        "h",
        "d",
        "days",
        "g",
        "kg",
        "lb",
        "bar",
        "mbar",
        "hpa",
        "cm³",
        "cm²",
    }
) - {"c", "f", "k", "n", "in"}  # letters that number a column, and a word


class Conversion(NamedTuple):
    """How a column's figures become the field's: `value * factor + offset`.

    `unit` is how the head writes it; empty where it names none. `asks` says what has to be asked; empty where nothing
    has to be.
    """

    unit: str
    factor: Decimal = Decimal(1)
    offset: Decimal = Decimal(0)
    asks: str = ""

    @property
    def changes(self) -> bool:
        """Whether figures are other ones afterwards."""
        return self.factor != 1 or self.offset != 0

    def of(self, cell: str) -> str:
        """A cell's figure in the field's unit, with the digits that it had; what is no figure stays as it is."""
        if not self.changes:
            return cell
        text = cell.strip().replace("\u2212", "-").replace(",", ".")
        try:
            figure = Decimal(text)
        except ArithmeticError:
            return cell
        # No more digits than the figure had, and the few that a conversion adds.
        decimals = max(0, -int(figure.as_tuple().exponent)) + 4 if figure.is_finite() else 0
        made = round(figure * self.factor + self.offset, decimals)
        return format(made.normalize() if made else Decimal(0), "f")


@cache
def _registry() -> Any:
    # Pint is read in where it is used: a third of a second that no page should wait for.
    import pint

    registry: Any = pint.UnitRegistry()
    registry.define("div = [division]")
    return registry


def _written(head: str, known: str) -> str:
    """The unit as a head writes it: in brackets, after a comma, or as the whole head or its last word."""
    for pattern in (_BRACKETED, _AFTER_COMMA):
        match = pattern.search(head)
        if match:
            return match[1]
    # Without brackets a word counts as a unit only where it measures the same: "min" over percent is no time.
    # Any word is some unit to a unit's parser ("mass" a milliarcsecond, "point" a printer's): only those that
    # laboratories write without brackets count.
    words = head.split()
    times = _TIMES_AT_END.search(head)
    whole = head.strip() if re.match(r"[\d.,]+\s*\D", head.strip()) else ""  # "0.01 mm": a division
    for bare in (whole, times[1] if times else "", words[-1] if words else ""):
        unit, _ = _multiplier(bare)
        if unit.lower() == known.lower():
            return bare
        if unit.lower() in _BARE and _line(_pint_name(unit), _pint_name(known)) is not None:
            return bare
    return ""


def _line(there: str, here: str) -> tuple[Decimal, Decimal] | None:
    """Factor and offset from one unit to another; None where they measure different things or are not known."""
    if not there or not here:
        return None
    quantity = _registry().Quantity
    try:
        zero, one = (Decimal(str(round(quantity(v, there).to(here).magnitude, 12))) for v in (0.0, 1.0))
    except Exception:  # another dimension
        return None
    return one - zero, zero


def _pint_name(unit: str) -> str:
    """The unit as Pint knows it; empty where it does not."""
    plain = unit.strip().replace("²", "2").replace("³", "3")
    if plain.lower() in _WRITTEN:
        return _WRITTEN[plain.lower()]
    if unit in _FIELDS:
        return _FIELDS[unit]
    if not re.fullmatch(r"[A-Za-zµ°%][A-Za-z0-9µ°%/* .^-]{0,20}", plain):
        return ""
    try:
        _registry().Unit(plain)
    except Exception:  # Pint raises what its parser meets, of many kinds: to us it is a unit that is not known
        return ""
    return plain


def _multiplier(written: str) -> tuple[str, Decimal]:
    match = _TIMES.match(written.strip())
    if not match:
        return written, Decimal(1)
    unit, by = match["unit"] or match["unit0"], match["by"] or match["by0"]
    power = re.fullmatch(r"10\s*\^?\s*(-?\d+)", by)
    if power and power[1] and by.strip() != "10":
        return unit, Decimal(10) ** int(power[1])
    return unit, Decimal(by.replace(",", "."))


def conversion(head: str, unit: str) -> Conversion:
    """How the figures under a head become those of a field in `unit`.

    >>> conversion("Force (kN)", "N").of("1.25"), conversion("Time (min)", "s").of("2.5")
    ('1250', '150')
    >>> conversion("mm x 10", "mm").of("1.5"), conversion("Time (kg)", "s").asks
    ('15', 'kg is no measure of s')
    """
    if not unit:
        return Conversion("")
    written = _written(head, unit)
    if not written:
        return Conversion("", asks=f"no unit given: is it {unit}?")
    bare, times = _multiplier(written)
    if bare.strip().lower() == unit.lower():
        return Conversion(written, times)
    there, here = _pint_name(bare), _pint_name(unit)
    if not there:
        return Conversion(written, asks=f"unit {bare} not recognised: is it {unit}?")
    if not here:
        return Conversion(written, asks=f"{bare} cannot be converted to {unit}")
    line = _line(there, here)
    if line is None:
        return Conversion(written, asks=f"{bare} is no measure of {unit}")
    factor, offset = line
    return Conversion(written, factor * times, offset)
