"""Bearing ratio in place."""

from vadum.soil.contract.method import Method, Taken
from vadum.soil.methods.field_cbr.advise import advise
from vadum.soil.methods.field_cbr.record import Record
from vadum.soil.methods.field_cbr.reduce import reduce
from vadum.soil.methods.field_cbr.schools import SCHOOLS
from vadum.soil.methods.field_cbr.steps import STEPS
from vadum.soil.methods.field_cbr.virtual import MISTAKES, under, virtual

METHOD = Method(
    name="field_cbr",
    code="FB",
    title="Bearing ratio in place",
    version="1",
    standards=("BS 1377-9", "ASTM D4429"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    advise=advise,
    steps=STEPS,
    virtual=virtual,
    mistakes=MISTAKES,
    under=under,
    wound_by_hand=True,
    limits_of_use=(
        "The ground as it is on this day and at this water content; it may be far weaker after rain. "
        "It feels about a hand's breadth of soil, and no soils with stones under the plunger."
    ),
    columns={
        "readings": ("penetration_mm", "ring_div", "missed", "noted", "read_at"),
        "tins": ("tin", "mass_tin_g", "mass_wet_g", "mass_dry_g"),
    },
    takes={"dry_density_beside_mg_m3": Taken("pit_density", "dry_density_mg_m3")},
    rows={"readings": "reading", "tins": "tin"},
)
