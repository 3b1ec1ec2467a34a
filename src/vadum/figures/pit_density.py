"""What filled the hole: stones and fine earth by volume."""

from typing import Any

from vadum.figures.theme import Figure, stacked_bar


def _layers(school: Any) -> list[dict[str, Any]]:
    return stacked_bar("parts", "part", {"stones": "#8b7d6b", "fine earth": "#dcc9a6"})


FIGURE = Figure(
    title="Stones and fine earth by volume",
    layers=_layers,
    columns={"parts": (("part", "part"), ("from", "from, %"), ("to", "to, %"))},
    height=110,
)
