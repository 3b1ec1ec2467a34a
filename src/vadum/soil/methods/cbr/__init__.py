"""Bearing ratio of a specimen in the mould."""

from vadum.soil.contract.method import Method, Taken
from vadum.soil.methods.cbr.advise import advise
from vadum.soil.methods.cbr.record import Record
from vadum.soil.methods.cbr.reduce import reduce
from vadum.soil.methods.cbr.schools import SCHOOLS
from vadum.soil.methods.cbr.steps import STEPS
from vadum.soil.methods.cbr.virtual import MISTAKES, under, virtual

CALLED = ("penetration_mm", "ring_div", "missed", "noted", "read_at")
METHOD = Method(
    name="cbr",
    code="CB",
    title="Bearing ratio, mould",
    version="1",
    standards=("BS 1377-4", "EN 13286-47", "ASTM D1883", "AASHTO T 193"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    advise=advise,
    steps=STEPS,
    virtual=virtual,
    mistakes=MISTAKES,
    under=under,
    limits_of_use=(
        "An index of strength against one standard material, for this density, water content and surcharge. "
        "It says little of soils with many large stones, and nothing of deeper layers."
    ),
    columns={
        "tins": ("tin", "mass_tin_g", "mass_wet_g", "mass_dry_g"),
        "swell": ("gauge_mm", "read_at"),
        "top": CALLED,
        "bottom": CALLED,
    },
    takes={
        "maximum_dry_density_mg_m3": Taken("compaction", "maximum_dry_density_mg_m3"),
        "optimum_water_percent": Taken("compaction", "optimum_water_percent"),
    },
    rows={"top": "reading", "bottom": "reading", "swell": "day", "tins": "tin"},
)
