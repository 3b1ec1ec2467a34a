"""The consolidation as a desk draws it: by root and by logarithm of time, with its constructions in picture units."""

import math
from collections.abc import Callable, Sequence
from typing import Any

from vadum.soil.contract.times import span
from vadum.soil.shared.consolidation import TAYLOR_RATIO, LogTime, Moved, RootTime

WIDE, HIGH = 300.0, 120.0
MOST_DRAWN = 240
TICKS = 6


def _line(read: Sequence[Moved], x_of: Callable[[float], float], most_x: float, most_y: float) -> str:
    step = max(1, len(read) // MOST_DRAWN)
    return " ".join(f"{WIDE * x_of(r.minutes) / most_x:.1f},{HIGH * r.moved / most_y:.1f}" for r in read[::step])


def _construction(root: RootTime, most_x: float, most_y: float) -> dict[str, Any]:
    x90 = math.sqrt(root.t90_min)
    foot, far = min(most_x, (most_y - root.start) / root.slope), min(1.25 * x90, most_x)
    start, slope = root.start, root.slope

    def pair(x: float, y: float) -> str:
        return f"{WIDE * x / most_x:.1f},{HIGH * y / most_y:.1f}"

    return {
        "first": f"{pair(0, start)} {pair(foot, start + slope * foot)}",
        "second": f"{pair(0, start)} {pair(far, start + slope / TAYLOR_RATIO * far)}",
        "x": WIDE * x90 / most_x,
        "y": HIGH * root.at_90 / most_y,
        "end": HIGH * root.at_100 / most_y,
    }


def drawn(
    read: Sequence[Moved],
    root: RootTime | None,
    log: LogTime | None,
    times_min: tuple[float | None, float | None, float | None],
    *,
    what: str,
    unit: str,
    path: str,
    by_hand: bool,
    rate: str,
) -> dict[str, Any] | None:
    """Both pictures of a consolidation; None below two readings.

    Parameters: `read` as (min, movement in `unit`); its constructions; t50, t90 and t100 in min as they are used;
        `path` takes a t90 that a hand has moved.
    Returns: what the template draws.
    Source: ASTM D2435.
    """
    if len(read) < 2:
        return None
    most_y = 1.1 * max(*(r.moved for r in read), 1e-6)
    most_root = math.sqrt(max(r.minutes for r in read)) or 1.0
    timed = [r for r in read if r.minutes > 0]
    low = math.log10(timed[0].minutes) if timed else 0.0
    wide = max(math.log10(timed[-1].minutes) - low, 1e-6) if timed else 1.0
    said = [f"{word} {span(value)}" for word, value in zip(("t50", "t90", "t100"), times_min, strict=True) if value]
    step = max(1, round(most_root / TICKS))
    return {
        "what": what,
        "unit": unit,
        "root": _line(read, math.sqrt, most_root, most_y),
        "construction": _construction(root, most_root, most_y) if root else {},
        "log": _line(timed, lambda t: math.log10(t) - low, wide, most_y),
        "log_at": None
        if log is None
        else {
            "x": WIDE * (math.log10(log.t50_min) - low) / wide,
            "end": HIGH * log.at_100 / most_y,
            "words": f"t50 {span(log.t50_min)}",
        },
        "ticks": [(WIDE * n / most_root, f"{n * n}") for n in range(0, int(most_root) + 1, step)],
        "decades": [
            (WIDE * (d - low) / wide, f"{10.0**d:g}") for d in range(math.ceil(low), math.floor(low + wide) + 1)
        ],
        "most": f"{most_y / 1.1:.3g}",
        "said": ", ".join(said),
        "by_hand": by_hand,
        "rate": rate,
        "path": path,
        "most_root": most_root,
    }
