"""The profile of a field vane: strength undisturbed and remoulded against depth, and the sensitivity beside."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, WATER, Figure, lettered, named

Y = {
    "field": "depth_m",
    "type": "quantitative",
    "title": "depth, m",
    "scale": {"reverse": True, "domainMin": 0, "nice": False, "padding": 26},
}
X = {"field": "strength_kpa", "type": "quantitative", "title": "strength, kPa", "scale": {"domainMin": 0}}
ORDER = {"field": "depth_m"}
KIND = {
    "field": "kind",
    "type": "nominal",
    "scale": {"domain": ["undisturbed", "remoulded"], "range": [WATER, CLAY]},
}


def _layers(school: Any) -> list[dict[str, Any]]:
    profile = named("profile")
    only = {"filter": "datum.state == 'counts'"}
    return [
        {
            "data": named("beside"),
            "mark": {"type": "tick", "thickness": 2, "size": 16, "color": INK2},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": named("line"),
            "mark": {"type": "line", "strokeDash": [5, 4], "color": INK2},
            "encoding": {"x": X, "y": Y, "order": ORDER},
        },
        *lettered(
            {
                "data": named("line"),
                "mark": {"type": "text", "dy": 5, "align": "right", "dx": -9, "color": INK2, "fontSize": 12},
                "encoding": {"x": X, "y": Y, "text": {"field": "label"}},
            }
        ),
        {
            "data": profile,
            "transform": [only],
            "mark": {"type": "line", "strokeWidth": 2},
            "encoding": {"x": X, "y": Y, "order": ORDER, "color": KIND},
        },
        {
            "data": profile,
            "mark": {"type": "point", "size": 70, "filled": True, "opacity": 1},
            "encoding": {
                "x": X,
                "y": Y,
                "color": KIND,
                "shape": {
                    "field": "state",
                    "type": "nominal",
                    "scale": {"domain": ["counts", "left out"], "range": ["circle", "cross"]},
                },
            },
        },
        *lettered(
            {
                "data": named("beside"),
                "mark": {"type": "text", "dy": 17, "color": INK2, "fontSize": 12},
                "encoding": {"x": X, "y": Y, "text": {"field": "name"}},
            }
        ),
        *lettered(
            {
                "data": profile,
                "mark": {"type": "text", "dy": -14, "fontSize": 12, "fontWeight": 600},
                "encoding": {"x": X, "y": Y, "text": {"field": "name"}, "color": KIND},
            }
        ),
        *lettered(
            {
                "data": profile,
                "mark": {"type": "text", "align": "left", "dx": 9, "color": CLAY, "fontSize": 12},
                "encoding": {"x": X, "y": Y, "text": {"field": "label"}},
            }
        ),
        *lettered(
            {
                "data": named("sensitivity"),
                "mark": {"type": "text", "align": "left", "dx": 6, "color": INK, "fontSize": 12, "fontWeight": 600},
                "encoding": {"x": {"value": "width"}, "y": Y, "text": {"field": "label"}},
            }
        ),
    ]


FIGURE = Figure(
    title="Strength against depth",
    layers=_layers,
    columns={
        "profile": (("depth_m", "depth, m"), ("strength_kpa", "strength, kPa"), ("kind", "kind"), ("state", "state")),
        "sensitivity": (("depth_m", "depth, m"), ("sensitivity", "sensitivity")),
    },
    height=340,
)
