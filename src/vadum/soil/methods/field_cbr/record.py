"""What is measured for a bearing ratio in place: the reaction, the seating, the called readings, the stripping."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Number, reading
from vadum.soil.shared.bearing.record import BearingRecord, CalledRow, End, Stopped
from vadum.soil.shared.water_by_tin import TimedTin

PLAN = ("lifts_at_percent", "reaction_wanted_kn")


class Record(BearingRecord):
    """A bearing ratio in place."""

    wanted_mm: Number | None = Field(None, title="push as far as")
    vehicle: str | None = Field(None, title="vehicle", max_length=60)
    axle_kn: Number | None = reading("load on its rear axle", above=0, affects=PLAN)
    depth_m: Number | None = Field(None, title="depth of the tested surface")
    springs: Literal["raised clear", "still bear"] | None = Field(None, title="suspension")
    stands: Literal["bear", "not yet"] | None = Field(None, title="axle stands")
    datum_legs_mm: Number | None = Field(None, title="datum legs from the plunger")
    seating_n: Number | None = Field(None, title="seating load")
    seated_div: Number | None = Field(None, title="ring once seated")
    vehicle_zero_mm: Number | None = Field(None, title="gauge on the vehicle at zero")
    readings: tuple[CalledRow, ...] = Field((), title="readings")
    stopped: Stopped | None = Field(None, title="stopped by")
    zero_mm: Number | None = Field(None, title="zero drawn by the analyst")
    zero_because: str | None = Field(None, title="zero drawn because", max_length=400)
    ring_after_div: Number | None = Field(None, title="ring once unloaded")
    dry_density_beside_mg_m3: Number | None = Field(None, title="dry density beside")
    tins: tuple[TimedTin, ...] = Field((), title="tins")

    def ends(self) -> tuple[End, ...]:
        """The one push."""
        return (
            End(
                "spot",
                "spot",
                self.readings,
                "readings",
                "",
                self.seated_div,
                self.seating_n,
                self.zero_mm,
                self.zero_because,
                self.force_field,
                self.stopped,
            ),
        )
