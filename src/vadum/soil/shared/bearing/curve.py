"""The bearing ratio's curve: its zero, its readings at the standard penetrations, and the reaction it needs."""

import itertools
import math
from typing import Literal, NamedTuple

from vadum.soil.contract.compare import within
from vadum.soil.contract.errors import ReductionError

# Force of the standard material in kN at a penetration in mm; BS 1377-4.
STANDARD_CURVE: tuple[tuple[float, float], ...] = (
    (0.0, 0.0),
    (2.0, 11.5),
    (2.5, 13.2),
    (4.0, 17.6),
    (5.0, 20.0),
    (6.0, 22.2),
    (8.0, 26.3),
    (10.0, 30.3),
    (12.0, 33.5),
)
# Stress of the standard material in MPa at a penetration in mm; ASTM D1883.
STANDARD_STRESS_MPA: dict[float, float] = {2.54: 6.9, 5.08: 10.3}
PLUNGER_DIAMETER_MM = 49.63  # ASTM D1883; 49.65 in BS 1377-4
# The last class has no upper end: a thousand percent is beyond any soil.
SEATING_N: tuple[tuple[float, float], ...] = ((5.0, 10.0), (30.0, 50.0), (1000.0, 250.0))  # BS 1377-9


class Curve(NamedTuple):
    """Penetration in mm and force in kN, from the seating's zero on, penetration rising."""

    penetration_mm: tuple[float, ...]
    force_kn: tuple[float, ...]

    @property
    def end_mm(self) -> float:
        """How far the record reaches."""
        return self.penetration_mm[-1]


class Zero(NamedTuple):
    """The zero correction: how far penetrations shift, the tangent that says so, and why."""

    shift_mm: float
    at_mm: float
    slope_kn_mm: float
    why: Literal["bends over from the start", "steepens, then bends over", "still steepening at its end", "too short"]


def curve_of(penetration_mm: list[float], force_kn: list[float]) -> Curve:
    """The curve of two lists of one length; raises ReductionError unless penetration rises."""
    if len(penetration_mm) != len(force_kn):
        raise ReductionError("curve", f"{len(penetration_mm)} penetrations, {len(force_kn)} forces", "as many of each")
    if any(b <= a for a, b in itertools.pairwise(penetration_mm)):
        raise ReductionError("curve", "a penetration that does not rise", "penetrations in their order")
    if len(penetration_mm) < 2:
        raise ReductionError("curve", f"{len(penetration_mm)} readings", "two or more")
    return Curve(tuple(penetration_mm), tuple(force_kn))


def slopes_kn_mm(curve: Curve, half_mm: float = 0.55) -> list[float]:
    """Slope at each reading, kN/mm: of the parabola by least squares through the readings within `half_mm`.

    At the ends, and where fewer than three readings lie so near, of the nearest three. A parabola follows a curve that
    bends within the window, so that the steepest place is not smoothed away.
    """
    p, f = curve.penetration_mm, curve.force_kn
    found = []
    for at in p:
        near = [j for j, x in enumerate(p) if within(x, at - half_mm, at + half_mm)]
        if len(near) < 3:
            near = sorted(range(len(p)), key=lambda j: (abs(p[j] - at), j))[:3]
        found.append(_slope_at(at, [p[j] for j in near], [f[j] for j in near]))
    return found


def _slope_at(at: float, x: list[float], y: list[float]) -> float:
    """Slope at `at` of the least-squares parabola through the points; of their line where there are only two."""
    u = [v - at for v in x]
    n = len(u)
    if n == 2:
        return (y[1] - y[0]) / (u[1] - u[0])
    s1, s2, s3, s4 = (math.fsum(v**k for v in u) for k in (1, 2, 3, 4))
    t0, t1, t2 = (math.fsum(w * v**k for v, w in zip(u, y, strict=True)) for k in (0, 1, 2))
    # Normal equations of a + b u + c u^2, solved for b by Cramer's rule.
    whole = n * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s3 * s2) + s2 * (s1 * s3 - s2 * s2)
    part = n * (t1 * s4 - s3 * t2) - t0 * (s1 * s4 - s3 * s2) + s2 * (s1 * t2 - t1 * s2)
    return part / whole


def zero_correction(curve: Curve, least_steepening: float = 1.12) -> Zero:
    """The zero by the steepest tangent, carried back to no force: penetrations are counted from there.

    A curve that bends over from its start needs none, and one that is still steepening at its end gets none: the soil
    is then densified by the plunger, and a tangent there would shift by nonsense. `least_steepening` is how much
    steeper than its start a curve must become before the start counts as disturbed.

    Source: BS 1377-4 and ASTM D1883, correction for a concave start.
    """
    slopes = slopes_kn_mm(curve)
    steepest = max(range(len(slopes)), key=lambda i: slopes[i])
    at, slope = curve.penetration_mm[steepest], slopes[steepest]
    if len(slopes) < 5 or slope <= 0:
        return Zero(0.0, at, slope, "too short")
    # The steepest place lies in the record's last tenth, or the curve leaves it no flatter than it is.
    last = slopes[-1]
    if curve.end_mm - at <= 0.1 * curve.end_mm or last >= 0.95 * slope:
        return Zero(0.0, at, slope, "still steepening at its end")
    if slopes[0] * least_steepening >= slope:
        return Zero(0.0, at, slope, "bends over from the start")
    shift = at - curve.force_kn[steepest] / slope
    return Zero(max(shift, 0.0), at, slope, "steepens, then bends over")


def force_at_kn(curve: Curve, penetration_mm: float, shift_mm: float = 0.0) -> float | None:
    """Force at a corrected penetration, kN, on the straight line between readings; None beyond the record.

    Parameters: `penetration_mm` after the zero correction; `shift_mm` of that correction.
    Returns: kN; None beyond the record: it is not extrapolated.
    Source: BS 1377-4, ASTM D1883: the curve through the readings.

    >>> force_at_kn(Curve((0.0, 1.0, 2.0), (0.0, 3.0, 4.0)), 1.5)
    3.5
    """
    at = penetration_mm + shift_mm
    p, f = curve.penetration_mm, curve.force_kn
    for i in range(len(p) - 1):
        if p[i] <= at <= p[i + 1]:
            return f[i] + (f[i + 1] - f[i]) * (at - p[i]) / (p[i + 1] - p[i])
    return None


def standard_force_kn(penetration_mm: float) -> float:
    """Force of the standard material, kN.

    Parameters: `penetration_mm` in mm, 0 to 12.
    Returns: kN.
    Raises: ReductionError beyond 12 mm, where the standard's curve ends.
    Source: BS 1377-4.

    >>> standard_force_kn(2.5), standard_force_kn(5), round(standard_force_kn(7.5), 3)
    (13.2, 20.0, 25.275)
    """
    standard = Curve(tuple(p for p, _ in STANDARD_CURVE), tuple(f for _, f in STANDARD_CURVE))
    found = force_at_kn(standard, penetration_mm)
    if found is None:
        raise ReductionError("standard force", f"{penetration_mm:g} mm", "0 to 12 mm")
    return found


def bearing_ratio_percent(force_kn: float, penetration_mm: float) -> float:
    """Bearing ratio, percent: the force over that of the standard material.

    Parameters: `force_kn` in kN; `penetration_mm` in mm, 0 to 12.
    Returns: %.
    Raises: ReductionError beyond 12 mm.
    Source: BS 1377-4.

    >>> bearing_ratio_percent(13.2, 2.5)
    100.0
    """
    return 100 * force_kn / standard_force_kn(penetration_mm)


def bearing_ratio_by_stress_percent(force_kn: float, penetration_mm: float) -> float:
    """Bearing ratio, percent, by the plunger's stress at 2.54 or 5.08 mm.

    Parameters: `force_kn` in kN; `penetration_mm` 2.54 or 5.08.
    Returns: %.
    Raises: ReductionError at any other penetration: the rule book has no stress for it.
    Source: ASTM D1883.

    >>> round(bearing_ratio_by_stress_percent(13.348, 2.54), 1)
    100.0
    """
    if penetration_mm not in STANDARD_STRESS_MPA:
        raise ReductionError("bearing ratio", f"{penetration_mm:g} mm", "2.54 or 5.08 mm")
    area_mm2 = math.pi * PLUNGER_DIAMETER_MM**2 / 4
    return 100 * (1000 * force_kn / area_mm2) / STANDARD_STRESS_MPA[penetration_mm]


def seating_n(expected_percent: float, classes: tuple[tuple[float, float], ...] = SEATING_N) -> float:
    """Seating load in N for an expected bearing ratio; a boundary belongs to the lower class.

    Parameters: `expected_percent` in %, above 0; `classes` of (highest ratio in %, load in N), rising.
    Returns: N.
    Raises: ReductionError where nothing is expected.
    Source: BS 1377-9.

    >>> [seating_n(e) for e in (5, 6, 30, 31)]
    [10.0, 50.0, 50.0, 250.0]
    """
    if not expected_percent > 0:
        raise ReductionError("seating load", f"{expected_percent:g} %", "an expected ratio above 0")
    return next((load for limit, load in classes if expected_percent <= limit), classes[-1][1])


def reaction_kn(expected_percent: float, penetration_mm: float = 5.0) -> float:
    """Force that the reaction must give, kN, to push the plunger so far: `CBR / 100 F_standard`.

    Parameters: `expected_percent` in %; `penetration_mm` in mm, 0 to 12.
    Returns: kN.
    Raises: ReductionError beyond 12 mm.
    Source: BS 1377-4's standard force.

    >>> round(reaction_kn(30), 3), round(reaction_kn(10, 7.5), 3)
    (6.0, 2.527)
    """
    return expected_percent / 100 * standard_force_kn(penetration_mm)


def lifts_at_percent(axle_kn: float, margin_percent: float = 20.0, penetration_mm: float = 5.0) -> float:
    """The bearing ratio at which the vehicle begins to lift: its axle's load less a margin, over the standard force.

    Parameters: `axle_kn` in kN; `margin_percent` of it that is not trusted, %; `penetration_mm` in mm, 0 to 12.
    Returns: %.
    Raises: ReductionError beyond 12 mm.
    Source: equilibrium of the axle; the margin is a laboratory setting.

    >>> round(lifts_at_percent(9.5), 3)
    38.0
    """
    return 100 * axle_kn * (1 - margin_percent / 100) / standard_force_kn(penetration_mm)
