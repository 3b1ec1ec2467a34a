"""Compaction curve: maximum dry density and optimum water content."""

from vadum.soil.contract.method import Derived, FromTest, Method, Practice
from vadum.soil.methods.compaction.advice import effort_words
from vadum.soil.methods.compaction.facts import facts
from vadum.soil.methods.compaction.flow import FLOW
from vadum.soil.methods.compaction.record import Record
from vadum.soil.methods.compaction.reduce import reduce
from vadum.soil.methods.compaction.rules import RULES
from vadum.soil.methods.compaction.school import SCHOOLS
from vadum.soil.methods.compaction.virtual import MISTAKES, answers, virtual
from vadum.soil.shared.water_by_tin import TIN_SYNONYMS

METHOD = Method(
    name="compaction",
    code="CP",
    title="Compaction",
    version="1",
    standards=("ASTM D698", "ASTM D1557", "AASHTO T 99", "AASHTO T 180", "BS 1377-4"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    facts=facts,
    rules=RULES,
    flow=FLOW,
    board=lambda facts, school, outcome, now: {"effort": effort_words(school)},
    leads=("maximum_dry_density_mg_m3", "optimum_water_percent"),
    virtual=virtual,
    mistakes=MISTAKES,
    practice=Practice(answers=answers, decides=("water_added_ml",)),
    uncertainties_hold="the scatter of the points about the fitted curve",
    least_soil_g=14000,
    limits_of_use=(
        "The maximum of this effort in this mould. Rollers give other efforts; stones over the mould's limit are left "
        "out and corrected for. Field densities are compared at the same effort and stones."
    ),
    derived={
        "points": Derived(
            "points",
            "trial",
            1,
            (
                ("w_percent", "w, %", 4),
                ("dry_mg_m3", "dry, Mg/m³", 4),
                ("saturation_percent", "full, %", 3),
                ("energy_kj_m3", "energy, kJ/m³", 4),
            ),
        )
    },
    columns={
        "points": (
            "water_added_ml",
            "mass_with_soil_g",
            "tin",
            "mass_tin_g",
            "mass_wet_g",
            "mass_dry_g",
            "excluded_because",
        )
    },
    takes={
        "specific_gravity_ratio": FromTest(
            "specific_gravity", "specific_gravity_ratio", {"specific_gravity_from": "measured"}
        )
    },
    rows={"points": "point"},
    synonyms=TIN_SYNONYMS,
)
