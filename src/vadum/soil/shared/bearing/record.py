"""What both bearing ratios read: the ring, the gauge, the plunger, the discs, and the called readings."""

from typing import Literal, NamedTuple

from pydantic import Field

from vadum.soil.contract.fields import Day, Moment, Number, RecordPart, known, reading
from vadum.soil.shared.proving_ring import Ring, RingTable, table_of
from vadum.soil.shared.water_by_tin import WithBalance

Stopped = Literal["ring at its limit", "reaction lifted", "stone under the plunger", "gauge at its end", "called off"]
Noted = Literal["datum jumped", "gauge stuck", "line lost"]


# The fields that naming ring, gauge and plunger fills; a step of both methods.
APPARATUS = (
    "force_by",
    "proving_ring",
    "ring_factor_n_div",
    "ring_table",
    "ring_most_div",
    "proving_ring_due_on",
    "proving_ring_in_date",
    "gauge",
    "gauge_division_mm",
    "gauge_travel_mm",
    "gauge_due_on",
    "gauge_in_date",
    "plunger",
    "plunger_diameter_mm",
)


# The values that a reading of a push touches.
RATIOS = (
    "governs",  # which ratio governs, and why: it falls with the ratios that it names
    "bearing_ratio_percent",
    *(f"{e}_{k}_percent" for e in ("top", "bottom") for k in ("first", "second")),
    "first_percent",
    "second_percent",
    "top_percent",
    "bottom_percent",
    "zero_correction_mm",
    "top_zero_correction_mm",
    "bottom_zero_correction_mm",
)


class CalledRow(RecordPart):
    """One called reading: row 1 belongs to the first called penetration, and so on."""

    ring_div: Number | None = reading("ring", low=-1.0, affects=RATIOS)
    force_kn: Number | None = reading("force, by a load cell", affects=RATIOS)
    penetration_mm: Number | None = reading("read at, where not as called", affects=RATIOS)
    missed: Literal["missed"] | None = Field(None, title="not read")
    noted: Noted | None = Field(None, title="noted")
    vehicle_mm: Number | None = Field(None, title="gauge on the vehicle")
    elapsed_s: Number | None = Field(None, title="time by the instrument")
    read_at: Moment | None = Field(
        None, title="read at", json_schema_extra={"moment_of": ["ring_div", "force_kn", "missed"], "of_the_call": True}
    )


class End(NamedTuple):
    """One push of the plunger: its readings, its seating, and the zero that the analyst drew."""

    key: str
    words: str
    rows: tuple[CalledRow, ...]
    rows_path: str
    prefix: str
    seated_div: float | None
    seating_n: float | None
    zero_mm: float | None
    zero_because: str | None
    force_field: Literal["ring_div", "force_kn"]
    stopped: Stopped | None


class BearingRecord(WithBalance):
    """The apparatus of a bearing ratio, and what was expected."""

    force_by: Literal["ring", "load cell"] | None = Field(None, title="force is read by")
    proving_ring: str | None = Field(None, title="proving ring", max_length=40)
    ring_factor_n_div: Number | None = Field(None, title="ring factor")
    ring_table: RingTable | None = Field(None, title="ring table, div kN; div kN …", max_length=4000)
    ring_most_div: Number | None = Field(None, title="ring reads up to")
    proving_ring_due_on: Day | None = Field(None, title="ring's calibration due")
    proving_ring_in_date: Literal["yes", "no"] | None = Field(None, title="ring in date when used")
    gauge: str | None = Field(None, title="penetration gauge", max_length=40)
    gauge_division_mm: Number | None = Field(None, title="gauge reads to")
    gauge_travel_mm: Number | None = Field(None, title="gauge's travel")
    gauge_due_on: Day | None = Field(None, title="gauge's calibration due")
    gauge_in_date: Literal["yes", "no"] | None = Field(None, title="gauge in date when used")
    plunger: str | None = Field(None, title="plunger", max_length=40)
    plunger_diameter_mm: Number | None = Field(None, title="plunger's diameter")
    surcharge: str | None = Field(None, title="surcharge discs", max_length=40)
    surcharge_kg: Number | None = Field(None, title="mass of the discs")
    expected_percent: Number | None = Field(None, title="expected ratio")
    timed_mm_min: Number | None = Field(None, title="rate, when it was not timed here")
    repeated: Literal["yes", "no"] | None = Field(None, title="repeat of a test whose second ratio was higher")
    stone_under_mm: Number | None = Field(None, title="largest stone under the plunger")
    remarks: str | None = Field(None, title="remarks", max_length=2000)

    def ends(self) -> tuple[End, ...]:
        """The pushes of this test, in their order."""
        return ()

    @property
    def force_field(self) -> Literal["ring_div", "force_kn"]:
        """What is read at each call."""
        return "force_kn" if self.force_by == "load cell" else "ring_div"

    def forces_known(self) -> bool:
        """Whether a reading can become a force."""
        return self.force_by == "load cell" or self.ring() is not None

    def ring(self) -> Ring | None:
        """The ring's calibration as this run holds it; None while there is none."""
        if self.ring_table is not None:
            return Ring(table_of(self.ring_table), None, None)
        if known(self.ring_factor_n_div) and self.ring_factor_n_div > 0:
            return Ring((), self.ring_factor_n_div, self.ring_most_div if known(self.ring_most_div) else None)
        return None
