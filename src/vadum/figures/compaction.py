"""The compaction curve with its peak and the lines of no, 5 and 10 percent air."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, PAPER, WATER, WATER2, Figure, named

X: dict[str, Any] = {
    "field": "w_percent",
    "type": "quantitative",
    "title": "water content, %",
    "scale": {"zero": False, "nice": False, "padding": 16},
    "axis": {"tickCount": 7},
}
STATES = ["measured", "about", "left out"]


def _by_state(*tones: Any) -> dict[str, Any]:
    return {"field": "state", "type": "nominal", "scale": {"domain": STATES, "range": list(tones)}}


def _layers(school: Any) -> list[dict[str, Any]]:
    y = {
        "field": "dry_mg_m3",
        "type": "quantitative",
        "title": "dry density, Mg/m³",
        "scale": {"zero": False, "nice": False, "padding": 20},
        "axis": {"tickCount": 6, "format": ".2f"},
    }
    marks = {"type": "rule", "color": CLAY, "strokeDash": [4, 3], "strokeWidth": 1.5}
    return [
        {
            "data": named("air_lines"),
            "mark": {"type": "line", "color": WATER2, "strokeWidth": 1.6},
            "encoding": {"x": X, "y": y, "detail": {"field": "line", "type": "nominal"}},
        },
        {
            "data": named("air_lines"),
            "mark": {"type": "text", "align": "right", "dy": -6, "dx": 4, "color": INK2, "fontSize": 12},
            "encoding": {"x": X, "y": y, "text": {"field": "label"}},
        },
        {
            "data": named("curve"),
            "mark": {"type": "line", "color": WATER, "strokeWidth": 2.2},
            "encoding": {"x": X, "y": y},
        },
        {"data": named("peak"), "mark": marks, "encoding": {"x": X, "y": y, "y2": {"value": {"expr": "height"}}}},
        {
            "data": named("peak"),
            "mark": marks,
            "encoding": {"y": y, "x": {**X, "field": "w_from"}, "x2": {"field": "w_percent"}},
        },
        {
            "data": named("peak"),
            "mark": {"type": "text", "dy": -12, "color": CLAY, "fontWeight": 600, "fontSize": 13},
            "encoding": {"x": X, "y": y, "text": {"field": "label"}},
        },
        {
            "data": named("points"),
            "mark": {"type": "point", "size": 95, "opacity": 1, "strokeWidth": 2, "cursor": "pointer"},
            "encoding": {
                "x": X,
                "y": y,
                "shape": _by_state("circle", "circle", "cross"),
                "fill": _by_state(INK, PAPER, INK2),
                "stroke": _by_state(INK, INK, INK2),
                "strokeDash": _by_state([1, 0], [3, 2.4], [1, 0]),
            },
        },
        {
            "data": named("points"),
            "mark": {"type": "text", "dy": 16, "fontSize": 12},
            "encoding": {"x": X, "y": y, "text": {"field": "label"}},
        },
    ]


FIGURE = Figure(
    title="Compaction curve",
    layers=_layers,
    columns={
        "points": (
            ("trial", "point"),
            ("w_percent", "water content, %"),
            ("dry_mg_m3", "dry density, Mg/m³"),
            ("state", "state"),
        ),
        "peak": (("w_percent", "optimum, %"), ("dry_mg_m3", "maximum, Mg/m³")),
    },
    pick="points",
)
