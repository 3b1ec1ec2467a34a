"""What is measured for a liquid limit: the dish, the trials with their closures, and a tin for each."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Count, Day, Moment, Number, reading
from vadum.soil.shared.water_by_tin import TinRow, WithBalance


class Trial(TinRow):
    """One closure (or cone penetration), kept or not, with what was done to the dish before it."""

    water_added_ml: Number | None = reading("water added")
    mass_dish_g: Number | None = reading("dish + soil now", above=0)
    verification_blows: Count | None = reading("first closure", above=0)
    blows: Count | None = reading("drops to close 13 mm", above=0)
    penetration_mm: Number | None = reading("cone penetration", above=0)
    second_penetration_mm: Number | None = reading("second penetration, refilled", above=0)
    third_penetration_mm: Number | None = reading("third penetration, refilled", above=0)
    closed_at: Moment | None = Field(None, title="read", json_schema_extra={"moment_of": ["blows", "penetration_mm"]})
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(WithBalance):
    """A liquid limit by cup or cone."""

    device: str | None = Field(None, title="device", max_length=40)
    device_inspected_on: Day | None = Field(None, title="device inspected")
    device_due_on: Day | None = Field(None, title="next inspection due")
    device_passed: Literal["yes", "no"] | None = Field(None, title="its inspection was passed")
    device_drop_mm: Number | None = Field(None, title="drop height")
    device_reason: str | None = Field(None, title="used though lapsed because", max_length=400)
    tested_on: Day | None = Field(None, title="tested")
    turned_by: Literal["hand", "motor"] | None = Field(None, title="cup turned by")
    tool_is: Literal["plastic", "metal"] | None = Field(None, title="grooving tool is of")
    water_used: Literal["distilled", "demineralised", "tap"] | None = Field(None, title="water used")
    finer_than_425um_percent: Number | None = reading("share below 0.425 mm", high=100)
    dry_soil_g: Number | None = reading("soil taken, air-dry", above=0)
    air_dry_water_percent: Number | None = reading("its water content")
    seasoned_from_at: Moment | None = Field(None, title="closed to season")
    trials: tuple[Trial, ...] = Field((), title="trials")
    in_oven_at: Moment | None = Field(None, title="tins into the oven")
    cannot_be_found: Literal["yes", "no"] | None = Field(None, title="groove tears or soil slides")
    plastic_limit_percent: Number | None = Field(None, title="plastic limit")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
