"""What is read for a lime demand: the soil, the lime, the meter with its buffers, and six bottles."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Day, Moment, Number, RecordPart, reading
from vadum.soil.shared.specimen import Specimen

DEMAND = ("demand_percent", "demand_hydrated_percent", "demand_quicklime_percent", "demand_whole_percent")
LIME_ONLY = "lime only"
SOIL = "soil and lime"


class Bottle(RecordPart):
    """One bottle: what went in, and the pH it came to."""

    holds: Literal["lime only", "soil and lime"] | None = Field(None, title="it holds")
    lime_percent: Number | None = reading("lime, of the dry soil", low=0, high=30, affects=DEMAND)
    lime_g: Number | None = reading("lime weighed", low=0)
    soil_g: Number | None = reading("moist soil weighed", low=0)
    read_ph: Number | None = reading("pH as read", low=1, high=14.5, affects=DEMAND)
    read_at: Moment | None = Field(
        None, title="read at", json_schema_extra={"moment_of": "read_ph", "of_the_call": True}
    )
    temperature_c: Number | None = reading("temperature of the slurry", low=0, high=60, affects=DEMAND)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Shake(RecordPart):
    """One round of shaking: all bottles, one after the other."""

    shaken_at: Moment | None = Field(None, title="all bottles shaken")
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Buffer(RecordPart):
    """A buffer that the meter was set to, or checked against."""

    part: Literal["set to it", "check"] | None = Field(None, title="the meter was")
    buffer: str | None = Field(None, title="buffer's bottle", max_length=40)
    buffer_ph: Number | None = reading("its value at 25 °C", low=1, high=14)
    buffer_read_ph: Number | None = reading("what the meter read", low=1, high=14.5)
    buffer_opened_on: Day | None = Field(None, title="buffer opened on")
    buffer_in_date: Literal["yes", "no"] | None = Field(None, title="buffer in date")
    buffer_due_on: Day | None = Field(None, title="buffer lapses on")


class Record(Specimen):
    """A lime demand by pH; every field optional while it is open."""

    sulphate_known: Literal["measured", "not known"] | None = Field(None, title="soluble sulphate is")
    sulphate_mg_kg: Number | None = reading("soluble sulphate", high=500_000)
    sulphate_reason: str | None = Field(None, title="goes on all the same because", max_length=400)
    drying: Literal["air-dried", "oven, at most 60 °C"] | None = Field(None, title="dried")
    prepared_g: Number | None = reading("soil made ready, below 0.425 mm", above=0)
    water_percent: Number | None = reading("its water content, by oven", low=0, high=100, affects=DEMAND)
    finer_0425_percent: Number | None = reading("share of the soil below 0.425 mm", above=0, high=100)
    organic_percent: Number | None = reading("organic matter", high=100)
    plasticity_index_percent: Number | None = reading("plasticity index", high=500)
    untreated_ph: Number | None = reading("pH of the soil without lime", low=1, high=14)
    lime: str | None = Field(None, title="lime's bag", max_length=40)
    lime_kind: Literal["hydrated lime", "quicklime, crushed"] | None = Field(None, title="lime")
    lime_opened_on: Day | None = Field(None, title="lime opened on")
    lime_in_date: Literal["yes", "no"] | None = Field(None, title="lime in date")
    lime_due_on: Day | None = Field(None, title="lime lapses on")
    available_cao_percent: Number | None = reading("available CaO", above=0, high=100)
    label_cao_percent: Number | None = reading("CaO by its label", above=0, high=100)
    bottles: tuple[Bottle, ...] = Field((), title="bottles")
    water_ml: Number | None = reading("CO2-free water in each", above=0)
    planned_water_at: Moment | None = Field(None, title="planned for")
    water_in_at: Moment | None = Field(None, title="water in")
    shakes: tuple[Shake, ...] = Field((), title="rounds of shaking")
    bath_c: Number | None = reading("bath", low=0, high=60)
    ph_meter: str | None = Field(None, title="pH meter", max_length=40)
    ph_slope_percent: Number | None = reading("its slope", above=0, high=130)
    ph_meter_in_date: Literal["yes", "no"] | None = Field(None, title="pH meter in date")
    ph_meter_due_on: Day | None = Field(None, title="pH meter due on")
    buffers: tuple[Buffer, ...] = Field((), title="buffers")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
