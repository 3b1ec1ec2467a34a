"""The two lines of the plasticity chart."""


def a_line_percent(liquid_limit_percent: float) -> float:
    """`PI = 0.73 (LL - 20)`. Source: ASTM D2487.

    >>> a_line_percent(50)
    21.9
    """
    return 0.73 * (liquid_limit_percent - 20)


def u_line_percent(liquid_limit_percent: float) -> float:
    """`PI = 0.9 (LL - 8)`, the upper bound of natural soils. Source: ASTM D2487."""
    return 0.9 * (liquid_limit_percent - 8)
