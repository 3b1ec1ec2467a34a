"""What is measured for a compaction curve: the mould, the soil's portions, and a mass and a tin per point."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Count, Moment, Number, reading
from vadum.soil.shared.water_by_tin import TinRow, WithBalance


class Point(TinRow):
    """One compacted mould and the tin from its middle."""

    water_added_ml: Number | None = reading("water added (dried out: minus)", low=-2000, high=20_000)
    mass_with_soil_g: Number | None = reading("mould + wet soil", above=0)
    layers_count: Count | None = reading("layers, where other than the school's", above=0)
    blows: Count | None = reading("blows a layer, where other than the school's", above=0)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(WithBalance):
    """A compaction curve."""

    mould: str | None = Field(None, title="mould", max_length=20)
    mould_mass_g: Number | None = reading("empty mould", above=0)
    mould_volume_cm3: Number | None = reading("mould's volume", above=0)
    mass_portion_g: Number | None = reading("soil of one portion, air-dry", above=0)
    portion_water_percent: Number | None = reading("its water content", high=200)
    specific_gravity_ratio: Number | None = reading("specific gravity of solids", low=1.0, high=6.0)
    specific_gravity_from: Literal["measured", "assumed"] | None = Field(None, title="specific gravity is")
    oversize_percent: Number | None = reading("stones left out, share of dry mass", high=99)
    method_letter: Literal["A", "B", "C", "D"] | None = Field(None, title="method")
    prepared: Literal["dry", "moist"] | None = Field(None, title="portions made up")
    stood_h: Number | None = reading("stood after wetting")
    rammer_by: Literal["hand", "machine"] | None = Field(None, title="rammer by")
    free_draining: Literal["yes", "no"] | None = Field(None, title="water ran from the mould's base")
    oversize_gravity_ratio: Number | None = reading("stones' specific gravity", low=1.0, high=6.0)
    oversize_water_percent: Number | None = reading("stones' water content", high=60)
    points: tuple[Point, ...] = Field((), title="points")
    in_oven_at: Moment | None = Field(None, title="tins into the oven")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
