"""What is measured for a compaction curve: the mould, the soil's portions, and a mass and a tin per point."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number
from vadum.soil.shared.water_by_tin import TinRow, WithBalance


class Point(TinRow):
    """One compacted mould and the tin from its middle."""

    water_added_ml: Number | None = Field(None, title="water added (dried out: minus)")
    mass_with_soil_g: Number | None = Field(None, title="mould + wet soil")
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(WithBalance):
    """A compaction curve."""

    mould: str | None = Field(None, title="mould", max_length=20)
    mould_mass_g: Number | None = Field(None, title="empty mould")
    mould_volume_cm3: Number | None = Field(None, title="mould's volume")
    mass_portion_g: Number | None = Field(None, title="soil of one portion, air-dry")
    portion_water_percent: Number | None = Field(None, title="its water content")
    specific_gravity_ratio: Number | None = Field(None, title="specific gravity of solids")
    specific_gravity_from: Literal["measured", "assumed"] | None = Field(None, title="specific gravity is")
    oversize_percent: Number | None = Field(None, title="stones left out, share of dry mass")
    oversize_gravity_ratio: Number | None = Field(None, title="stones' specific gravity")
    oversize_water_percent: Number | None = Field(None, title="stones' water content")
    points: tuple[Point, ...] = Field((), title="points")
    in_oven_at: Moment | None = Field(None, title="tins into the oven")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
