"""Accepted ways to a constant-head well."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of


class WellSchool(School):
    """What rule books of the well differ in.

    Steady are the last `steady_many` rates within `steady_percent` of their mean and without a longer drift. `shape`:
    which print of the shape factor of the finest class. `design`: infiltration as the conductivity itself (unit
    gradient) or by the relation `K = 6e-11 I^3.7363`. `to_c`: conductivity is referred to water of that temperature.
    """

    steady_many: int
    steady_percent: float
    read_every_min: float
    first_shape: Literal["first print", "other print"] = "first print"
    design: Literal["unit gradient", "I to the 3.7363"] = "unit gradient"
    to_c: float = 20.0
    fall_back: Literal["arithmetic", "geometric"] = laboratory("arithmetic")
    alpha_band_per_cm: tuple[float, float] = laboratory((0.01, 1.0))
    least_head_mm: float = laboratory(50.0)
    most_drift_mm: float = laboratory(5.0)
    most_warming_c: float = laboratory(1.0)
    least_clay_min: float = laboratory(120.0)
    u_head_mm: float = laboratory(2.0, "how well the depth of water is known")
    u_radius_mm: float = laboratory(0.5, "how well the hole's radius is known")
    usual_radius_mm: float = laboratory(30.0)
    safety_by_layers: tuple[tuple[float, float], ...] = laboratory(
        ((1.0, 2.5), (4.0, 3.5), (8.0, 4.5), (16.0, 6.5), (1e9, 8.5)), "a table by the ratio of layers, doubtful"
    )


SCHOOLS = schools_of(__file__, WellSchool)
