"""Conductivity: in the units of a report, and referred to water of another temperature."""

from vadum.soil.shared.physics import water_viscosity_poise

LEAST_C, MOST_C = 0.0, 40.0
MM_H = 36000.0  # of a cm/s


def at_temperature(k: float, temperature_c: float, to_c: float) -> float | None:
    """Conductivity referred to water of another temperature.

    Parameters: K in any unit; temperatures of the water and referred to in °C.
    Returns: in the same unit; None for a temperature at which water is not known, outside 0 to 40 °C.
    Source: `K20 = K eta(T) / eta(20)`.

    >>> round(at_temperature(1.0, 10.0, 20.0), 2)
    1.3
    """
    if not LEAST_C <= temperature_c <= MOST_C:
        return None
    return k * water_viscosity_poise(temperature_c) / water_viscosity_poise(to_c)
