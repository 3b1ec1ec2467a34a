"""From an instrument's samples to load steps: a load that stands, its gauges by the clock and at rest, a topping up.

Nothing is made up."""

from collections import deque
from collections.abc import Mapping
from typing import NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.contract.compare import at_least, at_most
from vadum.soil.contract.numerics import plain

# Laboratory settings: what counts as a load that moves, that stands, and as another load than the one before.
STANDS_S = 2.0
STANDS_SHARE, STANDS_LEAST = 0.006, 0.15
MOVES_SHARE = 0.008  # within the time that a load has to stand
OTHER_SHARE, OTHER_LEAST = 0.03, 0.4
TOPPED_SHARE = 0.004
MOST_KEPT_S = 7200.0


class Kept(NamedTuple):
    """Something for the tape: the path, and the reading or the row that stands there."""

    path: str
    value: Mapping[str, str] | str


class LoadTaker:
    """Goes along with the samples of a load test and says what becomes of them.

    `ladder` calls the load steps, `holding` the gauges while one is held. Samples carry the instrument's own seconds;
    readings say how long after the load stood they were taken by them.
    """

    def __init__(self, ladder: Called, holding: Called | None) -> None:
        self.ladder, self.holding = ladder, holding
        self.step = ladder.rows - 1
        self.stands_at: float | None = None
        self.began_s: float | None = None
        self.taken = holding.rows if holding else 0
        self.rested = False
        self._near: deque[tuple[float, float]] = deque()
        self._gauges: deque[tuple[float, float]] = deque()
        self._moved = True  # what stands when it begins to listen was brought there
        self._lowest = float("inf")
        self._last_min = 0.0

    @property
    def load_channel(self) -> str:
        """The channel that reads the load."""
        return next(iter(self.ladder.channels))

    def follow(self, ladder: Called, holding: Called | None) -> None:
        """What the tape says now: a step that a hand has entered is the one in hand."""
        self.ladder, self.holding = ladder, holding
        if ladder.rows - 1 > self.step:
            self.step, self.began_s, self.stands_at = ladder.rows - 1, None, None
            self.taken = holding.rows if holding else 0
        elif holding is not None and self.step == ladder.rows - 1:
            self.taken = max(self.taken, holding.rows)

    def hear(self, seconds: float, figures: Mapping[str, float]) -> list[Kept]:
        """What one more sample gives for the tape."""
        load = figures.get(self.load_channel)
        if load is None:
            return []
        kept = self._load(seconds, load)
        kept += self._read(seconds, figures)
        return kept

    def _load(self, seconds: float, load: float) -> list[Kept]:
        near = self._near
        near.append((seconds, load))
        while near and seconds - near[0][0] > STANDS_S:
            near.popleft()
        span = seconds - near[0][0]
        low, high = min(v for _, v in near), max(v for _, v in near)
        if span > 0 and (high - low) / max(high, 5.0) > MOVES_SHARE:
            self._moved = True
        if self.stands_at is not None:
            self._lowest = min(self._lowest, load)
        stands = span > 0.6 * STANDS_S and high - low <= max(STANDS_SHARE * high, STANDS_LEAST)
        if not (self._moved and stands) or load <= 0:
            return []
        self._moved = False
        began = near[0][0]
        if self.stands_at is None and self.step >= 0:
            self.stands_at = self._lowest = load  # a hand has entered it: it is followed, and read from the next on
            return []
        if self.stands_at is not None and abs(load - self.stands_at) <= max(OTHER_SHARE * self.stands_at, OTHER_LEAST):
            return self._topped(load)
        self.step, self.stands_at, self.began_s = self.step + 1, load, began
        self.taken, self.rested, self._lowest, self._last_min = 0, False, load, 0.0
        self._gauges.clear()
        return [Kept(f"{self.ladder.key}[{self.step}].{self.ladder.channels[self.load_channel]}", plain(load, 6))]

    def _topped(self, load: float) -> list[Kept]:
        """The load came back to its step after it had fallen."""
        lowest, self._lowest = self._lowest, load
        assert self.stands_at is not None
        if lowest > self.stands_at * (1 - TOPPED_SHARE):
            return []
        field = "from_bar" if self.ladder.channels[self.load_channel] == "pump_bar" else "from_kn"
        return [Kept(f"{self.ladder.key}[{self.step}].top_ups[]", {field: plain(lowest, 5)})]

    def _read(self, seconds: float, figures: Mapping[str, float]) -> list[Kept]:
        """The gauges at the school's times, and when they have come to rest."""
        holding = self.holding
        if self.began_s is None or holding is None or not holding.key.startswith(f"{self.ladder.key}[{self.step}]"):
            return []
        gauges = {field: figures[name] for name, field in holding.channels.items() if name in figures}
        if not gauges:
            return []
        mean = sum(gauges.values()) / len(gauges)
        self._gauges.append((seconds, mean))
        while self._gauges and seconds - self._gauges[0][0] > MOST_KEPT_S:
            self._gauges.popleft()
        minutes = (seconds - self.began_s) / 60
        due = self.taken < len(holding.at) and at_least(minutes, holding.at[self.taken])
        if not due and not self._has_rested(seconds, minutes):
            return []
        self.taken, self._last_min = self.taken + 1, minutes
        row = {field: plain(value, 6) for field, value in gauges.items()} | {holding.time_field: plain(minutes, 6)}
        return [Kept(f"{holding.key}[]", row)]

    def _has_rested(self, seconds: float, minutes: float) -> bool:
        """Whether the samples themselves have just come to rest: once a step, between two of the school's times."""
        hold = self.ladder.hold
        if self.rested or hold is None or hold.most_rate_mm_min is None or self.taken == 0:
            return False
        if not at_least(minutes, hold.least_min) or minutes - self._last_min < hold.over_min:
            return False
        before = next((v for t, v in self._gauges if seconds - t <= 60 * hold.over_min), None)
        if before is None or seconds - self._gauges[0][0] < 60 * hold.over_min:
            return False
        rate = (self._gauges[-1][1] - before) / hold.over_min
        self.rested = at_most(rate, 0.5 * hold.most_rate_mm_min)
        return self.rested
