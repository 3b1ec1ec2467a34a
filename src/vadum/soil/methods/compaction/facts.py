"""What the points of a compaction come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.methods.compaction.peak import Peak, peak_of
from vadum.soil.methods.compaction.points import Made, estimates_percent, points
from vadum.soil.methods.compaction.record import Record
from vadum.soil.methods.compaction.school import CompactionSchool

LEAST_RISE_MG_M3 = 0.01  # less is the scatter of filling a mould
LEAST_TO_JUDGE = 4  # points, before a curve may be called flat


class Facts(NamedTuple):
    """Every point that has a density, those that count, the peak of their curve (why there is none, else), and each
    row's water content as told from the water added, percent."""

    record: Record
    made: tuple[Made, ...]
    counting: tuple[Made, ...]
    peak: Peak | None
    no_peak: str
    estimates: tuple[float | None, ...]
    flat: bool
    tops: int


def _tops(counting: list[Made]) -> int:
    """How many points stand above both of their neighbours by more than the balance shows: a soil that drains freely
    bulks, and its curve has a second top on the dry side."""
    rows = sorted(counting, key=lambda m: m.water_percent)
    inner = list(zip(rows, rows[1:], rows[2:], strict=False))
    found = sum(b.dry_mg_m3 > max(a.dry_mg_m3, c.dry_mg_m3) + LEAST_RISE_MG_M3 for a, b, c in inner)
    if len(rows) > 2 and rows[0].dry_mg_m3 > rows[1].dry_mg_m3 + LEAST_RISE_MG_M3:
        found += 1  # it begins by falling: the dry side's top lies before the first point
    return found


def facts(record: Record, school: CompactionSchool) -> Facts:
    """The facts of a record under a school."""
    made = points(record, school)
    counting = [m for m in made if m.counts]
    peak, why = None, ""
    try:
        peak = peak_of(made, school) if len(counting) >= 3 else None
    except ReductionError as error:
        why = error.seen
    dry = [m.dry_mg_m3 for m in counting]
    flat = len(dry) >= LEAST_TO_JUDGE and max(dry) - min(dry) < school.flat_mg_m3
    estimates = tuple(estimates_percent(record, school))
    return Facts(record, tuple(made), tuple(counting), peak, why, estimates, flat, _tops(counting))
