"""The plasticity chart: index against liquid limit, with the A-line, the U-line and the CL-ML band."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, PAPER, WATER, WATER2, Figure, named

X = {
    "field": "ll",
    "type": "quantitative",
    "scale": {"domain": [0, 110], "nice": False},
    "title": "liquid limit, %",
    "axis": {"tickCount": 6},
}
Y = {
    "field": "pi",
    "type": "quantitative",
    "scale": {"domain": [0, 60], "nice": False},
    "title": "plasticity index, %",
    "axis": {"tickCount": 6},
}
ZONES = (
    {"ll": 38, "pi": 20, "t": "CL"},
    {"ll": 78, "pi": 47, "t": "CH"},
    {"ll": 44, "pi": 9, "t": "ML"},
    {"ll": 92, "pi": 26, "t": "MH"},
    {"ll": 12, "pi": 5.5, "t": "CL-ML"},
)
LINES = ({"ll": 104, "pi": 57.5, "t": "A"}, {"ll": 65, "pi": 55.5, "t": "U"})


def _text(values: Any, color: str, size: int) -> dict[str, Any]:
    return {
        "data": {"values": [dict(v) for v in values]},
        "mark": {"type": "text", "color": color, "fontSize": size},
        "encoding": {"x": X, "y": Y, "text": {"field": "t"}},
    }


def _layers(school: Any) -> list[dict[str, Any]]:
    def line(name: str, dash: list[int]) -> dict[str, Any]:
        mark = {"type": "line", "color": WATER, "strokeWidth": 1.6, "strokeDash": dash, "clip": True}
        return {"data": named(name), "mark": mark, "encoding": {"x": X, "y": Y}}

    def point(state: str, fill: str, dash: list[float]) -> dict[str, Any]:
        mark = {
            "type": "point",
            "size": 130,
            "fill": fill,
            "stroke": CLAY,
            "strokeWidth": 2,
            "opacity": 1,
            "strokeDash": dash,
        }
        return {
            "data": named("point"),
            "transform": [{"filter": f"datum.state === '{state}'"}],
            "mark": mark,
            "encoding": {"x": X, "y": Y},
        }

    return [
        {
            "data": named("band"),
            "mark": {"type": "area", "orient": "horizontal", "color": WATER2, "opacity": 0.7},
            "encoding": {"y": Y, "x": X, "x2": {"field": "ll_to"}},
        },
        line("a_line", [1, 0]),
        line("u_line", [6, 4]),
        {
            "data": {"values": [{"ll": 50}]},
            "mark": {"type": "rule", "color": "#b9b09a", "strokeDash": [2, 3]},
            "encoding": {"x": X},
        },
        _text(ZONES, INK2, 13),
        _text(LINES, WATER, 13),
        point("about", PAPER, [3, 2.4]),
        point("measured", CLAY, [1, 0]),
        {
            "data": named("point"),
            "mark": {"type": "text", "align": "left", "dx": 10, "dy": -8, "fontWeight": 600, "color": INK},
            "encoding": {"x": X, "y": Y, "text": {"field": "label"}},
        },
    ]


PLASTICITY = Figure(
    title="Plasticity chart",
    layers=_layers,
    columns={
        "point": (("ll", "liquid limit, %"), ("pi", "plasticity index, %"), ("state", "state")),
        "determinations": (("determination", "determination"), ("w_percent", "water content, %")),
    },
)
