"""From one push's readings to its curve, its zero and its two ratios."""

import math
from typing import Literal, NamedTuple, Protocol

from vadum.soil.contract.called import Called
from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.shared.bearing.curve import (
    STANDARD_STRESS_MPA,
    Curve,
    Zero,
    curve_of,
    force_at_kn,
    standard_force_kn,
    zero_correction,
)
from vadum.soil.shared.bearing.record import BearingRecord, End
from vadum.soil.shared.bearing.school import BearingSchool
from vadum.soil.shared.proving_ring import Ring, ring_force_kn


class Point(NamedTuple):
    """A reading with its place on the curve: row from 0, penetration in mm, force in kN."""

    row: int
    penetration_mm: float
    force_kn: float


class Ratio(NamedTuple):
    """The ratio at one of the two penetrations; None where the record does not reach it."""

    at_mm: float
    force_kn: float | None
    percent: float | None


class Governing(NamedTuple):
    """The ratio of one end that counts, why in one sentence, and whether it is only a lower bound."""

    percent: float
    at_mm: float
    sentence: str
    more_than: bool

    @property
    def short(self) -> str:
        """The ratio and where it was read off."""
        return f"{'greater than ' if self.more_than else ''}{self.percent:.3g} % at {plain(self.at_mm)} mm"


class EndResult(NamedTuple):
    """All that one push gave."""

    end: End
    points: tuple[Point, ...]
    curve: Curve | None
    computed: Zero | None
    shift_mm: float
    by: Literal["computed", "analyst"]
    ratios: tuple[Ratio, ...]
    over: bool
    governs: Governing | None = None


def penetration_of(end: End, row: int, school: BearingSchool) -> float | None:
    """Where a row was read, mm: as noted, else as called.

    Parameters: `row` of the end's readings, from 0.
    Returns: mm from the seated zero, before any zero correction; None beyond the last call.
    Source: BS 1377-4, ASTM D1883.
    """
    noted = end.rows[row].penetration_mm
    if noted is not None:
        return noted if known(noted) else None
    return school.called_mm[row] if row < len(school.called_mm) else None


def force_of(end: End, row: int, ring: Ring | None) -> float | None:
    """Force of a row over the seating's, kN; None where it is not read or the ring does not cover it.

    Parameters: `row` of the end's readings, from 0.
    Returns: kN.
    Source: BS 1377-4: the seating load is the zero of the force.
    """
    reading = end.rows[row]
    if known(reading.force_kn):
        return reading.force_kn
    if ring is None or not known(reading.ring_div):
        return None
    try:
        seated = ring_force_kn(ring, end.seated_div) if known(end.seated_div) else 0.0
        low = ring.range_div[0]
        if low - 1 <= reading.ring_div < low:
            # Up to one division below its zero the dial is taken as straight.
            zero = ring_force_kn(ring, low)
            return 2 * zero - ring_force_kn(ring, 2 * low - reading.ring_div) - seated
        return ring_force_kn(ring, reading.ring_div) - seated
    except ReductionError:
        return None


def points_of(end: End, ring: Ring | None, school: BearingSchool) -> tuple[Point, ...]:
    """The readings that make the curve; one that does not lie further in than the one before is left out."""
    found: list[Point] = []
    for row in range(len(end.rows)):
        at, force = penetration_of(end, row, school), force_of(end, row, ring)
        if at is not None and force is not None and (not found or at > found[-1].penetration_mm):
            found.append(Point(row, at, force))
    return tuple(found)


def is_over(end: End, school: BearingSchool) -> bool:
    """Whether this push is finished: read to its last call, or stopped."""
    return end.stopped is not None or len(end.rows) >= len(school.called_mm)


def reference_kn(penetration_mm: float, school: BearingSchool, diameter_mm: float) -> float:
    """Force of the standard material at a penetration, kN, by the school's reference.

    Parameters: `penetration_mm` in mm; the plunger's `diameter_mm` in mm, above 0.
    Returns: kN.
    Source: BS 1377-4 (forces), ASTM D1883 (stresses).
    """
    own = {school.first_mm: school.first_kn, school.second_mm: school.second_kn}.get(penetration_mm)
    if own is not None:
        return own
    if school.reference == "force":
        return standard_force_kn(penetration_mm)
    return STANDARD_STRESS_MPA[penetration_mm] * math.pi * diameter_mm**2 / 4 / 1000


def diameter_of(record: BearingRecord, school: BearingSchool) -> float:
    """The plunger's diameter, mm: as measured, else the school's."""
    d = record.plunger_diameter_mm
    return d if known(d) and d > 0 else school.plunger_diameter_mm


def found_of(record: BearingRecord, end: End, school: BearingSchool) -> EndResult:
    """Curve, zero and ratios of one push, as far as its readings go."""
    points = points_of(end, record.ring(), school)
    over = is_over(end, school)
    if len(points) < 2:
        return EndResult(end, points, None, None, 0.0, "computed", (), over)
    curve = curve_of([p.penetration_mm for p in points], [p.force_kn for p in points])
    computed = zero_correction(curve, school.least_steepening)
    by: Literal["computed", "analyst"] = "computed"
    shift = computed.shift_mm
    if known(end.zero_mm) and 0 <= end.zero_mm < curve.end_mm:
        shift, by = end.zero_mm, "analyst"
    ratios = []
    for at in (school.first_mm, school.second_mm):
        force = force_at_kn(curve, at, shift)
        reference = reference_kn(at, school, diameter_of(record, school))
        ratios.append(Ratio(at, force, None if force is None else 100 * force / reference))
    return EndResult(end, points, curve, computed, shift, by, tuple(ratios), over)


def _at(ratio: Ratio) -> str:
    return f"{ratio.percent or 0:.3g} % at {plain(ratio.at_mm)} mm"


def governing(found: EndResult, record: BearingRecord, school: BearingSchool) -> Governing | None:
    """The ratio of one end that counts, in one sentence; None while the record has not come so far."""
    if found.curve is None or not found.ratios:
        return None
    first, second = found.ratios
    if first.percent is None:
        return _bound(found, record, school) if found.over else None
    if second.percent is None:
        if not found.over:
            return Governing(first.percent, first.at_mm, f"{_at(first)} so far; the second is still to come.", False)
        least = _bound(found, record, school)
        if least and least.percent > first.percent:
            return least
        ends = f"the record ends at {plain(found.curve.end_mm, 3)} mm"
        why = f" ({found.end.stopped})" if found.end.stopped else ""
        return Governing(first.percent, first.at_mm, f"{_at(first)} alone: {ends}{why}.", False)
    if school.governs == "the higher":
        high, low = (second, first) if second.percent > first.percent else (first, second)
        return Governing(high.percent or 0, high.at_mm, f"{_at(high)} governs: higher than {_at(low)}.", False)
    if second.percent <= first.percent:
        sentence = f"{_at(first)} governs: the second, {_at(second)}, is not higher."
        return Governing(first.percent, first.at_mm, sentence, False)
    if record.repeated == "yes":
        sentence = f"{_at(second)} governs: higher than {_at(first)} in the repeat too."
    else:
        sentence = f"{_at(second)} is higher than {_at(first)}: repeat; it governs if it is higher again."
    return Governing(second.percent, second.at_mm, sentence, False)


def _bound(found: EndResult, record: BearingRecord, school: BearingSchool) -> Governing | None:
    """What a record that ends early proves: the force at its end is the least it would have reached further in."""
    assert found.curve is not None
    end = found.curve.end_mm - found.shift_mm
    ahead = next((r for r in found.ratios if r.at_mm > end), None)
    if ahead is None or found.end.stopped not in ("ring at its limit", "reaction lifted"):
        return None
    percent = 100 * found.curve.force_kn[-1] / reference_kn(ahead.at_mm, school, diameter_of(record, school))
    if percent <= 0:
        return None
    why = f"{found.end.stopped} at {plain(found.curve.end_mm, 3)} mm"
    sentence = f"Greater than {percent:.3g} %: {why}, with {plain(found.curve.force_kn[-1], 3)} kN."
    return Governing(percent, ahead.at_mm, sentence, True)


def lower_bound(found: EndResult, force_kn: float, record: BearingRecord, school: BearingSchool) -> Governing | None:
    """What a force at which the reaction lifted proves: the first ratio that was not reached is greater than it gives.

    Parameters: `force_kn` at the standstill, kN.
    Returns: the bound; None where both ratios were reached, or the force is nothing.
    Source: BS 1377-9.
    """
    ahead = next((r for r in found.ratios if r.percent is None), None)
    if ahead is None or force_kn <= 0:
        return None
    percent = 100 * force_kn / reference_kn(ahead.at_mm, school, diameter_of(record, school))
    reached = max((r.percent for r in found.ratios if r.percent is not None), default=0.0)
    if percent <= reached:
        return None
    sentence = f"Greater than {percent:.3g} %: the reaction lifted at {plain(force_kn, 3)} kN."
    return Governing(percent, ahead.at_mm, sentence, True)


def pushes_of(record: BearingRecord, school: BearingSchool) -> tuple[EndResult, ...]:
    """Every push of the record, with the ratio that governs it."""
    found = (found_of(record, end, school) for end in record.ends())
    return tuple(one._replace(governs=governing(one, record, school)) for one in found)


class PushFacts(Protocol):
    """What the rules and pictures of a push read: the record, and its pushes worked out once."""

    @property
    def record(self) -> BearingRecord:
        """The record."""
        ...

    @property
    def pushes(self) -> tuple[EndResult, ...]:
        """Its pushes."""
        ...

    @property
    def calls(self) -> tuple[Called, ...]:
        """Its pushes as called readings."""
        ...
