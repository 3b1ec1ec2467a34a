"""Accepted ways to a sieve analysis: the nest, the loss allowed, the soil needed, the size classes."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of

Table = tuple[tuple[float, float], ...]

# Largest grain in mm (as the sieve that 99 % passes) and least dry mass in g: `least_mass`.
# Aperture in mm, greatest mass in g at the end, diameter in mm of the sieve that it is said of: `loads`. Without a
# table of its own a school takes the loads by effective area.


class SieveSchool(School):
    """Numbers that differ between the rule books."""

    apertures_mm: tuple[float, ...]
    wash_over_mm: float | None
    boundaries: Literal["astm", "aashto", "iso"] = "astm"
    most_loss_percent: float
    least_mass: Table
    report_to_percent: float = 1.0
    loads: tuple[tuple[float, float, float], ...] = ()
    loads_source: str = "ASTM C136"
    sieve_diameter_mm: float = laboratory(200.0)
    fine_load_kg_m2: float = laboratory(7.0)
    coarse_load_kg_m2_per_mm: float = laboratory(2.5)
    end_point_percent: float = laboratory(1.0)
    shake_min: float = laboratory(10.0)
    oven_min: float = laboratory(16 * 60)
    oven_c: tuple[float, float] = (105.0, 115.0)
    separation_only: bool = False
    assumed_readability_g: float = laboratory(0.1)
    gap_factor: float = laboratory(4.0)
    gap_points: float = laboratory(5.0)
    gap_beside_points: float = laboratory(10.0)


SCHOOLS = schools_of(__file__, SieveSchool)


def nest(school: SieveSchool) -> tuple[tuple[str, str], ...]:
    """The school's sieves as the readings a run begins with."""
    return tuple((f"sieves[{i}].aperture_mm", f"{a:g}") for i, a in enumerate(school.apertures_mm))
