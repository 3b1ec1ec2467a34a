"""For each check of each method: a school, and changes to a good record that trip the check."""

from datetime import timedelta
from typing import Any


def rows(name: str, index: int, **changes: Any) -> Any:
    """Change one row of the good record."""

    def change(record: dict[str, Any]) -> dict[str, Any]:
        values = [dict(row) for row in record[name]]
        values[index].update(changes)
        return {name: values}

    return change


def fields(**changes: Any) -> Any:
    """Change plain fields of the good record."""
    return lambda record: changes


def heavier_last(record: dict[str, Any]) -> dict[str, Any]:
    last = dict(record["weighings"][-1])
    moved = {**last, "mass_dry_g": last["mass_dry_g"] - 4}
    return {"weighings": [*record["weighings"], moved]}


def weighed_at_once(record: dict[str, Any]) -> dict[str, Any]:
    first = {**record["weighings"][0], "weighed_at": record["in_oven_at"] + timedelta(minutes=30)}
    return {"weighings": [first]}


def late(record: dict[str, Any]) -> dict[str, Any]:
    began = record["in_oven_at"]
    return {"sampled_at": began - timedelta(hours=60), "weighed_wet_at": began - timedelta(minutes=5)}


def all_blows_above(record: dict[str, Any]) -> dict[str, Any]:
    return {"trials": [{**t, "blows": 27 + i} for i, t in enumerate(record["trials"])]}


TRIPPED: dict[str, dict[str, Any]] = {
    "water_content": {
        "masses_obey_physics": ("oven_110", rows("weighings", 0, mass_dry_g=float("nan"))),
        "mass_constant": ("oven_105", heavier_last),
        "dried_long_enough": ("oven_110", weighed_at_once),
        "no_fog_on_the_mirror": ("direct_heat", rows("weighings", -1, mirror="fogged")),
        "specimen_large_enough": ("oven_110", fields(largest_particle_mm=37.5)),
        "temperature_within_band": ("oven_110", fields(oven_temperature_c=130)),
        "soil_suits_the_heat": ("oven_110", fields(gypsum_or_organic="yes")),
        "tare_agrees": ("oven_110", fields(mass_tin_register_g=10.0)),
        "balance_fine_enough": ("oven_110", fields(balance_readability_g=1.0)),
        "weighed_fresh": ("oven_110", late),
        "cooled_before_weighing": ("oven_110", fields(cooled_min=1)),
        "balance_in_date": ("oven_110", fields(balance_in_date="no")),
    },
    "liquid_limit": {
        "masses_obey_physics": ("four_bands", rows("trials", 0, mass_dry_g=-3.0)),
        "readings_possible": ("four_bands", rows("trials", 1, water_added_ml=-2.0)),
        "soil_has_a_limit": ("four_bands", fields(cannot_be_found="yes")),
        "device_in_date": ("four_bands", fields(device_due_on="2025-01-01")),
        "drop_height_right": ("four_bands", fields(device_drop_mm=10.5)),
        "every_band_filled": ("four_bands", rows("trials", 0, excluded_because="groove tore")),
        "target_is_between": ("four_bands", all_blows_above),
        "both_closures_agree": ("one_point_verified", rows("trials", 0, blows=28, verification_blows=22)),
        "points_on_the_line": ("four_bands", rows("trials", 1, mass_wet_g=37.5)),
        "trials_agree": ("three_replicates", rows("trials", 1, blows=15)),
        "closures_within_range": ("four_bands", rows("trials", 0, blows=44)),
        "estimates_agree": ("four_bands", fields(dry_soil_g=150.0)),
        "above_the_plastic_limit": ("four_bands", fields(plastic_limit_percent=95.0)),
        "balance_in_date": ("four_bands", fields(balance_in_date="no")),
    },
    "plastic_limit": {
        "masses_obey_physics": ("astm", rows("determinations", 0, mass_dry_g=99.0)),
        "percentages_possible": ("astm", fields(finer_than_2um_percent=120)),
        "balance_in_date": ("astm", fields(balance_in_date="no")),
        "soil_is_plastic": ("astm", fields(liquid_limit_percent=10.0)),
        "determinations_agree": ("astm", rows("determinations", 0, mass_wet_g=31.5)),
        "below_the_u_line": ("astm", fields(liquid_limit_percent=200.0)),
        "enough_threads": ("astm", rows("determinations", 1, mass_tin_g=30.0, mass_wet_g=31.0, mass_dry_g=30.8)),
    },
}
