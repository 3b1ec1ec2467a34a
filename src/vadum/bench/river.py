"""The river: a lane per run, hands-on moments as stones, waiting as water, laid out in pixels around now."""

from datetime import datetime, timedelta
from typing import Literal, NamedTuple

from vadum.bench.moments import Moment
from vadum.soil.contract.times import local

Zoom = Literal["hour", "day", "six weeks"]

# zoom: time before now, time after now, between ticks, format of a tick
ZOOMS: dict[str, tuple[timedelta, timedelta, timedelta, str]] = {
    "hour": (timedelta(minutes=20), timedelta(minutes=40), timedelta(minutes=5), "%H:%M"),
    "day": (timedelta(hours=7), timedelta(hours=17), timedelta(hours=2), "%H:%M"),
    "six weeks": (timedelta(days=14), timedelta(days=28), timedelta(days=7), "%d %b"),
}
LEFT, WIDTH, LANE, TOP = 190, 1240, 48, 26
LEAST_STONE = 20.0


class Stone(NamedTuple):
    """A hands-on moment: centre and width in px, its word, how it stands."""

    x: float
    width: float
    label: str
    state: Literal["done", "now", "ahead", "late", "clash"]
    title: str


class Lane(NamedTuple):
    """One run's way down the river."""

    code: str
    title: str
    words: str
    y: float
    water: tuple[float, float] | None
    stones: tuple[Stone, ...]
    ticks: tuple[float, ...]


class River(NamedTuple):
    """The whole picture; `pixels_per_second` lets the page move it on without asking."""

    zoom: str
    lanes: tuple[Lane, ...]
    ticks: tuple[tuple[float, str], ...]
    now_x: float
    height: float
    pixels_per_second: float
    hidden: int


class Flow(NamedTuple):
    """What a run brings to the river."""

    code: str
    title: str
    words: str
    started_at: datetime
    touched: tuple[datetime, ...]
    moments: tuple[Moment, ...]


def _ticks(now: datetime, start: datetime, end: datetime, every: timedelta, style: str) -> list[tuple[datetime, str]]:
    midnight = now.replace(hour=0, minute=0, second=0, microsecond=0)
    at = midnight + every * ((start - midnight) // every + 1)
    found = []
    while at < end:
        here = local(at, now)
        if every >= timedelta(days=1):  # a day begins at its own midnight, also after the clocks were changed
            at = here = local(at + timedelta(hours=12), now).replace(hour=0, minute=0)
        found.append((at, here.strftime(style)))
        at += every
    return found


def river(flows: list[Flow], now: datetime, zoom: str, clashing: set[str], most: int = 6) -> River:
    """Lay the flows out. Lanes keep their order; beyond `most` they are counted as hidden."""
    before, after, every, style = ZOOMS[zoom]
    start, end = now - before, now + after
    scale = (WIDTH - LEFT) / (end - start).total_seconds()

    def x(at: datetime) -> float:
        return round(LEFT + (at - start).total_seconds() * scale, 1)

    lanes = []
    for row, flow in enumerate(flows[:most]):
        y = TOP + row * LANE + LANE / 2
        stones = _past_stones(flow, start, now, x, scale)
        last = now
        first_now = True
        for moment in flow.moments:
            begin, finish = moment.busy(now)
            if begin > end:
                last = end
                continue
            state: Literal["now", "ahead", "late", "clash"] = "ahead"
            if moment.due.at is None or begin <= now < moment.due.at:
                state = "now"  # free hands, or hands that are at it already
            elif moment.due.at <= now:
                state = "late"
            elif f"{flow.code}{moment.due.at.isoformat()}" in clashing:
                state = "clash"
            if begin < start:
                begin, finish = start, start + timedelta(seconds=LEAST_STONE / scale)
            width = max((finish - begin).total_seconds() * scale, LEAST_STONE)
            if first_now or state != "now":
                word = moment.due.label or moment.due.what
                stones.append(Stone(round(x(begin) + width / 2, 1), round(width, 1), word, state, moment.due.what))
            first_now = False
            last = max(last, finish)
        begin_x, end_x = max(x(flow.started_at), LEFT), min(x(last), WIDTH)
        water = (begin_x, end_x) if end_x > begin_x and flow.started_at < end else None
        ticks = tuple(
            x(m.due.at) for m in flow.moments if m.due.kind == "reading" and m.due.at and start <= m.due.at < end
        )
        lanes.append(Lane(flow.code, flow.title, flow.words, y, water, tuple(_readable(stones)), ticks))
    scale_ticks = tuple((x(at), word) for at, word in _ticks(now, start, end, every, style))
    height = TOP + max(len(lanes), 3) * LANE + 6
    return River(zoom, tuple(lanes), scale_ticks, x(now), height, scale, max(0, len(flows) - most))


def _readable(stones: list[Stone]) -> list[Stone]:
    """Stones ahead that would touch become one, and words that would run into each other are left to its title."""
    found: list[Stone] = []
    for stone in stones:
        last = found[-1] if found else None
        touching = last and last.state == stone.state == "ahead" and stone.x - last.x < (stone.width + last.width) / 2
        if last and touching:
            left, right = last.x - last.width / 2, stone.x + stone.width / 2
            found[-1] = Stone(
                round((left + right) / 2, 1),
                round(right - left, 1),
                last.label,
                "ahead",
                f"{last.title}; {stone.title}",
            )
            continue
        near = next((s for s in reversed(found) if s.label), None)
        room = 3.4 * (len(stone.label) + len(near.label)) + 8 if near else 0
        crowded = near is not None and bool(stone.label) and stone.x - near.x < room
        found.append(stone._replace(label="") if crowded else stone)
    return found


def _past_stones(flow: Flow, start: datetime, now: datetime, x: object, scale: float) -> list[Stone]:
    """Readings close together on the picture are one stone."""
    stones: list[Stone] = []
    groups: list[list[datetime]] = []
    for at in flow.touched:
        if not start <= at <= now:
            continue
        if groups and (at - groups[-1][-1]).total_seconds() * scale < LEAST_STONE:
            groups[-1].append(at)
        else:
            groups.append([at])
    for group in groups:
        left, right = x(group[0]), x(group[-1])  # type: ignore[operator]
        width = max(right - left, LEAST_STONE)
        many = f"{len(group)} readings" if len(group) > 1 else "1 reading"
        stones.append(Stone(round((left + right) / 2, 1), round(width, 1), "", "done", f"{group[0]:%H:%M}, {many}"))
    return stones
