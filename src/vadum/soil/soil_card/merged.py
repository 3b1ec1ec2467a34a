"""One grading of a sample from its sieves and its hydrometer, with the join checked."""

import math
from typing import NamedTuple

from vadum.soil.contract.compare import at_most
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.verdicts import ruling
from vadum.soil.shared.grading import (
    GradePoint,
    System,
    below,
    coefficient_of_curvature,
    coefficient_of_uniformity,
    extended_to,
    finer_percent,
    ordered,
    shares_percent,
    size_mm,
)
from vadum.soil.soil_card.evidence import Evidence

WATCH_POINTS, REDO_POINTS = 3.0, 5.0  # laboratory setting
LEAST_SLOPE, MOST_SLOPE = 0.25, 2.0  # of the hydrometer's own slope, up to the finest sieve; laboratory setting

LEAST_EXTENDED_MM = 0.04  # how far the curve is carried on to D10; laboratory setting


class Merged(NamedTuple):
    """The joined curve, coarse to fine, with the runs it comes from and the step at the join in points."""

    points: tuple[GradePoint, ...]
    codes: tuple[str, ...]
    step_points: float | None
    join_mm: float | None

    def finer(self, size: float) -> float | None:
        """Percent finer than a size, never extrapolated."""
        return finer_percent(list(self.points), size)

    def size(self, finer: float) -> float | None:
        """The size than which that percentage is finer."""
        return size_mm(list(self.points), finer)

    def part(self, size: float) -> "Merged":
        """The curve of the part that passes a size in mm alone."""
        return self._replace(points=tuple(below(list(self.points), size)))

    def shares(self, system: System) -> dict[str, float | None]:
        """The size classes of a boundary system."""
        return shares_percent(list(self.points), system)

    @property
    def ten_percent(self) -> tuple[float, bool] | None:
        """D10 in mm, and whether the curve was carried on to it: a class must not wait for ever for a finer sieve."""
        found = self.size(10)
        if found is not None:
            return found, False
        found = extended_to(list(self.points), 10.0, LEAST_EXTENDED_MM)
        return (found, True) if found is not None else None

    @property
    def uniformity(self) -> float | None:
        """Cu, where D60 lies within the curve and D10 within it or just beyond."""
        d60, d10 = self.size(60), self.ten_percent
        return coefficient_of_uniformity(d60, d10[0]) if d60 and d10 else None

    @property
    def curvature(self) -> float | None:
        """Cc, where D30 and D60 lie within the curve and D10 within it or just beyond."""
        d60, d30, d10 = self.size(60), self.size(30), self.ten_percent
        return coefficient_of_curvature(d60, d30, d10[0]) if d60 and d30 and d10 else None


def step_at_join(sieves: list[GradePoint], settled: list[GradePoint]) -> tuple[float, float]:
    """The step between the two curves, in points (hydrometer above sieve is positive), and the size where it is.

    Where they overlap they are compared at the finest sieve. Where they do not, as on most days, the hydrometer's own
    slope says between which percentages the curve should arrive there: a quarter of it to twice it. This looks ahead
    of the readings to judge them, never to report a percentage.

    >>> sieve = [GradePoint(2, 90), GradePoint(0.075, 50)]
    >>> step_at_join(sieve, [GradePoint(0.1, 60), GradePoint(0.01, 30)])[0] > 5
    True
    """
    finest = sieves[-1]
    there = finer_percent(settled, finest.size_mm) if settled[0].size_mm >= finest.size_mm else None
    if there is not None:
        return there - finest.finer_percent, finest.size_mm
    top = settled[0]
    slope = 0.0
    if len(settled) > 1:
        slope = (top.finer_percent - settled[1].finer_percent) / math.log(top.size_mm / settled[1].size_mm)
    rise = max(slope, 0.0) * math.log(finest.size_mm / top.size_mm)
    low, high = top.finer_percent + LEAST_SLOPE * rise, top.finer_percent + MOST_SLOPE * rise
    nearest = min(max(finest.finer_percent, low), max(high, low))
    return nearest - finest.finer_percent, finest.size_mm


def merged(evidence: Evidence) -> Merged | None:
    """The joined grading; of one test alone its own; None without any."""
    sieve, settled = evidence.curve("sieve"), evidence.curve("hydrometer")
    if sieve is None or settled is None:
        one = sieve or settled
        return Merged(tuple(one[0]), (one[1].code,), None, None) if one else None
    step, at = step_at_join(sieve[0], settled[0])
    finest = sieve[0][-1].size_mm
    # Curves that contradict each other make no third one: the sieve stands alone until it is known which is wrong.
    fine = [p for p in settled[0] if p.size_mm < finest] if abs(step) <= REDO_POINTS else []
    points = ordered([*sieve[0], *fine])
    return Merged(tuple(points), (sieve[1].code, settled[1].code), step, at)


def join_verdict(grading: Merged) -> Verdict | None:
    """Whether the sieve and the hydrometer tell one curve; None for one test alone."""
    if grading.step_points is None or grading.join_mm is None:
        return None
    step = grading.step_points
    fines = next(p.finer_percent for p in grading.points if p.size_mm == grading.join_mm)
    return ruling(
        "sieve and hydrometer join",
        at_most(abs(step), WATCH_POINTS),
        f"at {plain(grading.join_mm)} mm: sieve {plain(fines, 3)} %, hydrometer {plain(fines + step, 3)} %",
        f"{plain(WATCH_POINTS)} points; repeat above {plain(REDO_POINTS)}",
        "laboratory setting",
        "The fines of the two tests differ: recheck the dry mass, the wash, the blank and the share that passed.",
        otherwise="watch" if at_most(abs(step), REDO_POINTS) else "redo",
    )
