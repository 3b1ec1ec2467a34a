"""Specific gravity of solids."""

from vadum.soil.contract.method import Derived, Method
from vadum.soil.methods.specific_gravity.facts import facts
from vadum.soil.methods.specific_gravity.flow import FLOW
from vadum.soil.methods.specific_gravity.record import Record
from vadum.soil.methods.specific_gravity.reduce import reduce
from vadum.soil.methods.specific_gravity.rules import RULES
from vadum.soil.methods.specific_gravity.school import SCHOOLS
from vadum.soil.methods.specific_gravity.virtual import MISTAKES, virtual

METHOD = Method(
    name="specific_gravity",
    code="GS",
    title="Specific gravity",
    version="1",
    standards=("ASTM D854", "ASTM D5550", "ISO 17892-3", "AASHTO T 100"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    leads=("specific_gravity_ratio",),
    facts=facts,
    rules=RULES,
    flow=FLOW,
    finish="The pycnometers agree.",
    virtual=virtual,
    mistakes=MISTAKES,
    uncertainties_hold="the scatter of the determinations with one pycnometer's own",
    least_soil_g=120,
    limits_of_use=(
        "The mean of the solids finer than the sieve they came through, at 20 °C. Soluble salts, gypsum and organic "
        "matter make it uncertain; it says nothing of the coarse part."
    ),
    derived={"determinations": Derived("determinations", "determination", 1, (("gravity", "Gs", 4),))},
    columns={
        "determinations": (
            "pycnometer",
            "mass_pycnometer_g",
            "mass_full_g",
            "full_at_c",
            "mass_with_soil_g",
            "temperature_c",
            "mass_dry_soil_g",
            "cell_cm3",
            "expansion_cm3",
            "gas_first_kpa",
            "gas_second_kpa",
            "excluded_because",
        )
    },
    rows={"determinations": "pycnometer"},
)
