"""The order of work for a profile of vane tests."""

from vadum.soil.contract.called import Called
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.task import Calls, Task
from vadum.soil.methods.field_vane.facts import Facts, finished
from vadum.soil.methods.field_vane.record import Depth
from vadum.soil.methods.field_vane.school import VaneSchool
from vadum.soil.shared.specimen import SPECIMEN

SET = (
    "vane",
    "vane_diameter_mm",
    "vane_height_mm",
    "taper_top_degrees",
    "taper_bottom_degrees",
    "area_ratio_percent",
    "blade_mm",
    "divisor_n_m_kpa",
    "torque_most_n_m",
    "vane_due_on",
    "vane_in_date",
)


def _gauge(f: Facts, s: VaneSchool) -> tuple[str, ...]:
    factor = {"spring balance": ("lever_m",), "dial": ("dial_factor_n_m_div",)}.get(f.record.read_by or "", ())
    return ("read_by", "coupling", *factor)


def _set_known(f: Facts, s: VaneSchool) -> bool:
    r = f.record
    factor = {"spring balance": r.lever_m, "dial": r.dial_factor_n_m_div}.get(r.read_by or "", 1.0)
    return f.divisor is not None and r.read_by is not None and r.coupling is not None and factor is not None


def _called(f: Facts, s: VaneSchool) -> Called:
    return f.called


def _ended(f: Facts, s: VaneSchool) -> bool:
    open_ = any(not finished(row, f.record) for row in f.record.depths)
    return f.over and not open_


def _note(f: Facts, s: VaneSchool) -> str:
    done = sum(finished(row, f.record) for row in f.record.depths)
    many = len(f.called.at)
    return f"{done} of {many} depths" if f.record.first_m is not None else f"{done} depths" if done else ""


FLOW: Flow = (
    Task(
        key="site",
        title="The spot",
        does="Buried services located first; ground and water level, the hole, pushed or pre-bored.",
        fields=("services_located", "ground_level_m", "water_depth_m", "hole_diameter_mm", "placed"),
        needs=("services_located", "placed"),
        also=("water_depth_m", "hole_diameter_mm"),
        asks="Buried services located? Pushed from the ground, or below a hole?",
        how="Nothing is pushed before they are found. Water level below the ground, if it is known.",
        label="spot",
        cautions=(
            "Buried services located first; site rules and local codes come before anything here.",
            "Hammer with a soft head: splinters, eye protection. The lifting pin is out while it drives.",
            "Pulling the rod: straight back, two people, or a jack.",
        ),
        hands_s=300,
        note=lambda f, s: f.record.placed or "",
    ),
    Task(
        key="set",
        title="Vane and gauge",
        does="Its number brings sizes, divisor and range; a larger vane for soft clay.",
        fields=(*SET, "read_by", "lever_m", "dial_factor_n_m_div", "coupling"),
        needs=_gauge,
        also=("vane", "vane_diameter_mm", "vane_height_mm"),
        is_done=_set_known,
        asks="Which vane, and what reads its torque?",
        how="Its number brings its sizes. A slip coupling or a blank rod tells the rod's friction.",
        label="vane",
        hands_s=180,
        holds=("vane",),
        note=lambda f, s: (
            f"{f.record.vane_diameter_mm:g} × {f.record.vane_height_mm:g} mm"
            if f.record.vane_diameter_mm is not None and f.record.vane_height_mm is not None
            else ""
        ),
    ),
    Task(
        key="depths",
        title="Depths",
        does="First, step and last depth, counted to the vane's middle or its tip as the school says.",
        fields=("first_m", "step_m", "last_m"),
        needs=("first_m", "step_m", "last_m"),
        is_done=lambda f, s: f.record.last_m is not None or bool(f.record.depths),
        asks="At which depths? First, step and last.",
        how=lambda f, s: f"Counted to the vane's {s.depth_to}. At least {plain(s.least_spacing_m)} m apart.",
        label="depths",
        hands_s=30,
        note=lambda f, s: f"{len(f.called.at)} planned" if f.record.last_m is not None else "",
    ),
    Calls(
        key="test",
        title="Push, turn, turn again",
        does="Push; turn slowly to the greatest; full turns without pushing; turn slowly again; next depth.",
        fields=(*(f"depths[].{name}" for name in Depth.model_fields), "ended"),
        of=_called,
        is_done=_ended,
        cautions=("The rod turns under load: feet firm, hands where it cannot trap them.",),
        hands_s=900,
        holds=("vane",),
        skill="experienced",
        alone=False,
        note=_note,
    ),
    Task(
        key="ground",
        title="The ground beside",
        does="Unit weights for the effective stress; plasticity for a design value.",
        fields=(
            "unit_weight_kn_m3",
            "layers[].from_m",
            "layers[].unit_weight_kn_m3",
            "plasticity_index_percent",
            "liquid_limit_percent",
            "plastic_limit_percent",
            "remarks",
        ),
        needs=("unit_weight_kn_m3",),
        also=("plasticity_index_percent", "liquid_limit_percent", "plastic_limit_percent"),
        is_done=lambda f, s: f.record.unit_weight_kn_m3 is not None or bool(f.record.layers),
        optional=True,
        asks="The profile stands. The stress in the ground waits for its unit weight.",
        how="The sheet can be signed without; with the plasticity a design value stands beside.",
        hands_s=60,
    ),
    SPECIMEN,
)

FINISH = "Every depth is tested."
