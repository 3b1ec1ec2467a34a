"""Direct shear: stress and opening against the travel for all stages, and the envelope at equal scales."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, WATER, WATER2, Figure, lettered, named

WIDE = {"minExtent": 34}  # the pictures stand above each other: their axes begin at one place
TRAVEL = {"field": "travel_mm", "type": "quantitative", "title": "travel, mm", "scale": {"domainMin": 0}}
SHEAR = {
    "field": "shear_kpa",
    "type": "quantitative",
    "title": "shear stress, kPa",
    "scale": {"domainMin": 0},
    "axis": WIDE,
}
DOWN = {
    "field": "vertical_mm",
    "type": "quantitative",
    "title": "up is opening, mm",
    "scale": {"reverse": True, "zero": True},
    "axis": WIDE,
}
NORMAL = {"field": "normal_kpa", "type": "quantitative", "title": "normal stress, kPa", "scale": {"domainMin": 0}}
ORDER = {"field": "travel_mm"}
STAGE = {"field": "stage", "type": "nominal"}
# The stage in hand is dark, the earlier ones pale; when all are done none is pale.
DARK = {"condition": {"test": "datum.now", "value": 1}, "value": 0.42}


def _curve(y: dict[str, Any], x: dict[str, Any] = TRAVEL) -> list[dict[str, Any]]:
    return [
        {
            "data": named("curves"),
            "mark": {"type": "line", "strokeWidth": 2.2, "color": WATER},
            "encoding": {"x": x, "y": y, "detail": STAGE, "order": ORDER, "opacity": DARK},
        },
        {
            "data": named("curves"),
            "transform": [{"filter": "datum.few"}],
            "mark": {"type": "point", "filled": True, "size": 22, "color": WATER},
            "encoding": {"x": x, "y": y, "opacity": DARK},
        },
    ]


def _stress(school: Any) -> list[dict[str, Any]]:
    return [
        *_curve(SHEAR, TRAVEL | {"axis": {"title": None}}),
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
                "data": named("ends"),
                "mark": {"type": "text", "align": "right", "dy": -9, "fontSize": 12, "color": INK2},
                "encoding": {"x": TRAVEL, "y": SHEAR, "text": {"field": "words"}},
            }
        ),
    ]


def _opening(school: Any) -> list[dict[str, Any]]:
    return _curve(DOWN)


def _named_line(which: str, place: dict[str, Any], tone: dict[str, Any]) -> list[dict[str, Any]]:
    """A line's angle written beside it: above the peaks' line, below the tails'."""
    return lettered(
        {
            "data": named("said"),
            "transform": [{"filter": which}],
            "mark": {"type": "text", "fontSize": 13, "fontWeight": 600, **place},
            "encoding": {"x": NORMAL, "y": SHEAR, "text": {"field": "label"}, "color": tone},
        }
    )


def _envelope(school: Any) -> list[dict[str, Any]]:
    """The points of peak and tail with their lines, and the stage that comes next."""
    kind = {
        "field": "of",
        "type": "nominal",
        "scale": {"domain": ["peak", "about", "tail"], "range": [WATER, WATER, INK2]},
    }
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
                    "condition": {"test": "datum.of != 'peak'", "value": [5, 4]},
                    "value": [1, 0],
                },
            },
        },
        {
            "data": named("expected"),
            "mark": {"type": "point", "size": 110, "strokeWidth": 1.8, "strokeDash": [2, 2], "color": WATER},
            "encoding": {"x": NORMAL, "y": SHEAR},
        },
        *lettered(
            {
                "data": named("expected"),
                "mark": {"type": "text", "align": "right", "dx": -10, "dy": -6, "color": WATER, "fontWeight": 600},
                "encoding": {"x": NORMAL, "y": SHEAR, "text": {"field": "label"}},
            }
        ),
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
        *_named_line("datum.of != 'tail'", {"align": "right", "dx": -8, "dy": -12}, kind),
        *_named_line("datum.of == 'tail'", {"align": "left", "dx": 6, "dy": 14}, kind),
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
    height=150,
    below=(
        Figure(title="Opening", layers=_opening, columns={}, height=80),
        Figure(title="Envelope", layers=_envelope, columns={}, height=165),
    ),
)
