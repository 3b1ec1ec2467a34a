"""Accepted ways to a bearing ratio in place."""

from vadum.soil.contract.school import laboratory, schools_of
from vadum.soil.shared.bearing.school import BearingSchool


class SpotSchool(BearingSchool):
    """The reaction and the datum besides the push, and how many pushes at one spot make one result.

    `group_range_by_ratio`: pairs of (mean ratio below, the most that the pushes may lie apart), both in %.
    """

    pushes_of_a_group: int = 0
    group_range_by_ratio: tuple[tuple[float, float], ...] = ()
    reaction_margin_percent: float = laboratory(20.0)
    least_datum_mm: float = laboratory(1000.0)
    plateau_mm: float = laboratory(1.0)
    plateau_percent: float = laboratory(1.5)
    most_vehicle_mm: float = laboratory(0.5)
    near_reaction_percent: float = laboratory(10.0)
    most_ring_back_div: float = laboratory(2.0)
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)


SCHOOLS = schools_of(__file__, SpotSchool)
