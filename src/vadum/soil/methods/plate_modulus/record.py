"""What is measured for a strain modulus: the ground and the patch, the lever, the job's limits, the load steps."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Number, reading
from vadum.soil.shared.plate.record import PlateRecord, Step

EVS = ("ev1_mn_m2", "ev2_mn_m2", "ev_ratio", "settlement_mm", "ks_mn_m3", "ks_corrected_mn_m3", "origin_mm")


class ModulusStep(Step):
    """A load step of a strain modulus: what it was meant to be."""

    wanted_mn_m2: Number | None = reading("stress wanted")


class Record(PlateRecord):
    """A strain modulus by plate: a first loading, an unloading, and a second one below it."""

    layer_thickness_m: Number | None = reading("thickness of the layer beneath", above=0)
    soil_temperature_c: Number | None = reading("temperature of the soil", low=-40, high=60)
    frozen: Literal["yes", "no"] | None = Field(None, title="ground frozen")
    crust_removed: Literal["yes", "no"] | None = Field(None, title="crust and loose grains off")
    levelling: Literal["none", "dry sand", "gypsum paste"] | None = Field(None, title="levelled with")
    gypsum_set: Literal["yes", "no"] | None = Field(None, title="gypsum has set")
    tilt_degrees: Number | None = reading("ground tilted by", high=90)
    lever_plate_mm: Number | None = reading("lever: pivot to the plate's foot", above=0, affects=EVS)
    lever_gauge_mm: Number | None = reading("lever: pivot to the gauge", above=0, affects=EVS)
    lever_register_ratio: Number | None = reading("lever's ratio by the register", above=0)
    least_ev1_mn_m2: Number | None = reading("job: least Ev1", above=0)
    least_ev2_mn_m2: Number | None = reading("job: least Ev2", above=0)
    most_ev_ratio: Number | None = reading("job: greatest Ev2/Ev1", above=0)
    ratio_waived_from_ev1_mn_m2: Number | None = reading("job: ratio not asked from an Ev1 of", above=0)
    bending_factor_ratio: Number | None = reading("k: factor for the plate's bending", above=0)
    saturation_factor_ratio: Number | None = reading("k: factor for saturation", above=0)
    light_evd_mn_m2: Number | None = reading("light drop-weight plate beside", above=0)
    steps: tuple[ModulusStep, ...] = Field((), title="load steps")
    stopped: Literal["all steps", "settlement reached", "reaction moved", "plate tilts", "called off"] | None = Field(
        None, title="ended by"
    )
