"""Velocity of both rings against time, interval by interval, with the band that counts as steady."""

from typing import Any

from vadum.figures.theme import INK, WATER, Figure, empty_axes, named, steady_band

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
    under, words = steady_band(X, Y)
    return [
        empty_axes(X, Y, (0, 0), (60 * school.least_h, 20)),
        *under,
        {
            "data": named("rates"),
            "mark": {"type": "rule", "strokeWidth": 3},
            "encoding": {"x": X | {"field": "from"}, "x2": {"field": "to"}, "y": Y, "color": TONE},
        },
        *words,
    ]


FIGURE = Figure(
    title="Infiltration rate of both rings against time",
    layers=layers,
    columns={"rates": (("ring", "ring"), ("from", "from, min"), ("to", "to, min"), ("mm_h", "rate, mm/h"))},
)
