"""The fine end of the grading, by sedimentation."""

from typing import Any

from vadum.figures.grading import Y, classes, curve, points, x_axis
from vadum.figures.theme import INK2, Figure, named

LOW, HIGH = 0.0006, 0.2


def _layers(school: Any) -> list[dict[str, Any]]:
    system = "iso" if school.fines_mm == 0.063 else "astm"
    out = {**points(LOW, HIGH, "readings", "cross", hollow=True)}
    out["transform"] = [{"filter": "datum.state === 'left out'"}]
    words = {
        "data": named("readings"),
        "mark": {"type": "text", "align": "left", "dx": 9, "dy": 9, "color": INK2, "fontSize": 12},
        "encoding": {"x": x_axis(LOW, HIGH), "y": Y, "text": {"field": "label"}},
    }
    return [*classes("iso" if system == "iso" else "astm", LOW, HIGH), *curve(LOW, HIGH, shape="diamond"), out, words]


FIGURE = Figure(
    title="Grading by sedimentation",
    layers=_layers,
    columns={
        "readings": (
            ("elapsed_min", "time, min"),
            ("reading", "reading"),
            ("temperature_c", "temperature, °C"),
            ("size_mm", "size, mm"),
            ("finer_percent", "finer, %"),
            ("state", "state"),
        ),
        "blanks": (("temperature_c", "blank at, °C"), ("correction", "correction")),
    },
    pick="readings",
)
