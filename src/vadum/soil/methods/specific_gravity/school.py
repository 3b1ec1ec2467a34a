"""Accepted ways to a specific gravity: how many pycnometers, how well they agree, how long the air is drawn."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of


class SpecificGravitySchool(School):
    """Numbers that differ between the rule books."""

    by: Literal["liquid", "gas"] = "liquid"
    least_determinations: int = 2
    most_apart: float = laboratory(0.03)
    vacuum_min: float = 120.0
    boiling_min: float = laboratory(10.0)
    most_from_calibration_c: float = laboratory(4.0)
    own_error: float = laboratory(0.005)
    usual: tuple[float, float] = laboratory((2.5, 2.9))
    report_to: float = 0.01
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)


SCHOOLS = schools_of(__file__, SpecificGravitySchool)
