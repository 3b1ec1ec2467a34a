"""What one pycnometer gives, and which count."""

import math
from typing import NamedTuple

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.methods.specific_gravity.record import Determination, Record
from vadum.soil.shared.physics import WATER_20_MG_M3, water_density_mg_m3


class Determined(NamedTuple):
    """One determination: its row and its specific gravity at 20 °C."""

    row: int
    gravity: float


def full_at_test_g(
    mass_pycnometer_g: float, mass_full_g: float, density_then_mg_m3: float, density_now_mg_m3: float
) -> float:
    """Mass of the pycnometer full of water at the test's temperature, g.

    `M_t = M_p + (M_c - M_p) rho_t / rho_c`

    Source: ASTM D854.

    Parameters: `mass_pycnometer_g` in g; `mass_full_g` in g; `density_then_mg_m3` in Mg/m³; `density_now_mg_m3`
        in Mg/m³.
    Returns: g.

    >>> round(full_at_test_g(178.42, 676.98, 0.9979285, 0.9971286), 2)
    676.58
    """
    return mass_pycnometer_g + (mass_full_g - mass_pycnometer_g) * density_now_mg_m3 / density_then_mg_m3


def gravity_at_test(mass_dry_g: float, full_g: float, with_soil_g: float) -> float:
    """Specific gravity at the test's temperature: `Gs = Ms / (Ms + Mpw,t - Mpws,t)`.

    Raises ReductionError unless the soil displaces some water. Source: ASTM D854.

    Parameters: `mass_dry_g` in g; `full_g` in g; `with_soil_g` in g.
    Returns: a pure number.

    >>> round(gravity_at_test(61.35, 676.58, 715.25), 4)
    2.705
    """
    displaced = mass_dry_g + full_g - with_soil_g
    if mass_dry_g <= 0 or displaced <= 0:
        raise ReductionError("specific gravity", f"{displaced:.2f} g of water displaced", "more than none")
    return mass_dry_g / displaced


def whole_gravity(fine: float, coarse: float, finer_percent: float) -> float:
    """Specific gravity of a soil with its stones: `1/G = P/G_fine + (1 - P)/G_coarse`.

    Parameters: both as ratios, above 0; `finer_percent` of the dry mass in %, 0 to 100.
    Returns: a ratio.
    Source: volumes of the solids add up; ASTM D854, C127.

    >>> round(whole_gravity(2.70, 2.60, 60.0), 4)
    2.6591
    """
    share = finer_percent / 100
    return 1 / (share / fine + (1 - share) / coarse)


def gas_volume_cm3(cell_cm3: float, expansion_cm3: float, first_kpa: float, second_kpa: float) -> float:
    """Volume of the solids in a gas pycnometer: `V_s = V_c - V_x (p_1 / p_2 - 1)`.

    Parameters: the cell's and the expansion chamber's volumes in cm³, above 0; the pressures above the air's in the
        cell and after the gas expanded, in kPa, above 0.
    Returns: cm³.
    Raises: ReductionError unless the solids take some of the cell.
    Source: ASTM D5550; the gas law at one temperature.

    >>> round(gas_volume_cm3(150.0, 90.0, 120.0, 56.0), 2)
    47.14
    """
    volume = cell_cm3 - expansion_cm3 * (first_kpa / second_kpa - 1)
    if not 0 < volume < cell_cm3:
        raise ReductionError("volume of the solids", f"{volume:.2f} cm³", f"between 0 and {cell_cm3:g} cm³")
    return volume


def in_gas(row: Determination) -> tuple[float, dict[str, float]] | None:
    """Specific gravity at 20 °C of one specimen in a gas pycnometer; None until it is complete and possible."""
    dry, cell, chamber, first, second = (
        row.mass_dry_soil_g,
        row.cell_cm3,
        row.expansion_cm3,
        row.gas_first_kpa,
        row.gas_second_kpa,
    )
    if not (known(dry) and known(cell) and known(chamber) and known(first) and known(second)):
        return None
    try:
        volume = gas_volume_cm3(cell, chamber, first, second)
    except ReductionError:
        return None
    inputs = {"M_s": dry, "V_c": cell, "V_x": chamber, "p_1": first, "p_2": second, "rho_20": WATER_20_MG_M3}
    return dry / volume / WATER_20_MG_M3, inputs


def in_liquid(row: Determination, liquid_mg_m3: float) -> tuple[float, dict[str, float]] | None:
    """Specific gravity by a pycnometer with another liquid than water, full and with soil at one temperature."""
    dry, full, with_soil = row.mass_dry_soil_g, row.mass_full_g, row.mass_with_soil_g
    if not (known(dry) and known(full) and known(with_soil)):
        return None
    try:
        gravity = gravity_at_test(dry, full, with_soil) * liquid_mg_m3 / WATER_20_MG_M3
    except ReductionError:
        return None
    inputs = {"M_s": dry, "M_pl": full, "M_pls": with_soil, "rho_l": liquid_mg_m3, "rho_20": WATER_20_MG_M3}
    return gravity, inputs


def given(record: Record, row: Determination) -> tuple[float, dict[str, float]] | None:
    """What one pycnometer gives, in the record's liquid, in water or in gas."""
    if known(row.gas_first_kpa):
        return in_gas(row)
    liquid = record.liquid_density_mg_m3
    return in_liquid(row, liquid) if known(liquid) and liquid > 0 else determined(row)


def determined(row: Determination) -> tuple[float, dict[str, float]] | None:
    """Specific gravity at 20 °C of one pycnometer with the inputs of its working; None until it is complete."""
    readings = (row.mass_pycnometer_g, row.mass_full_g, row.full_at_c, row.mass_with_soil_g, row.temperature_c)
    if row.mass_dry_soil_g is None or any(r is None or not math.isfinite(r) for r in (*readings, row.mass_dry_soil_g)):
        return None
    empty, full, then_c, with_soil, now_c = (float(r or 0) for r in readings)
    try:
        then, now, at_20 = (water_density_mg_m3(t) for t in (then_c, now_c, 20.0))
        gravity = gravity_at_test(row.mass_dry_soil_g, full_at_test_g(empty, full, then, now), with_soil)
    except ReductionError:
        return None
    inputs = {
        "M_s": row.mass_dry_soil_g,
        "M_p": empty,
        "M_c": full,
        "M_pws": with_soil,
        "rho_c": then,
        "rho_t": now,
        "rho_20": at_20,
    }
    return gravity * now / at_20, inputs


def counting(record: Record) -> list[Determined]:
    """The determinations that are complete, possible and not left out."""
    found = []
    for i, row in enumerate(record.determinations):
        made = given(record, row)
        if made and not row.excluded_because:
            found.append(Determined(i, made[0]))
    return found
