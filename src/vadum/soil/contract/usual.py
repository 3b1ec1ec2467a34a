"""What readings usually are, by the name of their quantity: wide enough for every standard's apparatus and for soils
from peat to ore, narrow enough that a wrong unit, a factor of ten or a lost digit falls outside.

A reading outside is asked about once and kept as it is when the person means it; what no soil or tool can be is stopped
in `physical_range`. Laboratory settings: no standard gives them.
"""

import re
from functools import cache
from typing import NamedTuple


class Usual(NamedTuple):
    """Least and most of a reading that nobody would look at twice."""

    low: float
    high: float


# The first pattern that fits the whole name of the field counts.
_TABLE: tuple[tuple[str, Usual], ...] = (
    # Masses, g: a watch glass to a tray of gravel; a trimmed pat to a barrel sample.
    (r"mass_tin(_register)?_g", Usual(2, 5_000)),
    (r"mass_(wet|dry)_g", Usual(3, 60_000)),
    (r"mass_pycnometer_g", Usual(10, 3_000)),
    (r"mass_full_g", Usual(50, 6_000)),
    (r"mould_mass_g", Usual(300, 40_000)),
    (r"mass_with_soil_g", Usual(20, 60_000)),
    (r"mass_sand_(before|after|cone)_g", Usual(50, 60_000)),
    (r"mass_soil_(field|lab)_g", Usual(100, 100_000)),
    (r"mass_portion_g", Usual(200, 60_000)),
    (r"mass_total_g", Usual(20, 200_000)),
    (r"saturated_g", Usual(20, 5_000)),
    (r"(surcharge|cap)_kg", Usual(0.1, 150)),
    (r"hanger_kg", Usual(0.05, 1_500)),
    # Sizes, mm.
    (r"diameter_(top|middle|bottom)_mm", Usual(15, 400)),
    (r"height_[123]_mm", Usual(15, 900)),
    (r"ring_diameter_mm", Usual(25, 400)),
    (r"ring_height_mm", Usual(8, 400)),
    (r"specimen_height_mm", Usual(40, 400)),
    (r"core_height_mm", Usual(8, 300)),
    (r"(outside_)?headspace_mm", Usual(0, 150)),
    (r"box_width_mm", Usual(30, 1_500)),
    (r"box_height_mm", Usual(5, 1_000)),
    (r"plate_width_mm", Usual(50, 2_500)),
    (r"plunger_diameter_mm", Usual(20, 120)),
    (r"vane_diameter_mm", Usual(8, 250)),
    (r"vane_height_mm", Usual(10, 500)),
    (r"cylinder_radius_mm", Usual(15, 500)),
    (r"hole_radius_mm", Usual(10, 300)),
    (r"inner(_outside)?_diameter_mm", Usual(50, 1_500)),
    (r"outer_diameter_mm", Usual(100, 3_000)),
    (r"(second_|third_)?penetration_mm", Usual(0, 60)),
    (r"sieve_diameter_mm", Usual(50, 1_000)),
    (r"largest_(particle|grain)_mm", Usual(0.002, 1_000)),
    (r"membrane_thickness_mm", Usual(0.02, 5)),
    (r"(supports|datum_legs)_mm", Usual(100, 20_000)),
    (r"(inner|outer)_driven_mm|insertion_mm", Usual(2, 600)),
    # Volumes, areas.
    (r"mould_volume_cm3", Usual(50, 20_000)),
    (r"piston_cm2", Usual(0.5, 2_000)),
    (r"(both|inner)_area_cm2", Usual(0.05, 2_000)),
    # Densities, Mg/m3.
    (r"\w*gravity_ratio", Usual(1.2, 5.5)),
    (r"(particle|stone)_density_mg_m3", Usual(1.2, 5.5)),
    (r"sand_density_mg_m3", Usual(0.9, 2.2)),
    (r"maximum_dry_density_mg_m3|reference_density_mg_m3", Usual(0.5, 3.2)),
    (r"dry_density_\w+_mg_m3", Usual(0.1, 3)),
    (r"unit_weight_kn_m3", Usual(8, 35)),
    # Water, %.
    (r"(air_dry|portion)_water_percent", Usual(0, 150)),
    (r"optimum_water_percent", Usual(2, 90)),
    (r"(liquid|plastic)_limit_percent", Usual(5, 900)),
    (r"natural_water(_content)?_percent", Usual(0.2, 1_500)),
    (r"porosity_percent", Usual(5, 97)),
    (r"lime_percent", Usual(0, 25)),
    (r"(available|label)_cao_percent", Usual(20, 100)),
    # Temperatures, °C.
    (r"oven_temperature_c", Usual(25, 250)),
    (r"(temperature|full_at|bath|bath_temperature|datum_before|datum_after|soil_temperature)_c", Usual(-25, 55)),
    # Readings of instruments.
    (r"reading_sg", Usual(0.985, 1.1)),
    (r"reading_g_l", Usual(-10, 90)),
    (r"(read|untreated)_ph", Usual(2, 14)),
    (r"(verification_)?blows", Usual(2, 200)),
    (r"ring_factor_n_div", Usual(0.01, 1_500)),
    (r"(remoulded|peak|friction)_n_m", Usual(0, 500)),
    (r"lever_ratio", Usual(1, 100)),
    (r"membrane_modulus_kpa", Usual(100, 10_000)),
    (r"footing_width_m", Usual(0.1, 60)),
    (r"gauges_count", Usual(1, 8)),
)
_COMPILED = tuple((re.compile(pattern), usual) for pattern, usual in _TABLE)


@cache
def usual_of(field: str) -> Usual | None:
    """What a reading of that name usually is; None where nothing can be said of all apparatus and all soils.

    >>> usual_of("diameter_top_mm"), usual_of("settlement_mm")
    (Usual(low=15, high=400), None)
    """
    return next((usual for pattern, usual in _COMPILED if pattern.fullmatch(field)), None)


# What a result may be before somebody should look at the reading that it follows from, by the result's key.
_RESULTS: tuple[tuple[str, Usual], ...] = (
    (r"(bulk_)?density_mg_m3", Usual(0.85, 2.7)),
    (r"dry_density_mg_m3", Usual(0.08, 2.6)),
    (r"particle_density_mg_m3|\w*gravity_ratio", Usual(1.3, 5)),
    (r"void_ratio(_ratio)?", Usual(0.08, 20)),
    (r"saturation_percent", Usual(-1, 118)),
    (r"(bulk_)?(natural_)?water(_content)?_percent", Usual(0, 1_200)),
)
_RESULTS_COMPILED = tuple((re.compile(pattern), usual) for pattern, usual in _RESULTS)


@cache
def usual_result(key: str) -> Usual | None:
    """Between what a result usually lies; None where nothing can be said.

    >>> usual_result("dry_density_mg_m3").high
    2.6
    """
    return next((usual for pattern, usual in _RESULTS_COMPILED if pattern.fullmatch(key)), None)
