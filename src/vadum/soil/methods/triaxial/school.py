"""What the rule books of the triaxial test set: which kinds, saturation, rate, area, corrections, the failure."""

from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from vadum.soil.contract.school import School, laboratory, schools_of

Criterion = Literal["greatest deviator", "greatest obliquity"]
RateBy = Literal["10 t50", "16 t90", "F t100", "fixed"]


def _by_drainage(told: Mapping[str, Any]) -> dict[str, Any]:
    """Factors as versions to 0.10 had them: undrained without and with side drains, drained without and with."""
    without, with_them, drained, drained_with = told["time_factors"]
    return {
        "undrained_factors": (without, without, with_them, with_them, with_them),
        "drained_factors": (drained, drained, drained_with, drained_with, drained_with),
    }


class TriaxialSchool(School):
    """Which kinds it is for, how fast, how far, which corrections, and what counts as failure."""

    kinds: tuple[str, ...]
    criterion: Criterion = "greatest deviator"
    rate_by: RateBy = "10 t50"
    # F of `tf = F t100`, undrained and drained, for one end, both ends, radial, radial and one end, radial and both.
    undrained_factors: tuple[float, float, float, float, float] = laboratory(
        (0.53, 2.1, 1.43, 1.8, 2.3), "BS 1377-8, fairly sure"
    )
    drained_factors: tuple[float, float, float, float, float] = laboratory(
        (8.5, 8.5, 12.7, 14.0, 16.0), "BS 1377-8, fairly sure"
    )
    least_failure_min: float = laboratory(120.0, "BS 1377-8, fairly sure")
    expected_failure_percent: float = laboratory(4.0, "ASTM D4767, D7181")
    fixed_percent_min: float = 1.0
    brittle_percent_min: float = 0.3
    stop_strain_percent: float = 15.0
    correct_over_percent: float = 0.0
    area_by: Literal["A, by volume change", "B, by the final water content"] = "A, by volume change"
    least_b_ratio: float = 0.95
    membrane_soak_min: float = laboratory(16 * 60)
    boil_min: float = laboratory(10.0)
    rest_min: float = laboratory(10.0, "ASTM D2850")
    least_diameter_mm: float = laboratory(33.0, "ASTM D2850, D4767")
    least_slenderness_ratio: float = laboratory(2.0)
    most_slenderness_ratio: float = laboratory(2.5)
    shape_decimals: int = laboratory(1)  # height to diameter is a nominal shape, judged to so many decimals
    grain_ratio: float = laboratory(6.0)
    least_specimens: int = laboratory(3)
    least_quick_specimens: int = laboratory(1)
    membrane_thickness_percent: float = laboratory(1.0, "ASTM D4767")
    membrane_modulus_kpa: float = laboratory(1400.0, "fairly sure, ASTM D4767")
    drained_ends: int = 2
    drains_kn_m: float = laboratory(0.19, "fairly sure, ASTM D4767")
    increment_kpa: float = laboratory(50.0)
    least_effective_kpa: float = laboratory(10.0)
    enough_back_kpa: float = laboratory(300.0)
    unchanged_b_ratio: float = laboratory(0.01)
    drift_percent: float = laboratory(2.0)
    drift_kpa: float = laboratory(5.0)
    least_consolidated_percent: float = laboratory(95.0)
    rate_over_percent: float = laboratory(10.0)
    # A shear may end at so much strain behind the greatest deviator, or once it has fallen by so much; a fall below
    # the least is the reading's own scatter.
    past_peak_percent: float = 2.0
    stop_fall_percent: float = laboratory(20.0)
    least_fall_percent: float = laboratory(2.0)
    failure_between_min: tuple[float, float] = (0.0, 0.0)  # of a quick test; both 0: the standard sets none
    late_failure_percent: float = laboratory(15.0)
    quick_friction_degrees: float = laboratory(3.0)
    late_stage_percent: float = laboratory(0.5)
    voids_apart_ratio: float = laboratory(0.05)
    misses_percent: float = laboratory(5.0)
    least_pressure_ratio: float = laboratory(2.0)
    leak_percent_log: float = laboratory(12.0)
    pressure_slack_kpa: float = laboratory(0.5)
    consolidation_min: tuple[float, ...] = laboratory(
        (0.1, 0.25, 0.5, 1.0, 2.0, 4.0, 8.0, 15.0, 30.0, 60.0, 120.0, 240.0, 480.0, 1440.0)
    )
    # Every tenth of a percent to one, then every half, in percent of the height.
    called_percent: tuple[float, ...] = laboratory(
        (*(0.1 * n for n in range(11)), *(1.0 + 0.5 * n for n in range(1, 39)))
    )
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
    report_to_degrees: float = 0.1
    report_to_kpa: float = laboratory(1.0)

    RETIRED: ClassVar = {"time_factors": _by_drainage}


SCHOOLS = schools_of(__file__, TriaxialSchool)
