"""Water against suction on a log axis: settled points and those still losing, the curve with its band."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, PAPER, WATER, WATER3, Figure, empty_axes, lettered, named

X: dict[str, Any] = {
    "field": "suction",
    "type": "quantitative",
    "title": "suction at mid-height, cm of water",
    "scale": {"type": "log", "nice": False, "domainMin": 1},
    "axis": {"values": [1, 10, 100, 1000, 10000], "format": "~s"},
}
Y: dict[str, Any] = {
    "field": "water",
    "type": "quantitative",
    "title": "water, % of the volume",
    "scale": {"zero": True, "nice": True},
    "axis": {"tickCount": 6},
}


def layers(school: Any) -> list[dict[str, Any]]:
    """Band, curve (dashed where nothing was weighed), points, porosity."""
    return [
        empty_axes(X, Y, (1, 0), (20_000, 50)),
        {
            "data": named("curve"),
            "mark": {"type": "area", "color": WATER3},
            "encoding": {"x": X, "y": Y | {"field": "low"}, "y2": {"field": "high"}},
        },
        {
            "data": named("curve"),
            "transform": [{"filter": "!datum.beyond"}],
            "mark": {"type": "line", "strokeWidth": 2, "color": WATER},
            "encoding": {"x": X, "y": Y, "order": {"field": "suction"}},
        },
        {
            "data": named("curve"),
            "transform": [{"filter": "datum.beyond"}],
            "mark": {"type": "line", "strokeWidth": 1.6, "strokeDash": [5, 4], "color": WATER},
            "encoding": {"x": X, "y": Y, "order": {"field": "suction"}},
        },
        {
            "data": named("marks"),
            "mark": {"type": "rule", "strokeDash": [2, 4], "color": INK2},
            "encoding": {"y": Y},
        },
        *lettered(
            {
                "data": named("marks"),
                "mark": {"type": "text", "align": "left", "dx": 6, "dy": -7, "color": INK2},
                "encoding": {"y": Y, "x": {"value": 0}, "text": {"field": "label"}},
            }
        ),
        {
            "data": named("points"),
            "mark": {"type": "point", "size": 50, "opacity": 1, "strokeWidth": 1.6},
            "encoding": {
                "x": X,
                "y": Y,
                "color": {"condition": {"test": "datum.state == 'settled'", "value": INK}, "value": CLAY},
                "fill": {"condition": {"test": "datum.state == 'settled'", "value": INK}, "value": PAPER},
            },
        },
    ]


def tide(school: Any) -> list[dict[str, Any]]:
    """The mass of each cell, a dot a day."""
    x: dict[str, Any] = {
        "field": "day",
        "type": "quantitative",
        "title": "days on the plates",
        "scale": {"domain": [0, 42]},
        "axis": {"tickCount": 6},
    }
    y: dict[str, Any] = {
        "field": "mass",
        "type": "quantitative",
        "title": "lost since the first day, g",
        "axis": {"tickCount": 4},
    }
    tone = {"field": "cell", "type": "nominal", "scale": {"scheme": "tealblues"}}
    return [
        empty_axes(x, y, (0, 0), (42, -20)),
        {
            "data": named("tide"),
            "mark": {"type": "line", "strokeWidth": 1.4, "point": {"size": 14}},
            "encoding": {"x": x, "y": y, "color": tone, "order": {"field": "day"}},
        },
    ]


TIDE = Figure(
    title="Mass of each cell, day by day",
    layers=tide,
    height=150,
    columns={"tide": (("cell", "cell"), ("day", "day"), ("mass", "lost, g"))},
)

FIGURE = Figure(
    title="Water against suction",
    layers=layers,
    below=(TIDE,),
    columns={
        "points": (
            ("cell", "cell"),
            ("step", "step"),
            ("suction", "suction, cm"),
            ("water", "water, %"),
            ("state", "state"),
        )
    },
)
