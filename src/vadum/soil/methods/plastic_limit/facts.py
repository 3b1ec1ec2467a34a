"""What the threads come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import error_of_mean, mean
from vadum.soil.methods.plastic_limit.record import Record
from vadum.soil.methods.plastic_limit.school import PlasticLimitSchool
from vadum.soil.methods.plastic_limit.threads import (
    Limits,
    counting,
    fine_water_percent,
    nonplastic_because,
    subtracted,
)
from vadum.soil.shared.plasticity import liquidity_index


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
    limits: Limits | None
    water_percent: float | None

    @property
    def index_percent(self) -> float | None:
        """The plasticity index, percentage points; None where it would not be positive."""
        return self.limits.index_percent if self.limits else None

    @property
    def liquidity_index(self) -> float | None:
        """The liquidity index of the part below 0.425 mm; None without water content or index."""
        index = self.index_percent
        if self.limits is None or index is None or self.water_percent is None:
            return None
        return liquidity_index(self.water_percent, self.limits.plastic_percent, index)

    @property
    def said_nonplastic(self) -> bool:
        """Whether the technician has said that there is no limit to be found."""
        return self.record.cannot_be_rolled == "yes" or self.record.liquid_limit_unobtainable == "yes"


def facts(record: Record, school: PlasticLimitSchool) -> Facts:
    """The facts of a record under a school."""
    found = counting(record)
    contents = [content for _, content in found]
    limit = Limit(mean(contents), error_of_mean(contents), tuple(found)) if found else None
    liquid = record.liquid_limit_percent if known(record.liquid_limit_percent) else None
    limits = subtracted(liquid, limit.percent, school) if limit and liquid is not None else None
    return Facts(record, limit, nonplastic_because(record, school), liquid, limits, fine_water_percent(record))
