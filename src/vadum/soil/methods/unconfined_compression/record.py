"""What is measured for an unconfined compression: the core, its water, the load, and the series."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number, RecordPart, reading
from vadum.soil.shared.force_reading import ReadsForce
from vadum.soil.shared.water_by_tin import TinRow, WithBalance

Mode = Literal["bulge", "one plane", "several planes", "split"]
Stopped = Literal["past the peak", "at the stop strain", "called off"]
STRENGTH = ("strength_kpa", "shear_strength_kpa", "strength_class", "sensitivity_ratio", "sensitivity_class")
SENSITIVITY = ("sensitivity_ratio", "sensitivity_class")
STIFFNESS = ("strain_at_failure_percent", "e50_mpa")


class Reading(RecordPart):
    """One reading of the series: the shortening and the force on the core."""

    deformation_mm: Number | None = reading("shortening", low=-0.5, affects=(*STRENGTH, *STIFFNESS))
    force_n: Number | None = reading("force", low=-5.0, affects=(*STRENGTH, *STIFFNESS))
    ring_div: Number | None = reading("ring", affects=(*STRENGTH, *STIFFNESS))
    elapsed_s: Number | None = reading("time since the start", low=-1.0)
    read_at: Moment | None = Field(None, title="read at", json_schema_extra={"moment_of": ["force_n", "ring_div"]})
    missed: Literal["missed"] | None = Field(None, title="not read")
    noted: Literal["gauge stuck", "line lost", "slipped"] | None = Field(None, title="noted")
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(TinRow, WithBalance, ReadsForce):
    """An unconfined compression of one core. The tin holds the water of the specimen, or of its trimmings."""

    depth_m: Number | None = Field(None, title="depth of the specimen")
    description: str | None = Field(None, title="description", max_length=400)
    sample_type: Literal["tube", "block", "compacted", "remoulded"] | None = Field(None, title="kind of sample")
    disturbance_class: Literal["1", "2", "3", "4", "5"] | None = Field(None, title="quality class of the sample")
    orientation: Literal["vertical", "horizontal", "inclined"] | None = Field(None, title="axis in the ground")
    preparation: Literal["as received", "trimmed", "compacted", "remoulded"] | None = Field(None, title="preparation")
    extruded_at: Moment | None = Field(None, title="extruded")
    diameters_at: Literal["top, middle, bottom", "three at 120°"] | None = Field(None, title="diameters taken")
    diameter_top_mm: Number | None = reading("diameter, top", above=0)
    diameter_middle_mm: Number | None = reading("diameter, middle", above=0)
    diameter_bottom_mm: Number | None = reading("diameter, bottom", above=0)
    height_1_mm: Number | None = reading("height, first", above=0)
    height_2_mm: Number | None = reading("height, second", above=0)
    height_3_mm: Number | None = reading("height, third", above=0)
    mass_g: Number | None = reading("mass of the specimen", above=0)
    largest_particle_mm: Number | None = reading("largest grain", above=0)
    ends_square: Literal["yes", "no"] | None = Field(None, title="ends parallel and square")
    water_from: Literal["specimen", "trimmings"] | None = Field(None, title="soil in the tin came from")
    in_oven_at: Moment | None = Field(None, title="tin into the oven")
    natural_water_percent: Number | None = reading("natural water content", high=1000)
    liquid_limit_percent: Number | None = reading("liquid limit", high=1000)
    plastic_limit_percent: Number | None = reading("plastic limit", high=1000)
    particle_density_mg_m3: Number | None = reading(
        "particle density", low=1.0, high=6.0, affects=("saturation_percent", "void_ratio")
    )
    particle_density_from: Literal["measured", "assumed"] | None = Field(None, title="particle density is")
    platen_friction_n: Number | None = reading("friction of the platen and its rod")
    temperature_c: Number | None = Field(None, title="temperature of the room")
    rate_mm_min: Number | None = reading("rate of the platen", above=0)
    readings: tuple[Reading, ...] = Field((), title="series")
    stopped: Stopped | None = Field(None, title="stopped")
    failure_mode: Mode | None = Field(None, title="failed by")
    plane_degrees: Number | None = reading("angle of the plane to the horizontal", high=90)
    fissures: Literal["yes", "no"] | None = Field(None, title="fissures seen")
    stones: Literal["yes", "no"] | None = Field(None, title="stones seen")
    remoulded_strength_kpa: Number | None = reading(
        "strength remoulded", affects=("sensitivity_ratio", "sensitivity_class")
    )
    remoulded_water_percent: Number | None = reading("its water content", high=1000)
    remoulded_density_mg_m3: Number | None = reading("its density")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
