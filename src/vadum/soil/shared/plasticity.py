"""The plasticity chart's lines, the liquidity index, and the classes of activity and consistency."""

import math

from vadum.soil.contract.outcome import Table

# Skempton's classes of activity; ISO 14688-2 classes of consistency by the consistency index.
ACTIVITY = ((0.75, "inactive"), (1.25, "normal"), (math.inf, "active"))
CONSISTENCY = ((0.25, "very soft"), (0.5, "soft"), (0.75, "firm"), (1.0, "stiff"), (math.inf, "very stiff"))

# Four points on a line do not make a limit certain to 0.05: what one operator repeats, percentage points. Setting.
LIQUID_FLOOR, PLASTIC_FLOOR = 0.7, 0.5


def a_line_percent(liquid_limit_percent: float) -> float:
    """`PI = 0.73 (LL - 20)`. Source: ASTM D2487.

    Parameters: `liquid_limit_percent` in %.
    Returns: %.

    >>> a_line_percent(50)
    21.9
    """
    return 0.73 * (liquid_limit_percent - 20)


def u_line_percent(liquid_limit_percent: float) -> float:
    """`PI = 0.9 (LL - 8)`, the upper bound of natural soils. Source: ASTM D2487.

    Parameters: `liquid_limit_percent` in %.
    Returns: %.

    >>> round(u_line_percent(50), 1)
    37.8
    """
    return 0.9 * (liquid_limit_percent - 8)


def limits_series() -> dict[str, Table]:
    """The lines and the band that every plasticity chart shows."""
    a_line: Table = (
        {"ll": 4 / 0.73 + 20, "pi": 4.0, "line": "A"},
        {"ll": 110.0, "pi": a_line_percent(110), "line": "A"},
    )
    u_line: Table = (
        {"ll": 16.0, "pi": u_line_percent(16), "line": "U"},
        {"ll": 74.0, "pi": u_line_percent(74), "line": "U"},
    )
    band: Table = tuple(
        {"ll": low, "pi": pi, "ll_to": pi / 0.73 + 20} for pi, low in ((4.0, 4 / 0.9 + 8), (7.0, 7 / 0.9 + 8))
    )
    return {"a_line": a_line, "u_line": u_line, "band": band}


def liquidity_index(water_percent: float, plastic_limit_percent: float, plasticity_percent: float) -> float:
    """`LI = (w - PL)/PI`: 0 at the plastic limit, 1 at the liquid limit. Source: ASTM D4318.

    Parameters: `water_percent` in %, 0 or more; `plastic_limit_percent` in %; `plasticity_percent` in %.
    Returns: a pure number.

    >>> round(liquidity_index(27.9, 22.37298, 24.42702), 4)
    0.2263
    """
    return (water_percent - plastic_limit_percent) / plasticity_percent


def fine_part_water_percent(water_percent: float, share_percent: float, coarse_water_percent: float = 0.0) -> float:
    """`w_f = (w - w_c (1 - P)) / P`, water content of the part below 0.425 mm.

    The stones of a gravelly clay hold next to no water: without this its liquidity index is far too low.

    Parameters: `water_percent` of the whole soil in %; `share_percent` of it below 0.425 mm by dry mass, above 0 to
    100; `coarse_water_percent` of the rest in %, 0 or its absorption.
    Returns: %; below 0 where the coarse part is said to hold more water than there is.
    Source: the water of both parts adds up.

    >>> fine_part_water_percent(12.0, 60.0), round(fine_part_water_percent(12.0, 60.0, 1.5), 6)
    (20.0, 19.0)
    """
    share = share_percent / 100
    return (water_percent - coarse_water_percent * (1 - share)) / share


def index_uncertainty_percent(liquid_error: float | None, plastic_error: float | None) -> float:
    """`u_PI = sqrt(u_LL^2 + u_PL^2)`, each with its floor: one operator does not repeat a limit better than that.

    Parameters: standard errors of both limits in %, None where unknown.
    Returns: percentage points.
    Source: quadrature; the floors are a laboratory setting, single operator.

    >>> round(index_uncertainty_percent(0.0, 0.0), 2)
    0.86
    """
    return math.hypot(with_floor(liquid_error, LIQUID_FLOOR), with_floor(plastic_error, PLASTIC_FLOOR))


def with_floor(error: float | None, floor: float) -> float:
    """A fit's own error in quadrature with what one operator repeats.

    Parameters: both in percentage points; an unknown `error` counts as none.
    Returns: percentage points.
    Source: quadrature.

    >>> with_floor(0.3, 0.4)
    0.5
    """
    return math.hypot(error or 0.0, floor)
