"""What is measured for a bearing ratio in the mould: the specimen, its soaking, and both of its ends."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Moment, Number, RecordPart, reading
from vadum.soil.shared.bearing.record import BearingRecord, CalledRow, End, Stopped
from vadum.soil.shared.water_by_tin import TimedTin

BULK = ("density_mg_m3", "dry_density_mg_m3", "compaction_percent")


class Swell(RecordPart):
    """One reading of the swell gauge while the specimen soaks."""

    gauge_mm: Number | None = Field(None, title="swell gauge")
    read_at: Moment | None = Field(None, title="read at", json_schema_extra={"moment_of": "gauge_mm"})


class Record(BearingRecord):
    """A bearing ratio in the mould."""

    mould: str | None = Field(None, title="mould", max_length=20)
    mould_mass_g: Number | None = reading("mould + base plate, no collar", above=0, affects=BULK)
    mould_volume_cm3: Number | None = reading("specimen's volume", above=0, affects=BULK)
    specimen_height_mm: Number | None = Field(None, title="specimen's height")
    maximum_dry_density_mg_m3: Number | None = Field(None, title="maximum dry density")
    optimum_water_percent: Number | None = Field(None, title="optimum water content")
    target_percent: Number | None = Field(None, title="wanted, share of the maximum")
    oversize_percent: Number | None = Field(None, title="stones screened out, share of dry mass")
    oversize_replaced: Literal["left out", "replaced"] | None = Field(None, title="the stones were")
    mass_portion_g: Number | None = reading("soil for the mould", above=0, affects=BULK)
    portion_water_percent: Number | None = Field(None, title="its water content")
    water_added_ml: Number | None = Field(None, title="water added (dried out: minus)")
    mass_with_soil_g: Number | None = reading("mould + wet soil, struck level", above=0, affects=BULK)
    tins: tuple[TimedTin, ...] = Field((), title="tins")
    condition: Literal["soaked", "unsoaked"] | None = Field(None, title="tested")
    soak_started_at: Moment | None = Field(None, title="into the water")
    swell_zero_mm: Number | None = Field(None, title="swell gauge at the start")
    swell: tuple[Swell, ...] = Field((), title="swell readings")
    soak_ended_at: Moment | None = Field(None, title="out of the water")
    top_seating_n: Number | None = Field(None, title="seating load, top end")
    top_seated_div: Number | None = Field(None, title="ring once seated, top end")
    top: tuple[CalledRow, ...] = Field((), title="top end")
    top_stopped: Stopped | None = Field(None, title="top end stopped by")
    top_zero_mm: Number | None = Field(None, title="zero drawn by the analyst, top end")
    top_zero_because: str | None = Field(None, title="zero drawn because, top end", max_length=400)
    bottom_seating_n: Number | None = Field(None, title="seating load, bottom end")
    bottom_seated_div: Number | None = Field(None, title="ring once seated, bottom end")
    bottom: tuple[CalledRow, ...] = Field((), title="bottom end")
    bottom_stopped: Stopped | None = Field(None, title="bottom end stopped by")
    bottom_zero_mm: Number | None = Field(None, title="zero drawn by the analyst, bottom end")
    bottom_zero_because: str | None = Field(None, title="zero drawn because, bottom end", max_length=400)

    def ends(self) -> tuple[End, ...]:
        """Top first; the bottom once it is begun."""
        top = End(
            "top",
            "top end",
            self.top,
            "top",
            "top_",
            self.top_seated_div,
            self.top_seating_n,
            self.top_zero_mm,
            self.top_zero_because,
            self.force_field,
            self.top_stopped,
        )
        bottom = End(
            "bottom",
            "bottom end",
            self.bottom,
            "bottom",
            "bottom_",
            self.bottom_seated_div,
            self.bottom_seating_n,
            self.bottom_zero_mm,
            self.bottom_zero_because,
            self.force_field,
            self.bottom_stopped,
        )
        begun = self.bottom or self.bottom_seating_n is not None or self.bottom_stopped is not None
        return (top, bottom) if begun else (top,)
