"""Velocity of both rings against time, interval by interval, with the band that counts as steady."""

from typing import Any

from vadum.figures.theme import INK, WATER, WATER3, Figure, lettered, named

X: dict[str, Any] = {
    "field": "to",
    "type": "quantitative",
    "title": "time since the start, min",
    "scale": {"zero": True, "nice": True},
    "axis": {"tickCount": 7},
}
Y: dict[str, Any] = {
    "field": "mm_h",
    "type": "quantitative",
    "title": "infiltration rate, mm/h",
    "scale": {"zero": True, "nice": True},
    "axis": {"tickCount": 6},
}
TONE = {"field": "ring", "type": "nominal", "title": None, "sort": ["inner ring"], "scale": {"range": [INK, WATER]}}


def layers(school: Any) -> list[dict[str, Any]]:
    """Each interval as the step that it is: a rate holds for its whole length."""
    return [
        {  # an empty picture has axes too
            "data": {"values": [{"to": 0, "mm_h": 0}, {"to": 60 * school.least_h, "mm_h": 20}]},
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
            "mark": {"type": "rule", "strokeWidth": 3},
            "encoding": {"x": X | {"field": "from"}, "x2": {"field": "to"}, "y": Y, "color": TONE},
        },
        *lettered(
            {
                "data": named("bands"),
                "mark": {"type": "text", "align": "right", "dy": -12, "fontWeight": 600, "color": WATER},
                "encoding": {"x": X, "y": Y | {"field": "high"}, "text": {"field": "label"}},
            }
        ),
    ]


FIGURE = Figure(
    title="Infiltration rate of both rings against time",
    layers=layers,
    columns={"rates": (("ring", "ring"), ("from", "from, min"), ("to", "to, min"), ("mm_h", "rate, mm/h"))},
)
