"""A grading curve: sizes and percent finer, from sieves, a hydrometer, or both joined."""

import itertools
import math
from collections.abc import Iterable
from typing import Literal, NamedTuple

from vadum.soil.contract.compare import at_least
from vadum.soil.contract.numerics import plain

System = Literal["astm", "aashto", "iso", "international"]


class GradePoint(NamedTuple):
    """One point of the curve: size in mm, percent of the whole soil's dry mass finer than it, and what gave it."""

    size_mm: float
    finer_percent: float
    source: str = "sieve"


class Boundary(NamedTuple):
    """A size class: its name and its lower edge in mm."""

    name: str
    above_mm: float


# ASTM D2487 and ISO 14688-1; the clay boundary of ASTM is 5 µm in D422 and 2 µm in common use.
BOUNDARIES: dict[System, tuple[Boundary, ...]] = {
    "astm": (
        Boundary("cobbles", 75.0),
        Boundary("gravel", 4.75),
        Boundary("coarse sand", 2.0),
        Boundary("medium sand", 0.425),
        Boundary("fine sand", 0.075),
        Boundary("silt", 0.005),
        Boundary("clay", 0.0),
    ),
    # M 145 and T 88: gravel is what stays on 2.00 mm, and there is no medium sand.
    "aashto": (
        Boundary("cobbles", 75.0),
        Boundary("gravel", 2.0),
        Boundary("coarse sand", 0.425),
        Boundary("fine sand", 0.075),
        Boundary("silt", 0.002),
        Boundary("clay", 0.0),
    ),
    "iso": (
        Boundary("cobbles", 63.0),
        Boundary("gravel", 2.0),
        Boundary("coarse sand", 0.63),
        Boundary("medium sand", 0.2),
        Boundary("fine sand", 0.063),
        Boundary("silt", 0.002),
        Boundary("clay", 0.0),
    ),
    # Soil science counts what is over 2 mm as fragments, whatever their size.
    "international": (
        Boundary("cobbles", math.inf),
        Boundary("gravel", 2.0),
        Boundary("coarse sand", 0.2),
        Boundary("fine sand", 0.02),
        Boundary("silt", 0.002),
        Boundary("clay", 0.0),
    ),
}
EDGES: dict[System, dict[str, float]] = {
    system: {b.name: b.above_mm for b in rows} for system, rows in BOUNDARIES.items()
}


def ordered(points: Iterable[GradePoint]) -> list[GradePoint]:
    """From coarse to fine; of two points of one size the first stands."""
    found: dict[float, GradePoint] = {}
    for point in points:
        if point.size_mm > 0 and math.isfinite(point.finer_percent):
            found.setdefault(point.size_mm, point)
    return sorted(found.values(), key=lambda p: -p.size_mm)


def finer_percent(points: list[GradePoint], size_mm: float) -> float | None:
    """Percent finer than a size, by interpolation on log size; None outside the tested sizes.

    Above the coarsest point it is 100 when everything passed that; below the finest it is never guessed.
    `points` as `ordered` gives them. Source: semi-log interpolation, ASTM D6913.

    Parameters: `points` the curve, coarse to fine; `size_mm` in mm, above 0.
    Returns: %; None where nothing can be told.

    >>> curve = [GradePoint(1.0, 80.0), GradePoint(0.1, 20.0)]
    >>> round(finer_percent(curve, 0.316227766), 6), finer_percent(curve, 0.05)
    (50.0, None)
    """
    if not points or size_mm <= 0:
        return None
    if size_mm > points[0].size_mm:
        return 100.0 if at_least(points[0].finer_percent, 100) else None
    for coarse, fine in itertools.pairwise(points):
        if fine.size_mm <= size_mm <= coarse.size_mm:
            share = math.log(size_mm / fine.size_mm) / math.log(coarse.size_mm / fine.size_mm)
            return fine.finer_percent + share * (coarse.finer_percent - fine.finer_percent)
    return points[-1].finer_percent if math.isclose(points[-1].size_mm, size_mm) else None


def size_mm(points: list[GradePoint], finer: float) -> float | None:
    """The size than which `finer` percent is finer, mm; None outside the tested range.

    Parameters: `points` the curve, coarse to fine; `finer` in %, 0 to 100.
    Returns: mm; None where nothing can be told.
    Source: semi-log interpolation, ASTM D6913.

    >>> curve = [GradePoint(1.0, 80.0), GradePoint(0.1, 20.0)]
    >>> round(size_mm(curve, 50.0), 6)
    0.316228
    """
    bracket = bracket_of(points, finer)
    if bracket is None:
        return None
    coarse, fine = bracket
    if coarse.finer_percent == fine.finer_percent:
        return coarse.size_mm
    share = (finer - fine.finer_percent) / (coarse.finer_percent - fine.finer_percent)
    return float(fine.size_mm * (coarse.size_mm / fine.size_mm) ** share)


def bracket_of(points: list[GradePoint], finer: float) -> tuple[GradePoint, GradePoint] | None:
    """The two neighbours between which the curve passes that percentage, coarse first."""
    for coarse, fine in itertools.pairwise(points):
        if fine.finer_percent <= finer <= coarse.finer_percent:
            return coarse, fine
    return None


def outside_words(points: list[GradePoint], finer: float) -> str:
    """What can be said of a size that the curve does not reach.

    >>> outside_words([GradePoint(1.0, 80.0), GradePoint(0.075, 20.0)], 10.0)
    'finer than 0.075'
    """
    if not points:
        return ""
    if finer < points[-1].finer_percent:
        return f"finer than {plain(points[-1].size_mm)}"
    return f"coarser than {plain(points[0].size_mm)}"


def coefficient_of_uniformity(d60_mm: float, d10_mm: float) -> float:
    """`Cu = D60 / D10`. Source: ASTM D2487.

    Parameters: `d60_mm` in mm; `d10_mm` in mm.
    Returns: a pure number.

    >>> round(coefficient_of_uniformity(0.6670419, 0.1316231), 4)
    5.0678
    """
    return d60_mm / d10_mm


def coefficient_of_curvature(d60_mm: float, d30_mm: float, d10_mm: float) -> float:
    """`Cc = D30^2 / (D10 D60)`. Source: ASTM D2487.

    Parameters: `d60_mm` in mm; `d30_mm` in mm; `d10_mm` in mm.
    Returns: a pure number.

    >>> round(coefficient_of_curvature(0.6670419, 0.3073734, 0.1316231), 4)
    1.0761
    """
    return d30_mm**2 / (d10_mm * d60_mm)


def log_normal_percent(size_mm: float, middle_mm: float, spread: float) -> float:
    """Percent finer of a log-normal grading, the shape of the virtual soils.

    Parameters: both sizes in mm, above 0; `spread` of the natural logarithm, above 0.
    Returns: % finer.
    Source: the normal distribution of the logarithm of size.

    >>> log_normal_percent(0.5, 0.5, 1.2)
    50.0
    """
    return 50 * (1 + math.erf(math.log(size_mm / middle_mm) / (spread * math.sqrt(2))))


def below(points: list[GradePoint], size: float) -> list[GradePoint]:
    """The curve of the part that passes a size alone: every percentage over that of the size.

    Rule books class the part that passes 75 mm: cobbles and boulders come out first.

    Parameters: `points` the curve, coarse to fine; `size` in mm, above 0.
    Returns: the part's curve; the same curve where nothing coarser was tested, none where the size was not reached.
    Source: ASTM D2487, AASHTO M 145.

    >>> curve = [GradePoint(100, 100), GradePoint(75, 70), GradePoint(4.75, 35)]
    >>> [p.finer_percent for p in below(curve, 75.0)]
    [100.0, 50.0]
    """
    if not points or points[0].size_mm <= size:
        return points
    top = finer_percent(points, size)
    if top is None or top <= 0:
        return []
    rest = [p._replace(finer_percent=100 * p.finer_percent / top) for p in points if p.size_mm < size]
    return [GradePoint(size, 100.0, points[0].source), *rest]


def gaps(
    points: list[GradePoint], factor: float = 4.0, most_points: float = 5.0, beside_points: float = 10.0
) -> list[tuple[GradePoint, GradePoint]]:
    """Stretches of the curve with next to nothing in them, coarse and fine end of each, widest first.

    Parameters: `points` coarse to fine; `factor` in size that a gap spans at least; `most_points` of the soil within
    it; `beside_points` at least on either side, %.
    Returns: pairs of points of the curve.
    Source: laboratory setting.

    >>> [(a.size_mm, b.size_mm) for a, b in gaps([GradePoint(20, 100), GradePoint(10, 60), GradePoint(1, 58),
    ...                                           GradePoint(0.1, 5)])]
    [(10, 1)]
    """
    found = [
        (a, b)
        for i, a in enumerate(points)
        for b in points[i + 1 :]
        if at_least(a.size_mm / b.size_mm, factor)
        and a.finer_percent - b.finer_percent < most_points
        and at_least(100 - a.finer_percent, beside_points)
        and at_least(b.finer_percent, beside_points)
    ]
    return sorted(found, key=lambda ab: -ab[0].size_mm / ab[1].size_mm)


def extended_to(points: list[GradePoint], finer: float, least_mm: float) -> float | None:
    """The size, mm, on the last stretch of the curve carried on, no finer than `least_mm`; None where it ends before.

    Parameters: `points` coarse to fine; `finer` in %; `least_mm` in mm, above 0.
    Returns: mm.
    Source: ASTM D2487 lets the curve be carried on to D10; how far is a laboratory setting.

    >>> round(extended_to([GradePoint(0.15, 20.0), GradePoint(0.075, 12.0)], 10.0, 0.04), 4)
    0.0631
    """
    if len(points) < 2 or finer >= points[-1].finer_percent:
        return None
    coarse, fine = points[-2:]
    fall = (coarse.finer_percent - fine.finer_percent) / math.log(coarse.size_mm / fine.size_mm)
    if not fall > 0:
        return None
    found = fine.size_mm * math.exp((finer - fine.finer_percent) / fall)
    return found if at_least(found, least_mm) else None


def shares_percent(points: list[GradePoint], system: System) -> dict[str, float | None]:
    """Percent in each class of the system, and `sand` and `fines` together; None where an edge was not tested.

    What stays on the coarsest sieve counts as gravel when no cobble sieve was used.
    """
    edges = EDGES[system]
    top = finer_percent(points, edges["cobbles"]) if edges["cobbles"] < math.inf else None
    top = 100.0 if top is None and points and points[0].size_mm < edges["cobbles"] else top
    at = {name: finer_percent(points, edge) for name, edge in edges.items() if 0 < edge < math.inf}
    at["cobbles"] = top
    at["clay"] = 0.0

    def between(upper: float | None, lower: float | None) -> float | None:
        return None if upper is None or lower is None else upper - lower

    names = [b.name for b in BOUNDARIES[system]]
    shares: dict[str, float | None] = {"cobbles": between(100.0, at["cobbles"])}
    for above, name in itertools.pairwise(names):
        shares[name] = between(at[above], at[name])
    shares["sand"] = between(at["gravel"], at["fine sand"])
    shares["fines"] = at["fine sand"]
    return shares
