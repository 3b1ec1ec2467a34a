"""What a curve of shear comes to: its peak, or failure at a displacement; the tail, the residual, the dilation."""

import math
from collections.abc import Sequence
from typing import NamedTuple

from vadum.soil.contract.compare import at_least
from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean, straight_line
from vadum.soil.methods.direct_shear.box import Box, Point
from vadum.soil.methods.direct_shear.record import Stage
from vadum.soil.methods.direct_shear.school import ShearSchool


class Tail(NamedTuple):
    """The strength at large displacement: both stresses in kPa, the travel it begins at, how many readings."""

    shear_kpa: float
    normal_kpa: float
    from_mm: float
    n: int


class Residual(NamedTuple):
    """The strength that two successive traverses agree on: both stresses in kPa of the last one, the travel of all
    traverses together in mm (None where a length was not entered), how many there were, and how far the last two lie
    apart, percent of the greater."""

    shear_kpa: float
    normal_kpa: float
    travelled_mm: float | None
    traverses: int
    apart_percent: float


def opening_degrees(points: Sequence[Point], peak_mm: float, reach_mm: float) -> float | None:
    """Angle of dilation at the peak: `psi = atan(-dv/dh)`, the slope fitted to the readings round the peak.

    Parameters: `points` by travel; `peak_mm`; `reach_mm` how far on either side readings are taken, all mm.
    Returns: degrees, positive where the specimen opens; None with fewer than three readings there.
    Source: least squares; the vertical gauge is positive down.
    """
    near = [p for p in points if abs(p.travel_mm - peak_mm) <= reach_mm + 1e-9 and p.vertical_mm is not None]
    if len(near) < 3:
        return None
    try:
        line = straight_line([p.travel_mm for p in near], [p.vertical_mm or 0.0 for p in near])
    except ReductionError:
        return None
    return math.degrees(math.atan(-line.slope))


def tail_of(points: tuple[Point, ...], peak_mm: float, from_mm: float | None, share: float) -> Tail | None:
    """The mean of what is read behind a set travel, or over the last share of the travel.

    Parameters: `points`; `peak_mm`; `from_mm` a set travel, None for the share; `share` a ratio.
    Returns: the tail; None while the travel has not passed the peak far enough for any reading to count.
    Source: ASTM D3080; the share is a laboratory setting.
    """
    if len(points) < 3:
        return None
    start = from_mm if from_mm is not None else (1 - share) * points[-1].travel_mm
    rows = [p for p in points if p.travel_mm >= start - 1e-9]
    if not rows or start <= peak_mm:
        return None
    return Tail(mean([p.shear_kpa for p in rows]), mean([p.normal_kpa for p in rows]), start, len(rows))


def residual_of(
    stage: Stage, points: tuple[Point, ...], box: Box, nominal_kpa: float, school: ShearSchool
) -> Residual | None:
    """What the specimen carries once it has been sheared back and forth: the force at the end of its last traverse, of
    either sign, on the area that is left there.

    Parameters: `stage` with its further traverses; `points` of the first one; `box`; `nominal_kpa` on the whole area.
    Returns: the residual; None without a further traverse. Whether the last two agree, `apart_percent` says.
    Source: BS 1377-7, residual by reversals; ASTM D6467 for the idea of repeated traverses.
    """
    friction = stage.friction_n if known(stage.friction_n) else 0.0
    ends = [(abs(r.force_n) - friction, r.travel_mm) for r in stage.reversals if known(r.force_n)]
    if not ends or not points:
        return None
    forces = [points[-1].force_n, *(force for force, _ in ends)]
    last, before = forces[-1], forces[-2]
    most = max(abs(last), abs(before))
    if most <= 0 or last <= 0:
        return None
    lengths = [abs(length) for _, length in ends if known(length)]
    travelled = points[-1].travel_mm + math.fsum(lengths) if len(lengths) == len(ends) else None
    # A box that was drawn back stands where it began; only a length that was entered says how far it is off again.
    off = _stands_off_mm(points[-1].travel_mm, [length for _, length in ends])
    left = box.area_at_mm2(off) if school.area == "corrected" else box.area_mm2
    return Residual(
        1000 * last / left,
        nominal_kpa * box.area_mm2 / left,
        travelled,
        1 + len(ends),
        100 * abs(last - before) / most,
    )


def _stands_off_mm(first_mm: float, lengths: Sequence[float | None]) -> float:
    """How far the halves stand off each other after the last traverse, mm: each goes back the way of the one before."""
    at, forward = first_mm, False
    for length in lengths:
        way = abs(length) if known(length) else first_mm
        at = at + way if forward else at - way
        forward = not forward
    return abs(at)


def fell_percent(points: tuple[Point, ...]) -> float:
    """How far the force has fallen behind its greatest, percent of it.

    Parameters: `points` of a stage.
    Returns: %; 0 without a force. Of the force: on an area that shrinks the stress rises while the force falls.
    Source: definition.
    """
    most = max((p.force_n for p in points), default=0.0)
    return 100 * (1 - points[-1].force_n / most) if most > 0 else 0.0


def to_the_end(points: tuple[Point, ...], school: ShearSchool, box: Box) -> bool:
    return bool(points) and at_least(points[-1].travel_mm + 0.01, school.most_travel_share * box.width_mm)


def failure_of(points: tuple[Point, ...], school: ShearSchool, box: Box, over: bool) -> tuple[Point | None, bool]:
    """The state at failure, and whether it is of a displacement because no peak was passed.

    The peak is where the force, and with it the ratio of both stresses, is greatest. Loose sand and normally
    consolidated clay pass none: their failure is the stress at a set part of the box's width.

    Parameters: `points` by travel; `school` with the part; `box`; `over` whether the shear has ended.
    Returns: the point (between two readings by a straight line); None before two readings.
    Source: ASTM D3080: 10 percent relative lateral displacement; BS 1377-7: the greatest reached.
    """
    if len(points) < 2:
        return None, False
    peak = max(points, key=lambda p: p.force_n)
    at_mm = school.failure_share * box.width_mm
    passed = at_least(fell_percent(points), school.past_peak_percent)
    if passed or not over or at_mm <= 0 or peak.travel_mm <= at_mm or points[-1].travel_mm < at_mm:
        return peak, False
    after = next(i for i, p in enumerate(points) if p.travel_mm >= at_mm)
    if after == 0:
        return points[0], True
    return _between(points[after - 1], points[after], at_mm), True


def _between(a: Point, b: Point, at_mm: float) -> Point:
    """The state at a travel between two readings; it belongs to the row of the nearer one."""
    share = (at_mm - a.travel_mm) / (b.travel_mm - a.travel_mm)

    def value(x: float | None, y: float | None) -> float | None:
        return None if x is None or y is None else x + share * (y - x)

    return Point(
        (b if share >= 0.5 else a).row,
        at_mm,
        a.force_n + share * (b.force_n - a.force_n),
        a.shear_kpa + share * (b.shear_kpa - a.shear_kpa),
        a.normal_kpa + share * (b.normal_kpa - a.normal_kpa),
        value(a.vertical_mm, b.vertical_mm),
        value(a.elapsed_s, b.elapsed_s),
    )
