"""How much of its strength a clay loses when it is remoulded, and the word for it."""

import math

from vadum.soil.contract.errors import ReductionError

OLDER: tuple[tuple[float, str], ...] = (
    (1.0, "insensitive"),
    (2.0, "slightly sensitive"),
    (4.0, "medium sensitive"),
    (8.0, "sensitive"),
    (16.0, "very sensitive"),
)
QUICK_RATIO, QUICK_REMOULDED_KPA = 50.0, 0.5  # ISO 14688-2; the remoulded limit is doubtful: a laboratory setting


def sensitivity(undisturbed: float, remoulded: float) -> float:
    """Sensitivity: `S_t = s / s_r`, both of one kind and unit; the remoulded one above 0.

    Raises: ReductionError where the remoulded strength is not above 0. Source: ASTM D2573, BS 1377-7, ISO 22476-9.

    Parameters: `undisturbed`; `remoulded`.
    Returns: a pure number.

    >>> round(sensitivity(36.06367, 7.55052), 4)
    4.7763
    """
    if remoulded <= 0:
        raise ReductionError("sensitivity", f"{remoulded:g} remoulded", "above 0")
    return undisturbed / remoulded


def class_words(ratio: float, remoulded_shear_kpa: float, scale: str) -> str:
    """The class of a sensitivity by a scale, "older" or "ISO 14688-2"; the remoulded undrained strength in kPa.

    >>> class_words(4.78, 7.55, "older"), class_words(4.78, 7.55, "ISO 14688-2"), class_words(60, 0.3, "ISO 14688-2")
    ('sensitive', 'low', 'quick')
    """
    if scale == "older":
        return next((word for limit, word in OLDER if ratio <= limit), "quick by the older scale")
    if ratio > QUICK_RATIO and remoulded_shear_kpa < QUICK_REMOULDED_KPA:
        return "quick"
    return "low" if ratio < 8 else "medium" if ratio <= 30 else "high"


def remoulded_by_liquidity_kpa(liquidity_index: float) -> float:
    """The order of magnitude of a remoulded strength, kPa: `170 exp(-4.6 LI)`; 170 kPa at the plastic limit.

    Parameters: `liquidity_index` as a ratio.
    Returns: kPa.
    Source: the usual correlation through 1.7 kPa at the liquid limit; fairly sure, an order of magnitude.

    >>> round(remoulded_by_liquidity_kpa(0), 1), round(remoulded_by_liquidity_kpa(1), 2)
    (170.0, 1.71)
    """
    return 170 * math.exp(-4.6 * liquidity_index)
