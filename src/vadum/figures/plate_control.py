"""Plates of a job: ratio against modulus with the job's corner, then against bearing ratio, compaction and chainage."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, WATER, WATER3, Figure, lettered, named

TONE = {
    "field": "held",
    "type": "nominal",
    "scale": {"domain": ["held", "not held", "no limit"], "range": [WATER, CLAY, INK]},
}
SHAPE = {
    "field": "held",
    "type": "nominal",
    "scale": {"domain": ["held", "not held", "no limit"], "range": ["circle", "triangle-up", "square"]},
}
EV2: dict[str, Any] = {
    "field": "ev2",
    "type": "quantitative",
    "title": "Ev2, MN/m²",
    "scale": {"zero": True, "nice": True},
}


def _points(x: dict[str, Any], y: dict[str, Any], there: str) -> list[dict[str, Any]]:
    some = [{"filter": f"isValid(datum.{there})"}]
    return [
        {
            "data": named("plates"),
            "transform": some,
            "mark": {"type": "point", "filled": True, "size": 90, "opacity": 1},
            "encoding": {"x": x, "y": y, "color": TONE, "shape": SHAPE},
        },
        *lettered(
            {
                "data": named("plates"),
                "transform": some,
                "mark": {"type": "text", "align": "left", "dx": 9, "dy": -3, "color": INK2},
                "encoding": {"x": x, "y": y, "text": {"field": "code"}},
            }
        ),
    ]


def corner(school: Any) -> list[dict[str, Any]]:
    """The ratio against the modulus, in the job's corner or out of it."""
    ratio = {"field": "ratio", "type": "quantitative", "title": "Ev2 / Ev1", "scale": {"zero": True, "nice": True}}
    return [
        {
            "data": named("corner"),
            "transform": [{"filter": "isValid(datum.least) && isValid(datum.most)"}, {"calculate": "0", "as": "zero"}],
            "mark": {"type": "rect", "color": WATER3},
            "encoding": {
                "x": EV2 | {"field": "least"},
                "x2": {"value": "width"},
                "y": ratio | {"field": "zero"},
                "y2": {"field": "most"},
            },
        },
        *_points(EV2, ratio, "ratio"),
    ]


def against_bearing(school: Any) -> list[dict[str, Any]]:
    """The modulus against the bearing ratio of the same place."""
    bearing = {"field": "bearing", "type": "quantitative", "title": "bearing ratio, %", "scale": {"zero": True}}
    return _points(bearing, EV2, "bearing")


def against_compaction(school: Any) -> list[dict[str, Any]]:
    """The modulus against the degree of compaction."""
    dense = {
        "field": "compaction",
        "type": "quantitative",
        "title": "degree of compaction, %",
        "scale": {"zero": False, "nice": True},
    }
    return _points(dense, EV2, "compaction")


def along(school: Any) -> list[dict[str, Any]]:
    """The modulus along the chainage."""
    chainage = {
        "field": "chainage_m",
        "type": "quantitative",
        "title": "chainage, m",
        "scale": {"zero": False, "nice": True},
    }
    return _points(chainage, EV2, "chainage_m")


CONTROL = Figure(
    title="Ratio of the moduli against the second modulus",
    layers=corner,
    columns={"plates": (("code", "plate"), ("layer", "layer"), ("ev2", "Ev2, MN/m²"), ("ratio", "Ev2/Ev1"))},
    height=260,
)
ALONG = Figure(title="Second modulus along the chainage", layers=along, columns={}, height=170)
BEARING = Figure(title="Second modulus against bearing ratio", layers=against_bearing, columns={}, height=170)
COMPACTION = Figure(title="Second modulus against compaction", layers=against_compaction, columns={}, height=170)
PICTURES = {"corner": CONTROL, "along": ALONG, "bearing": BEARING, "compaction": COMPACTION}
