"""The stress of a core against its strain, with the running maximum and the secant to half of it."""

from typing import Any

from vadum.figures.theme import CLAY, INK, WATER, Figure

X = {"field": "strain_percent", "type": "quantitative", "title": "strain, %", "scale": {"domainMin": 0}}
Y = {"field": "stress_kpa", "type": "quantitative", "title": "stress, kPa", "scale": {"domainMin": 0}}
ORDER = {"field": "strain_percent"}


def _layers(school: Any) -> list[dict[str, Any]]:
    return [
        {
            "data": {"name": "stop"},
            "mark": {"type": "rule", "strokeDash": [2, 4], "color": INK},
            "encoding": {"x": X},
        },
        {
            "data": {"name": "secant"},
            "mark": {"type": "line", "strokeDash": [6, 4], "color": CLAY},
            "encoding": {"x": X, "y": Y, "order": ORDER},
        },
        {
            "data": {"name": "secant"},
            "mark": {"type": "text", "align": "right", "dx": -6, "color": CLAY, "fontSize": 13},
            "encoding": {"x": X, "y": Y, "text": {"field": "label"}},
        },
        {
            "data": {"name": "truth"},
            "mark": {"type": "line", "strokeWidth": 1.5, "strokeDash": [1, 3], "color": INK},
            "encoding": {"x": X, "y": Y, "order": ORDER},
        },
        {
            "data": {"name": "curve"},
            "mark": {"type": "line", "strokeWidth": 2.2, "color": WATER},
            "encoding": {"x": X, "y": Y, "order": ORDER},
        },
        {
            "data": {"name": "curve"},
            "mark": {"type": "point", "filled": True, "size": 26, "color": WATER},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": {"name": "peak"},
            "mark": {"type": "point", "size": 130, "strokeWidth": 2, "color": INK},
            "encoding": {"x": X, "y": Y},
        },
        {
            "data": {"name": "peak"},
            "mark": {"type": "text", "dy": -16, "fontSize": 15, "fontWeight": 600, "color": INK},
            "encoding": {"x": X, "y": Y, "text": {"field": "label"}},
        },
    ]


FIGURE = Figure(
    title="Stress against strain",
    layers=_layers,
    columns={
        "curve": (("strain_percent", "strain, %"), ("stress_kpa", "stress, kPa"), ("force_n", "force, N")),
    },
    height=300,
)
