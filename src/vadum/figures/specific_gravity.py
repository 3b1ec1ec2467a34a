"""The determinations beside their mean."""

from typing import Any

from vadum.figures.theme import CLAY, INK, Figure, named

X: dict[str, Any] = {
    "field": "determination",
    "type": "quantitative",
    "title": "pycnometer",
    "scale": {"domain": [0.5, 4.5], "nice": False},
    "axis": {"values": [1, 2, 3, 4], "format": "d", "grid": False},
}


def _layers(school: Any) -> list[dict[str, Any]]:
    y = {
        "field": "gravity",
        "type": "quantitative",
        "title": "specific gravity at 20 °C",
        "scale": {"zero": False, "padding": 26, "nice": False},
        "axis": {"tickCount": 4, "format": ".3f"},
    }
    rows = named("determinations")
    point = {"type": "point", "filled": True, "fill": INK, "size": 90, "opacity": 1}
    text = {"type": "text", "dx": 10, "align": "left", "fontSize": 13, "fontWeight": 600}
    return [
        {
            "data": named("mean"),
            "mark": {"type": "rule", "color": CLAY, "strokeDash": [4, 3], "strokeWidth": 1.5},
            "encoding": {"y": y},
        },
        {"data": rows, "mark": point, "encoding": {"x": X, "y": y}},
        {"data": rows, "mark": text, "encoding": {"x": X, "y": y, "text": {"field": "label"}}},
    ]


FIGURE = Figure(
    title="Specific gravity by pycnometer",
    layers=_layers,
    columns={"determinations": (("determination", "pycnometer"), ("gravity", "specific gravity"))},
    height=200,
    least=2,
)
