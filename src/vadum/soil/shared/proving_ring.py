"""The proving ring: from divisions to force, by its factor or its calibration table, and never beyond its range."""

import itertools
from typing import Annotated, Any, NamedTuple

from pydantic import BeforeValidator

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import number


class Ring(NamedTuple):
    """A ring's calibration: points (divisions, kN) rising, or a factor in N per division up to a highest reading."""

    table: tuple[tuple[float, float], ...]
    factor_n_div: float | None
    most_div: float | None

    @property
    def range_div(self) -> tuple[float, float | None]:
        """Lowest and highest reading that the calibration covers."""
        if self.table:
            return self.table[0][0], self.table[-1][0]
        return 0.0, self.most_div


def table_of(text: str) -> tuple[tuple[float, float], ...]:
    """The points of a calibration table written as `divisions kN; divisions kN; ...`; raises ValueError.

    >>> table_of("0 0; 100 1.26; 200 2,55")
    ((0.0, 0.0), (100.0, 1.26), (200.0, 2.55))
    """
    points = []
    for pair in text.replace("\n", ";").split(";"):
        if not pair.strip():
            continue
        parts = pair.split()
        if len(parts) != 2:
            raise ValueError(f"{pair.strip()[:30]!r} is not a pair: divisions, then kN")
        points.append((number(parts[0]), number(parts[1])))
    if len(points) < 2:
        raise ValueError("a table has two points or more: divisions kN; divisions kN")
    if not all(a[0] < b[0] and a[1] < b[1] for a, b in itertools.pairwise(points)):
        raise ValueError("divisions and forces rise from point to point")
    return tuple(points)


def factors_n_div(table: tuple[tuple[float, float], ...]) -> tuple[float, ...]:
    """N per division along each stretch of a table: how far the ring is from one factor.

    >>> [round(k, 2) for k in factors_n_div(((0.0, 0.0), (100.0, 1.26), (200.0, 2.55)))]
    [12.6, 12.9]
    """
    return tuple(1000 * (b[1] - a[1]) / (b[0] - a[0]) for a, b in itertools.pairwise(table))


def _table_text(typed: Any) -> str:
    if not isinstance(typed, str):
        raise ValueError("a table such as 0 0; 100 1.26; 200 2.55 is wanted")
    table_of(typed)
    return typed.strip()


RingTable = Annotated[str, BeforeValidator(_table_text)]


def ring_force_kn(ring: Ring, reading_div: float) -> float:
    """Force at a ring reading, kN: `divisions x factor`, or on the straight line between the table's points.

    Parameters: `reading_div` in divisions.
    Returns: kN.
    Raises: ReductionError below the calibration's first point and above its last: a ring is not read beyond it.
    Source: the ring's own calibration.

    >>> ring_force_kn(Ring((), 12.6, 1000), 100)
    1.26

    >>> round(ring_force_kn(Ring(((0, 0), (100, 1.26), (200, 2.56)), None, None), 150), 3)
    1.91
    """
    low, high = ring.range_div
    if reading_div < low or (high is not None and reading_div > high):
        covers = f"{low:g} to {high:g} divisions" if high is not None else f"{low:g} divisions or more"
        raise ReductionError("force", f"ring at {reading_div:g} divisions", covers)
    if ring.table:
        for (d0, f0), (d1, f1) in itertools.pairwise(ring.table):
            if reading_div <= d1:
                return f0 + (f1 - f0) * (reading_div - d0) / (d1 - d0)
    if ring.factor_n_div is None:
        raise ReductionError("force", "a ring without a calibration", "its factor or its table")
    return reading_div * ring.factor_n_div / 1000


def divisions_of(ring: Ring, force_kn: float) -> float:
    """Ring divisions that show a force in kN.

    Parameters: `force_kn` in kN.
    Returns: divisions.
    Raises: ReductionError beyond the calibration.
    Source: the ring's own calibration.

    >>> divisions_of(Ring((), 12.5, None), 0.05)
    4.0
    """
    if ring.table:
        for (d0, f0), (d1, f1) in itertools.pairwise(ring.table):
            if f0 <= force_kn <= f1:
                return d0 + (d1 - d0) * (force_kn - f0) / (f1 - f0)
        raise ReductionError("divisions", f"{force_kn:g} kN", "a force inside the ring's table")
    if not ring.factor_n_div:
        raise ReductionError("divisions", "a ring without a calibration", "its factor or its table")
    return 1000 * force_kn / ring.factor_n_div
