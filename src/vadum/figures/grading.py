"""The grading curve: percent finer against size on a log axis, fine at the left, with the size classes behind."""

from typing import Any

from vadum.figures.theme import CLAY, CLAY2, INK, INK2, PAPER, WATER, WATER3, named
from vadum.soil.shared.grading import BOUNDARIES, System

TICKS = [0.001, 0.002, 0.005, 0.01, 0.02, 0.063, 0.1, 0.2, 0.63, 1, 2, 6.3, 20, 63]
UNNAMED = ("cobbles", "coarse sand", "fine sand")


def x_axis(low: float, high: float) -> dict[str, Any]:
    """Size in mm, log."""
    return {
        "field": "size_mm",
        "type": "quantitative",
        "scale": {"type": "log", "domain": [low, high], "nice": False, "clamp": True},
        "title": "size, mm",
        "axis": {"values": [t for t in TICKS if low <= t <= high], "grid": True, "labelOverlap": True},
    }


Y: dict[str, Any] = {
    "field": "finer_percent",
    "type": "quantitative",
    "scale": {"domain": [0, 109], "nice": False, "clamp": True},
    "title": "finer, %",
    "axis": {"values": [0, 20, 40, 60, 80, 100]},
}


def classes(system: System, low: float, high: float) -> list[dict[str, Any]]:
    """The size classes as bands with their names on top."""
    rows, top = [], high
    sands = [b.name for b in BOUNDARIES[system] if b.name.endswith("sand")]
    for i, boundary in enumerate(BOUNDARIES[system]):
        edge = max(boundary.above_mm, low)
        if edge < top:
            # One word for the sands, over the middle one; a system without a medium sand says it over the coarse.
            name = "sand" if boundary.name == sands[len(sands) // 2 - (len(sands) == 2)] else boundary.name
            name = "" if name in UNNAMED else name
            rows.append({"from": edge, "to": top, "middle": (edge * top) ** 0.5, "name": name, "odd": i % 2})
            top = edge
    x = x_axis(low, high)
    band = {
        "data": {"values": rows},
        "transform": [{"filter": "datum.odd === 1"}],
        "mark": {"type": "rect", "color": WATER3, "opacity": 0.6},
        "encoding": {"x": {**x, "field": "from"}, "x2": {"field": "to"}},
    }
    words = {
        "data": {"values": rows},
        "mark": {"type": "text", "baseline": "top", "fontSize": 12, "color": INK2},
        "encoding": {"x": {**x, "field": "middle"}, "y": {"value": 4}, "text": {"field": "name"}},
    }
    return [band, words]


def envelope(low: float, high: float) -> list[dict[str, Any]]:
    """The specification: the room between its limits."""
    x = x_axis(low, high)
    data = named("envelope")

    def edge(field: str) -> dict[str, Any]:
        mark = {"type": "line", "color": CLAY, "strokeWidth": 1.2, "strokeDash": [5, 4]}
        return {"data": data, "mark": mark, "encoding": {"x": x, "y": {**Y, "field": field}}}

    room = {
        "data": data,
        "mark": {"type": "area", "color": CLAY2, "opacity": 0.5},
        "encoding": {"x": x, "y": {**Y, "field": "least"}, "y2": {"field": "most"}},
    }
    return [room, edge("least"), edge("most")]


def curve(low: float, high: float, data: str = "curve", shape: str = "circle") -> list[dict[str, Any]]:
    """The line through the points of the grading."""
    x = x_axis(low, high)
    return [
        {
            "data": named(data),
            "mark": {"type": "line", "color": WATER, "strokeWidth": 2.2},
            "encoding": {"x": x, "y": Y, "order": {"field": "size_mm", "type": "quantitative"}},
        },
        points(low, high, data, shape),
    ]


def points(low: float, high: float, data: str, shape: str = "circle", hollow: bool = False) -> dict[str, Any]:
    """The points alone."""
    return {
        "data": named(data),
        "mark": {
            "type": "point",
            "shape": shape,
            "size": 70,
            "opacity": 1,
            "fill": PAPER if hollow else INK,
            "stroke": INK,
            "strokeWidth": 1.6,
            "tooltip": True,
        },
        "encoding": {
            "x": x_axis(low, high),
            "y": Y,
            "tooltip": [
                {"field": "size_mm", "title": "size, mm", "format": ".4~g"},
                {"field": "finer_percent", "title": "finer, %", "format": ".1f"},
            ],
        },
    }
