"""pH at 25 °C against lime, with the lines that decide and the meter's bar on every point."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, PAPER, WATER, Figure, empty_axes, lettered, named

X: dict[str, Any] = {
    "field": "lime",
    "type": "quantitative",
    "title": "lime, % of dry soil below 0.425 mm",
    "scale": {"zero": False, "nice": False, "padding": 24},
    "axis": {"tickMinStep": 1, "format": "~g"},
}
Y: dict[str, Any] = {
    "field": "ph",
    "type": "quantitative",
    "title": "pH at 25 °C",
    "scale": {"zero": False, "nice": True},
    "axis": {"tickCount": 7, "format": ".2f"},
}


def layers(school: Any) -> list[dict[str, Any]]:
    """The points with their bars, the line through them, and the lines that decide."""
    lines = {"y": Y, "x": {"value": 0}, "text": {"field": "label"}}
    return [
        empty_axes(
            X,
            Y,
            (school.limes_percent[0], school.near_ph - 0.3),
            (school.limes_percent[-1], school.reaches_ph + 0.1),
        ),
        {
            "data": named("bounds"),
            "mark": {"type": "rule", "strokeWidth": 1.6, "color": WATER},
            "encoding": {"y": Y},
        },
        {
            "data": named("only"),
            "mark": {"type": "rule", "strokeDash": [2, 4], "strokeWidth": 1.4, "color": INK2},
            "encoding": {"y": Y},
        },
        {
            "data": named("points"),
            "mark": {"type": "line", "strokeWidth": 2, "color": INK},
            "encoding": {"x": X, "y": Y, "order": {"field": "lime"}},
        },
        {
            "data": named("points"),
            "mark": {"type": "rule", "strokeWidth": 2, "color": CLAY},
            "transform": [{"filter": "datum.near"}],
            "encoding": {"x": X, "y": Y | {"field": "low"}, "y2": {"field": "high"}},
        },
        {
            "data": named("points"),
            "mark": {"type": "point", "size": 80, "opacity": 1, "strokeWidth": 2, "fill": PAPER},
            "encoding": {
                "x": X,
                "y": Y,
                "color": {"condition": {"test": "datum.decides", "value": CLAY}, "value": INK},
            },
        },
        *lettered(
            {
                "data": named("points"),
                "mark": {"type": "text", "align": "left", "dx": 10, "dy": 12, "fontWeight": 600, "color": INK},
                "encoding": {"x": X, "y": Y, "text": {"field": "label"}},
            }
        ),
        *lettered(
            {
                "data": named("bounds"),
                "mark": {"type": "text", "align": "left", "dx": 6, "dy": -7, "color": WATER},
                "encoding": lines,
            }
        ),
        *lettered(
            {
                "data": named("only"),
                "mark": {"type": "text", "align": "left", "dx": 6, "dy": -7, "color": INK2},
                "encoding": lines,
            }
        ),
    ]


FIGURE = Figure(
    title="pH at 25 °C against lime",
    layers=layers,
    columns={"points": (("lime", "lime, %"), ("read", "pH as read"), ("ph", "pH at 25 °C"))},
)
