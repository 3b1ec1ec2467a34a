"""The grading by sieves, inside its specification where there is one."""

from typing import Any

from vadum.figures.grading import classes, curve, envelope
from vadum.figures.theme import Figure

LOW, HIGH = 0.02, 100.0


def _layers(school: Any) -> list[dict[str, Any]]:
    return [*classes(school.boundaries, LOW, HIGH), *envelope(LOW, HIGH), *curve(LOW, HIGH)]


FIGURE = Figure(
    title="Grading curve",
    layers=_layers,
    columns={
        "stack": (
            ("aperture_mm", "aperture, mm"),
            ("mass_retained_g", "retained, g"),
            ("passing_percent", "passing, %"),
        ),
        "envelope": (
            ("size_mm", "aperture, mm"),
            ("least", "at least, %"),
            ("most", "at most, %"),
            ("passing_percent", "passing, %"),
            ("verdict", "verdict"),
        ),
    },
)
