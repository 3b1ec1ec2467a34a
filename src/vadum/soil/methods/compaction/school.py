"""Accepted ways to a compaction curve: mould, layers, blows, rammer, and how the peak is drawn."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of


class CompactionSchool(School):
    """The effort and the fit. A laboratory that varies the blows copies a school and holds its own figure."""

    mould_cm3: float
    layers_count: int
    blows: int | None
    rammer_kg: float
    drop_mm: float | None
    fit: Literal["parabola", "cubic", "spline"] = "parabola"
    fit_points: int | None = 5
    fresh_portions: bool = True
    least_points: int = laboratory(5)
    least_each_side: int = laboratory(2)
    step_percent: float = laboratory(2.0)
    mould_tolerance_percent: float = laboratory(2.0)
    most_oversize_percent: float = laboratory(30.0)
    most_estimate_gap_percent: float = laboratory(1.5)
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
    density_to_mg_m3: float = laboratory(0.01)
    water_to_percent: float = 0.5


SCHOOLS = schools_of(__file__, CompactionSchool)
