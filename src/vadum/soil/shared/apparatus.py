"""What a calibration of each kind of apparatus holds: the very readings that it brings into a run."""

from typing import Literal

from pydantic import Field, model_validator

from vadum.soil.contract.fields import Day, Number, RecordPart
from vadum.soil.shared.proving_ring import RingTable


class MouldCalibration(RecordPart):
    """A compaction mould, measured or filled with water."""

    mould_mass_g: Number = Field(title="mass with its base plate", gt=0)
    mould_volume_cm3: Number = Field(title="volume", gt=0)
    specimen_height_mm: Number | None = Field(None, title="specimen's height (bearing ratio)", gt=0)


class RingCalibration(RecordPart):
    """A drive ring, by callipers."""

    ring_diameter_mm: Number = Field(title="inside diameter", gt=0)
    ring_height_mm: Number = Field(title="height", gt=0)


class PycnometerCalibration(RecordPart):
    """A pycnometer, empty and full of water at a temperature."""

    mass_pycnometer_g: Number = Field(title="mass empty, clean and dry", gt=0)
    mass_full_g: Number = Field(title="mass full of water", gt=0)
    full_at_c: Number = Field(title="temperature of that water", ge=0, le=40)


class HydrometerCalibration(RecordPart):
    """A hydrometer: its kind, and its bulb and stem where it is calibrated by them."""

    hydrometer_type: Literal["151H", "152H", "calibrated, sg", "calibrated, g/L"] = Field(title="kind")
    bulb_length_cm: Number = Field(title="bulb's length", gt=0)
    bulb_volume_cm3: Number = Field(title="bulb's volume", gt=0)
    stem_zero_cm: Number = Field(title="bulb's top to the mark of pure water", gt=0)
    stem_step_cm: Number = Field(title="stem per g/L, or per 0.001", gt=0)
    meniscus_g_l: Number | None = Field(None, title="meniscus correction, g/L", ge=0, le=5)
    meniscus_sg: Number | None = Field(None, title="or in specific gravity", ge=0, le=0.005)


class SieveInspection(RecordPart):
    """A sieve, looked at against the light."""

    sieve_diameter_mm: Number = Field(title="diameter", gt=0)
    sieve_state: Literal["sound", "broken", "blinded"] = Field(title="state of its mesh")


class ProvingRingCalibration(RecordPart):
    """A proving ring against a standard: one factor, or the points of its table; never read beyond its range."""

    ring_factor_n_div: Number | None = Field(None, title="factor (leave empty with a table)", gt=0)
    ring_table: RingTable | None = Field(
        None, title="or its table: divisions and kN, a pair to a line", max_length=4000
    )
    ring_most_div: Number | None = Field(None, title="calibrated up to", gt=0)

    @model_validator(mode="after")
    def _one_of_them(self) -> "ProvingRingCalibration":
        if (self.ring_factor_n_div is None) == (self.ring_table is None):
            raise ValueError("give the factor or the table, one of them")
        if self.ring_factor_n_div is not None and self.ring_most_div is None:
            raise ValueError("a factor holds up to a highest reading: give it")
        return self


class GaugeCalibration(RecordPart):
    """A dial gauge on its block."""

    gauge_division_mm: Number = Field(title="one division", gt=0)
    gauge_travel_mm: Number = Field(title="travel", gt=0)


class PlungerCalibration(RecordPart):
    """A plunger, by callipers."""

    plunger_diameter_mm: Number = Field(title="diameter", gt=0)


class SurchargeCalibration(RecordPart):
    """A set of discs, weighed."""

    surcharge_kg: Number = Field(title="mass together", gt=0)


class VaneCalibration(RecordPart):
    """A vane with its rod and gauge: the blades by callipers, the torque it reads up to."""

    vane_diameter_mm: Number = Field(title="diameter", gt=0)
    vane_height_mm: Number = Field(title="height", gt=0)
    area_ratio_percent: Number | None = Field(None, title="area ratio of its blades", gt=0)
    torque_most_n_m: Number | None = Field(None, title="torque calibrated up to", gt=0)


class LoadCellCalibration(RecordPart):
    """A load cell against a standard."""

    load_cell_most_n: Number = Field(title="calibrated up to", gt=0)


class ShearBoxCalibration(RecordPart):
    """A shear box with its cap and lever, measured and weighed."""

    box_shape: Literal["square", "round"] = Field(title="box")
    box_width_mm: Number = Field(title="side or diameter", gt=0)
    box_height_mm: Number | None = Field(None, title="height of a full specimen", gt=0)
    cap_kg: Number | None = Field(None, title="cap, ball and yoke", ge=0)
    lever_ratio: Number | None = Field(None, title="lever ratio", gt=0)
    lever_balanced: Literal["yes", "no"] | None = Field(None, title="lever balanced")


class TriaxialCellCalibration(RecordPart):
    """A triaxial cell: what it is rated to, and its piston."""

    cell_rating_kpa: Number = Field(title="rated to", gt=0)
    piston_area_mm2: Number | None = Field(None, title="piston's area", gt=0)


class PlateCalibration(RecordPart):
    """A loading plate, measured."""

    plate_shape: Literal["round", "square"] = Field(title="round or square")
    plate_width_mm: Number = Field(title="diameter or side", gt=0)
    plate_thickness_mm: Number | None = Field(None, title="thickness", gt=0)


class JackCalibration(RecordPart):
    """A hydraulic jack with its pump and gauge, against a standard."""

    piston_cm2: Number = Field(title="area of its piston", gt=0)
    jack_most_bar: Number = Field(title="calibrated up to", gt=0)


class InfiltrometerCalibration(RecordPart):
    """A cylinder that is driven into the ground and drains, by callipers."""

    cylinder_radius_mm: Number = Field(title="inside radius", gt=0)
    guard_ml: Number | None = Field(None, title="volume of its splash guard", ge=0)


class ReservoirCalibration(RecordPart):
    """The reservoir of a well: its areas, filled and measured, and what its scale reads to."""

    both_area_cm2: Number = Field(title="area of both reservoirs together", gt=0)
    inner_area_cm2: Number | None = Field(None, title="area of the inner one", gt=0)
    level_reads_to_mm: Number | None = Field(None, title="its scale reads to", gt=0)


class RingsCalibration(RecordPart):
    """A pair of infiltration rings, by tape."""

    inner_diameter_mm: Number = Field(title="inner ring, inside", gt=0)
    inner_outside_diameter_mm: Number = Field(title="inner ring, outside", gt=0)
    outer_diameter_mm: Number = Field(title="outer ring, inside", gt=0)


class PressureCellCalibration(RecordPart):
    """A pressure cell with its plate: what the plate bears, and where the outlet's water stands."""

    plate_entry_kpa: Number = Field(title="air entry of its plate", gt=0)
    outlet_below_mm: Number | None = Field(None, title="outlet's water below the plate's face", ge=-1000)


class PhMeterCalibration(RecordPart):
    """A pH meter, set to its buffers."""

    ph_slope_percent: Number = Field(title="slope found", gt=0, le=130)


class BufferBottle(RecordPart):
    """A bottle of buffer: it takes up carbon dioxide from the day it is opened."""

    buffer_ph: Number = Field(title="its value at 25 °C", ge=1, le=14)
    buffer_opened_on: Day = Field(title="opened on")


class LimeBag(RecordPart):
    """A bag of lime, as its certificate has it; it carbonates from the day it is opened."""

    lime_kind: Literal["hydrated lime", "quicklime, crushed"] = Field(title="hydrated lime or quicklime")
    lime_opened_on: Day = Field(title="opened on")
    available_cao_percent: Number | None = Field(None, title="available CaO", gt=0, le=100)
    label_cao_percent: Number | None = Field(None, title="CaO by its label", gt=0, le=100)


class MoistureProbeCalibration(RecordPart):
    """A moisture probe against rings that were dried."""

    probe_error_percent: Number = Field(title="standard error, % of the volume", gt=0, le=30)


class InstrumentSetup(RecordPart):
    """Where an instrument is heard, and how its lines are read."""

    address: str = Field(
        title="address: a serial port, or socket://host:port",
        max_length=300,
        pattern=r"^(socket://[A-Za-z0-9.\-\[\]:]+:\d{1,5}|/dev/[A-Za-z0-9._/\-]+|COM\d{1,3}|simulated://(frame|press|shear|cell|torque|balance|level|plate|levels|reservoir|manifold|ph)(\?[a-z0-9_=&.,\-]*)?)$",
    )
    profile: str = Field(title="parsing profile", max_length=40, pattern=r"^[a-z][a-z0-9_]*$")


CALIBRATIONS: dict[str, type[RecordPart]] = {
    "mould": MouldCalibration,
    "ring": RingCalibration,
    "pycnometer": PycnometerCalibration,
    "hydrometer": HydrometerCalibration,
    "sieve": SieveInspection,
    "proving_ring": ProvingRingCalibration,
    "gauge": GaugeCalibration,
    "plunger": PlungerCalibration,
    "surcharge": SurchargeCalibration,
    "vane": VaneCalibration,
    "load_cell": LoadCellCalibration,
    "shear_box": ShearBoxCalibration,
    "triaxial_cell": TriaxialCellCalibration,
    "plate": PlateCalibration,
    "jack": JackCalibration,
    "infiltrometer": InfiltrometerCalibration,
    "reservoir": ReservoirCalibration,
    "rings": RingsCalibration,
    "pressure_cell": PressureCellCalibration,
    "ph_meter": PhMeterCalibration,
    "buffer": BufferBottle,
    "lime": LimeBag,
    "moisture_probe": MoistureProbeCalibration,
    "instrument": InstrumentSetup,
}


def passes(kind: str, seen: RecordPart) -> bool:
    """Whether a piece may be used after what was seen of it."""
    return kind != "sieve" or getattr(seen, "sieve_state", "sound") == "sound"
