"""A virtual ground under a plate: how far it sinks under a stress, how it creeps while that is held, how it comes
back."""

import math
import random
from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import NamedTuple

from vadum.soil.contract.numerics import plain
from vadum.soil.shared.plate.record import GAUGES, GaugeReading

LN10 = math.log(10)


class Ground(NamedTuple):
    """A plate's ground: `soft_mm` a MN/m² at first and `bends` mm a (MN/m²)² more, up to `ultimate` MN/m², beyond which
    it gives way by `gives_mm` a MN/m² (0: it never does); the share of a settlement that stays when the load goes;
    `again_mm` a MN/m² on reloading; its creep in mm a log cycle of time at `greatest` MN/m²; its tilt as a share."""

    soft_mm: float
    bends_mm: float
    stays_ratio: float
    again_mm: float
    creep_mm: float
    greatest: float
    tilts_ratio: float = 0.02
    ultimate: float = 1e9
    gives_mm: float = 0.0

    def first_mm(self, sigma: float) -> float:
        """Settlement of a first loading at rest, mm, at a stress in MN/m²."""
        sank = self.soft_mm * sigma + self.bends_mm * sigma * sigma
        return sank + max(0.0, sigma - self.ultimate) * self.gives_mm

    def back_mm(self, sigma: float, top: float) -> float:
        """Settlement that is left on unloading to a stress from the greatest, both MN/m²: it comes back the faster the
        less is left."""
        whole = self.first_mm(top)
        gone = (1 - self.stays_ratio) * whole
        return whole - gone * (1 - max(0.0, sigma) / top) ** 1.4 if top > 0 else 0.0

    def again_at_mm(self, sigma: float, down: float, top: float) -> float:
        """Settlement of the second loading, mm, from the stress `down` that it began at, after `top`, all MN/m²."""
        return self.back_mm(down, top) + self.again_mm * (sigma - down)

    def creeps_mm(self, sigma: float) -> float:
        """Creep at a stress in MN/m², mm a log cycle of time."""
        return self.creep_mm * max(0.0, sigma) / self.greatest


def held_readings(
    at_rest_mm: float,
    creep_mm: float,
    times: Sequence[float],
    gauges: int,
    tilts: float,
    dice: random.Random,
    began: datetime | None = None,
) -> tuple[GaugeReading, ...]:
    """Readings of a held step: each gauge creeps towards what it shows at the last of the times.

    Parameters: settlement at the last time and creep a log cycle in mm, `times` in min above 0; `tilts` how much more
        the first gauge shows, a share.
    """
    rows = []
    for t in times:
        mean = at_rest_mm - creep_mm * math.log10(times[-1] / t)
        shown = {}
        for i in range(gauges):
            lean = 1 + tilts * math.cos(2 * math.pi * i / gauges) if gauges > 1 else 1.0
            shown[GAUGES[i]] = round(mean * lean + (dice.gauss(0, 0.002) if mean else 0.0), 3)
        moment = began + timedelta(minutes=t) if began else None
        rows.append(GaugeReading(**shown, elapsed_min=None if began else round(t, 4), read_at=moment))
    return tuple(rows)


def rest_times(creep_mm: float, limit_mm_min: float, usual: Sequence[float], then_every: float) -> list[float]:
    """The reading times of a step that is left as soon as its rate has fallen to a limit.

    Parameters: creep in mm a log cycle; limit in mm/min; the school's times and pace in min.
    """
    times: list[float] = []
    queue = list(usual)
    while len(times) < 400:
        t = queue.pop(0) if queue else times[-1] + then_every
        before, times = times, [*times, t]
        if not before:
            continue
        rate = creep_mm * math.log10(t / before[-1]) / (t - before[-1])
        if rate < 0.6 * limit_mm_min:
            break
    return times


def words(value: float) -> str:
    """A figure as an instrument's setting says it."""
    return plain(value, 7)
