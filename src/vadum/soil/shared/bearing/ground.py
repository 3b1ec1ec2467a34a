"""The virtual ground under a plunger: a known ratio, a disturbed start, and readings with a gauge's resolution."""

import math
import random
from datetime import datetime, timedelta
from typing import NamedTuple

from vadum.soil.shared.bearing.record import CalledRow
from vadum.soil.shared.bearing.school import BearingSchool

STEEP_MM = 0.06  # how gradually a disturbed surface takes the load


class Ground(NamedTuple):
    """`F = a x / (1 + (x / bend)^m)^(1/m)`, x counted from where the disturbed surface is pushed together."""

    a_kn_mm: float
    bend_mm: float
    power: float
    loose_mm: float

    def effective_mm(self, penetration_mm: float) -> float:
        """Penetration into sound ground, mm: it follows the plunger once the loose skin is closed."""
        if self.loose_mm <= 0:
            return penetration_mm
        w = STEEP_MM + 0.25 * self.loose_mm

        def soft(u: float) -> float:
            return w * (u / w if u / w > 40 else math.log1p(math.exp(u / w)))

        return max(0.0, soft(penetration_mm - self.loose_mm) - soft(-self.loose_mm))

    def sound_kn(self, x_mm: float) -> float:
        """Force in sound ground, kN, at a true penetration in mm."""
        return self.a_kn_mm * x_mm / (1 + (x_mm / self.bend_mm) ** self.power) ** (1 / self.power) if x_mm > 0 else 0.0

    def force_kn(self, penetration_mm: float) -> float:
        """Force on the plunger, kN, at a penetration counted from the seating."""
        return self.sound_kn(self.effective_mm(penetration_mm))


def ground_of(percent: float, reference_kn: float, at_mm: float, bend_mm: float, loose_mm: float) -> Ground:
    """Ground whose ratio at a penetration is `percent` of the reference there.

    >>> round(ground_of(40, 13.2, 2.5, 2.6, 0.0).force_kn(2.5), 6)
    5.28
    """
    power = 2.5
    share = at_mm / (1 + (at_mm / bend_mm) ** power) ** (1 / power)
    return Ground(percent / 100 * reference_kn / share, bend_mm, power, loose_mm)


def called_rows(
    ground: Ground,
    school: BearingSchool,
    factor_n_div: float,
    seated_div: float,
    start: datetime,
    dice: random.Random,
    *,
    pace: float = 1.0,
    half_div: bool = True,
    missed: tuple[int, ...] = (),
    upto: int | None = None,
    lifts_kn: float | None = None,
) -> tuple[CalledRow, ...]:
    """The readings of a push as a person calls and writes them: to half a division, a second or so early or late."""
    rows = []
    step = 0.5 if half_div else 1.0
    for i, at_mm in enumerate(school.called_mm[:upto]):
        seconds = 60 * at_mm / (school.rate_mm_min * pace)
        at = start + timedelta(seconds=round(seconds + dice.uniform(-0.6, 0.6), 1) if i else 0)
        if i in missed:
            rows.append(CalledRow(missed="missed", read_at=at))
            continue
        force = ground.force_kn(at_mm)
        if lifts_kn is not None:
            force = min(force, lifts_kn)
        divisions = seated_div + 1000 * force / factor_n_div + (dice.gauss(0, 0.12) if i else 0.0)
        rows.append(CalledRow(ring_div=max(0.0, round(divisions / step) * step), read_at=at))
    return tuple(rows)
