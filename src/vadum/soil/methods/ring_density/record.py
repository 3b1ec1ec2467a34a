"""What is measured for a ring density: the ring, how far it is filled, its soil, a subsample for water."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number, RecordPart, reading
from vadum.soil.shared.water_by_tin import TinRow, WithBalance

PHASES = ("porosity_percent", "void_ratio", "saturation_percent", "air_percent")


class Headspace(RecordPart):
    """The empty height in the ring at one place round its edge."""

    headspace_mm: Number | None = reading("headspace")
    end: Literal["top", "bottom"] | None = Field(None, title="end of the ring")


class Record(TinRow, WithBalance):
    """A density by ring. The tin's masses are those of the subsample for water content."""

    ring: str | None = Field(None, title="ring", max_length=20)
    ring_diameter_mm: Number | None = reading("ring, inside diameter", above=0)
    ring_height_mm: Number | None = reading("ring, height", above=0)
    headspaces: tuple[Headspace, ...] = Field((), title="headspaces")
    area_ratio_percent: Number | None = reading("area ratio of the cutter", high=200)
    mass_coarse_g: Number | None = reading("fragments over 2 mm in the ring, dry")
    stone_density_mg_m3: Number | None = reading("particle density of the fragments", low=1.0, high=6.0)
    outside_headspace_mm: Number | None = Field(None, title="ground below the ring's top, outside")
    sampled_at: Moment | None = Field(None, title="sampled")
    sealed: Literal["yes", "no"] | None = Field(None, title="bag sealed")
    mass_container_g: Number | None = reading("empty bag or ring")
    mass_with_soil_g: Number | None = reading("bag or ring + moist soil")
    weighed_at: Moment | None = Field(None, title="weighed moist", json_schema_extra={"moment_of": "mass_with_soil_g"})
    in_oven_at: Moment | None = Field(None, title="tin into the oven")
    particle_density_mg_m3: Number | None = reading("particle density", low=1.0, high=6.0, affects=PHASES)
    particle_density_from: Literal["measured", "assumed"] | None = Field(None, title="particle density is")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
