"""The one look of all pictures, and what a figure is."""

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from vadum.figures.shown_units import Table, axis_units, layers_in_style, number_locale, rows_in_style, table_in_style
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.shown_units import SI, Style, line_of

INK, INK2, LINE = "#1d2a2c", "#55646a", "#e3ddcd"
WATER, WATER2, WATER3 = "#1b6670", "#a9cdd0", "#e2efee"
CLAY, CLAY2, PAPER = "#b24a1f", "#f4d9c8", "#fffdf7"
FONT = "IBM Plex Sans"

HALO = "#fbf9f2"  # between the screen's ground and white paper

CONFIG: dict[str, Any] = {
    "font": FONT,
    "background": None,
    "view": {"stroke": None},
    "axis": {
        "labelColor": INK2,
        "labelFontSize": 12,
        "titleColor": INK2,
        "titleFontSize": 12,
        "titleFontWeight": "normal",
        "gridColor": LINE,
        "domainColor": "#b9b09a",
        "tickColor": "#b9b09a",
        "titlePadding": 6,
    },
    "text": {"fontSize": 12, "color": INK, "font": FONT},
    "rule": {"color": CLAY},
    "legend": {"disable": True},
}


@dataclass(frozen=True)
class Figure:
    """A picture of an outcome: its layers, drawn on the outcome's named series; `below` are drawn under it.

    `least` is how many rows its first series needs before it shows anything that the figure itself does not.
    """

    title: str
    layers: Callable[[Any], list[dict[str, Any]]]
    columns: Mapping[str, tuple[tuple[str, str], ...]]
    pick: str = ""
    height: int = 270
    below: "tuple[Figure, ...]" = ()
    least: int = 0

    def worth_drawing(self, outcome: Outcome) -> bool:
        """Whether there is more to see than a number: one lonely point is not drawn as a chart."""
        return not self.least or len(outcome.series.get(next(iter(self.columns)), ())) >= self.least

    def spec(self, school: Any, width: int | str = "container", style: Style = SI) -> dict[str, Any]:
        """The Vega-Lite specification for a school, its axes in the units of a style; data are injected by name."""
        layers = self.layers(school)
        return {
            "$schema": "https://vega.github.io/schema/vega-lite/v6.json",
            "description": self.title,
            "usermeta": self._asks_for() | _axes(layers, style),
            "width": width,
            "height": self.height,
            "autosize": {"type": "fit-x" if width == "container" else "fit", "contains": "padding"},
            "config": CONFIG | number_locale(style),
            "layer": layers_in_style(layers, style),
        }

    def _asks_for(self) -> dict[str, Any]:
        """What the picture waits for, told to the page that draws it."""
        if not self.least:
            return {}
        series, columns = next(iter(self.columns.items()))
        return {
            "series": series,
            "least": self.least,
            "words": f"The picture is drawn from the second {columns[0][1]} on.",
        }

    def shown_below(self, school: Any) -> "list[Figure]":
        """Those below it that have anything to draw by this school."""
        return [f for f in self.below if f.layers(school)]

    def specs(self, school: Any, style: Style = SI) -> list[dict[str, Any]]:
        """The specifications of the picture and of those below it, in their order."""
        return [f.spec(school, style=style) for f in (self, *self.shown_below(school))]

    def stacked(self, school: Any, width: int, style: Style = SI) -> dict[str, Any]:
        """One specification of the picture with those below it, of a width in pixels, for paper."""
        below = self.shown_below(school)
        if not below:
            return self.spec(school, width, style)
        parts = []
        for f in (self, *below):
            # A picture among others does not know its own sizes by name: they are written out.
            layers = json.dumps(layers_in_style(f.layers(school), style))
            layers = layers.replace("height / width", f"{f.height} / {width}")
            layers = layers.replace("width / height", f"{width} / {f.height}")
            parts.append({"width": width, "height": f.height, "layer": json.loads(layers)})
        head = {k: v for k, v in self.spec(school, width, style).items() if k in ("$schema", "description", "config")}
        return head | {"vconcat": parts, "spacing": 14}

    def tables(self, outcome: Outcome, style: Style = SI) -> list[Table]:
        """The data behind the picture as text, for those who do not see it: the titles and the rows of each series."""
        return [table_in_style(heads, outcome.series.get(name, ()), style) for name, heads in self.columns.items()]

    def data(self, outcome: Outcome, style: Style = SI) -> dict[str, list[dict[str, Any]]]:
        """The outcome's series, by the names the layers read; what is written in them in the units of a style."""
        return {name: rows_in_style(rows, style) for name, rows in outcome.series.items()}


def _axes(layers: list[dict[str, Any]], style: Style) -> dict[str, Any]:
    """How a stored figure becomes a place on an axis, told to the page that puts handles there; empty in SI."""
    axes = {axis: line_of(unit) for axis, unit in axis_units(layers, style).items()}
    return {"axes": axes} if axes else {}


def named(name: str) -> dict[str, Any]:
    """A reference to injected data."""
    return {"name": name}


def most_at_one_scale(*series: str, least: float) -> str:
    """What an axis of normal stress reaches, so that the axis of shear at the same scale holds the highest point too:
    an expression over the named series, of the picture's own width and height."""
    ends = [str(least)]
    for name in series:
        for field, scale in (("normal_kpa", ""), ("shear_kpa", " * width / height")):
            ends.append(f"(length(data('{name}')) ? 1.06 * extent(pluck(data('{name}'), '{field}'))[1]{scale} : 0)")
    return f"max({', '.join(ends)})"


def lettered(layer: dict[str, Any]) -> list[dict[str, Any]]:
    """A layer of text over a halo, so that lines behind it do not cross its letters."""
    halo = layer | {"mark": layer["mark"] | {"stroke": HALO, "strokeWidth": 4, "strokeJoin": "round"}}
    return [halo, layer]


def empty_axes(x: dict[str, Any], y: dict[str, Any], *corners: tuple[float, float]) -> dict[str, Any]:
    """A layer that shows nothing and gives a picture without data its axes: two corners of them."""
    values = [{x["field"]: a, y["field"]: b} for a, b in corners]
    return {"data": {"values": values}, "mark": {"type": "point", "opacity": 0}, "encoding": {"x": x, "y": y}}


def steady_band(x: dict[str, Any], y: dict[str, Any]) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """The band that counts as steady, of the series `bands` (from, to, low, high, label): what lies under the data, and
    the words over it."""
    under = {
        "data": named("bands"),
        "mark": {"type": "rect", "color": WATER3},
        "encoding": {
            "x": x | {"field": "from"},
            "x2": {"field": "to"},
            "y": y | {"field": "low"},
            "y2": {"field": "high"},
        },
    }
    words = {
        "data": named("bands"),
        "mark": {"type": "text", "align": "right", "dy": -12, "fontWeight": 600, "color": WATER},
        "encoding": {"x": x | {"field": "to"}, "y": y | {"field": "high"}, "text": {"field": "label"}},
    }
    return [under], lettered(words)


def svg(figure: Figure, school: Any, outcome: Outcome, width: int = 460, style: Style = SI) -> str:
    """The picture as SVG for paper. Slow the first time in a process (half a second), then about 45 ms."""
    import vl_convert

    _register_fonts()
    spec = figure.stacked(school, width, style) | {"datasets": figure.data(outcome, style)}
    drawn: str = vl_convert.vegalite_to_svg(json.dumps(spec), vl_version="6.4", allowed_base_urls=[])
    return drawn


_registered: list[str] = []


def _register_fonts() -> None:
    import vl_convert

    from vadum.figures.fonts import FONTS

    if not _registered:
        vl_convert.register_font_directory(str(FONTS))
        _registered.append(str(FONTS))


def stacked_bar(data: str, field: str, tones: Mapping[str, str]) -> list[dict[str, Any]]:
    """One bar of shares by volume, from 0 to 100 %, each named on it."""
    x = {
        "field": "from",
        "type": "quantitative",
        "title": "share of the volume, %",
        "scale": {"domain": [0, 100], "nice": False},
        "axis": {"values": [0, 20, 40, 60, 80, 100], "grid": False},
    }
    tone = {"field": field, "type": "nominal", "scale": {"domain": list(tones), "range": list(tones.values())}}
    return [
        {
            "data": named(data),
            "mark": {"type": "bar", "height": 64, "stroke": INK2, "strokeWidth": 1},
            "encoding": {"x": x, "x2": {"field": "to"}, "y": {"value": 54}, "color": tone},
        },
        {
            "data": named(data),
            "transform": [{"filter": "datum.to - datum.from >= 15"}],
            "mark": {"type": "text", "align": "left", "dx": 6, "fontSize": 13, "fontWeight": 600, "limit": 130},
            "encoding": {"x": x, "y": {"value": 54}, "text": {"field": "label"}},
        },
        {  # too narrow for its name: that stands above, and ends where the share does
            "data": named(data),
            "transform": [{"filter": "datum.to - datum.from < 15"}],
            "mark": {"type": "text", "align": "right", "fontSize": 13, "fontWeight": 600, "limit": 130},
            "encoding": {"x": x | {"field": "to"}, "y": {"value": 10}, "text": {"field": "label"}},
        },
    ]


def sinking(field: str, title: str) -> tuple[dict[str, Any], dict[str, Any]]:
    """Axes of a plate: the stress from left to right above, the settlement growing downwards."""
    x = {
        "field": field,
        "type": "quantitative",
        "title": title,
        "scale": {"zero": True, "nice": True},
        "axis": {"orient": "top", "tickCount": 6},
    }
    y = {
        "field": "settlement_mm",
        "type": "quantitative",
        "title": "settlement, mm",
        "scale": {"zero": True, "nice": True, "reverse": True},
        "axis": {"tickCount": 6},
    }
    return x, y
