"""What the readings at a ring come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean
from vadum.soil.methods.ring_density.core import Core, core_of, headspaces_mm
from vadum.soil.methods.ring_density.record import Record
from vadum.soil.methods.ring_density.school import RingDensitySchool
from vadum.soil.shared.phases import dry_density_mg_m3, saturation_percent
from vadum.soil.shared.water_by_tin import Masses, masses_of, water_content_percent


class Moist(NamedTuple):
    """The moist soil of the ring: full and empty container in g, and its density in Mg/m3."""

    full_g: float
    empty_g: float
    density_mg_m3: float


class Facts(NamedTuple):
    """The core, its moist soil, the subsample's tin, and what follows; each None while it cannot be known."""

    record: Record
    core: Core | None
    moist: Moist | None
    tin: Masses | None
    water_percent: float | None
    dry_mg_m3: float | None
    particle_mg_m3: float | None
    top_mm: tuple[float, ...]
    bottom_mm: tuple[float, ...]

    @property
    def shortened_mm(self) -> float | None:
        """How much lower the soil stands inside the ring than outside: the core was pressed together."""
        outside = self.record.outside_headspace_mm
        return mean(list(self.top_mm)) - outside if self.top_mm and known(outside) else None

    @property
    def subsample_g(self) -> float | None:
        """Moist mass of the subsample."""
        wet, tin = self.record.mass_wet_g, self.record.mass_tin_g
        return wet - tin if known(wet) and known(tin) and wet > tin else None

    @property
    def saturation_percent(self) -> float | None:
        """Degree of saturation; None where the particle density is not known or not above the dry density."""
        if self.dry_mg_m3 is None or self.water_percent is None or self.particle_mg_m3 is None:
            return None
        if self.particle_mg_m3 <= self.dry_mg_m3:
            return None
        return saturation_percent(self.water_percent, self.dry_mg_m3, self.particle_mg_m3)


def _moist(record: Record, core: Core | None) -> Moist | None:
    full, empty = record.mass_with_soil_g, record.mass_container_g
    density = core.density(record) if core else None
    if density is None or not (known(full) and known(empty)):
        return None
    return Moist(full, empty, density)


def facts(record: Record, school: RingDensitySchool) -> Facts:
    """The facts of a record under a school."""
    core, tin = core_of(record, school), masses_of(record)
    moist = _moist(record, core)
    water = water_content_percent(tin.wet_g, tin.dry_g, tin.tin_g) if tin else None
    dry = dry_density_mg_m3(moist.density_mg_m3, water) if moist and water is not None else None
    particle = record.particle_density_mg_m3
    return Facts(
        record,
        core,
        moist,
        tin,
        water,
        dry,
        particle if known(particle) else None,
        tuple(headspaces_mm(record, "top")),
        tuple(headspaces_mm(record, "bottom")),
    )
