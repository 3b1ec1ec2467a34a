"""Water content by drying."""

from vadum.soil.contract.method import Method
from vadum.soil.methods.water_content.advise import advise
from vadum.soil.methods.water_content.record import Record
from vadum.soil.methods.water_content.reduce import reduce
from vadum.soil.methods.water_content.schools import SCHOOLS
from vadum.soil.methods.water_content.steps import STEPS
from vadum.soil.methods.water_content.virtual import MISTAKES, virtual

METHOD = Method(
    name="water_content",
    code="WC",
    title="Water content",
    version="1",
    standards=("ASTM D2216", "ASTM D4643", "ASTM D4959", "AASHTO T 265", "ISO 17892-1"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    advise=advise,
    steps=STEPS,
    virtual=virtual,
    mistakes=MISTAKES,
    limits_of_use=(
        "The water content of this specimen when it was weighed. It says nothing of the ground at another place or "
        "season. Salt, gypsum and organic matter shift it."
    ),
    columns={"weighings": ("mass_dry_g", "weighed_at", "mirror")},
    rows={"weighings": "weighing"},
)
