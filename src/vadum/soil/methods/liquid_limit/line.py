"""The flow line through the counting points, in the school's axes."""

import math
from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.numerics import StraightLine, straight_line
from vadum.soil.methods.liquid_limit.points import Point
from vadum.soil.methods.liquid_limit.school import LiquidLimitSchool


class FlowLine(NamedTuple):
    """Water content against drops or penetration; `estimated` when any point is not yet measured."""

    fit: StraightLine
    kind: str
    estimated: bool

    def transformed(self, x: float) -> float:
        """x as the fit sees it."""
        return math.log10(x) if self.kind in ("semilog", "loglog") else x

    def at(self, x: float) -> float:
        """Water content, percent, read off the line at x drops or mm."""
        y = self.fit.at(self.transformed(x))
        return float(10**y) if self.kind == "loglog" else y

    def error_at(self, x: float) -> float | None:
        """Its standard uncertainty, percentage points."""
        error = self.fit.error_at(self.transformed(x))
        if error is None or self.kind != "loglog":
            return error
        return self.at(x) * math.log(10) * error


def flow_line(counting: list[Point], school: LiquidLimitSchool) -> FlowLine | None:
    """Least squares through the points that have a water content; None while they cannot carry a line.

    Source: `w = a + b log10 N` (ASTM D4318 method A), `w = a + b d` (BS 1377-2), `log w = a + b log d` (ISO 17892-12).

    Parameters: `counting`; `school` the rules.
    Returns: what is named above; None where nothing can be told.
    """
    pairs = [(p.abscissa, p.w_percent) for p in counting if p.w_percent is not None and p.w_percent > 0]
    logs = school.fit in ("semilog", "loglog")
    x = [math.log10(a) if logs else a for a, _ in pairs]
    y = [math.log10(w) if school.fit == "loglog" else w for _, w in pairs]
    try:
        return FlowLine(straight_line(x, y), school.fit, any(p.estimated for p in counting))
    except ReductionError:
        return None


def exchanged(counting: list[Point], school: LiquidLimitSchool, limit_percent: float) -> tuple[int, int] | None:
    """The two rows whose tins, put in each other's place, bring every point onto one falling (or rising) line; None
    where no pair does, or several do.

    Parameters: `counting` the points; `limit_percent` how far a point may lie off, percentage points.
    Returns: two rows of the record.
    """
    found = []
    for i, a in enumerate(counting):
        for b in counting[i + 1 :]:
            put = {a.row: b.w_percent, b.row: a.w_percent}
            swapped = [p._replace(w_percent=put.get(p.row, p.w_percent)) for p in counting]
            line = flow_line(swapped, school)
            if line and runs_right(line, school):
                off = max(abs((p.w_percent or 0.0) - line.at(p.abscissa)) for p in swapped)
                if off <= limit_percent / 2:
                    found.append((off, (a.row, b.row)))
    return found[0][1] if len(found) == 1 else None


def runs_right(line: FlowLine, school: LiquidLimitSchool) -> bool:
    """Whether the line runs as physics has it: wetter soil closes in fewer drops and lets the cone in deeper."""
    return line.fit.slope < 0 if school.apparatus == "cup" else line.fit.slope > 0


def told_apart(counting: list[Point], school: LiquidLimitSchool, limit_percent: float) -> int | None:
    """The row of the one point that lies off while all the others stand on a line; None where no point, or more than
    one, can be said to: a good point is never blamed.

    Parameters: `counting` four points or more; `limit_percent` how far a point may lie off, percentage points.
    Returns: a row of the record.
    """
    if len(counting) < 4:
        return None
    found = []
    for point in counting:
        others = [p for p in counting if p is not point]
        line = flow_line(others, school)
        if line is None or point.w_percent is None or not runs_right(line, school):
            continue
        off = max(abs((p.w_percent or 0.0) - line.at(p.abscissa)) for p in others)
        if off <= limit_percent / 2 and abs(point.w_percent - line.at(point.abscissa)) > limit_percent:
            found.append(point.row)
    return found[0] if len(found) == 1 else None


def left_out_residuals(counting: list[Point], school: LiquidLimitSchool) -> dict[int, float]:
    """Each point's distance, percentage points, from the line through all the others; empty below four points."""
    if len(counting) < 4:
        return {}
    residuals = {}
    for point in counting:
        others = flow_line([p for p in counting if p is not point], school)
        if others and point.w_percent is not None:
            residuals[point.row] = point.w_percent - others.at(point.abscissa)
    return residuals
