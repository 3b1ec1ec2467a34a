"""What the threads come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import error_of_mean, mean
from vadum.soil.methods.plastic_limit.record import Record
from vadum.soil.methods.plastic_limit.school import PlasticLimitSchool
from vadum.soil.methods.plastic_limit.threads import counting, nonplastic_because


class Limit(NamedTuple):
    """The plastic limit, percent: the mean of the determinations that count, (row, percent), and its error."""

    percent: float
    error: float | None
    rows: tuple[tuple[int, float], ...]

    @property
    def apart(self) -> float:
        """How far the determinations lie apart, points."""
        contents = [content for _, content in self.rows]
        return max(contents) - min(contents)


class Facts(NamedTuple):
    """The limit so far, why the soil is nonplastic (empty where it is not), and the liquid limit beside."""

    record: Record
    limit: Limit | None
    nonplastic: str
    liquid_percent: float | None

    @property
    def index_percent(self) -> float | None:
        """`PI = LL - PL`; None where it would not be positive."""
        if self.limit is None or self.liquid_percent is None or self.liquid_percent <= self.limit.percent:
            return None
        return self.liquid_percent - self.limit.percent

    @property
    def said_nonplastic(self) -> bool:
        """Whether the technician has said that there is no limit to be found."""
        return self.record.cannot_be_rolled == "yes" or self.record.liquid_limit_unobtainable == "yes"


def facts(record: Record, school: PlasticLimitSchool) -> Facts:
    """The facts of a record under a school."""
    found = counting(record)
    contents = [content for _, content in found]
    limit = Limit(mean(contents), error_of_mean(contents), tuple(found)) if found else None
    liquid = record.liquid_limit_percent
    return Facts(record, limit, nonplastic_because(record), liquid if known(liquid) else None)
