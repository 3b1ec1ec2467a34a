"""Accepted ways to a bearing ratio in the mould: effort, ends, soaking, rate, reference and rounding."""

from vadum.soil.contract.school import laboratory, schools_of
from vadum.soil.shared.bearing.school import BearingSchool


class MouldSchool(BearingSchool):
    """The specimen besides the push. A laboratory that varies the blows copies a school and holds its own figure."""

    effort: str
    mould_cm3: float = 2305.0
    height_mm: float = 127.0
    both_ends: bool = True
    average_within_percent: float = laboratory(10.0)
    soak_days: float = laboratory(4.0)
    least_soak_share: float = laboratory(0.95)
    most_target_gap_percent: float = laboratory(2.0)
    most_water_gap_percent: float = laboratory(1.0)
    most_swell_percent: float = laboratory(3.0)
    most_oversize_percent: float = laboratory(25.0)
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
    density_to_mg_m3: float = laboratory(0.01)


SCHOOLS = schools_of(__file__, MouldSchool)
