"""The fall of a reservoir against time, head by head, with the band that counts as steady."""

from typing import Any

from vadum.figures.theme import CLAY, INK, PAPER, WATER, Figure, empty_axes, named, steady_band

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
    under, words = steady_band(X, Y)
    return [
        empty_axes(X, Y, (0, 0), (20, 1)),
        *under,
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
        *words,
    ]


FIGURE = Figure(
    title="Fall of the reservoir against time",
    layers=layers,
    columns={"rates": (("head", "head"), ("minutes", "time, min"), ("mm_min", "fall, mm/min"))},
)
