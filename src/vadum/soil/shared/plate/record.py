"""What is measured when a plate is loaded: the plate, what loads it and what it is pressed against, its load steps."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Count, Day, Moment, Number, RecordPart, reading
from vadum.soil.shared.water_by_tin import TimedTin, WithBalance

GAUGES = ("a_mm", "b_mm", "c_mm", "d_mm")
LETTERS = "ABCD"
Cycle = Literal["preload", "first", "down", "again"]
Noted = Literal["datum knocked", "gauge moved", "reaction moved", "stone cracked"]


class GaugeReading(RecordPart):
    """One reading of the settlement gauges; down is positive."""

    a_mm: Number | None = reading("gauge A", low=-50, step="0.01")
    b_mm: Number | None = reading("gauge B", low=-50, step="0.01")
    c_mm: Number | None = reading("gauge C", low=-50, step="0.01")
    d_mm: Number | None = reading("gauge D", low=-50, step="0.01")
    elapsed_min: Number | None = reading("time since the load was on")
    read_at: Moment | None = Field(
        None, title="read at", json_schema_extra={"moment_of": list(GAUGES), "of_the_call": True}
    )
    missed: Literal["missed"] | None = Field(None, title="not read")
    noted: Noted | None = Field(None, title="noted")
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class TopUp(RecordPart):
    """The load brought back up to its step after it had fallen."""

    from_bar: Number | None = reading("pump had fallen to")
    from_kn: Number | None = reading("load had fallen to")
    topped_at: Moment | None = Field(
        None, title="topped up at", json_schema_extra={"moment_of": ["from_bar", "from_kn"]}
    )


class Step(RecordPart):
    """One load step: the load it was brought to, and the settlement while it was held."""

    cycle: Cycle | None = Field(None, title="part of the test")
    pump_bar: Number | None = reading("pump pressure")
    force_kn: Number | None = reading("load")
    loaded_at: Moment | None = Field(None, title="load on", json_schema_extra={"moment_of": ["pump_bar", "force_kn"]})
    changed_in_s: Number | None = reading("load changed in")
    readings: tuple[GaugeReading, ...] = Field((), title="readings")
    top_ups: tuple[TopUp, ...] = Field((), title="topped up")
    lowest_bar: Number | None = reading("lowest pump pressure, not topped up")
    lowest_kn: Number | None = reading("lowest load, not topped up")
    held_min: Number | None = reading("held for")
    settlement_mm: Number | None = reading("settlement at its end", low=-20)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class PlateRecord(WithBalance):
    """What every plate test says of itself before its load steps."""

    place: str | None = Field(None, title="place", max_length=120)
    layer: str | None = Field(None, title="layer", max_length=120)
    chainage_m: Number | None = reading("chainage", low=-1e6)
    ground: Literal["gravel", "sand", "silt", "clay"] | None = Field(None, title="ground, for the time it needs")
    largest_grain_mm: Number | None = reading("largest grain beneath")
    plate: str | None = Field(None, title="plate", max_length=40)
    plate_shape: Literal["round", "square"] | None = Field(None, title="plate is")
    plate_width_mm: Number | None = reading("its diameter or side", above=0)
    plate_thickness_mm: Number | None = reading("its thickness", above=0)
    jack: str | None = Field(None, title="jack", max_length=40)
    piston_cm2: Number | None = reading("area of its piston", above=0)
    jack_most_bar: Number | None = reading("jack goes up to", above=0)
    jack_due_on: Day | None = Field(None, title="jack's calibration due")
    jack_in_date: Literal["yes", "no"] | None = Field(None, title="jack in date when used")
    force_by: Literal["pump gauge", "load cell"] | None = Field(None, title="load is read by")
    load_cell: str | None = Field(None, title="load cell", max_length=40)
    load_cell_most_n: Number | None = reading("load cell reads up to", above=0)
    load_cell_due_on: Day | None = Field(None, title="load cell's calibration due")
    load_cell_in_date: Literal["yes", "no"] | None = Field(None, title="load cell in date when used")
    gauges_count: Count | None = reading("settlement gauges", low=1, high=4)
    gauge_circle_mm: Number | None = reading("circle the gauges stand on, across", above=0)
    zeroed: Literal["set to zero", "read as they stand"] | None = Field(None, title="gauges after the preload")
    reaction: str | None = Field(None, title="pressed against", max_length=80)
    reaction_kn: Number | None = reading("what it gives", above=0)
    reaction_kg: Number | None = reading("its mass", above=0)
    supports_mm: Number | None = reading("its supports, clear of the plate's edge")
    datum_legs_mm: Number | None = reading("datum's legs from the plate's middle")
    begun_because: str | None = Field(None, title="begun all the same because", max_length=400)
    tins: tuple[TimedTin, ...] = Field((), title="tins")
    dry_density_beside_mg_m3: Number | None = reading("dry density beside", low=0.5, high=3.5)
    compaction_beside_percent: Number | None = reading("degree of compaction beside", above=0, high=130)
    remarks: str | None = Field(None, title="remarks", max_length=2000)
