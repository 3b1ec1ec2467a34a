"""What is measured in direct shear: the box, and for each stage its specimen, load, settlement and shear."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number, RecordPart, reading
from vadum.soil.shared.force_reading import ReadsForce
from vadum.soil.shared.water_by_tin import TinRow, WithBalance

ENVELOPES = (
    *("phi_peak_degrees", "c_peak_kpa", "peak_honest"),
    *("phi_tail_degrees", "c_tail_kpa", "tail_honest"),
    *("phi_residual_degrees", "c_residual_kpa", "residual_honest"),
)
RESIDUAL = ENVELOPES[6:]
Soil = Literal["clean sand", "silty sand", "silt or lean clay", "fat clay"]
Stopped = Literal["past the peak", "at the end of travel", "called off"]


class Settlement(RecordPart):
    """A reading of the vertical gauge while the specimen consolidates."""

    settlement_mm: Number | None = reading("settlement", low=-1.0, step="0.001")
    elapsed_min: Number | None = Field(None, title="time since the load")
    read_at: Moment | None = Field(
        None, title="read at", json_schema_extra={"moment_of": "settlement_mm", "of_the_call": True}
    )
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Reading(RecordPart):
    """One reading of the shear: travel along it, the vertical gauge (down is positive), and the force."""

    travel_mm: Number | None = reading("travel", low=-1.0, affects=ENVELOPES, step="0.01")
    force_n: Number | None = reading("shear force", low=-50.0, affects=ENVELOPES)
    ring_div: Number | None = reading("ring", affects=ENVELOPES)
    vertical_mm: Number | None = reading("vertical gauge, down", low=-30.0, high=30.0, step="0.001")
    second_vertical_mm: Number | None = reading("second vertical gauge, down", low=-30.0, high=30.0)
    elapsed_s: Number | None = reading("time since the start", low=-1.0)
    read_at: Moment | None = Field(None, title="read at", json_schema_extra={"moment_of": ["force_n", "ring_div"]})
    missed: Literal["missed"] | None = Field(None, title="not read")
    noted: Literal["gauge stuck", "line lost", "slipped"] | None = Field(None, title="noted")
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Reversal(RecordPart):
    """One traverse of a specimen that is sheared back and forth: the force at its end, negative where the box was drawn
    back, and how far it went."""

    force_n: Number | None = reading("force at the end of the traverse", low=-1e6, high=1e6, affects=RESIDUAL)
    travel_mm: Number | None = reading("length of the traverse", low=-100.0, high=100.0)
    vertical_mm: Number | None = reading("vertical gauge", low=-30.0, high=30.0)


class Stage(TinRow):
    """One specimen under one normal load."""

    wanted_kpa: Number | None = reading("normal stress wanted", above=0)
    mass_before_g: Number | None = reading("container + soil before", above=0)
    mass_left_g: Number | None = reading("container + soil left")
    mass_g: Number | None = reading("mass of the specimen", above=0)
    height_mm: Number | None = reading("height of the specimen", above=0)
    hanger_kg: Number | None = reading("on the hanger", affects=ENVELOPES)
    gap_mm: Number | None = reading("gap between the halves", high=20)
    flooded: Literal["yes", "no"] | None = Field(None, title="flooded")
    loaded_at: Moment | None = Field(None, title="load on")
    planned_load_at: Moment | None = Field(None, title="load planned for")
    settlement: tuple[Settlement, ...] = Field((), title="consolidation")
    t50_min: Number | None = reading("t50, by hand", above=0)
    t90_min: Number | None = reading("t90, by hand", above=0)
    t100_min: Number | None = reading("t100, by hand", above=0)
    consolidated: Literal["yes"] | None = Field(None, title="consolidation ended")
    settled_mm: Number | None = reading("settlement at the end", low=-5.0)
    screws_out: Literal["yes"] | None = Field(None, title="screws out")
    zeroed: Literal["yes"] | None = Field(None, title="upper half lifted, all gauges at zero")
    friction_n: Number | None = reading("friction of the empty run", low=-50)
    rate_mm_min: Number | None = reading("rate of the carriage", above=0)
    shear: tuple[Reading, ...] = Field((), title="shear")
    reversals: tuple[Reversal, ...] = Field((), title="further traverses")
    stopped: Stopped | None = Field(None, title="stopped")
    in_oven_at: Moment | None = Field(None, title="tin into the oven")
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(WithBalance, ReadsForce):
    """A direct shear of one soil: a box, a hanger, and a fresh specimen for each normal load."""

    depth_m: Number | None = Field(None, title="depth of the sample")
    description: str | None = Field(None, title="description", max_length=400)
    soil: Soil | None = Field(None, title="soil, for the time it needs to drain")
    normally_consolidated: Literal["yes", "no"] | None = Field(None, title="normally consolidated clay")
    drainage: Literal["drained", "quick"] | None = Field(None, title="sheared")
    largest_particle_mm: Number | None = reading("largest grain", above=0)
    target_density_mg_m3: Number | None = reading("dry density wanted", low=0.5, high=3.0)
    water_before_percent: Number | None = reading("water content before", high=500)
    particle_density_mg_m3: Number | None = reading("particle density", low=1.0, high=6.0)
    particle_density_from: Literal["measured", "assumed"] | None = Field(None, title="particle density is")
    shear_box: str | None = Field(None, title="shear box", max_length=40)
    box_shape: Literal["square", "round"] | None = Field(None, title="box")
    box_width_mm: Number | None = reading("its side or diameter", above=0, affects=ENVELOPES)
    box_height_mm: Number | None = reading("height of a full specimen", above=0)
    cap_kg: Number | None = reading("cap, ball and yoke", affects=ENVELOPES)
    upper_half_kg: Number | None = reading("upper half, where the specimen carries it", affects=ENVELOPES)
    lever_ratio: Number | None = reading("lever ratio", above=0, affects=ENVELOPES)
    lever_balanced: Literal["yes", "no"] | None = Field(None, title="lever balanced by its counterweight")
    lever_kg: Number | None = reading("the lever's own weight on the specimen", affects=ENVELOPES)
    tail_from_mm: Number | None = reading("tail counted from a travel of", above=0)
    hold_zero: Literal["yes"] | None = Field(None, title="line held through zero")
    ridges_across: Literal["yes", "no"] | None = Field(None, title="ridges of the plates across the travel")
    stages: tuple[Stage, ...] = Field((), title="stages")
    enough: Literal["yes"] | None = Field(None, title="no more stages")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
