"""What is measured for a water retention curve: rings on their plates, pressures in steps, a mass a day."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Count, Day, Moment, Number, RecordPart, reading
from vadum.soil.shared.pressure_units import Unit
from vadum.soil.shared.specimen import Specimen


class Step(RecordPart):
    """A pressure, in the unit that its gauge shows, or the length of a hanging column of water."""

    pressure_as_read: Number | None = reading("pressure, in the unit beside", high=1e7)
    pressure_unit: Unit | None = Field(None, title="its unit")
    column_mm: Number | None = reading("hanging column below the plate", high=10_000)


class Weighing(RecordPart):
    """A cell off its line and on the balance, and what became of it."""

    mass_g: Number | None = reading("mass of the cell", above=0)
    weighed_at: Moment | None = Field(
        None, title="weighed at", json_schema_extra={"moment_of": "mass_g", "of_the_call": True}
    )
    then: Literal["stays", "goes on"] | None = Field(None, title="and then")
    temperature_c: Number | None = reading("room", low=0, high=45)
    present_height_mm: Number | None = reading("core's height now", above=0, high=1000)
    present_diameter_mm: Number | None = reading("core's diameter now", above=0, high=1000)
    blank_plate_g: Number | None = reading("blank plate, change of its mass", low=-100, high=100)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Cell(RecordPart):
    """One ring of soil on its plate, in its cell."""

    pressure_cell: str | None = Field(None, title="cell", max_length=40)
    pressure_cell_in_date: Literal["yes", "no"] | None = Field(None, title="cell in date when used")
    pressure_cell_due_on: Day | None = Field(None, title="cell due on")
    plate_entry_kpa: Number | None = reading("plate's air entry", above=0)
    ring_diameter_mm: Number | None = reading("core's diameter", above=0, high=1000)
    core_height_mm: Number | None = reading("core's height", above=0, high=1000)
    outlet_below_mm: Number | None = reading("outlet's water below the plate's face", low=-1000, high=5000)
    saturated_g: Number | None = reading("saturated, on its plate", above=0)
    saturated_at: Moment | None = Field(
        None, title="saturated, weighed at", json_schema_extra={"moment_of": "saturated_g"}
    )
    weighings: tuple[Weighing, ...] = Field((), title="weighings")
    wet_out_g: Number | None = reading("soil out, wet", above=0)
    dry_g: Number | None = reading("soil, oven-dry", above=0)
    apparatus_g: Number | None = reading("empty cell, wet: plate, seals, washers", above=0)
    ring_g: Number | None = reading("ring, where it is not among them", low=0)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Point(RecordPart):
    """A point of another instrument, typed."""

    by: Literal["dewpoint", "centrifuge", "other"] | None = Field(None, title="by")
    suction_as_read: Number | None = reading("suction, in the unit beside", high=1e7)
    suction_unit: Unit | None = Field(None, title="its unit")
    water_percent: Number | None = reading("water, of the dry mass", high=2000)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(Specimen):
    """A water retention curve; every field optional while it is open."""

    soaked_in: str | None = Field(None, title="soaked in", max_length=120)
    texture: str | None = Field(None, title="texture by hand", max_length=40)
    particle_density_mg_m3: Number | None = reading("particle density", above=0, high=6)
    cells_count: Count | None = reading("cells", low=1, high=48)
    steps: tuple[Step, ...] = Field((), title="steps of pressure")
    cells: tuple[Cell, ...] = Field((), title="cells")
    points: tuple[Point, ...] = Field((), title="points of another instrument")
    lids: Literal["on", "off"] | None = Field(None, title="lids")
    algae: Literal["none", "seen"] | None = Field(None, title="algae")
    dried_on: Day | None = Field(None, title="dried on")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
