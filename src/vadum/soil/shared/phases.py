"""Solids, water and air: the phase relations that densities share."""

import math
from typing import Any

from vadum.soil.contract.compare import at_most
from vadum.soil.contract.results import Results
from vadum.soil.contract.rules import PHYSICS, Rule, Seen
from vadum.soil.contract.rules import at_most as rule_at_most
from vadum.soil.shared.physics import WATER_20_MG_M3

SOURCE = "phase relations"
SCATTER_SATURATION_PERCENT = 103.0  # what mass, volume and tin of a full soil scatter to together
MOST_SATURATION_PERCENT = 100.5  # full, with half a percent for the rounding of the readings; laboratory setting


def full_at_most(saturation: float | None, do: str) -> Seen | None:
    """Saturation against full: a little above is what readings of a full soil scatter to, and is said; more is wrong.

    Parameters: `saturation` in %, None while unknown; `do` what to look at.
    Returns: what a rule saw.
    Source: physics; the bands are laboratory settings.
    """
    if saturation is None:
        return None
    scatter = at_most(saturation, SCATTER_SATURATION_PERCENT)
    seen = rule_at_most(saturation, MOST_SATURATION_PERCENT, "%", limit_words="100 %", do=do)
    return seen._replace(level="watch" if scatter else "redo") if seen else None


def _full(facts: Any, school: Any) -> Seen | None:
    assumed = facts.record.particle_density_from != "measured"
    do = ("The particle density is assumed: measure it. " if assumed else "") + "Recheck volume, masses and tin."
    return full_at_most(facts.saturation_percent, do)


# More water than pores is impossible: a mass, the volume or the particle density is wrong. For a density in place.
saturation_at_most_full = Rule(
    "saturation at most 100 %",
    _full,
    at=("particle_density_mg_m3",),
    source=PHYSICS,
    affects=("saturation_percent", "air_percent", "dry_density_mg_m3", "void_ratio", "porosity_percent"),
)


def cylinder_cm3(diameter_mm: float, height_mm: float) -> float:
    """Volume of a cylinder in cm3: `pi d^2 / 4 h`.

    Parameters: both in mm, above 0.
    Returns: cm³.
    Source: geometry.

    >>> round(cylinder_cm3(72.3, 60.1), 3)
    246.741
    """
    return math.pi * diameter_mm**2 / 4 * height_mm / 1000


def dry_density_mg_m3(density_mg_m3: float, water_percent: float) -> float:
    """`rho_d = rho / (1 + w)`, Mg/m3, of a moist density in Mg/m3 and a water content in percent.

    Parameters: `density_mg_m3` in Mg/m³, above 0; `water_percent` in %, 0 or more.
    Returns: Mg/m³.
    Source: phase relations; ASTM D7263.

    >>> round(dry_density_mg_m3(1.794596, 18.70283), 5)
    1.51184
    """
    return density_mg_m3 / (1 + water_percent / 100)


def void_ratio(dry_mg_m3: float, particle_mg_m3: float) -> float:
    """`e = rho_s / rho_d - 1`.

    Parameters: `dry_mg_m3` in Mg/m³, above 0; `particle_mg_m3` in Mg/m³, above 0.
    Returns: a ratio.
    Source: phase relations; ASTM D7263.

    >>> round(void_ratio(1.511839, 2.68), 4)
    0.7727
    """
    return particle_mg_m3 / dry_mg_m3 - 1


def saturation_percent(water_percent: float, dry_mg_m3: float, particle_mg_m3: float) -> float:
    """`Sr = w rho_s / (e rho_w)`, percent; water at 20 °C.

    Parameters: `water_percent` in %, 0 or more; `dry_mg_m3` in Mg/m³, above 0; `particle_mg_m3` in Mg/m³, above 0.
    Returns: %.
    Source: phase relations; ASTM D7263.

    >>> round(saturation_percent(18.70283, 1.511839, 2.68), 1)
    65.0
    """
    return water_percent * particle_mg_m3 / (void_ratio(dry_mg_m3, particle_mg_m3) * WATER_20_MG_M3)


def zero_air_mg_m3(water_percent: float, gravity: float, air_percent: float = 0.0) -> float:
    """Dry density, Mg/m3, at a water content and an air content of the whole volume, both in percent.

    `rho_d = (1 - A) / (1 / (Gs rho_w) + w / rho_w)`

    Source: BS 1377-4; with A = 0 the zero-air-voids line of ASTM D698.

    Parameters: `water_percent` in %, 0 or more; `gravity` a ratio, above 0; `air_percent` in %, 0 to below 100.
    Returns: Mg/m³.

    >>> round(zero_air_mg_m3(11.90663, 2.7), 4)
    2.0395
    """
    return (1 - air_percent / 100) * WATER_20_MG_M3 / (1 / gravity + water_percent / 100)


def volumetric_water_percent(dry_mg_m3: float, water_percent: float) -> float:
    """`theta = w rho_d / rho_w`, percent of the whole volume; water at 20 °C.

    Parameters: `dry_mg_m3` in Mg/m³, above 0; `water_percent` in %, 0 or more.
    Returns: %.
    Source: phase relations.

    >>> round(volumetric_water_percent(1.511839, 18.70283), 2)
    28.33
    """
    return water_percent * dry_mg_m3 / WATER_20_MG_M3


def give_phases(
    results: Results,
    dry_mg_m3: float,
    water_percent: float,
    particle_mg_m3: float | None,
    dry_error_mg_m3: float | None = None,
) -> None:
    """Volumetric water content, and with a particle density porosity, void ratio, saturation and air content; each with
    the dry density's standard uncertainty carried through its derivative."""

    def carried(slope: float) -> float | None:
        return None if dry_error_mg_m3 is None else slope * dry_error_mg_m3

    w, d, rho_w = water_percent, dry_mg_m3, WATER_20_MG_M3
    volumetric = volumetric_water_percent(d, w)
    name = "volumetric water content"
    inputs = {"w": w, "rho_d": d, "rho_w": rho_w}
    results.give(
        "volumetric_water_percent",
        "theta",
        name,
        volumetric,
        "%",
        0.1,
        "w * rho_d / rho_w",
        inputs,
        source=SOURCE,
        uncertainty=carried(w / rho_w),
    )
    if particle_mg_m3 is None or particle_mg_m3 <= d:
        return
    s = particle_mg_m3
    pair = {"rho_d": d, "rho_s": s}
    n = 100 * (1 - d / s)
    results.give(
        *("porosity_percent", "n", "porosity", n, "%", 0.1, "100 * (1 - rho_d / rho_s)", pair),
        source=SOURCE,
        uncertainty=carried(100 / s),
    )
    e = void_ratio(d, s)
    results.give(
        *("void_ratio", "e", "void ratio", e, "", 0.01, "rho_s / rho_d - 1", pair),
        source=SOURCE,
        uncertainty=carried(s / d**2),
    )
    saturation = saturation_percent(w, d, s)
    results.give(
        "saturation_percent",
        "S_r",
        "degree of saturation",
        saturation,
        "%",
        1,
        "w * rho_s / ((rho_s / rho_d - 1) * rho_w)",
        {"w": w, "rho_s": s, "rho_d": d, "rho_w": rho_w},
        source=SOURCE,
        uncertainty=carried(w * s**2 / (rho_w * e**2 * d**2)),
    )
    results.give(
        "air_percent",
        "A",
        "air-filled porosity",
        n - volumetric,
        "%",
        0.1,
        "n - theta",
        {"n": n, "theta": volumetric},
        source=SOURCE,
        uncertainty=carried(100 / s + w / rho_w),
    )
