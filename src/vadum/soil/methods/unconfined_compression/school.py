"""What the rule books of the unconfined compression set, and what the laboratory sets for all of them."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of

Words = Literal["older, by the strength", "ISO 14688-2, by the shear strength"]
Classes = Literal["older", "ISO 14688-2"]


class UnconfinedSchool(School):
    """The core's shape, the rate, how far the maximum is looked for, and the words of the result."""

    stop_strain_percent: float
    least_rate_percent_min: float = 0.5
    most_rate_percent_min: float = 2.0
    least_failure_min: float | None = None
    most_failure_min: float = 15.0
    least_slenderness_ratio: float = 2.0
    most_slenderness_ratio: float = laboratory(2.5, "ASTM D2166, ISO 17892-7, BS 1377-7")
    shape_decimals: int = laboratory(1)  # height to diameter is a nominal shape, judged to so many decimals
    least_diameter_mm: float = laboratory(30.0, "ASTM D2166")
    grain_share_ratio: float = laboratory(10.0, "ASTM D2166")
    grain_share_large_ratio: float = laboratory(6.0, "ASTM D2166")
    large_from_mm: float = laboratory(72.0, "ASTM D2166")
    toe_correction: bool = False
    strength_words: Words = "older, by the strength"
    sensitivity_classes: Classes = "older"
    # Outside the band by more than this share of the limit the strength is another one: doubtful, a laboratory setting.
    rate_beyond_ratio: float = laboratory(0.5)
    past_peak_percent: float = laboratory(3.0)
    least_fall_percent: float = laboratory(2.0)
    most_taper_percent: float = laboratory(5.0)
    most_water_gap_percent: float = laboratory(2.0)
    least_saturation_percent: float = laboratory(95.0)
    lowest_of_range_percent: float = laboratory(10.0)
    remoulded_water_percent: float = laboratory(1.0)
    remoulded_density_percent: float = laboratory(2.0)
    called_percent: tuple[float, ...] = laboratory(
        (0.0, 0.1, 0.2, 0.3, 0.5, 0.75, *(0.25 * n for n in range(4, 13)), *(0.5 * n for n in range(7, 41)))
    )
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
    report_to_kpa: float = laboratory(1.0)
    density_to_mg_m3: float = laboratory(0.01)


SCHOOLS = schools_of(__file__, UnconfinedSchool)

# Undrained strength in kPa, up to -> its word.
BY_SHEAR_STRENGTH: tuple[tuple[float, str], ...] = (  # ISO 14688-2
    (10.0, "extremely low"),
    (20.0, "very low"),
    (40.0, "low"),
    (75.0, "medium"),
    (150.0, "high"),
    (300.0, "very high"),
    (float("inf"), "extremely high"),
)
BY_STRENGTH: tuple[tuple[float, str], ...] = (  # the older scale, by q_u in kPa
    (25.0, "very soft"),
    (50.0, "soft"),
    (100.0, "medium"),
    (200.0, "stiff"),
    (400.0, "very stiff"),
    (float("inf"), "hard"),
)
