"""The fall of a reservoir against time, head by head, with the band that counts as steady."""

from typing import Any

from vadum.figures.theme import CLAY, INK, PAPER, WATER, WATER3, Figure, lettered, named

X: dict[str, Any] = {
    "field": "minutes",
    "type": "quantitative",
    "title": "time since the air tube was lifted, min",
    "scale": {"zero": True, "nice": True},
    "axis": {"tickCount": 8},
}
Y: dict[str, Any] = {
    "field": "mm_min",
    "type": "quantitative",
    "title": "fall of the level, mm/min",
    "scale": {"zero": True, "nice": True},
    "axis": {"tickCount": 5},
}
TONE = {"field": "head", "type": "nominal", "scale": {"range": [INK, WATER, CLAY]}}


def layers(school: Any) -> list[dict[str, Any]]:
    """The rates and their bands."""
    return [
        {  # an empty picture has axes too
            "data": {"values": [{"minutes": 0, "mm_min": 0}, {"minutes": 20, "mm_min": 1}]},
            "mark": {"type": "point", "opacity": 0},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": named("bands"),
            "mark": {"type": "rect", "color": WATER3},
            "encoding": {
                "x": X | {"field": "from"},
                "x2": {"field": "to"},
                "y": Y | {"field": "low"},
                "y2": {"field": "high"},
            },
        },
        {
            "data": named("rates"),
            "mark": {"type": "line", "strokeWidth": 2},
            "encoding": {"x": X, "y": Y, "color": TONE, "order": {"field": "minutes"}},
        },
        {
            "data": named("rates"),
            "mark": {"type": "point", "size": 40, "fill": PAPER, "opacity": 1, "strokeWidth": 1.6},
            "encoding": {"x": X, "y": Y, "color": TONE},
        },
        *lettered(
            {
                "data": named("bands"),
                "mark": {"type": "text", "align": "right", "dy": -12, "fontWeight": 600, "color": WATER},
                "encoding": {"x": X | {"field": "to"}, "y": Y | {"field": "high"}, "text": {"field": "label"}},
            }
        ),
    ]


FIGURE = Figure(
    title="Fall of the reservoir against time",
    layers=layers,
    columns={"rates": (("head", "head"), ("minutes", "time, min"), ("mm_min", "fall, mm/min"))},
)
