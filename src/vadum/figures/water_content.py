"""Drying: the water content that each weighing gives."""

from typing import Any

from vadum.figures.theme import CLAY, INK, WATER, Figure, named

X = {
    "field": "weighing",
    "type": "quantitative",
    "title": "dry weighing",
    "scale": {"domain": [0.5, 4.5], "nice": False},
    "axis": {"values": [1, 2, 3, 4, 5, 6, 7, 8], "format": "d", "grid": False},
}
Y = {
    "field": "water_content_percent",
    "type": "quantitative",
    "title": "water content, %",
    "scale": {"zero": False, "padding": 24, "nice": False},
    "axis": {"tickCount": 4, "tickMinStep": 0.1, "format": ".1f"},
}


def _layers(school: Any) -> list[dict[str, Any]]:
    rows = named("weighings")
    return [
        {"data": rows, "mark": {"type": "line", "color": WATER, "strokeWidth": 2}, "encoding": {"x": X, "y": Y}},
        {
            "data": rows,
            "mark": {"type": "point", "filled": True, "fill": INK, "size": 90, "opacity": 1},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": rows,
            "mark": {"type": "text", "dx": 12, "align": "left", "color": CLAY, "fontWeight": 600, "fontSize": 13},
            "encoding": {"x": X, "y": Y, "text": {"field": "water_content_percent", "format": ".2f"}},
        },
    ]


FIGURE = Figure(
    title="Water content by weighing",
    layers=_layers,
    columns={
        "weighings": (
            ("weighing", "weighing"),
            ("drying_h", "drying, h"),
            ("mass_dry_g", "tin + dry soil, g"),
            ("water_content_percent", "water content, %"),
        )
    },
    height=200,
    least=2,
)
