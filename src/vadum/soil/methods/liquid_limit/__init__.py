"""Liquid limit by cup or cone."""

from vadum.soil.contract.method import Derived, Method, Practice
from vadum.soil.methods.liquid_limit.facts import facts
from vadum.soil.methods.liquid_limit.flow import FLOW, unused
from vadum.soil.methods.liquid_limit.record import Record
from vadum.soil.methods.liquid_limit.reduce import reduce
from vadum.soil.methods.liquid_limit.rules import RULES
from vadum.soil.methods.liquid_limit.school import SCHOOLS
from vadum.soil.methods.liquid_limit.virtual import MISTAKES, answers, virtual
from vadum.soil.shared.water_by_tin import TIN_SYNONYMS

METHOD = Method(
    name="liquid_limit",
    code="LL",
    title="Liquid limit",
    version="1",
    standards=("ASTM D4318", "AASHTO T 89", "ISO 17892-12", "BS 1377-2"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    leads=("liquid_limit_percent",),
    facts=facts,
    rules=RULES,
    flow=FLOW,
    unused=unused,
    virtual=virtual,
    mistakes=MISTAKES,
    practice=Practice(answers=answers, decides=("water_added_ml",)),
    uncertainties_hold=(
        "the scatter of the points about the line, and not less than what two determinations of one hand differ by"
    ),
    least_soil_g=250,
    limits_of_use=(
        "The limit of the remoulded soil finer than 0.425 mm. It says nothing of the structure, the coarse part or the "
        "strength of the ground. Methods and schools differ by a few points: compare like with like."
    ),
    derived={"trials": Derived("points", "trial", 1, (("w_percent", "w, %", 4),))},
    columns={
        "trials": (
            "water_added_ml",
            "blows",
            "verification_blows",
            "penetration_mm",
            "tin",
            "mass_tin_g",
            "mass_wet_g",
            "mass_dry_g",
            "excluded_because",
        )
    },
    rows={"trials": "trial"},
    synonyms=TIN_SYNONYMS,
)
