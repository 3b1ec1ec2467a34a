"""Direct shear: the strength of a soil on a forced plane, under three normal loads or more."""

from vadum.soil.contract.method import Derived, FromTest, Method
from vadum.soil.methods.direct_shear.board import board
from vadum.soil.methods.direct_shear.facts import facts
from vadum.soil.methods.direct_shear.flow import FINISH, FLOW, targets
from vadum.soil.methods.direct_shear.record import Record
from vadum.soil.methods.direct_shear.reduce import reduce
from vadum.soil.methods.direct_shear.rules import RULES
from vadum.soil.methods.direct_shear.school import SCHOOLS
from vadum.soil.methods.direct_shear.virtual import MISTAKES, PRACTICE, virtual

METHOD = Method(
    name="direct_shear",
    code="DS",
    title="Direct shear",
    version="1",
    standards=("ASTM D3080", "ISO 17892-10", "BS 1377-7"),
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
    uncertainties_hold="the scatter of the stages about their line; not what each gauge errs by",
    least_soil_g=600,
    limits_of_use=(
        "Strength on a plane that the box chose, by stresses that are means over it; drainage is told by time alone. "
        "It holds between the least and the greatest normal stress that were tested."
    ),
    leads=("phi_peak_degrees", "c_peak_kpa", "phi_tail_degrees"),
    called=lambda facts, school: tuple(c for c in (facts.settling, facts.shearing) if c is not None),
    board=board,
    targets=targets,
    alternatives=((("stages[].mass_g",), ("stages[].mass_before_g", "stages[].mass_left_g")),),
    columns={
        "stages": (
            "hanger_kg",
            "height_mm",
            "mass_g",
            "gap_mm",
            "rate_mm_min",
            "friction_n",
            "excluded_because",
        ),
        "stages[].settlement": ("elapsed_min", "settlement_mm", "read_at", "excluded_because"),
        "stages[].shear": ("travel_mm", "force_n", "ring_div", "vertical_mm", "elapsed_s", "noted", "excluded_because"),
        "stages[].reversals": ("force_n", "travel_mm", "vertical_mm"),
    },
    derived={
        "stages": Derived(
            "stages",
            "stage",
            1,
            (
                ("sigma", "σ, kPa", 4),
                ("tau", "τ peak, kPa", 4),
                ("travel", "at, mm", 3),
                ("tail", "τ tail, kPa", 4),
                ("secant", "φ′ alone, °", 3),
                ("psi", "ψ, °", 2),
            ),
        )
    },
    rows={
        "stages": "stage",
        "stages[].settlement": "settlement",
        "stages[].shear": "reading",
        "stages[].reversals": "traverse",
    },
    blocks=("stages[].shear", "stages[].settlement"),
    takes={
        "particle_density_mg_m3": FromTest(
            "specific_gravity", "particle_density_mg_m3", {"particle_density_from": "measured"}
        ),
        "water_before_percent": FromTest("water_content", "water_content_percent"),
    },
    synonyms={
        "travel_mm": ("travel", "horizontal", "displacement", "dh"),
        "vertical_mm": ("vertical", "dv"),
        "force_n": ("force", "shear", "load"),
        "elapsed_s": ("time", "elapsed", "seconds", "s"),
        "elapsed_min": ("time", "elapsed", "min"),
        "settlement_mm": ("settlement", "consolidation", "vertical"),
        "ring_div": ("ring", "dial", "divisions"),
    },
)
