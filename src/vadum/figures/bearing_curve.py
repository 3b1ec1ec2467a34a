"""Force against penetration: readings, the standard curve, the zero and what is read off; both bearing ratios."""

from typing import Any

from vadum.figures.theme import CLAY, INK, INK2, PAPER, WATER, WATER2, Figure, lettered, named

ENDS = ["top end", "bottom end", "spot"]
TONE = {"field": "end", "type": "nominal", "scale": {"domain": ENDS, "range": [INK, WATER, INK]}}
SHAPE = {"field": "end", "type": "nominal", "scale": {"domain": ENDS, "range": ["circle", "square", "circle"]}}
# The bottom end's labels keep clear of the top end's.
LEFT_OR_RIGHT = "datum.end === 'bottom end' ? 24 : -22"
ABOVE_OR_BELOW = "datum.end === 'bottom end' ? 16 : -12"
STACKED = "datum.end === 'bottom end' ? -26 : -9"
Y: dict[str, Any] = {
    "field": "force_kn",
    "type": "quantitative",
    "title": "force, kN",
    "scale": {"zero": True, "nice": True},
    "axis": {"tickCount": 5},
}


def layers(school: Any) -> list[dict[str, Any]]:
    """The picture for a school: its penetrations are the axis, so that it grows without moving."""
    x = {
        "field": "penetration_mm",
        "type": "quantitative",
        "title": "penetration, mm",
        "scale": {"domain": [0, school.called_mm[-1]], "nice": False, "padding": 8},
        "axis": {"tickCount": 8},
    }
    dashed = {"strokeDash": [5, 4], "strokeWidth": 1.5}
    places = [{"penetration_mm": at, "label": f"{at:g}"} for at in (school.first_mm, school.second_mm)]
    return [
        {
            "data": {"values": places},
            "mark": {"type": "rule", "color": WATER2, "strokeDash": [3, 4]},
            "encoding": {"x": x},
        },
        {
            "data": named("standard"),
            "mark": {"type": "line", "color": INK2, "strokeDash": [2, 4], "strokeWidth": 1.3},
            "encoding": {"x": x, "y": Y},
        },
        {
            "data": named("standard"),
            "mark": {"type": "text", "align": "left", "dx": 6, "dy": 4, "color": INK2, "fontSize": 12},
            "encoding": {"x": x, "y": Y, "text": {"field": "label"}},
        },
        {
            "data": named("truth"),
            "mark": {"type": "line", "color": WATER, "strokeWidth": 7, "opacity": 0.28, "strokeCap": "round"},
            "encoding": {"x": x, "y": Y, "detail": {"field": "end", "type": "nominal"}},
        },
        *lettered(
            {
                "data": named("truth"),
                "mark": {"type": "text", "align": "left", "dx": 4, "dy": 18, "color": WATER, "fontWeight": 600},
                "encoding": {"x": x, "y": Y, "text": {"field": "label"}},
            }
        ),
        {
            "data": named("tangents"),
            "mark": {"type": "line", "clip": True, "color": CLAY, **dashed},
            "encoding": {
                "x": x,
                "y": Y,
                "order": {"field": "order"},
                "detail": {"field": "end", "type": "nominal"},
            },
        },
        {
            "data": named("readings"),
            "mark": {"type": "line", "strokeWidth": 2},
            "encoding": {"x": x, "y": Y, "color": TONE},
        },
        {
            "data": named("readings"),
            "mark": {"type": "point", "size": 34, "fill": PAPER, "opacity": 1, "strokeWidth": 1.6},
            "encoding": {
                "x": x,
                "y": Y,
                "color": TONE,
                "shape": SHAPE,
            },
        },
        {
            "data": named("marks"),
            "mark": {"type": "rule", "color": CLAY, "strokeDash": [4, 3], "strokeWidth": 1.3},
            "encoding": {"x": x, "y": Y, "y2": {"field": "zero_kn"}},
        },
        *lettered(
            {
                "data": named("marks"),
                "mark": {
                    "type": "text",
                    "dx": {"expr": LEFT_OR_RIGHT},
                    "dy": {"expr": ABOVE_OR_BELOW},
                    "color": CLAY,
                    "fontWeight": 600,
                    "fontSize": 13,
                },
                "encoding": {"x": x, "y": Y, "text": {"field": "label"}},
            }
        ),
        *lettered(
            {
                "data": named("ends"),
                "mark": {
                    "type": "text",
                    "align": {"expr": f"datum.penetration_mm > {0.85 * school.called_mm[-1]} ? 'right' : 'left'"},
                    "dx": {"expr": f"datum.penetration_mm > {0.85 * school.called_mm[-1]} ? 4 : 9"},
                    "dy": {"expr": ABOVE_OR_BELOW},
                    "fontWeight": 600,
                },
                "encoding": {"x": x, "y": Y, "text": {"field": "label"}, "color": TONE},
            }
        ),
        {
            "data": named("handles"),
            "mark": {"type": "point", "size": 170, "fill": CLAY, "strokeWidth": 2, "opacity": 1, "cursor": "ew-resize"},
            "encoding": {"x": x | {"field": "at"}, "y": Y | {"field": "high"}, "color": TONE, "shape": SHAPE},
        },
        *lettered(
            {
                "data": named("handles"),
                "mark": {
                    "type": "text",
                    "align": "left",
                    "dx": 12,
                    "dy": {"expr": STACKED},
                    "color": CLAY,
                    "fontWeight": 600,
                },
                "encoding": {"x": x | {"field": "at"}, "y": Y | {"field": "high"}, "text": {"field": "label"}},
            }
        ),
    ]


FIGURE = Figure(
    title="Force against penetration",
    layers=layers,
    columns={
        "readings": (
            ("end", "end"),
            ("penetration_mm", "penetration, mm"),
            ("ring_div", "ring, div"),
            ("force_kn", "force, kN"),
        ),
        "handles": (("end", "end"), ("at", "zero, mm"), ("by", "by")),
    },
)
