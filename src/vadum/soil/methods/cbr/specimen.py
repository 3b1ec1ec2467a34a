"""The specimen in its mould: densities, water to add, swell."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.methods.cbr.record import Record
from vadum.soil.methods.cbr.school import MouldSchool
from vadum.soil.shared.phases import dry_density_mg_m3
from vadum.soil.shared.water_by_tin import measured_percent

GRAVITY_M_S2 = 9.80665


def density_mg_m3(record: Record) -> float | None:
    """Moist density as compacted, `(M2 - M1) / V`, Mg/m3."""
    full, empty, volume = record.mass_with_soil_g, record.mould_mass_g, record.mould_volume_cm3
    if not (known(full) and known(empty) and known(volume)) or volume <= 0 or not 0 <= empty < full:
        return None
    return (full - empty) / volume


def portion_dry_g(record: Record) -> float | None:
    """Dry mass of the soil for the mould, g."""
    mass, water = record.mass_portion_g, record.portion_water_percent
    return mass / (1 + water / 100) if known(mass) and known(water) and mass > 0 and water >= 0 else None


def water_wanted_g(record: Record) -> float | None:
    """Water that brings the soil to its optimum, g: `M_dry (w_opt - w)`; minus where it is too wet."""
    dry, to, have = portion_dry_g(record), record.optimum_water_percent, record.portion_water_percent
    return dry * (to - have) / 100 if dry is not None and known(to) and known(have) else None


def mixed_percent(record: Record) -> float | None:
    """Water content told from the water added, percent."""
    dry, have, added = portion_dry_g(record), record.portion_water_percent, record.water_added_ml
    return have + 100 * added / dry if dry and known(have) and known(added) else None


def compacted_percent(record: Record) -> tuple[float, bool] | None:
    """Water content as compacted, percent, and whether it is only told from the water added."""
    measured = measured_percent(record.tins[0]) if record.tins else None
    if measured is not None:
        return measured, False
    mixed = mixed_percent(record)
    return (mixed, True) if mixed is not None else None


def dry_density(record: Record) -> tuple[float, bool] | None:
    """Dry density as compacted, Mg/m3, and whether its water content is only an estimate."""
    moist, water = density_mg_m3(record), compacted_percent(record)
    return (dry_density_mg_m3(moist, water[0]), water[1]) if moist is not None and water is not None else None


def swell_percent(gauge_mm: float, zero_mm: float, height_mm: float) -> float:
    """Swell in percent of the specimen's height.

    Parameters: the gauge now and before soaking, mm; the specimen's height as compacted, mm, above 0.
    Returns: %; below 0 where it shrank.
    Source: BS 1377-4, ASTM D1883.

    >>> round(swell_percent(1.52, 1.00, 127.0), 3)
    0.409
    """
    return 100 * (gauge_mm - zero_mm) / height_mm


def surcharge_kpa(mass_kg: float, diameter_mm: float) -> float:
    """Pressure of the discs on the specimen, `m g / A`.

    Parameters: `mass_kg` in kg, 0 or more; `diameter_mm` of the mould in mm, above 0.
    Returns: kPa.
    Source: definition of pressure; g 9.80665 m/s².

    >>> round(surcharge_kpa(4.54, 152.4), 2)
    2.44
    """
    return mass_kg * GRAVITY_M_S2 / (math.pi * (diameter_mm / 1000) ** 2 / 4) / 1000


def height_mm(record: Record, school: MouldSchool) -> float:
    """Height that swell is told of, mm: as measured, else the school's, which is said."""
    height = record.specimen_height_mm
    return height if known(height) and height > 0 else school.height_mm


def swells(record: Record, school: MouldSchool) -> list[tuple[int, float]]:
    """Swell of each reading, (row, percent); a reading is never passed over for a height that was not entered."""
    zero, height = record.swell_zero_mm, height_mm(record, school)
    if not known(zero):
        return []
    return [(i, swell_percent(r.gauge_mm, zero, height)) for i, r in enumerate(record.swell) if known(r.gauge_mm)]
