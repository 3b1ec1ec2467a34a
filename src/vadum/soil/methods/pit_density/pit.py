"""The hole and its soil: volume, dry masses, stones."""

from typing import NamedTuple

from vadum.soil.contract.fields import all_known, known
from vadum.soil.methods.pit_density.record import Record
from vadum.soil.methods.pit_density.school import PitDensitySchool
from vadum.soil.shared.water_by_tin import measured_percent


class Hole(NamedTuple):
    """Volume in cm3 with the formula and inputs that gave it."""

    volume_cm3: float
    formula: str
    inputs: dict[str, float]


def sand_volume_cm3(before_g: float, after_g: float, cone_g: float, density_mg_m3: float) -> float:
    """`V = (M1 - M2 - Mc) / rho_sand`, cm3. Masses in g, density in Mg/m3. Source: ASTM D1556.

    Parameters: `before_g` in g; `after_g` in g; `cone_g` in g; `density_mg_m3` in Mg/m³, above 0.
    Returns: cm³.

    >>> sand_volume_cm3(6800, 3250, 1450, 1.4)
    1500.0
    """
    return (before_g - after_g - cone_g) / density_mg_m3


def hole_of(record: Record, school: PitDensitySchool) -> Hole | None:
    """The hole by the school's way; None while a reading is missing or leaves no volume."""
    hole = None
    if school.volume_by == "sand":
        before, after, cone = record.mass_sand_before_g, record.mass_sand_after_g, record.mass_sand_cone_g
        density = record.sand_density_mg_m3
        if known(before) and known(after) and known(cone) and known(density) and density > 0:
            inputs = {"M_1": before, "M_2": after, "M_c": cone, "rho_sand": density}
            hole = Hole(sand_volume_cm3(before, after, cone, density), "(M_1 - M_2 - M_c) / rho_sand", inputs)
    elif school.volume_by == "balloon":
        first, second = record.balloon_before_cm3, record.balloon_after_cm3
        if known(first) and known(second):
            hole = Hole(second - first, "V_2 - V_1", {"V_2": second, "V_1": first})
    elif school.volume_by == "water" and known(record.water_template_ml) and known(record.water_poured_ml):
        second, first = record.water_poured_ml, record.water_template_ml
        hole = Hole(second - first, "V_2 - V_1", {"V_2": second, "V_1": first})
    else:
        read = record.water_poured_ml if school.volume_by == "water" else record.volume_cm3
        if known(read):
            hole = Hole(read, "V_read", {"V_read": read})
    return hole if hole and hole.volume_cm3 > 0 else None


class Soil(NamedTuple):
    """Dry masses of all the hole's soil, g."""

    fines_g: float
    coarse_g: float
    air_dry_percent: float

    @property
    def dry_g(self) -> float:
        """All solids."""
        return self.fines_g + self.coarse_g


def soil_of(record: Record) -> Soil | None:
    """The dry soil; None while a mass or the tin is missing."""
    water = measured_percent(record)
    fines, coarse = record.mass_fines_g, record.mass_coarse_g
    if water is None or not (known(fines) and known(coarse)) or not all_known(fines, coarse):
        return None
    if fines <= 0 or coarse < 0:
        return None
    wet_stones = record.coarse_water_percent if known(record.coarse_water_percent) else 0.0
    return Soil(fines / (1 + water / 100), coarse / (1 + wet_stones / 100), water)


def field_water_percent(record: Record) -> float | None:
    """Water content of the field soil by its representative tin; None where the tin is one of separated fines.

    Parameters: the record's tin.
    Returns: %.
    Source: ASTM D1556.
    """
    if record.mass_fines_g is not None or record.mass_coarse_g is not None:
        return None
    return measured_percent(record)


def stone_density_mg_m3(record: Record, school: PitDensitySchool) -> float:
    """The stones' particle density: measured, or the school's."""
    read = record.stone_density_mg_m3
    return read if known(read) and read > 0 else school.stone_density_mg_m3


def coarse_volume_cm3(record: Record, school: PitDensitySchool) -> float | None:
    """Volume of the stones."""
    coarse = record.mass_coarse_g
    return coarse / stone_density_mg_m3(record, school) if known(coarse) and coarse >= 0 else None
