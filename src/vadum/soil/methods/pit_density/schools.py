"""Accepted ways to a density by excavation: how the hole is measured, and which density the job wants."""

from typing import Literal

from vadum.soil.contract.method import School


class PitDensitySchool(School):
    """How the volume is found, what is reported first, and the limits."""

    volume_by: Literal["sand", "water", "typed"]
    wants: Literal["whole soil", "fine earth"] = "whole soil"
    stone_density_mg_m3: float = 2.65
    most_coarse_volume_percent: float = 30.0
    most_lost_percent: float = 1.0
    least_volume_cm3: float = 700.0
    usual_mg_m3: tuple[float, float] = (0.6, 2.4)
    oven_min: float = 18 * 60
    report_to_mg_m3: float = 0.01


_ALL = (
    PitDensitySchool(
        name="sand",
        title="Sand replacement, whole soil",
        standard="ASTM D1556",
        about="Volume from dry sand poured through a cone; the whole soil's density.",
        volume_by="sand",
    ),
    PitDensitySchool(
        name="water",
        title="Water in a liner, whole soil",
        standard="ASTM D5030",
        about="Volume from water poured into a lined hole; the whole soil's density.",
        volume_by="water",
        least_volume_cm3=2000.0,
    ),
    PitDensitySchool(
        name="fine_earth",
        title="Water in a liner, fine earth",
        standard="ISO 11272",
        about="Soil science: the density of the fines between the stones; stones by their particle density.",
        volume_by="water",
        wants="fine earth",
    ),
    PitDensitySchool(
        name="typed",
        title="Volume measured otherwise, whole soil",
        standard="ASTM D2167 or laboratory practice",
        about="The volume comes from another apparatus and is typed.",
        volume_by="typed",
    ),
)

SCHOOLS: dict[str, PitDensitySchool] = {school.name: school for school in _ALL}
