"""What is measured for a bearing capacity by plate: pit, ground water, footing, load steps, the analyst's pick."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Number, reading
from vadum.soil.shared.plate.record import PlateRecord, Step

FOOTING = ("footing_ultimate_kpa", "allowable_shear_kpa", "allowable_settlement_kpa", "allowable_kpa")
ULTIMATE = ("ultimate_kpa", *FOOTING, "undrained_strength_kpa")
Rule = Literal["two lines", "log-log break", "share of width", "by hand"]


class BearingStep(Step):
    """A load step of a bearing test: what it was meant to be."""

    wanted_kpa: Number | None = reading("stress wanted")


class Record(PlateRecord):
    """A plate on the ground of a foundation, loaded to its ultimate or to several times the design pressure."""

    depth_m: Number | None = reading("depth of the plate")
    pit_width_m: Number | None = reading("width of the pit", above=0)
    behaves_as: Literal["clay", "sand"] | None = Field(None, title="ground behaves as")
    expected_ultimate_kpa: Number | None = reading("ultimate expected", above=0)
    design_kpa: Number | None = reading("design pressure", above=0)
    planned_kpa: Number | None = reading("load as far as", above=0)
    footing_width_m: Number | None = reading("width of the footing", above=0, affects=FOOTING)
    footing_length_m: Number | None = reading("length of the footing", above=0)
    footing_because: str | None = Field(None, title="footing as wide as the pit because", max_length=400)
    permissible_mm: Number | None = reading("settlement the footing may take", above=0, affects=FOOTING)
    safety_ratio: Number | None = reading("factor of safety", above=1, affects=FOOTING)
    layer_below_m: Number | None = reading("this layer reaches below the footing to")
    water_depth_m: Number | None = reading("ground water below the plate", low=-50)
    water_done: Literal["pumped down", "flooded", "nothing"] | None = Field(None, title="ground water was")
    water_factor_ratio: Number | None = reading("job: factor for ground water", above=0)
    datum_before_c: Number | None = reading("datum's temperature before", low=-40, high=70)
    datum_after_c: Number | None = reading("datum's temperature after", low=-40, high=70)
    eccentric: Literal["no", "yes"] | None = Field(None, title="load eccentric")
    steps: tuple[BearingStep, ...] = Field((), title="load steps")
    stopped: Literal[
        "ultimate reached", "settlement reached", "at the planned load", "reaction moved", "called off"
    ] | (None) = Field(None, title="ended by")
    ultimate_by: Rule | None = Field(None, title="ultimate by")
    ultimate_hand_kpa: Number | None = reading("ultimate, by hand", above=0, affects=ULTIMATE)
    ultimate_because: str | None = Field(None, title="ultimate by hand because", max_length=400)
    second_plate_mm: Number | None = reading("second plate: diameter or side", above=0)
    second_plate_kpa: Number | None = reading("second plate: stress at the same settlement", above=0)
    compared_at_mm: Number | None = reading("both plates compared at", above=0)
