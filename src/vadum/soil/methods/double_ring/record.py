"""What is measured at a double ring: the rings, both depths of water, and the water that each ring took."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Day, Moment, Number, RecordPart, reading
from vadum.soil.shared.specimen import Specimen

RATE = ("rate_mm_h", "mean_mm_h", "rate_cm_s", "rate20_mm_h", "annulus_mm_h")


class Interval(RecordPart):
    """The water that went in since the reading before: measured, or by the levels of two bottles."""

    inner_ml: Number | None = reading("water into the inner ring", high=1e6, affects=RATE)
    annulus_ml: Number | None = reading("water into the annulus", high=1e6)
    inner_bottle_mm: Number | None = reading("level of the inner ring's bottle", low=-5000, high=5000, step="1")
    annulus_bottle_mm: Number | None = reading("level of the annulus' bottle", low=-5000, high=5000, step="1")
    elapsed_min: Number | None = reading("time since the start")
    read_at: Moment | None = Field(
        None, title="read at", json_schema_extra={"moment_of": "inner_ml", "of_the_call": True}
    )
    head_inner_mm: Number | None = reading("depth of water, inner ring", high=2000)
    head_annulus_mm: Number | None = reading("depth of water, annulus", high=2000)
    temperature_c: Number | None = reading("temperature of the water", low=0, high=45)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(Specimen):
    """A double ring; every field optional while it is open."""

    place: str | None = Field(None, title="place", max_length=120)
    tested_on: Day | None = Field(None, title="tested on")
    rings: str | None = Field(None, title="pair of rings", max_length=40)
    rings_in_date: Literal["yes", "no"] | None = Field(None, title="rings in date when used")
    rings_due_on: Day | None = Field(None, title="rings due on")
    inner_diameter_mm: Number | None = reading("inside diameter, inner ring", above=0, high=5000, affects=RATE)
    inner_outside_diameter_mm: Number | None = reading("outside diameter, inner ring", above=0, high=5000)
    outer_diameter_mm: Number | None = reading("inside diameter, outer ring", above=0, high=5000)
    inner_driven_mm: Number | None = reading("inner ring driven", above=0, high=2000)
    outer_driven_mm: Number | None = reading("outer ring driven", above=0, high=2000)
    rings_state: Literal["tight", "inner ring leaks", "inner ring lifted"] | None = Field(None, title="rings")
    water_added: Literal["measured by hand", "constant-level bottles"] | None = Field(None, title="water is")
    inner_bottle_area_cm2: Number | None = reading("area of the inner ring's bottle", above=0)
    annulus_bottle_area_cm2: Number | None = reading("area of the annulus' bottle", above=0)
    head_mm: Number | None = reading("depth of water kept", above=0, high=2000)
    evaporation: Literal["covered", "a pan beside", "not controlled"] | None = Field(None, title="evaporation")
    evaporation_mm_h: Number | None = reading("evaporation by the pan", high=50)
    water_quality: str | None = Field(None, title="water used", max_length=120)
    slope_percent: Number | None = reading("slope", high=300)
    water_below_m: Number | None = reading("ground water below")
    layer_below_m: Number | None = reading("impeding layer below")
    planned_start_at: Moment | None = Field(None, title="planned for")
    started_at: Moment | None = Field(None, title="started")
    readings: tuple[Interval, ...] = Field((), title="readings")
    ended: Literal["steady", "time is over", "called off"] | None = Field(None, title="ended as")
    dug_out: str | None = Field(None, title="soil below, dug out after", max_length=400)
    remarks: str | None = Field(None, title="remarks", max_length=2000)
