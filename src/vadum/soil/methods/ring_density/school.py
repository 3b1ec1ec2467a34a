"""Accepted ways to a density by ring: how many headspaces, how much subsample, how it is dried."""

from vadum.soil.contract.school import School, laboratory, schools_of


class RingDensitySchool(School):
    """Numbers that differ between the rule books."""

    full_ring: bool = False
    least_headspaces: int = laboratory(4)
    most_askew_mm: float = laboratory(5.0)
    most_shortened_mm: float = laboratory(3.0)
    least_subsample_percent: float = laboratory(10.0)
    least_subsample_g: float = laboratory(30.0)
    usual_mg_m3: tuple[float, float] = laboratory((0.6, 2.4))
    most_hours_since_sampling: float = laboratory(24.0)
    oven_min: float = 16 * 60
    oven_c: tuple[float, float] = (105.0, 115.0)
    least_diameter_mm: float | None = None
    stone_density_mg_m3: float = laboratory(2.65)
    diameter_error_mm: float = laboratory(0.1)
    height_error_mm: float = laboratory(0.2)
    mass_error_g: float = laboratory(0.05)
    water_error_percent: float = laboratory(0.1)
    peat_mg_m3: tuple[float, float] = laboratory((0.05, 1.2))
    report_to_mg_m3: float = laboratory(0.01)


SCHOOLS = schools_of(__file__, RingDensitySchool)
