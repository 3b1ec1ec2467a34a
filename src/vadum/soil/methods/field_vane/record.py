"""What is measured for a field vane: the set, the ground, and at each depth two readings and the rod's friction."""

from typing import Literal

from pydantic import Field

from vadum.soil.contract.fields import Count, Day, Moment, Number, RecordPart, reading
from vadum.soil.shared.specimen import Specimen

Noted = Literal["stone", "sand", "gravel", "fissures", "roots"]
Gauge = Literal["torque wrench", "spring balance", "dial"]


class Layer(RecordPart):
    """A layer of the ground above the tests: from its top down to the next."""

    from_m: Number | None = reading("layer from")
    unit_weight_kn_m3: Number | None = reading("unit weight", above=0, high=30)


class Depth(RecordPart):
    """One depth: the greatest reading of the undisturbed clay, the reading remoulded, and the rod's friction."""

    depth_m: Number | None = reading("depth", above=0)
    hole_bottom_m: Number | None = reading("bottom of the hole")
    pushed_at: Moment | None = Field(None, title="vane at its depth")
    wait_min: Number | None = reading("waited before turning")
    peak_n_m: Number | None = reading("greatest torque", low=-1.0)
    peak_kg: Number | None = reading("greatest pull")
    peak_div: Number | None = reading("greatest reading")
    peak_min: Number | None = reading("time to the greatest", above=0)
    peak_at: Moment | None = Field(
        None, title="read", json_schema_extra={"moment_of": ["peak_n_m", "peak_kg", "peak_div"]}
    )
    friction_n_m: Number | None = reading("rod friction", low=-1.0)
    friction_kg: Number | None = reading("rod friction, pull")
    friction_div: Number | None = reading("rod friction, reading")
    turns_count: Count | None = reading("full turns")
    remoulded_n_m: Number | None = reading("torque remoulded", low=-1.0)
    remoulded_kg: Number | None = reading("pull remoulded")
    remoulded_div: Number | None = reading("reading remoulded")
    temperature_c: Number | None = Field(None, title="temperature of the gauge")
    water_percent: Number | None = reading("water content here", high=1000)
    noted: Noted | None = Field(None, title="noted")
    remark: str | None = Field(None, title="remark", max_length=400)
    excluded_because: str | None = Field(None, title="left out because", max_length=400)


class Record(Specimen):
    """A profile of field vane tests at one spot."""

    services_located: Literal["yes", "no"] | None = Field(None, title="buried services located")
    ground_level_m: Number | None = Field(None, title="ground level")
    water_depth_m: Number | None = reading("water below the ground", low=-50)
    hole_diameter_mm: Number | None = reading("hole's diameter", above=0)
    placed: Literal["pushed", "pre-bored"] | None = Field(None, title="vane is")
    vane: str | None = Field(None, title="vane set", max_length=40)
    vane_diameter_mm: Number | None = reading("vane's diameter", above=0)
    vane_height_mm: Number | None = reading("vane's height", above=0)
    taper_top_degrees: Number | None = reading("taper of its top", high=60)
    taper_bottom_degrees: Number | None = reading("taper of its bottom", high=60)
    area_ratio_percent: Number | None = reading("area ratio of its blades", above=0)
    blade_mm: Number | None = reading("blade's thickness", above=0)
    divisor_n_m_kpa: Number | None = reading("calibration divisor", above=0)
    torque_most_n_m: Number | None = reading("set reads up to", above=0)
    vane_due_on: Day | None = Field(None, title="set's calibration due")
    vane_in_date: Literal["yes", "no"] | None = Field(None, title="set in date when used")
    read_by: Gauge | None = Field(None, title="torque is read by")
    lever_m: Number | None = reading("lever between the arms", above=0)
    dial_factor_n_m_div: Number | None = reading("gauge's factor", above=0)
    coupling: Literal["slip coupling", "blank rod", "none"] | None = Field(None, title="rod friction is told by a")
    first_m: Number | None = reading("first depth", above=0)
    step_m: Number | None = reading("step between the depths", above=0)
    last_m: Number | None = reading("last depth", above=0)
    unit_weight_kn_m3: Number | None = reading("unit weight of the ground", above=0, high=30)
    layers: tuple[Layer, ...] = Field((), title="layers")
    plasticity_index_percent: Number | None = reading("plasticity index", high=500)
    liquid_limit_percent: Number | None = reading("liquid limit", high=1000)
    plastic_limit_percent: Number | None = reading("plastic limit", high=1000)
    depths: tuple[Depth, ...] = Field((), title="depths")
    ended: Literal["yes"] | None = Field(None, title="profile ended")
    remarks: str | None = Field(None, title="remarks", max_length=2000)
