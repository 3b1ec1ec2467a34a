"""Accepted ways to a liquid limit: which closures count, which line is drawn, where it is read."""

from typing import Literal

from vadum.soil.contract.method import School

Band = tuple[float, float]


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
    verification_drops: int = 2
    printed_factors: bool = False
    most_spread_percent: float = 1.0
    most_residual_percent: float = 1.0
    least_r_squared_ratio: float = 0.95
    most_estimate_gap_percent: float = 3.0
    drop_height_mm: float = 10.0
    drop_tolerance_mm: float = 0.2
    season_min: float = 30.0
    oven_min: float = 16 * 60
    report_to_percent: float = 1.0


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

_CONE_BANDS: tuple[Band, ...] = ((15, 17.5), (17.5, 20), (20, 22.5), (22.5, 25))

_ALL = (
    LiquidLimitSchool(
        name="four_bands",
        title="Multipoint, four bands",
        standard="laboratory practice on ASTM D4318 and AASHTO T 89",
        about="One trial in each of 15–20, 20–25, 25–30 and 30–35 drops; semi-log line read at 25.",
        apparatus="cup",
        kind="multipoint",
        bands=((15, 20), (20, 25), (25, 30), (30, 35)),
        accepted=(15, 35),
        least_points=4,
    ),
    LiquidLimitSchool(
        name="three_bands",
        title="Multipoint, three bands",
        standard="ASTM D4318 method A",
        about="One trial in each of 25–35, 20–30 and 15–25 drops; semi-log line read at 25.",
        apparatus="cup",
        kind="multipoint",
        bands=((25, 35), (20, 30), (15, 25)),
        accepted=(15, 35),
        least_points=3,
        season_min=16 * 60,
    ),
    LiquidLimitSchool(
        name="one_point_verified",
        title="One point, verified",
        standard="AASHTO T 89 method B",
        about="A closure in 22–28 drops, remixed and closed again within 2 drops of it; the tin is from the second.",
        apparatus="cup",
        kind="one_point",
        bands=((22, 28),),
        accepted=(22, 28),
        least_points=1,
        verified=True,
        printed_factors=True,
    ),
    LiquidLimitSchool(
        name="one_point",
        title="One point, two trials",
        standard="ASTM D4318 method B",
        about="Two trials in 20–30 drops whose liquid limits agree within one point; their mean.",
        apparatus="cup",
        kind="one_point",
        bands=((20, 30), (20, 30)),
        accepted=(20, 30),
        least_points=2,
        season_min=16 * 60,
    ),
    LiquidLimitSchool(
        name="three_replicates",
        title="Three replicates",
        standard="soil-science three-replicate practice",
        about="Three trials in 15–35 drops, each brought to 25 by the one-point formula; mean and spread.",
        apparatus="cup",
        kind="one_point",
        bands=((15, 35), (15, 35), (15, 35)),
        accepted=(15, 35),
        least_points=3,
        most_spread_percent=2.0,
        season_min=16 * 60,
    ),
    LiquidLimitSchool(
        name="cone_80g",
        title="Fall cone 80 g, 30°, straight line",
        standard="BS 1377-2",
        about="At least four points between 15 and 25 mm; straight line read at 20 mm.",
        apparatus="cone",
        kind="multipoint",
        fit="linear",
        bands=_CONE_BANDS,
        every_band=False,
        accepted=(15, 25),
        least_points=4,
        target=20.0,
        # First guess until the run's own line stands; between the one-point ratios of soft and stiff clays.
        exponent=-0.25,
        season_min=24 * 60,
    ),
    LiquidLimitSchool(
        name="cone_80g_log",
        title="Fall cone 80 g, 30°, log-log",
        standard="ISO 17892-12",
        about="At least four points between 15 and 25 mm; log-log line read at 20 mm.",
        apparatus="cone",
        kind="multipoint",
        fit="loglog",
        bands=_CONE_BANDS,
        every_band=False,
        accepted=(15, 25),
        least_points=4,
        target=20.0,
        exponent=-0.25,
        season_min=16 * 60,
    ),
    LiquidLimitSchool(
        name="cone_60g",
        title="Fall cone 60 g, 60°, straight line",
        standard="ISO 17892-12",
        about="At least four points between 7 and 15 mm; straight line read at 10 mm.",
        apparatus="cone",
        kind="multipoint",
        fit="linear",
        bands=((7, 9), (9, 11), (11, 13), (13, 15)),
        every_band=False,
        accepted=(7, 15),
        least_points=4,
        target=10.0,
        exponent=-0.25,
        season_min=16 * 60,
    ),
)

SCHOOLS: dict[str, LiquidLimitSchool] = {school.name: school for school in _ALL}
