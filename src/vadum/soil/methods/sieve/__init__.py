"""Sieve analysis, and the separation at 2 mm."""

from vadum.soil.contract.method import Derived, Method
from vadum.soil.methods.sieve.facts import facts
from vadum.soil.methods.sieve.flow import FINISH, FLOW
from vadum.soil.methods.sieve.record import Record
from vadum.soil.methods.sieve.reduce import reduce
from vadum.soil.methods.sieve.rules import RULES
from vadum.soil.methods.sieve.school import SCHOOLS, nest
from vadum.soil.methods.sieve.virtual import MISTAKES, virtual

METHOD = Method(
    name="sieve",
    code="SV",
    title="Sieve analysis",
    version="1",
    standards=("ASTM D6913", "ASTM C136", "ASTM D1140", "ISO 17892-4", "BS 1377-2", "AASHTO T 27", "AASHTO T 88"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    leads=("fines_percent", "sand_percent", "gravel_percent", "coarse_percent"),
    facts=facts,
    rules=RULES,
    finish=FINISH,
    flow=FLOW,
    virtual=virtual,
    mistakes=MISTAKES,
    uncertainties_hold="what was lost or gained in sieving, as if it were of any size",
    least_soil_g=100,
    limits_of_use=(
        "Sizes by square openings, of grains that were loosened and washed. Nothing is said below the finest sieve, "
        "and little of a sample too small for its largest grains."
    ),
    derived={"sieves": Derived("stack", "row", 0, (("passing_percent", "finer, %", 4),), orders=True)},
    columns={
        "sieves": ("sieve", "aperture_mm", "mass_retained_g", "sieve_state"),
        "envelope": ("aperture_mm", "least_percent", "most_percent"),
    },
    begins_with=nest,
    rows={"sieves": "sieve", "envelope": "line"},
    row_named_by={"sieves": "aperture_mm", "envelope": "aperture_mm"},
    synonyms={
        "aperture_mm": ("sieve", "size", "opening", "mesh", "aperture", "mm"),
        "mass_retained_g": ("retained", "mass", "weight", "g"),
        "least_percent": ("lower", "min", "least", "from"),
        "most_percent": ("upper", "max", "most", "to"),
    },
    last_rows={"sieves": ("mass_pan_g", ("pan", "receiver", "bottom", "0", "<"))},
)
