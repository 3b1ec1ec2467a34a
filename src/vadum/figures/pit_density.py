"""What filled the hole, by volume: stones and fine earth where it was separated, else its water."""

from typing import Any

from vadum.figures.theme import WATER2, Figure, stacked_bar

TONES = {"stones": "#8b7d6b", "fine earth": "#dcc9a6", "solids and air": "#dcc9a6", "water": WATER2}


def _layers(school: Any) -> list[dict[str, Any]]:
    return stacked_bar("parts", "part", TONES)


FIGURE = Figure(
    title="What filled the hole, by volume",
    layers=_layers,
    columns={"parts": (("part", "part"), ("from", "from, %"), ("to", "to, %"))},
    height=140,
)
