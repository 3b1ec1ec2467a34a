"""The water in the dish: followed from the soil taken, the water added and the masses weighed."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.methods.liquid_limit.record import Record
from vadum.soil.methods.liquid_limit.school import LiquidLimitSchool
from vadum.soil.shared.water_by_tin import measured_percent

WATER_G_PER_ML = 1.0  # density of water at room temperature, g/mL; 0.2 % low at 20 °C, far inside a pipette's error


class Dish(NamedTuple):
    """What the dish holds now, g; `reading_g` is what the balance would show, None when it was never weighed."""

    dry_g: float
    water_g: float
    reading_g: float | None

    @property
    def water_percent(self) -> float:
        """Water content of the soil in the dish, percent."""
        return 100 * self.water_g / self.dry_g


def dry_mass_g(air_dry_g: float, water_percent: float) -> float:
    """Dry soil in air-dry soil, g: `m / (1 + w/100)`.

    Parameters: `air_dry_g` in g; `water_percent` of the air-dry soil in %, 0 or more.
    Returns: g.
    Source: definition of water content.

    >>> round(dry_mass_g(112.0, 12.0), 9)
    100.0
    """
    return air_dry_g / (1 + water_percent / 100)


def consistency_shift(now: float, wanted: float, school: LiquidLimitSchool) -> float:
    """Relative change of water content that moves a closure from `now` to `wanted` drops (or mm).

    `(N/Nt)^0.121 - 1`, from `w25 = wN (N/25)^0.121`. Source: AASHTO T 89 method B, ASTM D4318 method B.

    Parameters: `now`; `wanted`; `school` the rules.
    Returns: a pure number.

    >>> from vadum.soil.methods.liquid_limit.school import SCHOOLS
    >>> round(consistency_shift(39, 25, SCHOOLS["four_bands"]), 4)
    0.0553
    """
    return float((now / wanted) ** school.exponent) - 1


def followed(record: Record) -> tuple[list[float | None], Dish | None]:
    """Estimated water content at each trial, percent, and the dish as it stands now.

    A tin's measured water content, once in, resets the estimate for all that follows. Without the soil's mass there
    is no estimate. A dish mass below the one expected is water stirred off.
    """
    estimates: list[float | None] = []
    if not known(record.dry_soil_g) or record.dry_soil_g <= 0:
        return [None] * len(record.trials), None
    air_dry = record.air_dry_water_percent if known(record.air_dry_water_percent) else 0.0
    dry = dry_mass_g(record.dry_soil_g, air_dry)
    water = record.dry_soil_g - dry
    reading: float | None = None
    for trial in record.trials:
        if known(trial.water_added_ml):
            added = trial.water_added_ml * WATER_G_PER_ML
            water += added
            reading = None if reading is None else reading + added
        if known(trial.mass_dish_g):
            if reading is not None:
                water -= reading - trial.mass_dish_g
            reading = trial.mass_dish_g
        closed = trial.blows is not None or trial.penetration_mm is not None
        estimates.append(100 * water / dry if closed and water > 0 and dry > 0 else None)
        measured = measured_percent(trial)
        if measured is not None:
            water = dry * measured / 100
        if known(trial.mass_wet_g) and known(trial.mass_tin_g) and trial.mass_wet_g > trial.mass_tin_g:
            slice_g = trial.mass_wet_g - trial.mass_tin_g
            share = water / (water + dry) if water + dry > 0 else 0.0
            water -= slice_g * share
            dry -= slice_g * (1 - share)
            reading = None if reading is None else reading - slice_g
    if dry <= 0 or water <= 0:
        return estimates, None
    return estimates, Dish(dry, water, reading)
