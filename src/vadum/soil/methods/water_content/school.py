"""Accepted ways of drying a specimen."""

from typing import ClassVar, Literal

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
    most_hours_since_sampling: float = laboratory(24.0)
    balance_error_percent: float = laboratory(0.1)
    least_mass_g: float = 0.0
    sizes: tuple[tuple[float, float, float], ...] = ()
    sizes_source: str = ""
    assumed_readability_g: float = laboratory(0.01)
    most_usual_percent: float = laboratory(200.0)
    least_spell_share: float = laboratory(0.75)

    RETIRED: ClassVar = {"tare_drift_g": lambda told: {}}  # tins are told apart the same way in every method since 0.6


# Largest particle in mm, least wet mass in g for reporting to 1 % and to 0.1 %: `sizes`, each rule book its own. One
# mass in both columns where a book tells no step by it; none: the book gives no table.

SCHOOLS = schools_of(__file__, WaterContentSchool)
