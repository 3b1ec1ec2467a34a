"""Settlement downwards against stress: both loadings with their parabolas, the unloading, the slopes read off."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, PAPER, WATER, Figure, lettered, named, sinking

PARTS = ["preload", "first loading", "unloading", "second loading"]
TONE = {"field": "part", "type": "nominal", "scale": {"domain": PARTS, "range": [INK2, INK, INK2, WATER]}}
SHAPE = {
    "field": "part",
    "type": "nominal",
    "scale": {"domain": PARTS, "range": ["cross", "circle", "triangle-up", "circle"]},
}
X, Y = sinking("stress", "stress, MN/m²")
CURVE = {"field": "part", "type": "nominal", "scale": {"domain": ["first", "again"], "range": [INK, WATER]}}
NAME = {"field": "name", "type": "nominal", "scale": {"domain": ["Ev1", "Ev2"], "range": [WATER, CLAY]}}


def layers(school: Any) -> list[dict[str, Any]]:
    """The picture, with the plate's greatest stress as its axis."""
    return [
        {  # an empty picture has axes too
            "data": {"values": [{"stress": 0, "settlement_mm": 0}, {"stress": 0.1, "settlement_mm": 1}]},
            "mark": {"type": "point", "opacity": 0},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": named("steps"),
            "transform": [{"filter": "datum.part !== 'preload'"}],
            "mark": {"type": "line", "color": INK2, "strokeWidth": 1, "strokeDash": [2, 3]},
            "encoding": {"x": X, "y": Y, "order": {"field": "order"}},
        },
        {
            "data": named("curves"),
            "transform": [{"filter": "!datum.ahead"}],
            "mark": {"type": "line", "strokeWidth": 2.2},
            "encoding": {"x": X, "y": Y, "color": CURVE, "order": {"field": "stress"}},
        },
        {
            "data": named("curves"),
            "transform": [{"filter": "datum.ahead"}],
            "mark": {"type": "line", "strokeWidth": 2.2, "strokeDash": [6, 5]},
            "encoding": {"x": X, "y": Y, "color": CURVE, "order": {"field": "stress"}},
        },
        {
            "data": named("slopes"),
            "mark": {"type": "line", "strokeWidth": 1.3, "clip": True},
            "encoding": {"x": X, "y": Y, "color": NAME, "order": {"field": "stress"}},
        },
        *lettered(
            {
                "data": named("slopes"),
                "transform": [{"filter": "datum.label"}],
                "mark": {"type": "text", "align": "left", "dx": 10, "dy": 34, "fontWeight": 600, "clip": True},
                "encoding": {"x": X, "y": Y, "text": {"field": "label"}, "color": NAME},
            }
        ),
        {
            "data": named("secants"),
            "mark": {"type": "tick", "color": CLAY, "thickness": 2, "size": 16},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": named("truth"),
            "mark": {"type": "line", "color": WATER, "strokeWidth": 7, "opacity": 0.28, "strokeCap": "round"},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": named("steps"),
            "mark": {"type": "point", "size": 62, "opacity": 1, "strokeWidth": 1.8, "fill": PAPER},
            "encoding": {"x": X, "y": Y, "color": TONE, "shape": SHAPE},
        },
        {
            "data": named("steps"),
            "transform": [{"filter": "datum.moving"}],
            "mark": {"type": "point", "size": 170, "strokeWidth": 2.4, "color": CLAY},
            "encoding": {"x": X, "y": Y},
        },
        *lettered(
            {
                "data": named("steps"),
                "transform": [{"filter": "datum.label"}],
                "mark": {"type": "text", "align": "right", "dx": -12, "dy": 14, "color": CLAY, "fontWeight": 600},
                "encoding": {"x": X, "y": Y, "text": {"field": "label"}},
            }
        ),
    ]


FIGURE = Figure(
    title="Settlement against stress",
    layers=layers,
    columns={
        "steps": (
            ("part", "part"),
            ("stress", "stress, MN/m²"),
            ("settlement_mm", "settlement, mm"),
            ("rate", "mm/min"),
        ),
    },
    height=330,
)
