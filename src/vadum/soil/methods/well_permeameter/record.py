"""What is measured in a constant-head well: the hole, the reservoir, and for each head the fall of its level."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Day, Moment, Number, RecordPart, reading
from vadum.soil.shared.specimen import Specimen

CONDUCTIVITY = ("kfs_mm_h", "k20_mm_h", "phi_m_mm2_min", "alpha_per_cm", "design_mm_h")
Ground = Literal[
    "gravel or coarse sand", "structured or sandy loam", "unstructured fine soil", "compacted clay or liner"
]


class Level(RecordPart):
    """A reading of the reservoir; it grows as water leaves, or falls, the same way all through."""

    level_mm: Number | None = reading("level of the reservoir", low=-5000, high=5000, step="1")
    elapsed_min: Number | None = reading("time since the air tube was lifted")
    read_at: Moment | None = Field(
        None, title="read at", json_schema_extra={"moment_of": "level_mm", "of_the_call": True}
    )
    temperature_c: Number | None = reading("temperature", low=0, high=45)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Head(RecordPart):
    """One depth of water in the hole, held while the reservoir falls."""

    head_mm: Number | None = reading("depth of water in the hole", above=0, high=2000, affects=CONDUCTIVITY)
    reservoir_used: Literal["both", "inner"] | None = Field(None, title="reservoir used")
    lifted_at: Moment | None = Field(None, title="air tube lifted")
    planned_lift_at: Moment | None = Field(None, title="planned for")
    readings: tuple[Level, ...] = Field((), title="readings")
    steady: Literal["taken as steady", "called off"] | None = Field(None, title="ended as")
    head_after_mm: Number | None = reading("depth of water at the end", high=2000)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(Specimen):
    """A constant-head well: one hole, one head or two."""

    place: str | None = Field(None, title="place", max_length=120)
    easting_m: Number | None = reading("easting", low=-1e8)
    northing_m: Number | None = reading("northing", low=-1e8)
    ground: Ground | None = Field(None, title="texture and structure")
    hole_radius_mm: Number | None = reading("radius of the hole", above=0, high=500, affects=CONDUCTIVITY)
    radius_by: Literal["measured", "sizing auger"] | None = Field(None, title="radius is")
    hole_depth_m: Number | None = reading("depth of the hole", above=0)
    wall: Literal["brushed", "not brushed"] | None = Field(None, title="wall of the hole")
    plumb: Literal["yes", "no"] | None = Field(None, title="stands plumb")
    reservoir: str | None = Field(None, title="reservoir", max_length=40)
    reservoir_in_date: Literal["yes", "no"] | None = Field(None, title="reservoir in date when used")
    reservoir_due_on: Day | None = Field(None, title="reservoir due on")
    both_area_cm2: Number | None = reading("area of both reservoirs", above=0, affects=CONDUCTIVITY)
    inner_area_cm2: Number | None = reading("area of the inner reservoir", above=0, affects=CONDUCTIVITY)
    level_reads_to_mm: Number | None = reading("its level reads to", above=0)
    water_below_m: Number | None = reading("ground water below the hole")
    layer_below_m: Number | None = reading("impeding layer below the hole")
    bubbling: Literal["regular", "irregular"] | None = Field(None, title="bubbles rise")
    heads: tuple[Head, ...] = Field((), title="heads")
    enough: Literal["one head", "two heads"] | None = Field(None, title="taken as enough")
    layers_ratio: Number | None = reading("best over least permeable layer within 1.5 m", low=1)
    safety_ratio: Number | None = reading("job: safety factor", low=1)
    remarks: str | None = Field(None, title="remarks", max_length=2000)
