"""Conductivity referred to water of another temperature."""

from vadum.soil.shared.physics import water_viscosity_poise


def at_temperature(k: float, temperature_c: float, to_c: float) -> float:
    """Conductivity referred to water of another temperature.

    Parameters: K in any unit; temperatures of the water and referred to, 0 to 45 °C.
    Returns: in the same unit.
    Source: `K20 = K eta(T) / eta(20)`.

    >>> round(at_temperature(1.0, 10.0, 20.0), 2)
    1.3
    """
    return k * water_viscosity_poise(temperature_c) / water_viscosity_poise(to_c)
