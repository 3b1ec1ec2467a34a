"""The one-point formula, or table: each closure or penetration brought to where the limit is read."""

from vadum.soil.methods.liquid_limit.points import Point
from vadum.soil.methods.liquid_limit.school import PRINTED_FACTORS, LiquidLimitSchool

LOW_PLASTIC_PERCENT, HIGH_PLASTIC_PERCENT = 35.0, 90.0  # the columns of the cone's table


def cone_factor(penetration_mm: float, w_percent: float, school: LiquidLimitSchool) -> float:
    """The school's factor for one penetration of the cone, between whole millimetres by proportion.

    Parameters: `penetration_mm` in mm, within the school's table; `w_percent` the water content there, which chooses
    the column.
    Returns: the ratio of the liquid limit to that water content.
    Source: BS 1377-2, one-point cone method; the figures are not confirmed by a copy of the standard.

    >>> from vadum.soil.methods.liquid_limit.school import SCHOOLS
    >>> cone_factor(18.0, 30.0, SCHOOLS["cone_one_point"]), round(cone_factor(21.5, 50.0, SCHOOLS["cone_one_point"]), 3)
    (1.036, 0.976)
    """
    import numpy as np  # a fifth of a second that a start need not pay

    column = 1 if w_percent < LOW_PLASTIC_PERCENT else 2 if w_percent <= HIGH_PLASTIC_PERCENT else 3
    table = school.cone_factors
    return float(np.interp(penetration_mm, [row[0] for row in table], [row[column] for row in table]))


def one_point_factor(abscissa: float, school: LiquidLimitSchool, w_percent: float) -> float:
    """`(N/25)^0.121`, or the printed figures where the school uses them: of drops, or of a cone's penetration.

    Parameters: `abscissa` in drops or mm, above 0; `w_percent` the water content there.
    Returns: the ratio of the liquid limit to the water content at those drops.
    Source: AASHTO T 89 method B; ASTM D4318 method B.

    >>> from vadum.soil.methods.liquid_limit.school import SCHOOLS
    >>> one_point_factor(22, SCHOOLS["one_point_verified"], 40)
    0.985
    >>> round(one_point_factor(22, SCHOOLS["one_point"], 40), 5)
    0.98465
    """
    if school.cone_factors:
        return cone_factor(abscissa, w_percent, school)
    if school.printed_factors and abscissa in PRINTED_FACTORS:
        return PRINTED_FACTORS[int(abscissa)]
    return float((abscissa / school.target) ** school.exponent)


def one_point_limits(counting: list[Point], school: LiquidLimitSchool) -> list[float]:
    """The liquid limit, percent, that each counting point with a water content gives by itself."""
    return [
        p.w_percent * one_point_factor(p.abscissa, school, p.w_percent) for p in counting if p.w_percent is not None
    ]
