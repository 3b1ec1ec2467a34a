"""What the rule books of direct shear set: the area, the box, the time it needs, and where the tail is read."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of


class ShearSchool(School):
    """The box, the area that carries the stress, the rate, and the tail."""

    area: Literal["nominal", "corrected"] = "nominal"
    width_mm: float = 60.0
    height_mm: float = 20.0
    time_by: Literal["50 t50 or 11.6 t90", "12.7 t100"] = "50 t50 or 11.6 t90"
    least_width_mm: float = 50.0
    width_to_grain_ratio: float = 10.0
    least_height_mm: float = 12.0
    height_to_grain_ratio: float = 6.0
    least_width_to_height_ratio: float = 2.0
    least_stages: int = laboratory(3, "ASTM D3080, ISO 17892-10, BS 1377-7")
    least_gap_mm: float = laboratory(0.64, "ASTM D3080, fairly sure")
    # Where no peak is passed, failure is the stress at this part of the box's width; 0: the greatest stress reached.
    failure_share: float = 0.1
    failure_mm: float = laboratory(5.0, "ASTM D3080")
    failure_normally_consolidated_mm: float = laboratory(10.0, "ASTM D3080, fairly sure")
    # Minutes to failure where nothing was measured; dry clean sand drains at once and is driven at a rate of its own.
    default_min: tuple[tuple[str, float], ...] = laboratory(
        (("clean sand", 10.0), ("silty sand", 60.0), ("silt or lean clay", 200.0), ("fat clay", 1440.0)),
        "ASTM D3080, fairly sure",
    )
    dry_sand_mm_min: float = laboratory(1.0)
    tail_share: float = laboratory(0.1)
    most_travel_share: float = laboratory(0.2)
    slope_share: float = laboratory(0.025)
    # A peak among the first readings that falls at once by so much is a screw that broke loose.
    screw_readings: int = laboratory(3)
    screw_fall_percent: float = laboratory(25.0)
    most_dried_percent: float = laboratory(1.0)
    residual_within_percent: float = laboratory(5.0)
    past_peak_percent: float = laboratory(5.0)
    past_peak_mm: float = laboratory(0.5)
    plateau_percent: float = laboratory(2.0)
    plateau_share: float = laboratory(0.05)
    least_load_ratio: float = laboratory(1.5)
    most_density_apart_percent: float = laboratory(2.0)
    most_sand_cohesion_kpa: float = laboratory(5.0)
    most_secant_fall_degrees: float = laboratory(3.0)
    most_phi_degrees: float = laboratory(60.0)
    least_area_percent: float = laboratory(80.0)
    most_late_percent: float = laboratory(1.0, "laboratory setting, not confirmed by the standard")
    most_rotation_mm: float = laboratory(0.5)
    settle_min: tuple[float, ...] = laboratory(
        (0.1, 0.25, 0.5, 1.0, 2.0, 4.0, 8.0, 15.0, 30.0, 60.0, 120.0, 240.0, 480.0, 1440.0)
    )
    # Travel at which a hand reads, in parts of a hundred of the box's width.
    called_percent: tuple[float, ...] = laboratory(
        (
            0.0,
            0.2,
            0.4,
            0.6,
            0.8,
            1.25,
            *(1.25 + 0.4 * n for n in range(1, 17)),
            *(7.65 + 0.8 * n for n in range(1, 17)),
        )
    )
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
    report_to_degrees: float = 0.1
    report_to_kpa: float = 0.1


SCHOOLS = schools_of(__file__, ShearSchool)
