"""The one-point formula: each closure brought to the drops where the limit is read."""

from vadum.soil.methods.liquid_limit.points import Point
from vadum.soil.methods.liquid_limit.school import PRINTED_FACTORS, LiquidLimitSchool


def one_point_factor(drops: float, school: LiquidLimitSchool) -> float:
    """`(N/25)^0.121`, or the printed three decimals where the school uses them.

    Parameters: `drops`, above 0.
    Returns: the ratio of the liquid limit to the water content at those drops.
    Source: AASHTO T 89 method B; ASTM D4318 method B.

    >>> from vadum.soil.methods.liquid_limit.school import SCHOOLS
    >>> one_point_factor(22, SCHOOLS["one_point_verified"]), round(one_point_factor(22, SCHOOLS["one_point"]), 5)
    (0.985, 0.98465)
    """
    if school.printed_factors and drops in PRINTED_FACTORS:
        return PRINTED_FACTORS[int(drops)]
    return float((drops / school.target) ** school.exponent)


def one_point_limits(counting: list[Point], school: LiquidLimitSchool) -> list[float]:
    """The liquid limit, percent, that each counting point with a water content gives by itself."""
    return [p.w_percent * one_point_factor(p.abscissa, school) for p in counting if p.w_percent is not None]
