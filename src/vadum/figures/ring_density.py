"""What fills the ring: solids, water and air by volume."""

from typing import Any

from vadum.figures.theme import Figure, stacked_bar


def _layers(school: Any) -> list[dict[str, Any]]:
    return stacked_bar("phases", "phase", {"solids": "#c8b493", "water": "#a9cdd0", "air": "#fffdf7"})


FIGURE = Figure(
    title="Solids, water and air by volume",
    layers=_layers,
    columns={
        "phases": (("phase", "phase"), ("from", "from, %"), ("to", "to, %")),
        "headspaces": (("place", "place"), ("headspace_mm", "headspace, mm"), ("end", "end")),
    },
    height=140,
)
