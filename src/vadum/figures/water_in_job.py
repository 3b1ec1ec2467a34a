"""Conductivities of a job by depth and as a log-normal, and its curves of water against suction."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, WATER, Figure, lettered, named

K: dict[str, Any] = {
    "field": "k",
    "type": "quantitative",
    "title": "conductivity, mm/h",
    "scale": {"type": "log", "nice": True},
    "axis": {"format": "~g", "tickCount": 6},
}
TONE = {
    "field": "state",
    "type": "nominal",
    "scale": {"domain": ["final", "provisional"], "range": [WATER, CLAY]},
}


def _points(y: dict[str, Any]) -> list[dict[str, Any]]:
    return [
        {
            "data": named("conducts"),
            "mark": {"type": "point", "filled": True, "size": 80, "opacity": 1},
            "encoding": {"x": K, "y": y, "color": TONE},
        },
        *lettered(
            {
                "data": named("conducts"),
                "mark": {"type": "text", "align": "left", "dx": 8, "dy": -8, "color": INK2},
                "encoding": {"x": K, "y": y, "text": {"field": "code"}},
            }
        ),
    ]


def by_depth(school: Any) -> list[dict[str, Any]]:
    """Each conductivity at its depth with its standard uncertainty."""
    depth = {
        "field": "depth",
        "type": "quantitative",
        "title": "depth, m",
        "scale": {"reverse": True, "zero": True, "nice": True},
    }
    return [
        {
            "data": named("conducts"),
            "transform": [{"filter": "isValid(datum.low)"}],
            "mark": {"type": "rule", "strokeWidth": 1.6, "color": INK2},
            "encoding": {"x": K | {"field": "low"}, "x2": {"field": "high"}, "y": depth},
        },
        *_points(depth),
    ]


def log_normal(school: Any) -> list[dict[str, Any]]:
    """The conductivities in their order: a straight line where they are log-normal."""
    return _points(
        {
            "field": "normal",
            "type": "quantitative",
            "title": "standard deviations from the mean",
            "scale": {"zero": True, "nice": True},
            "axis": {"format": ".1f", "tickCount": 5},
        }
    )


def curves(school: Any) -> list[dict[str, Any]]:
    """Water against suction of every run."""
    encoding = {
        "x": {
            "field": "suction",
            "type": "quantitative",
            "title": "suction, cm of water",
            "scale": {"type": "log", "nice": False},
            "axis": {"values": [1, 10, 100, 1000, 10000], "format": "~s"},
        },
        "y": {"field": "water", "type": "quantitative", "title": "water, % of the volume", "scale": {"zero": True}},
        "color": {"field": "code", "type": "nominal", "scale": {"range": [WATER, INK, CLAY, INK2]}},
        "order": {"field": "suction"},
    }
    return [
        {
            "data": named("curves"),
            "transform": [{"filter": "datum.beyond" if beyond else "!datum.beyond"}],
            "mark": {"type": "line", "strokeWidth": 2, **({"strokeDash": [5, 4]} if beyond else {})},
            "encoding": encoding,
        }
        for beyond in (False, True)
    ]


PICTURES = {
    "depth": Figure(
        title="Conductivity by depth",
        layers=by_depth,
        columns={"conducts": (("code", "run"), ("depth", "depth, m"), ("k", "conductivity, mm/h"))},
        height=230,
    ),
    "lognormal": Figure(title="Conductivities in their order, log-normal", layers=log_normal, columns={}, height=200),
    "curves": Figure(title="Water against suction, all runs", layers=curves, columns={}, height=230),
}
