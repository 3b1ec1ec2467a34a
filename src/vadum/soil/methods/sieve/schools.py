"""Accepted ways to a sieve analysis: the nest, the loss allowed, the soil needed, the size classes."""

from typing import Literal

from vadum.soil.contract.method import School

Table = tuple[tuple[float, float], ...]

# Largest grain in mm (as the sieve that 99 % passes) and least dry mass in g.
ASTM_LEAST: Table = ((0.425, 50), (2, 50), (4.75, 75), (9.5, 165), (19, 1300), (25, 3000), (37.5, 10_000), (75, 70_000))
ISO_LEAST: Table = ((2, 100), (6.3, 300), (10, 500), (20, 2000), (37.5, 14_000), (63, 40_000))
T27_LEAST: Table = ((4.75, 300), (9.5, 1000), (12.5, 2000), (19, 5000), (25, 10_000), (37.5, 15_000), (75, 60_000))


class SieveSchool(School):
    """Numbers that differ between the rule books."""

    apertures_mm: tuple[float, ...]
    wash_over_mm: float | None
    boundaries: Literal["astm", "iso"] = "astm"
    most_loss_percent: float
    least_mass: Table
    sieve_diameter_mm: float = 200.0
    fine_load_kg_m2: float = 7.0
    coarse_load_kg_m2_per_mm: float = 2.5
    end_point_percent: float = 1.0
    shake_min: float = 10.0
    oven_min: float = 16 * 60
    separation_only: bool = False


_ASTM = (19.0, 9.5, 4.75, 2.0, 0.85, 0.425, 0.25, 0.15, 0.106, 0.075)
_ISO = (20.0, 6.3, 2.0, 0.63, 0.2, 0.063)

_ALL = (
    SieveSchool(
        name="astm_soil",
        title="Soil, washed, ASTM sieves",
        standard="ASTM D6913, D1140",
        about="Washed over 0.075 mm; loss within 0.5 %; gravel above 4.75 mm.",
        apertures_mm=_ASTM,
        wash_over_mm=0.075,
        most_loss_percent=0.5,
        least_mass=ASTM_LEAST,
    ),
    SieveSchool(
        name="astm_aggregate",
        title="Aggregate, ASTM sieves",
        standard="ASTM C136, AASHTO T 27",
        about="Washed over 0.075 mm where fines matter; loss within 0.3 %.",
        apertures_mm=(37.5, 19.0, 9.5, 4.75, 2.36, 1.18, 0.6, 0.3, 0.15, 0.075),
        wash_over_mm=0.075,
        most_loss_percent=0.3,
        least_mass=T27_LEAST,
    ),
    SieveSchool(
        name="aashto_soil",
        title="Soil for classification, AASHTO sieves",
        standard="AASHTO T 88",
        about="After the hydrometer or washed: 2.0, 0.425 and 0.075 mm with those between.",
        apertures_mm=(19.0, 9.5, 4.75, 2.0, 0.425, 0.25, 0.106, 0.075),
        wash_over_mm=0.075,
        most_loss_percent=0.3,
        least_mass=ASTM_LEAST,
    ),
    SieveSchool(
        name="iso_soil",
        title="Soil, washed, ISO sieves",
        standard="ISO 17892-4",
        about="Washed over 0.063 mm; loss within 1 %; gravel above 2 mm.",
        apertures_mm=_ISO,
        wash_over_mm=0.063,
        boundaries="iso",
        most_loss_percent=1.0,
        least_mass=ISO_LEAST,
    ),
    SieveSchool(
        name="bs_soil",
        title="Soil, washed, BS sieves",
        standard="BS 1377-2",
        about="Washed over 0.063 mm; loss within 1 %; nest with halves between the class limits.",
        apertures_mm=(20.0, 10.0, 6.3, 3.35, 2.0, 1.18, 0.6, 0.425, 0.3, 0.212, 0.15, 0.063),
        wash_over_mm=0.063,
        boundaries="iso",
        most_loss_percent=1.0,
        least_mass=ISO_LEAST,
    ),
    SieveSchool(
        name="separation_2mm",
        title="Separation at 2 mm",
        standard="ISO 11464, laboratory practice",
        about="Dry, aggregates broken with a rubber pestle; fines go on to other tests, coarse fragments are weighed.",
        apertures_mm=(2.0,),
        wash_over_mm=None,
        boundaries="iso",
        most_loss_percent=1.0,
        least_mass=ISO_LEAST,
        separation_only=True,
    ),
)

SCHOOLS: dict[str, SieveSchool] = {school.name: school for school in _ALL}


def nest(school: SieveSchool) -> tuple[tuple[str, str], ...]:
    """The school's sieves as the readings a run begins with."""
    return tuple((f"sieves[{i}].aperture_mm", f"{a:g}") for i, a in enumerate(school.apertures_mm))
