"""Field vane: the undrained strength of soft clay in place, depth by depth."""

from vadum.soil.contract.method import FromTest, Method
from vadum.soil.methods.field_vane.board import board
from vadum.soil.methods.field_vane.facts import facts
from vadum.soil.methods.field_vane.flow import FINISH, FLOW
from vadum.soil.methods.field_vane.record import Record
from vadum.soil.methods.field_vane.reduce import reduce
from vadum.soil.methods.field_vane.rules import RULES
from vadum.soil.methods.field_vane.school import SCHOOLS
from vadum.soil.methods.field_vane.virtual import MISTAKES, PRACTICE, virtual

METHOD = Method(
    name="field_vane",
    code="FV",
    title="Field vane",
    version="1",
    standards=("ASTM D2573", "ISO 22476-9", "BS 1377-9"),
    Record=Record,
    schools=SCHOOLS,
    facts=facts,
    reduce=reduce,
    rules=RULES,
    flow=FLOW,
    finish=FINISH,
    virtual=virtual,
    mistakes=MISTAKES,
    practice=PRACTICE,
    slip=True,
    uncertainties_hold="the scatter of the depths that the mean is of",
    limits_of_use=(
        "The strength of soft to firm clay turned quickly on one upright cylinder. A design takes less of it, by the "
        "clay's plasticity; stones, seams, fissures and roots read as strength that is not there."
    ),
    leads=("shear_strength_kpa",),
    called=lambda facts, school: (facts.called,),
    board=board,
    columns={
        "depths": (
            "peak_n_m",
            "peak_kg",
            "peak_div",
            "peak_min",
            "friction_n_m",
            "friction_kg",
            "friction_div",
            "turns_count",
            "remoulded_n_m",
            "remoulded_kg",
            "remoulded_div",
            "noted",
            "excluded_because",
        ),
        "layers": ("from_m", "unit_weight_kn_m3"),
    },
    rows={"depths": "depth", "layers": "layer"},
    row_named_by={"depths": "depth_m"},
    takes={
        "plasticity_index_percent": FromTest("plastic_limit", "plasticity_index_percent"),
        "liquid_limit_percent": FromTest("liquid_limit", "liquid_limit_percent"),
        "plastic_limit_percent": FromTest("plastic_limit", "plastic_limit_percent"),
    },
    synonyms={
        "depth_m": ("depth", "m"),
        "peak_n_m": ("peak", "undisturbed", "torque", "nm"),
        "remoulded_n_m": ("remoulded", "residual"),
        "friction_n_m": ("friction", "rod"),
        "turns_count": ("turns", "revolutions"),
        "peak_min": ("time", "min"),
        "water_percent": ("water", "w"),
    },
)
