"""What the trials come to, worked out once: their points, the line or the one-point limits, and the open bands."""

from typing import NamedTuple

from vadum.soil.contract.numerics import mean
from vadum.soil.methods.liquid_limit.line import (
    FlowLine,
    exchanged,
    flow_line,
    left_out_residuals,
    runs_right,
    told_apart,
)
from vadum.soil.methods.liquid_limit.one_point import one_point_limits
from vadum.soil.methods.liquid_limit.points import Point, missing_bands, points
from vadum.soil.methods.liquid_limit.record import Record
from vadum.soil.methods.liquid_limit.school import Band, LiquidLimitSchool


class Facts(NamedTuple):
    """Every trial that closed; those that count and have a water content; the line through them, each point's distance
    from the line of the others, the one-point limits, and the bands that no trial fills."""

    record: Record
    points: tuple[Point, ...]
    counting: tuple[Point, ...]
    line: FlowLine | None
    alone: dict[int, float]
    one_point: tuple[float, ...]
    open_bands: tuple[Band, ...]
    limit_off_percent: float
    swapped: tuple[int, int] | None

    @property
    def estimated(self) -> bool:
        """Whether a point that counts is told from the water added, its tin not yet dry."""
        return any(p.estimated for p in self.counting)


def facts(record: Record, school: LiquidLimitSchool) -> Facts:
    """The facts of a record under a school."""
    found = points(record, school)
    counting = [p for p in found if p.counts and p.w_percent is not None]
    many = school.kind == "multipoint"
    line = flow_line(counting, school) if many else None
    # Hands scatter by a share of the water there is: a point off at a limit of 100 is not one at 30.
    most = max((p.w_percent or 0.0 for p in counting), default=0.0)
    off = max(school.most_residual_percent, school.most_residual_share * most)
    worst = max((abs((p.w_percent or 0.0) - line.at(p.abscissa)) for p in counting), default=0.0) if line else 0.0
    wrong = line is not None and len(counting) > 2 and (worst > off or not runs_right(line, school))
    return Facts(
        record,
        tuple(found),
        tuple(counting),
        line,
        left_out_residuals(counting, school) if many else {},
        tuple(one_point_limits(counting, school)) if not many and counting else (),
        tuple(missing_bands(record, school)),
        off,
        # One point that explains it all is likelier than two tins in each other's place.
        exchanged(counting, school, off) if wrong and told_apart(counting, school, off) is None else None,
    )


def measured_limit(facts: Facts, school: LiquidLimitSchool) -> float | None:
    """The limit by the points that are measured alone, percent."""
    sure = [p for p in facts.counting if not p.estimated]
    if school.kind == "multipoint":
        line = flow_line(sure, school)
        return line.at(school.target) if line else None
    return mean(one_point_limits(sure, school)) if sure else None
