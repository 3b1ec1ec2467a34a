"""A job's plan drawing and its depth columns, laid out in pixels from coordinates and depths."""

import math
from typing import NamedTuple

from vadum.tape.ground import Place
from vadum.tape.tables import Spot

WIDTH, HEIGHT, MARGIN = 560, 360, 46
COLUMN_HEIGHT = 190
LINE_PX = 14.0


class Mark(NamedTuple):
    """A spot on the plan."""

    spot: Spot
    x: float
    y: float
    left: bool
    note: str = ""


class Plan(NamedTuple):
    """The plan: marks, a scale bar, and the spots without coordinates."""

    marks: tuple[Mark, ...]
    bar_m: float
    bar_px: float
    unplaced: tuple[Spot, ...]


class Cut(NamedTuple):
    """A sample in its column, px from the top; its code stands clear of the code above it."""

    place: Place
    y: float
    height: float
    word_y: float


class DepthColumn(NamedTuple):
    """A spot's depth column."""

    spot: Spot
    cuts: tuple[Cut, ...]
    ticks: tuple[tuple[float, str], ...]


def plan(spots: list[Spot]) -> Plan:
    """North upwards, one scale for both directions."""
    placed = [(s, s.easting_m, s.northing_m) for s in spots if s.easting_m is not None and s.northing_m is not None]
    unplaced = tuple(s for s in spots if s.easting_m is None or s.northing_m is None)
    if not placed:
        return Plan((), 0, 0, unplaced)
    east = [e for _, e, _ in placed]
    north = [n for _, _, n in placed]
    width, height = max(max(east) - min(east), 1.0), max(max(north) - min(north), 1.0)
    scale = min((WIDTH - 2 * MARGIN) / width, (HEIGHT - 2 * MARGIN) / height)
    left = (WIDTH - width * scale) / 2
    top = (HEIGHT - height * scale) / 2
    marks = []
    for spot, easting, northing in placed:
        x = left + (easting - min(east)) * scale
        marks.append(Mark(spot, round(x, 1), round(top + (max(north) - northing) * scale, 1), x > WIDTH * 0.72))
    marks = _noted(marks)
    nice = 10 ** math.floor(math.log10(WIDTH / 4 / scale))
    bar = max(step * nice for step in (1, 2, 5) if step * nice * scale <= WIDTH / 4)
    return Plan(tuple(marks), bar, round(bar * scale, 1), unplaced)


LETTER_PX, LINE_PX = 7.2, 16.0  # of a note as it is drawn, or a little more


def _box(mark: Mark, words: str, down: float) -> tuple[float, float, float, float]:
    """Where words beside a mark lie: left, right, top, bottom."""
    wide = len(words) * LETTER_PX
    begin = mark.x - 12 - wide if mark.left else mark.x + 13
    return begin, begin + wide, mark.y + down - LINE_PX * 0.8, mark.y + down + LINE_PX * 0.2


def _apart(one: tuple[float, float, float, float], other: tuple[float, float, float, float]) -> bool:
    return one[1] <= other[0] or other[1] <= one[0] or one[3] <= other[2] or other[3] <= one[2]


def _noted(marks: list[Mark]) -> list[Mark]:
    """The marks with the notes that have room: a code is always written, a note where it runs into nothing. The whole
    of it is in the mark's title."""
    taken = [_box(m, m.spot.code, 1) for m in marks]
    taken += [(m.x - 9, m.x + 9, m.y - 8, m.y + 8) for m in marks]
    found = []
    for i, mark in enumerate(marks):
        box = _box(mark, mark.spot.note, 15)
        inside = box[0] >= 0 and box[1] <= WIDTH
        room = inside and all(_apart(box, other) for j, other in enumerate(taken) if j not in (i, i + len(marks)))
        if room and mark.spot.note:
            taken.append(box)
        found.append(mark._replace(note=mark.spot.note if room else ""))
    return found


MOST_TICKS = 8


def _step(deepest: float) -> float:
    """Metres between ticks: 1, 2 or 5 times a power of ten, so that no depth makes more of them than can be read.

    >>> _step(2.8), _step(6), _step(30), _step(2e9)
    (0.5, 1.0, 5.0, 500000000.0)
    """
    power = 10.0 ** math.floor(math.log10(deepest / MOST_TICKS))
    return next(n * power for n in (1, 2, 5, 10) if deepest / (n * power) <= MOST_TICKS)


def columns(spots: list[Spot], places: list[Place]) -> list[DepthColumn]:
    """One column per spot, all to one depth scale."""
    depths = [p.sample.depth_bottom_m or p.sample.depth_top_m or 0 for p in places] + [s.depth_m or 0 for s in spots]
    deepest = max([1.0, *depths])
    scale = COLUMN_HEIGHT / deepest
    every = _step(deepest)
    ticks = tuple((round(i * every * scale, 1), f"{i * every:g}") for i in range(int(deepest / every) + 1))
    found = []
    for spot in spots:
        cuts: list[Cut] = []
        for p in sorted(places, key=lambda p: p.sample.depth_top_m or 0.0):
            if p.spot.id != spot.id or p.sample.depth_top_m is None:
                continue
            bottom = p.sample.depth_bottom_m or p.sample.depth_top_m
            height = max((bottom - p.sample.depth_top_m) * scale, 12.0)
            y = p.sample.depth_top_m * scale
            word_y = max(y + height / 2 + 4, cuts[-1].word_y + LINE_PX if cuts else 0.0)
            cuts.append(Cut(p, round(y, 1), round(height, 1), round(word_y, 1)))
        found.append(DepthColumn(spot, tuple(cuts), ticks))
    return found
