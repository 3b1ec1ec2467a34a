"""The soil in the ring: its height, its volume and its density."""

import math
from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean
from vadum.soil.methods.ring_density.record import Record
from vadum.soil.methods.ring_density.school import RingDensitySchool
from vadum.soil.shared.phases import cylinder_cm3


class Core(NamedTuple):
    """A ring with the mean headspace at either end, in mm."""

    diameter_mm: float
    height_mm: float
    top_mm: float
    bottom_mm: float

    @property
    def volume_cm3(self) -> float:
        """Volume of the soil."""
        return cylinder_cm3(self.diameter_mm, self.height_mm - self.top_mm - self.bottom_mm)

    def density(self, record: Record) -> float | None:
        """Moist density, Mg/m3; None while a mass is missing or impossible."""
        full, empty = record.mass_with_soil_g, record.mass_container_g
        if not (known(full) and known(empty)) or not 0 <= empty < full:
            return None
        return (full - empty) / self.volume_cm3


def density_error(core: Core, mass_g: float, headspace_error_mm: float, school: RingDensitySchool) -> float:
    """Relative standard uncertainty of a ring's density: `(u_m/m)^2 + (2 u_d/d)^2 + (u_h/h)^2`, its root.

    Parameters: `core` the soil; `mass_g` of it in g, above 0; `headspace_error_mm` of the mean headspace in mm.
    Returns: a ratio.
    Source: propagation of errors; the gauges' own are laboratory settings.
    """
    height = core.height_mm - core.top_mm - core.bottom_mm
    high = math.hypot(headspace_error_mm, school.height_error_mm) / height
    wide = 2 * school.diameter_error_mm / core.diameter_mm
    return math.hypot(school.mass_error_g / mass_g, wide, high)


def headspaces_mm(record: Record, end: str) -> list[float]:
    """The headspaces read at that end; one without an end is at the top."""
    return [h.headspace_mm for h in record.headspaces if known(h.headspace_mm) and (h.end or "top") == end]


def core_of(record: Record, school: RingDensitySchool) -> Core | None:
    """The ring's soil; None while the ring or its headspace is not known, or leaves no soil."""
    diameter, height = record.ring_diameter_mm, record.ring_height_mm
    if not (known(diameter) and known(height)) or diameter <= 0 or height <= 0:
        return None
    top, bottom = headspaces_mm(record, "top"), headspaces_mm(record, "bottom")
    if not school.full_ring and not top and not bottom:
        return None
    core = Core(diameter, height, mean(top) if top else 0.0, mean(bottom) if bottom else 0.0)
    return core if core.top_mm + core.bottom_mm < height else None
