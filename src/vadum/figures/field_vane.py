"""The picture of field vane."""

from typing import Any

from vadum.figures.theme import Figure


def _layers(school: Any) -> list[dict[str, Any]]:
    return []


FIGURE = Figure(title="TO FILL", layers=_layers, columns={"example": (("x", "TO FILL"),)}, height=200)
