"""Accepted ways to a bearing capacity by plate."""

from vadum.soil.contract.school import laboratory, schools_of
from vadum.soil.methods.plate_bearing.record import Rule
from vadum.soil.shared.plate.school import PlateSchool


class BearingSchool(PlateSchool):
    """What rule books of the plate test on foundations differ in.

    Steps are at most `most_step_kpa` and the expected ultimate over `steps_to_ultimate_ratio`; `ultimate_by` is the
    rule the school reads the ultimate by, `width_share_percent` its share of the plate's width; `limit_mm` ends the
    test; `to_design_ratio` times the design pressure is as far as it goes.
    """

    width_mm: float
    seating_kpa: float
    most_step_kpa: float
    steps_to_ultimate_ratio: float
    usual_ultimate_kpa: float = laboratory(500.0, "stands for an ultimate that nobody expects yet")
    to_design_ratio: float = 3.0
    ultimate_by: Rule
    width_share_percent: float
    limit_mm: float
    down_shares: tuple[float, ...] = (0.5, 0.0)
    safety_ratio: float = laboratory(3.0)
    permissible_mm: float = laboratory(25.0)
    strength_divisor_ratio: float = laboratory(6.15, "6.0 to 6.2 in use")
    poisson_ratio: float = laboratory(0.35)
    round_shape_factor: float = laboratory(0.79, "rigid plates")
    square_shape_factor: float = laboratory(0.85, "rigid plates, 0.82 to 0.88")
    most_warming_c: float = laboratory(5.0)
    least_width_m: float = laboratory(0.3)
    most_widths_ratio: float = laboratory(5.0)
    line_points_count: int = laboratory(3, "least points of each of the two lines")


SCHOOLS = schools_of(__file__, BearingSchool)
