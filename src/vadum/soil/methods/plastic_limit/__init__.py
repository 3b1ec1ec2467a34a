"""Plastic limit and the indices."""

from vadum.soil.contract.method import Derived, FromTest, Method
from vadum.soil.methods.plastic_limit.facts import facts
from vadum.soil.methods.plastic_limit.flow import FLOW
from vadum.soil.methods.plastic_limit.record import Record
from vadum.soil.methods.plastic_limit.reduce import reduce
from vadum.soil.methods.plastic_limit.rules import RULES
from vadum.soil.methods.plastic_limit.school import SCHOOLS
from vadum.soil.methods.plastic_limit.virtual import MISTAKES, virtual
from vadum.soil.shared.water_by_tin import TIN_SYNONYMS

METHOD = Method(
    name="plastic_limit",
    code="PL",
    title="Plastic limit",
    version="1",
    standards=("ASTM D4318", "AASHTO T 90", "ISO 17892-12", "BS 1377-2"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    facts=facts,
    rules=RULES,
    leads=("plastic_limit_percent", "plasticity_index_percent"),
    flow=FLOW,
    virtual=virtual,
    mistakes=MISTAKES,
    uncertainties_hold=(
        "the scatter of the threads, and not less than what two determinations of one hand differ by; an index holds "
        "both limits'"
    ),
    least_soil_g=60,
    limits_of_use=(
        "The limit of the remoulded soil finer than 0.425 mm, and it depends on the hand that rolls. Indices mix two "
        "tests and carry both their errors."
    ),
    takes={
        "liquid_limit_percent": FromTest("liquid_limit", "liquid_limit_percent"),
        "finer_than_425um_percent": FromTest("sieve", "finer_than_425um_percent"),
        "natural_water_content_percent": FromTest("water_content", "water_content_percent"),
        "finer_than_2um_percent": FromTest("hydrometer", "finer_than_2um_percent"),
    },
    derived={"determinations": Derived("determinations", "determination", 1, (("w_percent", "w, %", 4),))},
    columns={"determinations": ("tin", "mass_tin_g", "mass_wet_g", "mass_dry_g", "excluded_because")},
    rows={"determinations": "tin"},
    synonyms=TIN_SYNONYMS,
)
