"""Accepted ways of drying a specimen."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of


class WaterContentSchool(School):
    """How the soil is dried, for how long, and when its mass counts as constant."""

    dried_by: Literal["oven", "microwave", "direct heat"]
    temperature_c: tuple[float, float] | None
    first_min: float
    again_min: float
    cool_min: float
    second_weighing: bool
    constant_percent: float
    tare_drift_g: float = laboratory(0.05)
    most_hours_since_sampling: float = laboratory(24.0)
    balance_error_percent: float = laboratory(0.1)
    least_mass_g: float = 0.0


# D2216, table 1: largest particle, mm -> least wet mass, g, for reporting to 1 % and to 0.1 %.
SPECIMEN_SIZES: tuple[tuple[float, float, float], ...] = (
    (2.0, 20, 20),
    (4.75, 20, 100),
    (9.5, 50, 500),
    (19.0, 250, 2500),
    (37.5, 1000, 10000),
    (75.0, 5000, 50000),
)

SCHOOLS = schools_of(__file__, WaterContentSchool)
