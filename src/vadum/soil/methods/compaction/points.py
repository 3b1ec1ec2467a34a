"""The points of the curve: water content and dry density, measured, or about until the tins are dry."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.methods.compaction.record import Point, Record
from vadum.soil.methods.compaction.school import CompactionSchool, energy_kj_m3
from vadum.soil.shared.phases import dry_density_mg_m3
from vadum.soil.shared.water_by_tin import measured_percent


class Made(NamedTuple):
    """One compacted point: row, water content in percent, moist and dry density in Mg/m3."""

    row: int
    water_percent: float
    moist_mg_m3: float
    dry_mg_m3: float
    about: bool
    counts: bool
    energy_kj_m3: float | None = None


def portion_dry_g(record: Record) -> float | None:
    """Dry mass of one portion, g."""
    mass, water = record.mass_portion_g, record.portion_water_percent
    return mass / (1 + water / 100) if known(mass) and known(water) and mass > 0 and water >= 0 else None


def estimates_percent(record: Record, school: CompactionSchool) -> list[float | None]:
    """Water content of each row, percent, told from the water added; None where the portion is not known.

    A fresh portion counts its own water; one batch wetted again counts all so far. Soil taken away leaves the water
    content as it is; water lost in the open is entered with a minus.
    """
    dry = portion_dry_g(record)
    found: list[float | None] = []
    total = 0.0
    for row in record.points:
        added = row.water_added_ml
        if dry is None or record.portion_water_percent is None or not known(added):
            found.append(None)
            continue
        total = added if school.fresh_portions else total + added
        found.append(record.portion_water_percent + 100 * total / dry)
    return found


def moist_mg_m3(record: Record, row: Point) -> float | None:
    """Moist density of a point, Mg/m3."""
    full, empty, volume = row.mass_with_soil_g, record.mould_mass_g, record.mould_volume_cm3
    if not (known(full) and known(empty) and known(volume)) or volume <= 0 or not 0 <= empty < full:
        return None
    return (full - empty) / volume


def effort_kj_m3(record: Record, row: Point, school: CompactionSchool) -> float | None:
    """The energy of a point by its own layers and blows in this mould; None where the rammer vibrates.

    Parameters: `row` a point; `school` the rammer.
    Returns: kJ/m³.
    Source: ASTM D698.
    """
    blows = row.blows if known(row.blows) else school.blows
    layers = row.layers_count if known(row.layers_count) else school.layers_count
    volume = record.mould_volume_cm3
    if blows is None or school.drop_mm is None or not known(volume) or volume <= 0:
        return None
    return energy_kj_m3(int(layers), blows, school.rammer_kg, school.drop_mm, volume)


def points(record: Record, school: CompactionSchool) -> list[Made]:
    """Every point that has a density and a water content, in its order."""
    made = []
    for i, (row, estimate) in enumerate(zip(record.points, estimates_percent(record, school), strict=True)):
        moist, measured = moist_mg_m3(record, row), measured_percent(row)
        water = measured if measured is not None else estimate
        if moist is not None and water is not None:
            dry = dry_density_mg_m3(moist, water)
            energy = effort_kj_m3(record, row, school)
            made.append(Made(i, water, moist, dry, measured is None, not row.excluded_because, energy))
    return made
