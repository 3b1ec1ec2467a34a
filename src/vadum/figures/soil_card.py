"""The soil card's two pictures: the joined grading, and the plasticity chart."""

from typing import Any

from vadum.figures.grading import Y, classes, envelope, points, x_axis
from vadum.figures.plasticity_chart import PLASTICITY as PLASTICITY_OF_A_RUN
from vadum.figures.theme import WATER, Figure, named

LOW, HIGH = 0.0006, 100.0


def _layers(school: Any) -> list[dict[str, Any]]:
    line = {
        "data": named("curve"),
        "mark": {"type": "line", "color": WATER, "strokeWidth": 2.2},
        "encoding": {"x": x_axis(LOW, HIGH), "y": Y, "order": {"field": "size_mm", "type": "quantitative"}},
    }
    return [
        *classes("iso", LOW, HIGH),
        *envelope(LOW, HIGH),
        line,
        points(LOW, HIGH, "sieve", "circle"),
        points(LOW, HIGH, "hydrometer", "diamond", hollow=True),
    ]


GRADING = Figure(title="Grading, sieve and hydrometer joined", layers=_layers, columns={}, height=250)
PLASTICITY = Figure(
    title="Plasticity chart", layers=PLASTICITY_OF_A_RUN.layers, columns=PLASTICITY_OF_A_RUN.columns, height=250
)
