"""What is measured for a plastic limit: threads in tins, and what the indices need from other tests."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number, reading
from vadum.soil.shared.water_by_tin import TinRow, WithBalance


class Determination(TinRow):
    """Threads that crumbled at 3.2 mm, gathered in one tin."""

    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(WithBalance):
    """A plastic limit and the indices."""

    determinations: tuple[Determination, ...] = Field((), title="determinations")
    rolled_by: Literal["hand", "device"] | None = Field(None, title="rolled by")
    cannot_be_rolled: Literal["yes", "no"] | None = Field(None, title="cannot be rolled at any water content")
    in_oven_at: Moment | None = Field(None, title="tins into the oven")
    liquid_limit_percent: Number | None = reading("liquid limit", high=1000)
    liquid_limit_uncertainty_percent: Number | None = reading("its standard uncertainty", high=100)
    liquid_limit_unobtainable: Literal["yes", "no"] | None = Field(None, title="liquid limit cannot be found")
    natural_water_content_percent: Number | None = reading("natural water content", high=1000)
    finer_than_425um_percent: Number | None = reading("finer than 0.425 mm", high=100)
    coarse_water_content_percent: Number | None = reading("water content of the coarse part", high=100)
    finer_than_2um_percent: Number | None = reading("finer than 2 µm", high=100)
    remarks: str | None = Field(None, title="remarks", max_length=2000)
