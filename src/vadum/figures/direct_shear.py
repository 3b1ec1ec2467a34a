"""Direct shear: stress and opening against the travel for all stages, and the envelope at equal scales."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, WATER, WATER2, Figure, lettered, named

TRAVEL = {"field": "travel_mm", "type": "quantitative", "title": "travel, mm", "scale": {"domainMin": 0}}
SHEAR = {"field": "shear_kpa", "type": "quantitative", "title": "shear stress, kPa", "scale": {"domainMin": 0}}
DOWN = {
    "field": "vertical_mm",
    "type": "quantitative",
    "title": "up is opening, mm",
    "scale": {"reverse": True, "zero": True},
}
NORMAL = {"field": "normal_kpa", "type": "quantitative", "title": "normal stress, kPa", "scale": {"domainMin": 0}}
ORDER = {"field": "travel_mm"}
STAGE = {"field": "stage", "type": "nominal"}
# The stage in hand is dark, the earlier ones pale; when all are done none is pale.
DARK = {"condition": {"test": "datum.now", "value": 1}, "value": 0.42}


def _curve(y: dict[str, Any]) -> list[dict[str, Any]]:
    return [
        {
            "data": named("curves"),
            "mark": {"type": "line", "strokeWidth": 2.2, "color": WATER},
            "encoding": {"x": TRAVEL, "y": y, "detail": STAGE, "order": ORDER, "opacity": DARK},
        },
        {
            "data": named("curves"),
            "transform": [
                {"window": [{"op": "count", "as": "of"}], "groupby": ["stage"], "frame": [None, None]},
                {"filter": "datum.of <= 60"},
            ],
            "mark": {"type": "point", "filled": True, "size": 22, "color": WATER},
            "encoding": {"x": TRAVEL, "y": y, "opacity": DARK},
        },
    ]


def _stress(school: Any) -> list[dict[str, Any]]:
    return [
        *_curve(SHEAR),
        {
            "data": named("peaks"),
            "transform": [{"filter": "datum.state != 'left out'"}],
            "mark": {"type": "point", "size": 110, "strokeWidth": 2, "color": INK},
            "encoding": {"x": TRAVEL, "y": SHEAR},
        },
        *lettered(
            {
                "data": named("peaks"),
                "mark": {"type": "text", "dy": -14, "fontSize": 13, "fontWeight": 600, "color": INK},
                "encoding": {"x": TRAVEL, "y": SHEAR, "text": {"field": "peak_words"}},
            }
        ),
        *lettered(
            {
                "data": named("curves"),
                "transform": [
                    {
                        "joinaggregate": [{"op": "max", "field": "travel_mm", "as": "last"}],
                        "groupby": ["stage"],
                    },
                    {"filter": "datum.travel_mm == datum.last"},
                ],
                "mark": {"type": "text", "align": "right", "dy": -9, "fontSize": 12, "color": INK2},
                "encoding": {"x": TRAVEL, "y": SHEAR, "text": {"field": "words"}},
            }
        ),
    ]


def _opening(school: Any) -> list[dict[str, Any]]:
    return _curve(DOWN)


def _envelope(school: Any) -> list[dict[str, Any]]:
    """The points at scales that are nearly equal: the height of the picture follows its width's own stress."""
    kind = {"field": "of", "type": "nominal", "scale": {"domain": ["peak", "tail"], "range": [WATER, INK2]}}
    order = {"field": "normal_kpa"}
    return [
        {
            "data": named("envelope"),
            "transform": [{"filter": "datum.of == 'peak' && datum.low_kpa != null"}],
            "mark": {"type": "area", "color": WATER2, "opacity": 0.45},
            "encoding": {"x": NORMAL, "y": SHEAR | {"field": "low_kpa"}, "y2": {"field": "high_kpa"}, "order": order},
        },
        {
            "data": named("truth"),
            "mark": {"type": "line", "strokeWidth": 1.5, "strokeDash": [1, 3], "color": INK},
            "encoding": {"x": NORMAL, "y": SHEAR, "order": order},
        },
        {
            "data": named("envelope"),
            "mark": {"type": "line", "strokeWidth": 2},
            "encoding": {
                "x": NORMAL,
                "y": SHEAR,
                "order": order,
                "color": kind,
                "strokeDash": {
                    "condition": {"test": "datum.of == 'tail'", "value": [5, 4]},
                    "value": [1, 0],
                },
            },
        },
        {
            "data": named("tails"),
            "mark": {"type": "point", "size": 60, "strokeWidth": 1.8, "color": INK2},
            "encoding": {"x": NORMAL, "y": SHEAR},
        },
        {
            "data": named("peaks"),
            "mark": {"type": "point", "filled": True, "size": 90, "opacity": 1},
            "encoding": {
                "x": NORMAL,
                "y": SHEAR,
                "shape": {
                    "field": "state",
                    "type": "nominal",
                    "scale": {"domain": ["peak", "so far", "left out"], "range": ["circle", "triangle", "cross"]},
                },
                "color": {
                    "field": "state",
                    "type": "nominal",
                    "scale": {"domain": ["peak", "so far", "left out"], "range": [INK, CLAY, INK2]},
                },
            },
        },
        *lettered(
            {
                "data": named("peaks"),
                "mark": {"type": "text", "dx": -10, "dy": -10, "fontSize": 13, "fontWeight": 600, "color": INK},
                "encoding": {"x": NORMAL, "y": SHEAR, "text": {"field": "label"}},
            }
        ),
        *lettered(
            {
                "data": named("said"),
                "mark": {"type": "text", "align": "left", "dx": 6, "fontSize": 13, "fontWeight": 600},
                "encoding": {"x": NORMAL, "y": SHEAR, "text": {"field": "label"}, "color": kind},
            }
        ),
    ]


FIGURE = Figure(
    title="Shear stress and opening against travel, and the envelope",
    layers=_stress,
    columns={
        "curves": (
            ("stage", "stage"),
            ("travel_mm", "travel, mm"),
            ("shear_kpa", "shear stress, kPa"),
            ("normal_kpa", "normal stress, kPa"),
            ("ratio", "τ/σ"),
            ("vertical_mm", "vertical, mm down"),
        ),
        "peaks": (("stage", "stage"), ("normal_kpa", "normal stress, kPa"), ("shear_kpa", "peak, kPa")),
        "settlement": (("stage", "stage"), ("minutes", "time, min"), ("settlement_mm", "settlement, mm")),
    },
    height=200,
    below=(
        Figure(title="Opening", layers=_opening, columns={}, height=105),
        Figure(title="Envelope", layers=_envelope, columns={}, height=215),
    ),
)
