"""What the hole and its soil come to, worked out once."""

from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.methods.pit_density.pit import Hole, Soil, coarse_volume_cm3, hole_of, soil_of, stone_density_mg_m3
from vadum.soil.methods.pit_density.record import Record
from vadum.soil.methods.pit_density.school import PitDensitySchool
from vadum.soil.shared.water_by_tin import Masses, masses_of


class Facts(NamedTuple):
    """The hole, its dry soil, the stones' volume in cm3 and density in Mg/m3, and the tin of the fines."""

    record: Record
    hole: Hole | None
    soil: Soil | None
    stones_cm3: float | None
    stone_mg_m3: float
    tin: Masses | None

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
        return self.soil.dry_g / self.hole.volume_cm3 if self.soil and self.hole else None


def facts(record: Record, school: PitDensitySchool) -> Facts:
    """The facts of a record under a school."""
    return Facts(
        record,
        hole_of(record, school),
        soil_of(record),
        coarse_volume_cm3(record, school),
        stone_density_mg_m3(record, school),
        masses_of(record),
    )
