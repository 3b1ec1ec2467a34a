"""Accepted ways to a plastic limit: how well the determinations must agree, and how the index is rounded."""

from vadum.soil.contract.school import School, laboratory, schools_of


class PlasticLimitSchool(School):
    """Limits of agreement, least soil, and rounding."""

    least_determinations: int = 2
    most_apart_percent: float | None = 2.0
    most_apart_of_mean_percent: float | None = None
    most_apart_share: float = laboratory(0.02)
    least_moist_g: float = 6.0
    thread_mm: float = 3.2
    index_from_whole_numbers: bool = True
    report_to_percent: float = laboratory(1.0)
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)


SCHOOLS = schools_of(__file__, PlasticLimitSchool)
