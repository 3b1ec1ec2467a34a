"""What is measured for a water content: a tin weighed empty, wet, and dry as often as it takes."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number, RecordPart, reading
from vadum.soil.shared.water_by_tin import WithBalance


class Weighing(RecordPart):
    """One weighing of the dried soil in its tin."""

    mass_dry_g: Number | None = Field(None, title="tin + dry soil")
    weighed_at: Moment | None = Field(None, title="weighed", json_schema_extra={"moment_of": "mass_dry_g"})
    mirror: Literal["clear", "fogged"] | None = Field(None, title="cool mirror")


class Record(WithBalance):
    """A water content by drying."""

    tin: str | None = Field(None, title="tin", max_length=20)
    mass_tin_g: Number | None = Field(None, title="empty tin")
    mass_tin_register_g: Number | None = Field(None, title="empty tin by the register")
    mass_wet_g: Number | None = Field(None, title="tin + wet soil")
    weighed_wet_at: Moment | None = Field(None, title="weighed wet", json_schema_extra={"moment_of": "mass_wet_g"})
    largest_particle_mm: Number | None = Field(None, title="largest particle")
    tin_is: Literal["metal", "glass", "paper", "plastic"] | None = Field(None, title="tin is of")
    left_out: str | None = Field(None, title="left out by hand", max_length=200)
    left_out_g: Number | None = reading("mass left out")
    report_to_percent: Number | None = Field(None, title="report to")
    sampled_at: Moment | None = Field(None, title="sampled")
    sealed: Literal["yes", "no"] | None = Field(None, title="sealed since sampling")
    gypsum_or_organic: Literal["yes", "no"] | None = Field(None, title="gypsum or much organic matter")
    in_oven_at: Moment | None = Field(None, title="drying began")
    oven_temperature_c: Number | None = Field(None, title="drying temperature")
    cooled_min: Number | None = Field(None, title="cooled before weighing")
    weighings: tuple[Weighing, ...] = Field((), title="dry weighings")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
