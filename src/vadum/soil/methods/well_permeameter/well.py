"""From the steady fall of a reservoir to the field-saturated conductivity around a well, by one head and by two."""

import math
from typing import NamedTuple

CLASSES = {
    "gravel or coarse sand": 0.36,
    "structured or sandy loam": 0.12,
    "unstructured fine soil": 0.04,
    "compacted clay or liner": 0.01,
}


def shape_factor(head_cm: float, radius_cm: float, alpha_per_cm: float, other_print: bool = False) -> float:
    """The shape factor C of a well by the class of its soil.

    Parameters: depth of water and radius of the hole in cm; alpha* in 1/cm, that of a class; which print of the finest
        class's numbers.
    Returns: a pure number.
    Source: Zhang et al. 1998, x = H/a.

    >>> round(shape_factor(10.0, 3.0, 0.12, False), 6)
    1.287543
    """
    x = head_cm / radius_cm
    if alpha_per_cm >= 0.09:
        return float((x / (2.074 + 0.093 * x)) ** 0.754)
    if alpha_per_cm >= 0.02:
        return float((x / (1.992 + 0.091 * x)) ** 0.683)
    if other_print:
        return float((x / (2.102 + 0.118 * x)) ** 0.655)
    return float((x / (2.081 + 0.121 * x)) ** 0.672)


def outflow_cm3_s(rate_mm_min: float, area_cm2: float) -> float:
    """Steady outflow of a reservoir.

    Parameters: fall of its level in mm/min, area in cm².
    Returns: cm³/s.
    Source: `Q = R X`.

    >>> round(outflow_cm3_s(4.883929, 35.4), 7)
    0.2881518
    """
    return rate_mm_min / 600 * area_cm2


def one_head_cm_s(flow_cm3_s: float, head_cm: float, radius_cm: float, shape: float, alpha_per_cm: float) -> float:
    """Field-saturated conductivity by one head.

    Parameters: Q in cm³/s, H and a in cm, C, alpha* in 1/cm.
    Returns: cm/s.
    Source: `Kfs = C Q / (2 pi H^2 + pi a^2 C + 2 pi H / alpha*)`, Reynolds and Elrick.

    >>> round(one_head_cm_s(0.2881518, 10.0, 3.0, 1.287543, 0.12), 10)
    0.0003122116
    """
    below = 2 * math.pi * head_cm**2 + math.pi * radius_cm**2 * shape + 2 * math.pi * head_cm / alpha_per_cm
    return shape * flow_cm3_s / below


class Two(NamedTuple):
    """What two heads in one hole give: Kfs in cm/s, the matric flux potential in cm²/s, alpha* in 1/cm (None where it
    has none)."""

    kfs_cm_s: float
    phi_cm2_s: float

    @property
    def alpha_per_cm(self) -> float | None:
        """`alpha* = Kfs / phi_m`."""
        return self.kfs_cm_s / self.phi_cm2_s if self.phi_cm2_s > 0 else None


def two_heads(
    flows: tuple[float, float], heads_cm: tuple[float, float], shapes: tuple[float, float], radius_cm: float
) -> Two:
    """Conductivity and matric flux potential by two heads of one hole, solved for both.

    Parameters: Q in cm³/s, H in cm, C of the lower and the higher head; a in cm. The heads differ.
    Returns: Kfs and phi_m; either may come out below nothing where the ground is layered or smeared.
    Source: Reynolds and Elrick, simultaneous equations: `D = 2 H1 H2 (H2 - H1) + a^2 (H1 C2 - H2 C1)`,
        `Kfs = (H1 C2 Q2 - H2 C1 Q1) / (pi D)`.
    """
    (q1, q2), (h1, h2), (c1, c2), a = flows, heads_cm, shapes, radius_cm
    d = math.pi * (2 * h1 * h2 * (h2 - h1) + a * a * (h1 * c2 - h2 * c1))
    kfs = (h1 * c2 * q2 - h2 * c1 * q1) / d
    phi = (c1 * (2 * h2**2 + a * a * c2) * q1 - c2 * (2 * h1**2 + a * a * c1) * q2) / (2 * d)
    return Two(kfs, phi)


def infiltration_mm_h(kfs_cm_s: float) -> float:
    """The infiltration that a conductivity stands for in a design by the relation of percolation.

    Parameters: Kfs in cm/s, above 0.
    Returns: mm/h.
    Source: `K = 6e-11 I^3.7363`, K in cm/s and I in mm/h.

    >>> round(infiltration_mm_h(6e-11 * 50**3.7363), 6)
    50.0
    """
    return float((kfs_cm_s / 6e-11) ** (1 / 3.7363))
