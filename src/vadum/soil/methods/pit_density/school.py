"""Accepted ways to a density by excavation: how the hole is measured, and which density the job wants."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of
from vadum.soil.shared.conformity import Decision

# Largest grain in mm, least hole in cm³, least wet mass in g for the water content: `sizes`.


class PitDensitySchool(School):
    """How the volume is found, what is reported first, and the limits."""

    volume_by: Literal["sand", "water", "balloon", "typed"]
    dry_by: Literal["tin", "separation"] = "tin"
    wants: Literal["whole soil", "fine earth"] = "whole soil"
    stone_density_mg_m3: float = laboratory(2.65)
    most_coarse_volume_percent: float = laboratory(30.0)
    most_lost_percent: float = laboratory(1.0)
    least_volume_cm3: float = 700.0
    sizes: tuple[tuple[float, float, float], ...] = ()
    most_sand_days: int = laboratory(14)
    most_corrected_stones_percent: float = laboratory(40.0)
    usual_mg_m3: tuple[float, float] = laboratory((0.6, 2.4))
    oven_min: float = laboratory(18 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
    conformity: Decision = laboratory("off")
    conformity_guard_percent: float = laboratory(2.0)
    report_to_mg_m3: float = laboratory(0.01)


SCHOOLS = schools_of(__file__, PitDensitySchool)
