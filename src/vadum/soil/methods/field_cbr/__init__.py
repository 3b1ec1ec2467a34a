"""Bearing ratio in place."""

from vadum.soil.contract.method import FromTest, Method
from vadum.soil.methods.field_cbr.facts import facts
from vadum.soil.methods.field_cbr.flow import FINISH, FLOW
from vadum.soil.methods.field_cbr.record import Record
from vadum.soil.methods.field_cbr.reduce import reduce
from vadum.soil.methods.field_cbr.rules import RULES
from vadum.soil.methods.field_cbr.school import SCHOOLS
from vadum.soil.methods.field_cbr.virtual import MISTAKES, under, virtual
from vadum.soil.shared.bearing.board import board
from vadum.soil.shared.bearing.calls import called
from vadum.soil.shared.bearing.practice import practice_of
from vadum.soil.shared.water_by_tin import TIN_SYNONYMS

METHOD = Method(
    name="field_cbr",
    code="FB",
    title="Bearing ratio in place",
    version="1",
    standards=("BS 1377-9", "ASTM D4429"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    facts=facts,
    rules=RULES,
    finish=FINISH,
    flow=FLOW,
    virtual=virtual,
    mistakes=MISTAKES,
    practice=practice_of(under, by_hand=True),
    called=called,
    board=board,
    leads=("bearing_ratio_percent", "governs"),
    uncertainties_hold="the calibration of the force, its division, and the place on the curve",
    limits_of_use=(
        "The ground as it is on this day and at this water content; it may be far weaker after rain. "
        "It feels about a hand's breadth of soil, and no soils with stones under the plunger."
    ),
    columns={
        "readings": ("penetration_mm", "ring_div", "missed", "noted", "read_at"),
        "tins": ("tin", "mass_tin_g", "mass_wet_g", "mass_dry_g"),
    },
    takes={"dry_density_beside_mg_m3": FromTest("pit_density", "dry_density_mg_m3")},
    rows={"readings": "reading", "tins": "tin"},
    synonyms=TIN_SYNONYMS,
)
