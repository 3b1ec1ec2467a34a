"""Water content by drying."""

from vadum.soil.contract.method import Derived, Method
from vadum.soil.methods.water_content.facts import facts
from vadum.soil.methods.water_content.flow import FLOW, unused
from vadum.soil.methods.water_content.record import Record
from vadum.soil.methods.water_content.reduce import reduce
from vadum.soil.methods.water_content.rules import RULES
from vadum.soil.methods.water_content.school import SCHOOLS
from vadum.soil.methods.water_content.virtual import MISTAKES, virtual
from vadum.soil.shared.water_by_tin import TIN_SYNONYMS

METHOD = Method(
    name="water_content",
    code="WC",
    title="Water content",
    version="1",
    standards=("ASTM D2216", "ASTM D4643", "ASTM D4959", "AASHTO T 265", "ISO 17892-1"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    leads=("water_content_percent",),
    facts=facts,
    rules=RULES,
    flow=FLOW,
    unused=unused,
    virtual=virtual,
    mistakes=MISTAKES,
    uncertainties_hold="the last digit of the three weighings on one balance",
    least_soil_g=30,
    limits_of_use=(
        "The water content of this specimen when it was weighed. It says nothing of the ground at another place or "
        "season. Salt, gypsum and organic matter shift it."
    ),
    derived={"weighings": Derived("weighings", "weighing", 1, (("water_content_percent", "w, %", 4),))},
    columns={"weighings": ("mass_dry_g", "weighed_at", "mirror")},
    rows={"weighings": "weighing"},
    synonyms=TIN_SYNONYMS,
    spends=lambda record: any(w.mass_dry_g is not None for w in record.weighings),
)
