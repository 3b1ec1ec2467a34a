"""Levels of the cylinders against time, with the fall that the fit tells, down to empty."""

from typing import Any

from vadum.figures.theme import CLAY, INK, PAPER, WATER, Figure, empty_axes, named

X: dict[str, Any] = {
    "field": "minutes",
    "type": "quantitative",
    "title": "time since the start, min",
    "scale": {"zero": True, "nice": True},
    "axis": {"tickCount": 8},
}
Y: dict[str, Any] = {
    "field": "level",
    "type": "quantitative",
    "title": "level above the soil, cm",
    "scale": {"zero": True, "nice": True},
    "axis": {"tickCount": 6},
}
TONE = {"field": "cylinder", "type": "nominal", "title": None, "scale": {"range": [WATER, CLAY, INK]}}


def layers(school: Any) -> list[dict[str, Any]]:
    """The readings, and the fits as lines beyond the last of them."""
    return [
        empty_axes(X, Y, (0, 0), (30, 40)),
        {
            "data": named("fits"),
            "mark": {"type": "line", "strokeWidth": 1.6, "strokeDash": [5, 4]},
            "encoding": {"x": X, "y": Y, "color": TONE, "order": {"field": "minutes"}},
        },
        {
            "data": named("levels"),
            "mark": {"type": "point", "size": 30, "fill": PAPER, "opacity": 1, "strokeWidth": 1.4},
            "encoding": {"x": X, "y": Y, "color": TONE},
        },
    ]


FIGURE = Figure(
    title="Levels of the cylinders against time",
    layers=layers,
    columns={"levels": (("cylinder", "cylinder"), ("minutes", "time, min"), ("level", "level, cm"))},
)
