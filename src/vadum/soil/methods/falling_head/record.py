"""What is measured at falling-head cylinders: the place, the ground's water before and after, and each level."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Count, Day, Moment, Number, RecordPart, reading
from vadum.soil.shared.specimen import Specimen

CONDUCTIVITY = ("kfs_mm_h", "k20_mm_h", "mean_mm_h", "least_mm_h", "rate_mm_h")
Texture = Literal[
    "sand",
    "loamy sand",
    "sandy loam",
    "loam",
    "silt loam",
    "sandy clay loam",
    "clay loam",
    "silty clay loam",
    "sandy clay",
    "silty clay",
    "clay",
]


class Level(RecordPart):
    """A reading of the level in a cylinder."""

    level_mm: Number | None = reading("level above the sensor's zero", low=-2000, high=5000, step="1")
    elapsed_s: Number | None = reading("time since the start")
    read_at: Moment | None = Field(
        None, title="read at", json_schema_extra={"moment_of": "level_mm", "of_the_call": True}
    )
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Standing(RecordPart):
    """One cylinder in the ground, filled and draining."""

    infiltrometer: str | None = Field(None, title="cylinder", max_length=40)
    infiltrometer_in_date: Literal["yes", "no"] | None = Field(None, title="cylinder in date when used")
    infiltrometer_due_on: Day | None = Field(None, title="cylinder due on")
    cylinder_radius_mm: Number | None = reading("inside radius", above=0, high=1000, affects=CONDUCTIVITY)
    insertion_mm: Number | None = reading("driven into the ground", above=0, high=2000, affects=CONDUCTIVITY)
    zero_above_soil_mm: Number | None = reading("sensor's zero above the soil", low=-2000, high=2000)
    guard_ml: Number | None = reading("volume of the splash guard")
    seal: Literal["tight", "wet round its base", "loosened"] | None = Field(None, title="seal")
    latitude_degrees: Number | None = reading("latitude", low=-90, high=90)
    longitude_degrees: Number | None = reading("longitude", low=-180, high=180)
    position_within_m: Number | None = reading("position known within")
    position_by: Literal["the device", "typed"] | None = Field(None, title="position by")
    before_index: Number | None = reading("moisture before, 0 to 10", low=0, high=10)
    before_percent: Number | None = reading("water before, of the volume", high=100, affects=CONDUCTIVITY)
    planned_start_at: Moment | None = Field(None, title="planned for")
    started_at: Moment | None = Field(None, title="started")
    readings: tuple[Level, ...] = Field((), title="readings")
    ended: Literal["empty", "stopped: slow enough", "called off"] | None = Field(None, title="ended")
    after_index: Number | None = reading("moisture after, 0 to 10", low=0, high=10)
    after_percent: Number | None = reading("water after, of the volume", high=100, affects=CONDUCTIVITY)
    temperature_c: Number | None = reading("temperature of the water", low=0, high=45)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(Specimen):
    """Falling-head cylinders of one place; every field optional while it is open."""

    place: str | None = Field(None, title="place", max_length=120)
    tested_on: Day | None = Field(None, title="tested on")
    texture: Texture | None = Field(None, title="texture by hand")
    cover: str | None = Field(None, title="cover", max_length=120)
    slope_percent: Number | None = reading("slope", high=300)
    rain: Literal["dry for two days", "rain in the last two days"] | None = Field(None, title="last two days")
    frozen: Literal["no", "yes"] | None = Field(None, title="ground frozen")
    cracks: Literal["none seen", "cracks", "worm or root holes"] | None = Field(None, title="cracks or holes")
    water_below_m: Number | None = reading("ground water below the surface")
    moisture_by: Literal["scale of 0 to 10", "share of the volume"] | None = Field(None, title="moisture is read as")
    moisture_probe: str | None = Field(None, title="moisture probe", max_length=40)
    moisture_probe_in_date: Literal["yes", "no"] | None = Field(None, title="moisture probe in date when used")
    moisture_probe_due_on: Day | None = Field(None, title="moisture probe due on")
    probe_error_percent: Number | None = reading("standard error of the probe, of the volume", above=0, high=30)
    porosity_percent: Number | None = reading("porosity", above=0, high=95, affects=CONDUCTIVITY)
    cylinders_count: Count | None = reading("cylinders here", low=1, high=60)
    cylinders: tuple[Standing, ...] = Field((), title="cylinders")
    head_mm: Number | None = reading("job: depth of water for a rate", low=0, high=5000)
    remarks: str | None = Field(None, title="remarks", max_length=2000)
