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
        "title": "drops (log)" if cup else "cone penetration, mm",
        "axis": {"values": ticks, "grid": True, "format": "d"} if ticks else {"grid": True},
    }
    y = {
        "field": "w_percent",
        "type": "quantitative",
        "scale": {"zero": False, "padding": 14, "nice": False},
        "title": "water content, %",
        "axis": {"tickCount": 6},
    }

    def points(state: str, mark: dict[str, Any]) -> dict[str, Any]:
        return {
            "data": named("points"),
            "transform": [{"filter": f"datum.state === '{state}'"}],
            "mark": {"type": "point", "size": 95, "opacity": 1, "strokeWidth": 2, "tooltip": True, **mark},
            "encoding": {
                "x": x,
                "y": y,
                "tooltip": [
                    {"field": "label", "title": "trial"},
                    {"field": "x", "title": "drops" if cup else "mm"},
                    {"field": "w_percent", "title": "water content, %", "format": ".1f"},
                    {"field": "state", "title": "state"},
                ],
            },
        }

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
            "encoding": {"x": x, "y": y},
        },
        {
            "data": named("read_off"),
            "mark": {"type": "rule", "strokeDash": [4, 3], "strokeWidth": 1.5},
            "encoding": {"x": x, "y": y, "y2": {"value": {"expr": "height"}}},
        },
        {
            "data": named("read_off"),
            "mark": {"type": "rule", "strokeDash": [4, 3], "strokeWidth": 1.5},
            "encoding": {"y": y, "x": {"value": 0}, "x2": {**x}},
        },
        {
            "data": named("read_off"),
            "mark": {"type": "text", "align": "left", "dy": -8, "color": CLAY, "fontWeight": 600, "fontSize": 13},
            "encoding": {"y": y, "x": {"value": 8}, "text": {"field": "label"}},
        },
        points("left out", {"shape": "cross", "stroke": INK2, "fill": INK2, "angle": 45, "size": 60}),
        points("about", {"shape": "circle", "fill": PAPER, "stroke": INK, "strokeDash": [3, 2.4]}),
        points("measured", {"shape": "circle", "fill": INK, "stroke": INK}),
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
