"""Accepted ways to a sieve analysis: the nest, the loss allowed, the soil needed, the size classes."""

from typing import Literal

from vadum.soil.contract.school import School, laboratory, schools_of

Table = tuple[tuple[float, float], ...]

# Largest grain in mm (as the sieve that 99 % passes) and least dry mass in g: `least_mass`.


class SieveSchool(School):
    """Numbers that differ between the rule books."""

    apertures_mm: tuple[float, ...]
    wash_over_mm: float | None
    boundaries: Literal["astm", "iso"] = "astm"
    most_loss_percent: float
    least_mass: Table
    sieve_diameter_mm: float = laboratory(200.0)
    fine_load_kg_m2: float = laboratory(7.0)
    coarse_load_kg_m2_per_mm: float = laboratory(2.5)
    end_point_percent: float = laboratory(1.0)
    shake_min: float = laboratory(10.0)
    oven_min: float = laboratory(16 * 60)
    separation_only: bool = False


SCHOOLS = schools_of(__file__, SieveSchool)


def nest(school: SieveSchool) -> tuple[tuple[str, str], ...]:
    """The school's sieves as the readings a run begins with."""
    return tuple((f"sieves[{i}].aperture_mm", f"{a:g}") for i, a in enumerate(school.apertures_mm))
