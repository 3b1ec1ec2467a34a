"""What the points of a compaction come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.methods.compaction.peak import Peak, peak_of
from vadum.soil.methods.compaction.points import Made, estimates_percent, points
from vadum.soil.methods.compaction.record import Record
from vadum.soil.methods.compaction.school import CompactionSchool


class Facts(NamedTuple):
    """Every point that has a density, those that count, the peak of their curve (why there is none, else), and each
    row's water content as told from the water added, percent."""

    record: Record
    made: tuple[Made, ...]
    counting: tuple[Made, ...]
    peak: Peak | None
    no_peak: str
    estimates: tuple[float | None, ...]


def facts(record: Record, school: CompactionSchool) -> Facts:
    """The facts of a record under a school."""
    made = points(record, school)
    counting = [m for m in made if m.counts]
    peak, why = None, ""
    try:
        peak = peak_of(made, school) if len(counting) >= 3 else None
    except ReductionError as error:
        why = error.seen
    return Facts(record, tuple(made), tuple(counting), peak, why, tuple(estimates_percent(record, school)))
