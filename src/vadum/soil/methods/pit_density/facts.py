"""What the hole and its soil come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.methods.pit_density.pit import (
    Hole,
    Soil,
    coarse_volume_cm3,
    field_water_percent,
    hole_of,
    soil_of,
    stone_density_mg_m3,
)
from vadum.soil.methods.pit_density.record import Record
from vadum.soil.methods.pit_density.school import PitDensitySchool
from vadum.soil.shared.oversize import with_stones_mg_m3
from vadum.soil.shared.phases import dry_density_mg_m3, saturation_percent
from vadum.soil.shared.water_by_tin import Masses, masses_of

LEAST_STONES_PERCENT = 5.0  # below it no correction is needed, ASTM D4718


class Facts(NamedTuple):
    """The hole, its dry soil, the stones' volume in cm3 and density in Mg/m3, and the tin of the fines."""

    record: Record
    hole: Hole | None
    soil: Soil | None
    stones_cm3: float | None
    stone_mg_m3: float
    tin: Masses | None
    water_percent: float | None

    @property
    def stones_percent(self) -> float | None:
        """Stones in percent of the hole's volume; None where they do not fit into it."""
        if self.hole is None or self.stones_cm3 is None or self.stones_cm3 >= self.hole.volume_cm3:
            return None
        return 100 * self.stones_cm3 / self.hole.volume_cm3

    @property
    def lost_percent(self) -> float | None:
        """How much the bag's mass changed between field and laboratory, percent."""
        field, lab = self.record.mass_soil_field_g, self.record.mass_soil_lab_g
        return 100 * abs(field - lab) / field if known(field) and known(lab) and field > 0 else None

    @property
    def dry_mg_m3(self) -> float | None:
        """Dry density of the whole soil."""
        if self.soil and self.hole:
            return self.soil.dry_g / self.hole.volume_cm3
        moist = self.moist_mg_m3
        if moist is None or self.water_percent is None:
            return None
        return dry_density_mg_m3(moist, self.water_percent)

    @property
    def moist_mg_m3(self) -> float | None:
        """Moist density as it lay in the ground."""
        mass = self.record.mass_soil_field_g
        return mass / self.hole.volume_cm3 if self.hole and known(mass) and mass > 0 else None

    @property
    def whole_water_percent(self) -> float | None:
        """Water content of the whole soil: by its tin, else by what was left when it was dry."""
        mass = self.record.mass_soil_field_g
        if self.soil and known(mass) and mass >= self.soil.dry_g:
            return 100 * (mass - self.soil.dry_g) / self.soil.dry_g
        return self.water_percent

    @property
    def saturation_percent(self) -> float | None:
        """Degree of saturation; None without a particle density above the dry density."""
        dry, water, particle = self.dry_mg_m3, self.whole_water_percent, self.record.particle_density_mg_m3
        if dry is None or water is None or not known(particle) or particle <= dry:
            return None
        return saturation_percent(water, dry, particle)

    @property
    def reference_mg_m3(self) -> float | None:
        """The reference density with this place's own stones put in; as it is without any, or below five per cent."""
        reference, stones = self.record.reference_density_mg_m3, self.record.field_oversize_percent
        if not known(reference):
            return None
        gravity = self.record.oversize_gravity_ratio
        if not known(stones) or not known(gravity) or stones < LEAST_STONES_PERCENT:
            return reference
        return with_stones_mg_m3(reference, stones, gravity)


def facts(record: Record, school: PitDensitySchool) -> Facts:
    """The facts of a record under a school."""
    return Facts(
        record,
        hole_of(record, school),
        soil_of(record),
        coarse_volume_cm3(record, school),
        stone_density_mg_m3(record, school),
        masses_of(record),
        field_water_percent(record),
    )
