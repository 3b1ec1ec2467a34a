"""A tin's tares as a small chart, laid out in pixels."""

from typing import NamedTuple

from vadum.tape.kit import State

WIDTH, HEIGHT, PAD = 460, 150, 26


class TareChart(NamedTuple):
    """Points with their labels, and the range drawn."""

    points: tuple[tuple[float, float, str, str], ...]
    low: str
    high: str


def tare_chart(state: State) -> TareChart | None:
    """Tares in their order; None below two."""
    tares = [(event.at, data["mass_g"]) for event, data in state.events if event.kind == "tare"]
    if len(tares) < 2:
        return None
    masses = [m for _, m in tares]
    # A drift of hundredths must show as such and not fill the picture: never less than 0.1 g high.
    middle = (max(masses) + min(masses)) / 2
    half = max((max(masses) - min(masses)) / 2 * 1.3, 0.05)
    low, high = middle - half, middle + half
    step = (WIDTH - 2 * PAD - 70) / (len(tares) - 1)
    points = tuple(
        (
            round(PAD + 60 + i * step, 1),
            round(HEIGHT - PAD - (mass - low) / (high - low) * (HEIGHT - 2 * PAD), 1),
            f"{mass:.2f}",
            f"{at:%d %b}",
        )
        for i, (at, mass) in enumerate(tares)
    )
    return TareChart(points, f"{low:.2f}", f"{high:.2f}")
