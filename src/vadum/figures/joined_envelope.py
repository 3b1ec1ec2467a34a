"""Strengths of several runs in one picture at equal scales: circles, failures on planes, and their lines."""

from collections.abc import Mapping, Sequence
from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, WATER, Figure, lettered, most_at_one_scale, named

MOST = most_at_one_scale("points", "circles", least=60)
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
NAME_WIDE, NAME_HIGH = 0.1, 0.03  # how much of the picture's greatest stress a written name covers
LINE_PX = 14
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
                    "dy": {"expr": f"-11 - {LINE_PX} * (length(datum.names) - 1)"},  # a line more stands a line higher
                    "align": {"expr": f"datum.normal_kpa > 0.9 * {MOST} ? 'right' : 'center'"},
                    "lineHeight": LINE_PX,
                    "color": INK,
                    "fontSize": 12,
                    "clip": True,
                },
                "encoding": {"x": NORMAL, "y": SHEAR, "text": {"field": "names"}},
            }
        ),
    ]


JOINED = Figure(title="Strength of several runs", layers=_layers, columns={}, height=360)


def named_clear(points: Sequence[Mapping[str, Any]]) -> list[dict[str, Any]]:
    """The failures with the `names` to write over each, a line each: where they would lie over each other, the first
    has them all."""
    far = max((p["normal_kpa"] for p in points), default=0.0)
    found: list[dict[str, Any]] = []
    for point in points:
        for other in found:
            wide = abs(point["normal_kpa"] - other["normal_kpa"]) < NAME_WIDE * far
            if other["names"] and wide and abs(point["shear_kpa"] - other["shear_kpa"]) < NAME_HIGH * far:
                other["names"].append(point["label"])
                found.append({**point, "names": []})
                break
        else:
            found.append({**point, "names": [point["label"]]})
    return found
