"""Accepted ways to a liquid limit: which closures count, which line is drawn, where it is read."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of

Band = tuple[float, float]


ConeFactor = tuple[float, float, float, float]  # mm; below 35 % of water, 35 to 90 %, above 90 %


class LiquidLimitSchool(School):
    """Apparatus, bands, fit and limits. `abscissa` is drops (cup) or millimetres (cone)."""

    apparatus: Literal["cup", "cone"]
    kind: Literal["multipoint", "one_point"]
    fit: Literal["semilog", "linear", "loglog"] = "semilog"
    bands: tuple[Band, ...]
    every_band: bool = True
    accepted: Band
    least_points: int
    target: float = 25.0
    exponent: float = 0.121
    verified: bool = False
    verification_drops: int = laboratory(2)
    printed_factors: bool = False
    cone_factors: tuple[ConeFactor, ...] = ()
    most_spread_percent: float = 1.0
    least_span: float = 10.0
    most_gap_share: float = laboratory(0.5)
    most_gap_share_of_three: float = laboratory(2 / 3)
    repeat_mm: float | None = None
    third_mm: float = 1.0
    most_blows: int = laboratory(200)
    most_residual_share: float = laboratory(0.02)
    most_residual_percent: float = laboratory(1.0)
    least_r_squared_ratio: float = laboratory(0.95)
    most_estimate_gap_percent: float = laboratory(3.0)
    drop_height_mm: float = laboratory(10.0)
    drop_tolerance_mm: float = laboratory(0.2)
    season_min: float = 30.0
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
    report_to_percent: float = laboratory(1.0)


# AASHTO T 89 method B prints the factors (N/25)^0.121 for 22 to 28 drops to three decimals.
PRINTED_FACTORS: dict[int, float] = {
    22: 0.985,
    23: 0.990,
    24: 0.995,
    25: 1.000,
    26: 1.005,
    27: 1.009,
    28: 1.014,
}

SCHOOLS = schools_of(__file__, LiquidLimitSchool)
