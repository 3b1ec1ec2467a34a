"""What is measured for a pit density: the hole's volume, all of its soil, the stones, a tin of the fines."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Day, Moment, Number, reading
from vadum.soil.shared.water_by_tin import TinRow, WithBalance


class Record(TinRow, WithBalance):
    """A density by excavation. The tin holds the field soil; where it was separated, a subsample of the fines."""

    volume_cm3: Number | None = reading("hole's volume, measured otherwise")
    sand_density_mg_m3: Number | None = reading("sand's poured density", low=0.8, high=2.2)
    mass_sand_before_g: Number | None = reading("sand and jar before")
    mass_sand_after_g: Number | None = reading("sand and jar after")
    mass_sand_cone_g: Number | None = reading("sand in cone and plate")
    sand_calibrated_on: Day | None = Field(None, title="sand's density found")
    sand_state: Literal["dry", "washed and dried", "new", "re-used"] | None = Field(None, title="sand is")
    sand_state_then: Literal["dry", "washed and dried", "new", "re-used"] | None = Field(
        None, title="sand was, when its density was found"
    )
    tested_on: Day | None = Field(None, title="day of the test")
    water_template_ml: Number | None = reading("water in the template, before digging")
    balloon_before_cm3: Number | None = reading("balloon on the plate, before digging")
    balloon_after_cm3: Number | None = reading("balloon in the hole")
    water_poured_ml: Number | None = reading("water poured to the mark")
    largest_particle_mm: Number | None = reading("largest grain", above=0)
    layer: str | None = Field(None, title="layer or lift", max_length=80)
    layer_depth_mm: Number | None = reading("depth below the layer's surface")
    offset_m: Number | None = reading("offset from the line", low=-1e4)
    mass_soil_field_g: Number | None = reading("moist soil from the hole, in the field")
    mass_soil_lab_g: Number | None = reading("the same soil on arrival")
    mass_coarse_g: Number | None = reading("stones over 2 mm, dry")
    mass_fines_g: Number | None = reading("fines under 2 mm, as separated")
    coarse_water_percent: Number | None = reading("water content of the stones as weighed", high=100)
    particle_density_mg_m3: Number | None = reading("particle density of the soil", low=1.0, high=6.0)
    particle_density_from: Literal["measured", "assumed"] | None = Field(None, title="particle density is")
    reference_density_mg_m3: Number | None = reading("reference density", low=0.5, high=4.0)
    reference_from: str | None = Field(None, title="its run, effort and mould", max_length=200)
    field_oversize_percent: Number | None = reading("stones of this place over the reference's sieve", high=99)
    oversize_gravity_ratio: Number | None = reading("their specific gravity", low=1.0, high=6.0)
    required_percent: Number | None = reading("required compaction", high=130)
    gauge_density_mg_m3: Number | None = reading("dry density by a gauge beside", low=0.3, high=4.0)
    gauge_water_percent: Number | None = reading("water content by a gauge beside", high=300)
    stone_density_mg_m3: Number | None = reading("particle density of the stones", low=1.0, high=6.0)
    in_oven_at: Moment | None = Field(None, title="tin into the oven")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
