"""Triaxial: the circles of all specimens at equal scales with their tangent and stress paths; deviator and pore
pressure against strain."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, WATER, Figure, lettered, most_at_one_scale, named

WIDE = {"minExtent": 34}  # the pictures stand above each other: their axes begin at one place
# Both axes at one scale, so that a circle is one: the height is what the width leaves.
MOST = most_at_one_scale("circles", least=60)
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
    "axis": WIDE,
}
STRAIN = {"field": "strain_percent", "type": "quantitative", "title": "strain, %"}
BARE = STRAIN | {"axis": {"title": None}}
DEVIATOR = {"field": "deviator_kpa", "type": "quantitative", "title": "deviator q, kPa", "axis": WIDE}
SPECIMEN = {"field": "specimen", "type": "nominal"}
ORDER = {"field": "order"}
DARK = {"condition": {"test": "datum.now", "value": 1}, "value": 0.42}


def _circles(school: Any) -> list[dict[str, Any]]:
    path = {"x": NORMAL | {"field": "s_kpa"}, "y": SHEAR | {"field": "t_kpa"}}
    return [
        {
            "data": named("circles"),
            "mark": {"type": "line", "strokeWidth": 1.8},
            "encoding": {
                "x": NORMAL,
                "y": SHEAR,
                "order": ORDER,
                "detail": [SPECIMEN, {"field": "of", "type": "nominal"}],
                "color": {
                    "field": "of",
                    "type": "nominal",
                    "scale": {"domain": ["effective", "total"], "range": [INK, INK2]},
                },
                "strokeDash": {"condition": {"test": "datum.of == 'total'", "value": [2, 3]}, "value": [1, 0]},
                "opacity": {"condition": {"test": "datum.out", "value": 0.3}, "value": 1},
            },
        },
        {
            "data": named("curves"),
            "mark": {"type": "line", "strokeWidth": 2.4, "color": WATER},
            "encoding": {**path, "detail": SPECIMEN, "order": ORDER, "opacity": DARK},
        },
        {
            "data": named("truth"),
            "mark": {"type": "line", "strokeWidth": 1.5, "strokeDash": [1, 3], "color": INK},
            "encoding": {"x": NORMAL, "y": SHEAR},
        },
        {
            "data": named("tangent"),
            "mark": {"type": "line", "strokeWidth": 2, "strokeDash": [7, 4], "color": WATER, "clip": True},
            "encoding": {"x": NORMAL, "y": SHEAR},
        },
        *lettered(
            {
                "data": named("names"),
                "mark": {"type": "text", "dy": -9, "fontSize": 13, "fontWeight": 600, "color": INK},
                "encoding": {"x": NORMAL, "y": SHEAR, "text": {"field": "label"}},
            }
        ),
        *lettered(
            {
                "data": named("said"),
                "mark": {"type": "text", "align": "right", "dx": -8, "dy": -10, "fontWeight": 600, "color": WATER},
                "encoding": {"x": NORMAL, "y": SHEAR, "text": {"field": "label"}},
            }
        ),
    ]


def _curve(x: dict[str, Any], y: dict[str, Any], tone: str) -> dict[str, Any]:
    return {
        "data": named("curves"),
        "mark": {"type": "line", "strokeWidth": 2.2, "color": tone},
        "encoding": {"x": x, "y": y, "detail": SPECIMEN, "order": ORDER, "opacity": DARK},
    }


def _deviator(school: Any) -> list[dict[str, Any]]:
    return [
        _curve(BARE, DEVIATOR, WATER),
        {
            "data": named("failures"),
            "mark": {"type": "point", "size": 90, "strokeWidth": 2, "color": INK},
            "encoding": {"x": BARE, "y": DEVIATOR},
        },
        *lettered(
            {
                "data": named("ends"),
                "mark": {"type": "text", "align": "right", "dy": -9, "color": INK2},
                "encoding": {"x": BARE, "y": DEVIATOR, "text": {"field": "words"}},
            }
        ),
    ]


def _pore(school: Any) -> list[dict[str, Any]]:
    if "UU" in school.kinds:
        return []  # a quick test measures neither pore pressure nor volume
    title = "volume lost, %" if "CID" in school.kinds and "CIU" not in school.kinds else "pore pressure rise, kPa"
    rise = {"field": "rise_kpa", "type": "quantitative", "title": title, "axis": WIDE}
    return [_curve(STRAIN, rise, CLAY)]


FIGURE = Figure(
    title="Circles with their tangent and stress paths; deviator and pore pressure against strain",
    layers=_circles,
    columns={
        "curves": (
            ("specimen", "specimen"),
            ("strain_percent", "strain, %"),
            ("deviator_kpa", "deviator, kPa"),
            ("rise_kpa", "pore pressure rise in kPa, or volume lost in %"),
            ("s_kpa", "s′, kPa"),
            ("t_kpa", "t, kPa"),
            ("p_kpa", "p′, kPa"),
            ("obliquity", "σ1′/σ3′"),
        ),
        "drained": (("specimen", "specimen"), ("minutes", "time, min"), ("volume_cm3", "water out, cm³")),
    },
    height=200,
    below=(
        Figure(title="Deviator", layers=_deviator, columns={}, height=120),
        Figure(title="Pore pressure", layers=_pore, columns={}, height=80),
    ),
)
