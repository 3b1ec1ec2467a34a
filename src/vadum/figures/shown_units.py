"""Pictures in the units of whoever looks: data stay as stored, axes and what is written beside them are converted."""

import math
import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from vadum.soil.contract.outcome import Cell
from vadum.soil.contract.shown_units import (
    SI,
    Shown,
    Style,
    in_decimals,
    line_of,
    reported_as,
    text_in_units,
    unit_shown,
)

AXES = ("x", "y")
# Sieves and grain sizes are named in millimetres in both systems; a title without a comma names its unit for good too,
# as that of a cone's bands does.
ALWAYS_METRIC = ("size_mm",)
Table = tuple[list[str], list[list[str]]]
_BLANK = re.compile(r"\{\} (?P<unit>[^\s,]+)")


def unit_of_title(title: object, style: Style) -> Shown | None:
    """What the unit in an axis' title is shown as; None where it stays.

    >>> unit_of_title("pressure, kPa, logarithmic", Style("US", "psi")).sign, unit_of_title("strain, %", Style("US"))
    ('psi', None)
    """
    if not isinstance(title, str):
        return None
    parts = (unit_shown(part.strip(), style) for part in title.split(",")[1:])
    return next((found for found in parts if found), None)


def title_in(title: str, unit: Shown) -> str:
    """A title with the sign of the unit that is shown in the place of the stored one."""
    words = [part.strip() for part in title.split(",")]
    return ", ".join([words[0], *(unit.sign if w == unit.written else w for w in words[1:])])


def table_in_style(heads: Sequence[tuple[str, str]], rows: Iterable[Mapping[str, Cell]], style: Style) -> Table:
    """The data behind a picture for those who do not see it: the titles, then the cells of each row as text."""
    units = [None if field in ALWAYS_METRIC else unit_of_title(title, style) for field, title in heads]
    shown = zip(heads, units, strict=True)
    titles = [title_in(title, unit) if unit else title for (_, title), unit in shown]

    def cell(field: str, unit: Shown | None, row: Mapping[str, Cell]) -> str:
        value = row.get(field)
        if isinstance(value, float):
            # Three figures of what is small: a clay's size is no 0.00 mm.
            digits = 2 if not value or not math.isfinite(value) else max(2, 2 - math.floor(math.log10(abs(value))))
            text = f"{value:.{digits}f}"
            text = (reported_as(text, value, unit) if unit else None) or text
        else:
            text = "" if value is None else text_in_units(str(value), style)
        return in_decimals(text, style.decimal)

    return titles, [[cell(field, u, row) for (field, _), u in zip(heads, units, strict=True)] for row in rows]


def axis_units(layers: Iterable[Mapping[str, Any]], style: Style) -> dict[str, Shown]:
    """The units of both axes of a picture that are shown as others; layers of one picture share their axes."""
    found: dict[str, Shown] = {}
    metric = set()
    for layer in layers:
        for axis in AXES:
            channel = layer["encoding"].get(axis, {})
            unit = unit_of_title(channel.get("title"), style)
            if unit:
                found[axis] = unit
            if channel.get("field") in ALWAYS_METRIC:
                metric.add(axis)
    return {axis: unit for axis, unit in found.items() if axis not in metric}


def layers_in_style(layers: list[dict[str, Any]], style: Style) -> list[dict[str, Any]]:
    """The layers with their axes in the units of a style: each drawn field is converted beside the stored one."""
    units = axis_units(layers, style)
    return [_layer(layer, units) for layer in layers] if units else layers


def _layer(layer: dict[str, Any], units: Mapping[str, Shown]) -> dict[str, Any]:
    encoding, made = dict(layer["encoding"]), {}
    for name, channel in layer["encoding"].items():
        unit = units.get(name.removesuffix("2"))
        if unit is None:
            continue
        slope, start = line_of(unit)
        channel = dict(channel)
        if "field" in channel:
            field = channel["field"]
            channel["field"] = f"{field} in {unit.sign}"
            worked = f"datum['{field}'] * {slope!r} + {start!r}"
            made[channel["field"]] = f"isValid(datum['{field}']) ? {worked} : null"
        if isinstance(channel.get("title"), str):
            channel["title"] = title_in(channel["title"], unit)
        if isinstance(channel.get("scale"), dict):
            channel["scale"] = _scale(channel["scale"], slope, start)
        if isinstance(channel.get("axis"), dict):
            # Ticks and digits that are round in one unit are not in another.
            channel["axis"] = {k: v for k, v in channel["axis"].items() if k not in ("values", "format")}
        encoding[name] = channel
    adds = [{"calculate": how, "as": field} for field, how in made.items()]
    return layer | {"encoding": encoding, "transform": [*layer.get("transform", []), *adds]}


def _scale(scale: Mapping[str, Any], slope: float, start: float) -> dict[str, Any]:
    def moved(end: Any) -> Any:
        if isinstance(end, dict) and "expr" in end:
            return {"expr": f"({end['expr']}) * {slope!r} + {start!r}"}
        return slope * end + start if isinstance(end, int | float) else end

    shown = dict(scale)
    for name in ("domainMin", "domainMax"):
        if name in shown:
            shown[name] = moved(shown[name])
    if isinstance(shown.get("domain"), list):
        shown["domain"] = [moved(end) for end in shown["domain"]]
    return shown


def rows_in_style(rows: Iterable[Mapping[str, Cell]], style: Style) -> list[dict[str, Any]]:
    """Rows of a series with what is written beside the marks in the units and signs of a style; their figures stay.

    A handle says what it reads while it is drawn: its `words` have a blank, filled with `slope` times the stored figure
    and `start`, to so many `digits`.
    """
    return [_row(dict(row), style) for row in rows]


def number_locale(style: Style) -> dict[str, Any]:
    """What the drawing library is told of how figures are written; nothing where it writes them so by itself."""
    if style.decimal == ".":
        return {}
    return {"locale": {"number": {"decimal": style.decimal, "thousands": " ", "grouping": [3], "currency": ["", ""]}}}


def _row(row: dict[str, Any], style: Style) -> dict[str, Any]:
    if style == SI:
        return row
    for name, text in row.items():
        if isinstance(text, str) and name != "path":
            row[name] = in_decimals(text_in_units(text, style), style.decimal)
    if "words" in row and style.decimal != ".":
        row["decimal"] = style.decimal
    blank = _BLANK.search(words) if isinstance(words := row.get("words"), str) else None
    unit = unit_shown(blank["unit"], style) if blank else None
    if blank and unit:
        row["words"] = row["words"].replace(blank[0], f"{{}} {unit.sign}")
        row["slope"], row["start"] = line_of(unit)
        row["digits"] = unit.digits(row.get("digits", 2))
    return row
