"""Settlement downwards against pressure with the lines and the ultimates; below it against log time, step by step."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, PAPER, WATER, Figure, lettered, named, sinking

X, Y = sinking("kpa", "pressure, kPa")
TIME: dict[str, Any] = {
    "field": "minutes",
    "type": "quantitative",
    "title": "time since the load was on, min",
    "scale": {"type": "log"},
    "axis": {"orient": "top", "tickCount": 4},
}


def layers(school: Any) -> list[dict[str, Any]]:
    """The curve with both lines and what each rule reads off."""
    return [
        {  # an empty picture has axes too
            "data": {"values": [{"kpa": 0, "settlement_mm": 0}, {"kpa": 50, "settlement_mm": 1}]},
            "mark": {"type": "point", "opacity": 0},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": named("truth"),
            "mark": {"type": "line", "color": WATER, "strokeWidth": 7, "opacity": 0.28, "strokeCap": "round"},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": named("lines"),
            "mark": {"type": "line", "color": CLAY, "strokeDash": [5, 4], "strokeWidth": 1.5, "clip": True},
            "encoding": {"x": X, "y": Y, "detail": {"field": "line", "type": "nominal"}},
        },
        {
            "data": named("steps"),
            "transform": [{"filter": "datum.part !== 'seating'"}],
            "mark": {"type": "line", "color": INK, "strokeWidth": 2},
            "encoding": {"x": X, "y": Y, "order": {"field": "order"}, "detail": {"field": "part", "type": "nominal"}},
        },
        {
            "data": named("steps"),
            "mark": {"type": "point", "size": 52, "opacity": 1, "strokeWidth": 1.7, "fill": PAPER, "color": INK},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": named("steps"),
            "transform": [{"filter": "datum.moving"}],
            "mark": {"type": "point", "size": 170, "strokeWidth": 2.4, "color": CLAY},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": named("marks"),
            "mark": {"type": "point", "shape": "diamond", "size": 90, "color": WATER, "filled": True, "opacity": 1},
            "encoding": {"x": X, "y": Y},
        },
        *lettered(
            {
                "data": named("marks"),
                "mark": {"type": "text", "align": "left", "dx": 9, "dy": -4, "fontSize": 12, "color": WATER},
                "encoding": {"x": X, "y": Y, "text": {"field": "label"}},
            }
        ),
        {
            "data": named("handles"),
            "mark": {"type": "point", "filled": True, "size": 170, "color": CLAY, "opacity": 1, "cursor": "ew-resize"},
            "encoding": {"x": X | {"field": "at"}, "y": Y | {"field": "high"}},
        },
        *lettered(
            {
                "data": named("handles"),
                "mark": {"type": "text", "align": "right", "dx": -12, "dy": 14, "color": CLAY, "fontWeight": 600},
                "encoding": {"x": X | {"field": "at"}, "y": Y | {"field": "high"}, "text": {"field": "label"}},
            }
        ),
    ]


def by_time(school: Any) -> list[dict[str, Any]]:
    """Each step's settlement against the logarithm of time."""
    return [
        {
            "data": {"values": [{"minutes": 1, "settlement_mm": 0}, {"minutes": 100, "settlement_mm": 1}]},
            "mark": {"type": "point", "opacity": 0},
            "encoding": {"x": TIME, "y": Y},
        },
        {
            "data": named("times"),
            "mark": {"type": "line", "color": INK2, "point": {"size": 26, "color": INK}, "strokeWidth": 1.4},
            "encoding": {"x": TIME, "y": Y, "detail": {"field": "step", "type": "nominal"}},
        },
    ]


def log_log(school: Any) -> list[dict[str, Any]]:
    """The curve on log-log axes, where a break shows."""
    x = X | {"scale": {"type": "log"}, "title": "pressure, kPa, logarithmic"}
    y = Y | {"scale": {"type": "log", "reverse": True}, "title": "settlement, mm, logarithmic"}
    first = [{"filter": "datum.part === 'load' && datum.settlement_mm > 0"}]
    return [
        {
            "data": {"values": [{"kpa": 10, "settlement_mm": 0.1}, {"kpa": 100, "settlement_mm": 1}]},
            "mark": {"type": "point", "opacity": 0},
            "encoding": {"x": x, "y": y},
        },
        {
            "data": named("steps"),
            "transform": first,
            "mark": {"type": "line", "color": INK, "point": {"size": 34, "color": INK}, "strokeWidth": 1.6},
            "encoding": {"x": x, "y": y},
        },
    ]


FIGURE = Figure(
    title="Settlement against pressure",
    layers=layers,
    columns={
        "steps": (("part", "part"), ("kpa", "pressure, kPa"), ("settlement_mm", "settlement, mm"), ("rate", "mm/min")),
        "marks": (("label", "ultimate"), ("settlement_mm", "settlement, mm")),
    },
    height=300,
    below=(
        Figure(title="Settlement against log time", layers=by_time, columns={}, height=150),
        Figure(title="Both axes logarithmic", layers=log_log, columns={}, height=150),
    ),
)
