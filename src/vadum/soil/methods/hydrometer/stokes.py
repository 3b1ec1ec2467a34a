"""The physics of the reading: depth, diameter, percent finer, and the composite correction."""

import math

from vadum.soil.contract.errors import ReductionError
from vadum.soil.shared.physics import water_viscosity_poise

G_REFERENCE = 2.65
BULB_LENGTH_CM, BULB_VOLUME_CM3, CYLINDER_AREA_CM2 = 14.0, 67.0, 27.8  # ASTM D422, the usual bulb and cylinder
STEM_ZERO_CM, STEM_PER_G_L_CM, STEM_PER_SG_CM = 10.499, 0.164, 264.5  # with them: 16.294 cm at the mark of water
DEPTH_AT_WATER_CM = 16.294


def settling_constant(temperature_c: float, gravity: float) -> float:
    """K of `D = K sqrt(L/T)`, mm with L in cm and T in min.

    `K = sqrt(30 eta / (980 (G - 1)))`, eta in poise.

    Parameters: temperature in °C, specific gravity above 1. Raises ReductionError otherwise.
    Source: ASTM D422, equation for the diameter; the tabled 0.01365 at 20 °C and 2.65 uses an older viscosity.

    Returns: a pure number.

    >>> round(settling_constant(20, 2.65), 5)
    0.01363
    """
    if gravity <= 1:
        raise ReductionError("settling constant", f"specific gravity {gravity:g}", "more than 1")
    return math.sqrt(30 * water_viscosity_poise(temperature_c) / (980 * (gravity - 1)))


def gravity_correction(gravity: float) -> float:
    """Factor a of a 152H reading for solids that are not 2.65: `a = 1.65 G / (2.65 (G - 1))`.

    Source: ASTM D422.

    Parameters: `gravity` a ratio, above 0.
    Returns: a pure number.

    >>> round(gravity_correction(2.75), 2), gravity_correction(2.65)
    (0.98, 1.0)
    """
    return 1.65 * gravity / (2.65 * (gravity - 1))


def depth_152h_cm(reading_g_l: float) -> float:
    """Effective depth of a 152H, cm, by the reading at the meniscus' top: `L = 16.294 - 0.164 R`.

    Source: ASTM D422, table of effective depths.

    Parameters: `reading_g_l` in g/L.
    Returns: cm.

    >>> round(depth_152h_cm(30), 1)
    11.4
    """
    return DEPTH_AT_WATER_CM - STEM_PER_G_L_CM * reading_g_l


def depth_151h_cm(reading_sg: float) -> float:
    """Effective depth of a 151H, cm, by the reading at the meniscus' top: `L = 16.294 - 264.5 (R - 1)`.

    Source: ASTM D422, table of effective depths.

    Parameters: `reading_sg`.
    Returns: cm.

    >>> round(depth_151h_cm(1.020), 1)
    11.0
    """
    return DEPTH_AT_WATER_CM - STEM_PER_SG_CM * (reading_sg - 1)


def depth_calibrated_cm(stem_cm: float, bulb_length_cm: float, bulb_volume_cm3: float, area_cm2: float) -> float:
    """Effective depth by the bulb's own size, cm: `L = L1 + (L2 - Vb / A) / 2`.

    Parameters: from the reading's mark to the bulb's top L1, the bulb's length L2, both cm; its volume Vb in cm3; the
    cylinder's inside area A in cm2. Source: ASTM D422.

    Returns: cm.

    >>> round(depth_calibrated_cm(10.5, 14.0, 67.0, 27.8), 2)
    16.29
    """
    return stem_cm + (bulb_length_cm - bulb_volume_cm3 / area_cm2) / 2


def diameter_mm(constant: float, depth_cm: float, elapsed_min: float) -> float:
    """Diameter of the largest grain still above the depth, mm: `D = K sqrt(L / T)`.

    Raises ReductionError unless depth and time are above 0. Source: Stokes' law as in ASTM D422.

    Parameters: `constant`; `depth_cm` in cm; `elapsed_min` in min.
    Returns: mm.

    >>> round(diameter_mm(0.01365, 11.4, 2), 4)
    0.0326
    """
    if depth_cm <= 0 or elapsed_min <= 0:
        raise ReductionError("diameter", f"depth {depth_cm:g} cm after {elapsed_min:g} min", "both above 0")
    return constant * math.sqrt(depth_cm / elapsed_min)


def finer_152h_percent(corrected_g_l: float, mass_dry_g: float, gravity: float) -> float:
    """Percent of the specimen still in suspension, 152H: `P = 100 a R / Ms`.

    Parameters: corrected reading in g/L, oven-dry mass in g in one litre, specific gravity. Source: ASTM D422.

    Returns: %.

    >>> round(finer_152h_percent(30.0, 50.0, 2.65), 1)
    60.0
    """
    return 100 * gravity_correction(gravity) * corrected_g_l / mass_dry_g


def finer_151h_percent(corrected_sg: float, mass_dry_g: float, gravity: float) -> float:
    """Percent of the specimen still in suspension, 151H: `P = (100000 / Ms) G / (G - 1) (R - 1)`.

    Parameters: corrected reading as specific gravity, oven-dry mass in g in one litre, specific gravity of solids.
    Source: ASTM D422.

    Returns: %.

    >>> round(finer_151h_percent(1.01868, 50.0, 2.65), 1)
    60.0
    """
    return 100_000 / mass_dry_g * gravity / (gravity - 1) * (corrected_sg - 1)


def composite_correction(temperature_c: float, low: tuple[float, float], high: tuple[float, float]) -> float:
    """Composite correction at a temperature, linear between two blanks of (temperature in °C, correction).

    Parameters: `temperature_c` in °C; each blank's temperature in °C and correction in the stem's unit.
    Returns: the correction in the stem's unit, to be taken from the reading.
    Raises: ReductionError when both blanks have one temperature.
    Source: ASTM D422.

    >>> round(composite_correction(21.0, (19.0, 5.0), (23.0, 3.0)), 6)
    4.0
    """
    (t1, c1), (t2, c2) = low, high
    if t1 == t2:
        raise ReductionError("composite correction", f"both blanks at {t1:g} °C", "two temperatures")
    return c1 + (c2 - c1) * (temperature_c - t1) / (t2 - t1)
