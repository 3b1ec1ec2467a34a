"""Accepted ways to a bearing ratio in the mould: effort, ends, soaking, rate, reference and rounding."""

from typing import ClassVar

from vadum.soil.contract.school import laboratory, schools_of
from vadum.soil.shared.bearing.school import BearingSchool

SOAK_DAYS = 4.0


class MouldSchool(BearingSchool):
    """The specimen besides the push. A laboratory that varies the blows copies a school and holds its own figure."""

    effort: str
    mould_cm3: float = 2305.0
    height_mm: float = 127.0
    both_ends: bool = True
    average_within_percent: float = laboratory(10.0)
    soak_h: float = laboratory(24 * SOAK_DAYS)
    soak_within_h: float = 5.0
    least_surcharge_kg: float | None = None
    mould_diameter_mm: float = laboratory(152.0)
    most_target_gap_percent: float = laboratory(2.0)
    most_water_gap_percent: float = laboratory(1.0)
    most_swell_percent: float = laboratory(3.0)
    replaces_oversize: bool = False
    most_oversize_percent: float = laboratory(25.0)
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
    density_to_mg_m3: float = laboratory(0.01)

    # Until 0.5 a soaking was told in days, and its shortest as a share of them.
    RETIRED: ClassVar = {
        "soak_days": lambda told: {"soak_h": 24 * told["soak_days"]},
        "least_soak_share": lambda told: {
            "soak_within_h": (1 - told["least_soak_share"]) * 24 * told.get("soak_days", SOAK_DAYS)
        },
    }

    @property
    def soak_days(self) -> int:
        """Whole days of soaking, and of swell readings."""
        return int(self.soak_h / 24)


SCHOOLS = schools_of(__file__, MouldSchool)
