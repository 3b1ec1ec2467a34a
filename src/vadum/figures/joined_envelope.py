"""Strengths of several runs in one picture at equal scales: circles, failures on planes, and their lines."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, WATER, Figure, lettered, named

MOST = (
    "1.06 * max(length(data('points')) ? extent(pluck(data('points'), 'normal_kpa'))[1] : 60, "
    "length(data('circles')) ? extent(pluck(data('circles'), 'normal_kpa'))[1] : 60)"
)
NORMAL = {
    "field": "normal_kpa",
    "type": "quantitative",
    "title": "normal stress, kPa",
    "scale": {"domainMin": 0, "domainMax": {"expr": MOST}, "nice": False},
}
SHEAR = {
    "field": "shear_kpa",
    "type": "quantitative",
    "title": "shear stress, kPa",
    "scale": {"domainMin": 0, "domainMax": {"expr": f"({MOST}) * height / width"}, "nice": False},
}
PALE = {"condition": {"test": "datum.state == 'left out'", "value": 0.3}, "value": 1}
TONE = {"field": "kind", "type": "nominal", "scale": {"domain": ["plane", "top"], "range": [CLAY, WATER]}}


def _layers(school: Any) -> list[dict[str, Any]]:
    return [
        {
            "data": named("circles"),
            "mark": {"type": "line", "strokeWidth": 1.4, "color": INK2, "clip": True},
            "encoding": {
                "x": NORMAL,
                "y": SHEAR,
                "detail": {"field": "of", "type": "nominal"},
                "order": {"field": "order"},
                "opacity": PALE,
            },
        },
        {
            "data": named("lines"),
            "mark": {"type": "line", "strokeWidth": 2.2, "clip": True},
            "encoding": {"x": NORMAL, "y": SHEAR, "color": TONE, "order": {"field": "order"}},
        },
        {
            "data": named("points"),
            "mark": {"type": "point", "filled": True, "size": 80, "clip": True},
            "encoding": {"x": NORMAL, "y": SHEAR, "color": TONE, "opacity": PALE},
        },
        *lettered(
            {
                "data": named("points"),
                "mark": {
                    "type": "text",
                    "dy": -9,
                    "baseline": "line-bottom",
                    "color": INK,
                    "fontSize": 12,
                    "clip": True,
                },
                "encoding": {"x": NORMAL, "y": SHEAR, "text": {"field": "label"}},
            }
        ),
    ]


JOINED = Figure(title="Strength of several runs", layers=_layers, columns={}, height=360)
