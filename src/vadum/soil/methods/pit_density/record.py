"""What is measured for a pit density: the hole's volume, all of its soil, the stones, a tin of the fines."""

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number, reading
from vadum.soil.shared.water_by_tin import TinRow, WithBalance


class Record(TinRow, WithBalance):
    """A density by excavation. The tin's masses are those of a subsample of the separated fines."""

    volume_cm3: Number | None = reading("hole's volume, measured otherwise")
    sand_density_mg_m3: Number | None = reading("sand's poured density", low=0.8, high=2.2)
    mass_sand_before_g: Number | None = reading("sand and jar before")
    mass_sand_after_g: Number | None = reading("sand and jar after")
    mass_sand_cone_g: Number | None = reading("sand in cone and plate")
    water_poured_ml: Number | None = reading("water poured to the mark")
    mass_soil_field_g: Number | None = reading("moist soil from the hole, in the field")
    mass_soil_lab_g: Number | None = reading("the same soil on arrival")
    mass_coarse_g: Number | None = reading("stones over 2 mm, dry")
    mass_fines_g: Number | None = reading("fines under 2 mm, as separated")
    stone_density_mg_m3: Number | None = reading("particle density of the stones", low=1.0, high=6.0)
    in_oven_at: Moment | None = Field(None, title="tin into the oven")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
