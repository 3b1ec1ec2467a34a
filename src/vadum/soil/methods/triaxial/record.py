"""What is measured in a triaxial test: the cell, and each specimen from its membrane to its failure."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Day, Moment, Number, RecordPart, reading
from vadum.soil.shared.water_by_tin import TinRow, WithBalance

ENVELOPES = (
    *("phi_degrees", "c_kpa", "phi_by_other_degrees", "c_by_other_kpa", "honest", "slope_m_ratio"),
    *("phi_total_degrees", "c_total_kpa", "shear_strength_kpa", "phi_check_degrees"),
)
EFFECTIVE = ENVELOPES[:6]
Kind = Literal["CIU", "CAU", "CID", "CAD", "UU", "UUP"]
Through = Literal["one end", "both ends", "radial", "radial and one end", "radial and both ends"]
Stopped = Literal["past the peak", "at the stop strain", "called off"]
YES = Literal["yes"]


class Increment(RecordPart):
    """One step of the cell pressure with the back line closed: what the pore pressure answers; and the back pressure
    after it."""

    cell_from_kpa: Number | None = reading("cell pressure before", affects=ENVELOPES)
    cell_to_kpa: Number | None = reading("cell pressure raised to", affects=ENVELOPES)
    pore_from_kpa: Number | None = reading("pore pressure before")
    pore_to_kpa: Number | None = reading("pore pressure after")
    back_kpa: Number | None = reading("back pressure then raised to")
    read_at: Moment | None = Field(None, title="read at", json_schema_extra={"moment_of": "pore_to_kpa"})
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Drained(RecordPart):
    """A reading while the specimen consolidates: water out, and how much shorter it is."""

    volume_cm3: Number | None = reading("water out", low=-20.0, step="0.01")
    shortening_mm: Number | None = reading("shortening", low=-5.0)
    elapsed_min: Number | None = Field(None, title="time since it was let drain")
    read_at: Moment | None = Field(
        None, title="read at", json_schema_extra={"moment_of": "volume_cm3", "of_the_call": True}
    )
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Reading(RecordPart):
    """One reading of the shear: the shortening since its start, the deviator load, pore pressure or water out."""

    deformation_mm: Number | None = reading("shortening", low=-60.0, affects=ENVELOPES, step="0.01")
    force_n: Number | None = reading("deviator load", low=-50_000.0, affects=ENVELOPES)
    pore_kpa: Number | None = reading("pore pressure", low=-100.0, affects=ENVELOPES)
    volume_cm3: Number | None = reading("water out", low=-200.0, affects=ENVELOPES)
    cell_kpa: Number | None = reading("cell pressure")
    elapsed_s: Number | None = reading("time since the start", low=-1.0)
    read_at: Moment | None = Field(None, title="read at", json_schema_extra={"moment_of": "force_n"})
    missed: Literal["missed"] | None = Field(None, title="not read")
    noted: Literal["gauge stuck", "line lost", "slipped"] | None = Field(None, title="noted")
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Specimen(TinRow):
    """One specimen, or one stage of a specimen that is sheared in several."""

    number: str | None = Field(None, title="specimen", max_length=40)
    wanted_kpa: Number | None = reading("pressure wanted: effective, or of the cell", above=0)
    discs_boiled_at: Moment | None = Field(None, title="porous discs boiled")
    discs_vacuum_from_at: Moment | None = Field(None, title="discs under vacuum since")
    membrane: str | None = Field(None, title="membrane", max_length=40)
    membrane_soaked_from_at: Moment | None = Field(None, title="membrane in water since")
    lines_flushed: YES | None = Field(None, title="lines flushed")
    diameter_top_mm: Number | None = reading("diameter, top", above=0, affects=ENVELOPES)
    diameter_middle_mm: Number | None = reading("diameter, middle", above=0, affects=ENVELOPES)
    diameter_bottom_mm: Number | None = reading("diameter, bottom", above=0, affects=ENVELOPES)
    height_1_mm: Number | None = reading("height, first", above=0, affects=ENVELOPES)
    height_2_mm: Number | None = reading("height, second", above=0, affects=ENVELOPES)
    height_3_mm: Number | None = reading("height, third", above=0, affects=ENVELOPES)
    mass_g: Number | None = reading("mass", above=0)
    membrane_thickness_mm: Number | None = reading("membrane's thickness", high=5)
    mounted_at: Moment | None = Field(None, title="mounted in the cell")
    increments: tuple[Increment, ...] = Field((), title="saturation")
    saturated: YES | None = Field(None, title="saturation ended")
    saturation_shortening_mm: Number | None = reading("shortening in saturation", low=-10.0)
    cell_kpa: Number | None = reading("cell pressure", affects=ENVELOPES)
    back_kpa: Number | None = reading("back pressure", affects=ENVELOPES)
    under_pressure_from_at: Moment | None = Field(None, title="under cell pressure since")
    planned_drain_at: Moment | None = Field(None, title="drainage planned for")
    drained_from_at: Moment | None = Field(None, title="let drain")
    consolidation: tuple[Drained, ...] = Field((), title="consolidation")
    t50_min: Number | None = reading("t50, by hand", above=0)
    t90_min: Number | None = reading("t90, by hand", above=0)
    t100_min: Number | None = reading("t100, by hand", above=0)
    consolidated: YES | None = Field(None, title="consolidation ended")
    volume_out_cm3: Number | None = reading("water out at the end", low=-20.0)
    consolidation_shortening_mm: Number | None = reading("shortening in consolidation", low=-10.0)
    rate_mm_min: Number | None = reading("rate of the platen", above=0)
    shear: tuple[Reading, ...] = Field((), title="shear")
    stopped: Stopped | None = Field(None, title="stopped")
    failed_by: Literal["bulge", "one plane", "several planes"] | None = Field(None, title="failed by")
    plane_degrees: Number | None = reading("angle of the plane to the horizontal", high=90)
    in_oven_at: Moment | None = Field(None, title="tin into the oven")
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(WithBalance):
    """A triaxial test of one soil: two or more specimens, each under its own pressure."""

    kind: Kind | None = Field(None, title="kind of test")
    direction: Literal["compression", "extension"] | None = Field(None, title="sheared in")
    staging: Literal["single", "multistage"] | None = Field(None, title="stages")
    depth_m: Number | None = Field(None, title="depth of the sample")
    description: str | None = Field(None, title="description", max_length=400)
    sample_type: Literal["tube", "block", "compacted", "remoulded"] | None = Field(None, title="kind of sample")
    brittle: Literal["yes", "no"] | None = Field(None, title="peaks early, brittle")
    largest_particle_mm: Number | None = reading("largest grain", above=0)
    in_situ_kpa: Number | None = reading("effective stress in the ground")
    expected_failure_percent: Number | None = reading("strain at failure expected", above=0, high=30)
    particle_density_mg_m3: Number | None = reading("particle density", low=1.0, high=6.0)
    particle_density_from: Literal["measured", "assumed"] | None = Field(None, title="particle density is")
    water_before_percent: Number | None = reading("water content of the trimmings", high=500)
    triaxial_cell: str | None = Field(None, title="cell", max_length=40)
    cell_rating_kpa: Number | None = reading("cell rated to", above=0)
    cell_fluid: Literal["water", "oil", "air"] | None = Field(None, title="fluid in the cell")
    load_cell: str | None = Field(None, title="load cell", max_length=40)
    load_cell_most_n: Number | None = reading("load cell reads up to", above=0)
    load_cell_due_on: Day | None = Field(None, title="load cell's calibration due")
    load_cell_in_date: Literal["yes", "no"] | None = Field(None, title="load cell in date when used")
    piston_zeroed: Literal["yes", "no"] | None = Field(None, title="load zeroed under pressure")
    piston_area_mm2: Number | None = reading("piston's area")
    piston_friction_n: Number | None = reading("piston's friction, by an empty run")
    membrane_modulus_kpa: Number | None = reading("membrane's modulus", above=0)
    membrane_modulus_from: Literal["measured", "assumed"] | None = Field(None, title="its modulus is")
    side_drains: Literal["yes", "no"] | None = Field(None, title="side drains")
    drains_through: Through | None = Field(None, title="drains through")
    drains_perimeter_mm: Number | None = reading("drains cover of the perimeter", above=0)
    temperature_c: Number | None = Field(None, title="temperature of the room")
    specimens: tuple[Specimen, ...] = Field((), title="specimens")
    enough: YES | None = Field(None, title="no more specimens")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
