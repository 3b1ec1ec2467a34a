"""Stones put back into a density and a water content, or taken out of them. Source: ASTM D4718."""

from vadum.soil.shared.physics import WATER_20_MG_M3


def with_stones_mg_m3(fines_mg_m3: float, stones_percent: float, stones_gravity: float) -> float:
    """Dry density of soil with its stones put back, Mg/m3.

    `rho_T = 100 / ((100 - P_C) / rho_F + P_C / (G_C rho_w))`

    Parameters: dry density of the fines in Mg/m3, stones in percent of the dry mass, their specific gravity.
    Source: ASTM D4718.

    Returns: Mg/m³.

    >>> round(with_stones_mg_m3(1.90, 20, 2.65), 3)
    2.013
    """
    parts = (100 - stones_percent) / fines_mg_m3 + stones_percent / (stones_gravity * WATER_20_MG_M3)
    return 100 / parts


def with_stones_percent(fines_percent: float, stones_percent: float, stones_water_percent: float) -> float:
    """Water content of soil with its stones put back, percent: `w_T = (w_F (100 - P_C) + w_C P_C) / 100`.

    Source: ASTM D4718.

    Parameters: `fines_percent` in %; `stones_percent` in %; `stones_water_percent` in %.
    Returns: %.

    >>> with_stones_percent(12.0, 20.0, 2.0)
    10.0
    """
    return (fines_percent * (100 - stones_percent) + stones_water_percent * stones_percent) / 100
