"""The flow curve: water content against drops on a log axis, or against cone penetration."""

from typing import Any

from vadum.figures.theme import CLAY, CLAY2, INK, INK2, PAPER, WATER, WATER3, Figure, named


def _layers(school: Any) -> list[dict[str, Any]]:
    cup = school.apparatus == "cup"
    low, high = school.accepted
    ticks = [15, 20, 25, 30, 35] if cup else [low, (low + high) / 2 - 2.5, school.target, high]
    scale: dict[str, Any] = {"domain": [low * 0.8, high * 1.25], "nice": False, "clamp": True}
    if school.fit != "linear":
        scale["type"] = "log"
    if not cup and school.fit == "linear":
        ticks = []
    x = {
        "field": "x",
        "type": "quantitative",
        "scale": scale,
        "title": "drops (log)" if cup else "cone penetration in mm",
        "axis": {"values": ticks, "grid": True, "format": "d"} if ticks else {"grid": True},
    }
    y = {
        "field": "w_percent",
        "type": "quantitative",
        "scale": {"zero": False, "padding": 14, "nice": False},
        "title": "water content, %",
        "axis": {"tickCount": 6},
    }

    states = ["measured", "about", "left out"]

    def by_state(measured: Any, about: Any, left_out: Any) -> dict[str, Any]:
        scale = {"domain": states, "range": [measured, about, left_out]}
        return {"field": "state", "type": "nominal", "scale": scale}

    return [
        {
            "data": named("bands"),
            "mark": {"type": "rect", "opacity": 0.85},
            "encoding": {
                "x": {**x, "field": "low"},
                "x2": {"field": "high"},
                "color": {"condition": {"test": "datum.open", "value": CLAY2}, "value": WATER3},
            },
        },
        {
            "data": named("line"),
            "mark": {"type": "line", "color": WATER, "strokeWidth": 2, "clip": True},
            "encoding": {"x": x, "y": y, "strokeDash": by_state([1, 0], [7, 5], [1, 0])},
        },
        {
            "data": named("read_off"),
            "mark": {"type": "rule", "strokeDash": [4, 3], "strokeWidth": 1.5},
            "encoding": {"x": x, "y": y, "y2": {"value": {"expr": "height"}}},
        },
        {
            "data": named("read_off"),
            "mark": {"type": "rule", "strokeDash": [4, 3], "strokeWidth": 1.5},
            "encoding": {"y": y, "x": {**x, "field": "x_from"}, "x2": {"field": "x"}},
        },
        {
            "data": named("read_off"),
            "mark": {"type": "text", "align": "left", "dy": -8, "color": CLAY, "fontWeight": 600, "fontSize": 13},
            "encoding": {"y": y, "x": {"value": 8}, "text": {"field": "label"}},
        },
        {
            "data": named("points"),
            "mark": {"type": "point", "size": 95, "opacity": 1, "strokeWidth": 2, "tooltip": True, "cursor": "pointer"},
            "encoding": {
                "x": x,
                "y": y,
                "shape": by_state("circle", "circle", "cross"),
                "fill": by_state(INK, PAPER, INK2),
                "stroke": by_state(INK, INK, INK2),
                "strokeDash": by_state([1, 0], [3, 2.4], [1, 0]),
                "tooltip": [
                    {"field": "label", "title": "trial"},
                    {"field": "x", "title": "drops" if cup else "mm"},
                    {"field": "w_percent", "title": "water content, %", "format": ".1f"},
                    {"field": "state", "title": "state"},
                ],
            },
        },
        {
            "data": named("points"),
            "mark": {"type": "text", "align": "left", "dx": 9, "dy": -7},
            "encoding": {"x": x, "y": y, "text": {"field": "label"}},
        },
    ]


FIGURE = Figure(
    title="Flow curve",
    layers=_layers,
    columns={
        "points": (("label", "trial"), ("x", "drops or mm"), ("w_percent", "water content, %"), ("state", "state")),
    },
    pick="trials",
)
