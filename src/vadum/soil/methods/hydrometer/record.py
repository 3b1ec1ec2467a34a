"""What is measured for a hydrometer analysis: the soil, the blank, and readings by the clock."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Day, Moment, Number, RecordPart, reading
from vadum.soil.shared.physics import WATER_RANGE_C
from vadum.soil.shared.water_by_tin import WithBalance

COLD, WARM = WATER_RANGE_C
HydrometerType = Literal["151H", "152H", "calibrated, sg", "calibrated, g/L", "pipette"]


class Drawn(RecordPart):
    """A sample that a pipette drew, and its container dried."""

    drawn_ml: Number | None = reading("drawn by the pipette", above=0, high=100, step="0.1")
    container: str | None = Field(None, title="container", max_length=20)
    mass_container_g: Number | None = reading("container", above=0, high=500, step="0.0001")
    mass_dried_g: Number | None = reading("container + what dried in it", above=0, high=500, step="0.0001")


class Blank(Drawn):
    """A reading in dispersant and water without soil, at the meniscus' top; or a sample of it."""

    reading_g_l: Number | None = reading("blank reading", low=-10, high=65)
    reading_sg: Number | None = reading("blank reading, specific gravity", low=0.985, high=1.065)
    temperature_c: Number | None = reading("its temperature", low=COLD, high=WARM)


class Reading(Drawn):
    """A reading at the meniscus' top, or a sample, with its own time and the temperature after it."""

    inserted_at: Moment | None = Field(None, title="hydrometer in")
    reading_g_l: Number | None = reading("reading", low=-10, high=65, step="0.5")
    reading_sg: Number | None = reading("reading, specific gravity", low=0.985, high=1.065, step="0.0005")
    read_at: Moment | None = Field(
        None,
        title="read",
        json_schema_extra={"moment_of": ["reading_g_l", "reading_sg", "drawn_ml"], "of_the_call": True},
    )
    elapsed_min: Number | None = Field(None, title="time since set down")
    temperature_c: Number | None = reading("temperature", low=COLD, high=WARM, step="0.1")
    depth_mm: Number | None = reading("drawn from a depth of", above=0, high=400)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(WithBalance):
    """A hydrometer analysis in one cylinder."""

    hydrometer: str | None = Field(None, title="hydrometer", max_length=20)
    hydrometer_type: HydrometerType | None = Field(None, title="its kind")
    bulb_length_cm: Number | None = Field(None, title="bulb's length")
    bulb_volume_cm3: Number | None = Field(None, title="bulb's volume")
    stem_zero_cm: Number | None = Field(None, title="bulb's top to the mark of pure water")
    stem_step_cm: Number | None = Field(None, title="stem per g/L, or per 0.001")
    meniscus_g_l: Number | None = reading("meniscus correction", high=5)
    meniscus_sg: Number | None = reading("meniscus correction, specific gravity", high=0.005)
    bath_temperature_c: Number | None = reading("temperature of the bath", low=COLD, high=WARM, step="0.1")
    cylinder: str | None = Field(None, title="cylinder", max_length=10)
    cylinder_area_cm2: Number | None = Field(None, title="cylinder's inside area")
    mass_taken_g: Number | None = reading("soil taken, air-dry", above=0, high=500)
    air_dry_water_percent: Number | None = reading("its water content", high=100)
    mass_dry_g: Number | None = reading("oven-dry soil", above=0, high=500)
    came_through_mm: Number | None = Field(None, title="came through the sieve of")
    passing_percent: Number | None = reading("share of the whole that passed it", above=0, high=100)
    specific_gravity_ratio: Number | None = reading("specific gravity of solids", low=1.5, high=6)
    specific_gravity_from: Literal["measured", "assumed"] | None = Field(None, title="specific gravity is")
    pretreated_for: Literal["nothing", "organic matter", "carbonates", "salts", "several"] | None = Field(
        None, title="pre-treated for"
    )
    pretreatment_loss_percent: Number | None = reading("loss by pre-treatment", high=100)
    mass_after_g: Number | None = reading("dry mass after the test", above=0, high=500)
    dispersant_made_on: Day | None = Field(None, title="dispersant solution made")
    tested_on: Day | None = Field(None, title="day of the test")
    soaked_from_at: Moment | None = Field(None, title="soaking since")
    mixed_min: Number | None = Field(None, title="mixed for")
    blanks: tuple[Blank, ...] = Field((), title="blanks")
    planned_start_at: Moment | None = Field(None, title="planned start")
    started_at: Moment | None = Field(None, title="set down: time zero")
    readings: tuple[Reading, ...] = Field((), title="readings")
    in_oven_at: Moment | None = Field(None, title="containers into the oven")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
