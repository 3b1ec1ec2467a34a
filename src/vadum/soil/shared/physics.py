"""Water and gravity: the constants and curves that several methods share, each with its source."""

from vadum.soil.contract.errors import ReductionError

GRAVITY_M_S2 = 9.80665  # standard gravity, by definition
WATER_20_MG_M3 = 0.9982071  # Mg/m3, density of water at 20 °C, ITS-90 tables
WATER_RANGE_C = (0.0, 40.0)


def _in_range(temperature_c: float) -> None:
    low, high = WATER_RANGE_C
    if not low <= temperature_c <= high:
        raise ReductionError("a property of water", f"{temperature_c} °C", f"{low:g} to {high:g} °C")


def water_density_mg_m3(temperature_c: float) -> float:
    """Density of water in Mg/m3.

    `rho = 1.00034038 - 7.77e-6 T - 4.95e-6 T^2`

    Parameters: temperature in °C, 0 to 40. Raises ReductionError outside.
    Source: ASTM D854, equation for the density of water.

    Returns: Mg/m³.

    >>> round(water_density_mg_m3(20), 4), round(water_density_mg_m3(25), 4)
    (0.9982, 0.9971)
    """
    _in_range(temperature_c)
    return 1.00034038 - 7.77e-6 * temperature_c - 4.95e-6 * temperature_c**2


def water_viscosity_poise(temperature_c: float) -> float:
    """Dynamic viscosity of water in poise (0.1 Pa s).

    `eta = 0.01002 10^((1.1709 (20 - T) - 0.001827 (T - 20)^2) / (T + 89.93))`

    Parameters: temperature in °C, 0 to 40. Raises ReductionError outside.
    Source: the usual handbook correlation about 1.002 mPa s at 20 °C.

    Returns: a pure number.

    >>> round(100 * water_viscosity_poise(20), 3), round(100 * water_viscosity_poise(25), 2)
    (1.002, 0.89)
    """
    _in_range(temperature_c)
    t = temperature_c
    return 0.01002 * 10 ** ((1.1709 * (20 - t) - 0.001827 * (t - 20) ** 2) / (t + 89.93))
