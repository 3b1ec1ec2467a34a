"""A made-up load curve: how the force on a plunger or a platen rises with its travel, and softens behind a peak."""

import math
from typing import NamedTuple

SOFTENS_RATIO = 0.4  # of the peak's travel: how gradually a core gives way behind it
STEEP_MM = 0.06  # how gradually a disturbed surface takes the load


class LoadCurve(NamedTuple):
    """`F = a x / (1 + (x / bend)^m)^(1/m)`, x counted from where the disturbed surface is pushed together.

    Beyond `peak_mm` it softens towards `left_ratio` of the force there: a core that has sheared.
    """

    a_kn_mm: float
    bend_mm: float
    power: float
    loose_mm: float
    peak_mm: float = math.inf
    left_ratio: float = 1.0

    def effective_mm(self, penetration_mm: float) -> float:
        """Penetration into sound ground, mm: it follows the plunger once the loose skin is closed."""
        if self.loose_mm <= 0:
            return penetration_mm
        w = STEEP_MM + 0.25 * self.loose_mm

        def soft(u: float) -> float:
            return w * (u / w if u / w > 40 else math.log1p(math.exp(u / w)))

        return max(0.0, soft(penetration_mm - self.loose_mm) - soft(-self.loose_mm))

    def sound_kn(self, x_mm: float) -> float:
        """Force in sound ground, kN, at a true penetration in mm."""
        if x_mm > self.peak_mm:
            gone = 1 - math.exp(-(x_mm - self.peak_mm) / (SOFTENS_RATIO * self.peak_mm))
            return self.sound_kn(self.peak_mm) * (1 - (1 - self.left_ratio) * gone)
        return self.a_kn_mm * x_mm / (1 + (x_mm / self.bend_mm) ** self.power) ** (1 / self.power) if x_mm > 0 else 0.0

    def force_kn(self, penetration_mm: float) -> float:
        """Force on the plunger, kN, at a penetration counted from the seating."""
        return self.sound_kn(self.effective_mm(penetration_mm))


def load_curve_of(percent: float, reference_kn: float, at_mm: float, bend_mm: float, loose_mm: float) -> LoadCurve:
    """Ground whose ratio at a penetration is `percent` of the reference there.

    >>> round(load_curve_of(40, 13.2, 2.5, 2.6, 0.0).force_kn(2.5), 6)
    5.28
    """
    power = 2.5
    share = at_mm / (1 + (at_mm / bend_mm) ** power) ** (1 / power)
    return LoadCurve(percent / 100 * reference_kn / share, bend_mm, power, loose_mm)


def vertical_mm(travel_mm: float, closing_mm: float, peak_mm: float, opening_degrees: float) -> float:
    """Vertical movement of a sheared soil, mm, down positive: it closes a little, then opens, fastest at its peak.

    `closing (1 - exp(-3 x / x_p)) - tan psi B(x)`, B the area of a bell about the peak.

    Parameters: `travel_mm`, `closing_mm` and `peak_mm` (above 0) in mm; `opening_degrees` the slope at the peak.
    Returns: mm.
    Source: our own, for virtual soils.

    >>> round(vertical_mm(0.0, 0.04, 2.0, 6.0), 3), vertical_mm(5.0, 0.04, 2.0, 6.0) < 0
    (0.0, True)
    """
    wide = 0.8 * peak_mm
    bell = 0.5 * math.sqrt(math.pi) * wide * (math.erf((travel_mm - peak_mm) / wide) + math.erf(peak_mm / wide))
    return closing_mm * (1 - math.exp(-3 * travel_mm / peak_mm)) - math.tan(math.radians(opening_degrees)) * bell
