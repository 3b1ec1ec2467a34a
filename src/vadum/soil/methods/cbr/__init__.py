"""Bearing ratio of a specimen in the mould."""

from vadum.soil.contract.method import FromTest, Method
from vadum.soil.methods.cbr.facts import facts
from vadum.soil.methods.cbr.flow import FINISH, FLOW
from vadum.soil.methods.cbr.record import Record
from vadum.soil.methods.cbr.reduce import reduce
from vadum.soil.methods.cbr.rules import RULES
from vadum.soil.methods.cbr.school import SCHOOLS
from vadum.soil.methods.cbr.virtual import MISTAKES, under, virtual
from vadum.soil.shared.bearing.board import board
from vadum.soil.shared.bearing.calls import called
from vadum.soil.shared.bearing.practice import practice_of
from vadum.soil.shared.water_by_tin import TIN_SYNONYMS

CALLED = ("ring_div", "force_kn", "missed", "noted", "read_at")
METHOD = Method(
    name="cbr",
    code="CB",
    title="Bearing ratio, mould",
    version="1",
    standards=("BS 1377-4", "EN 13286-47", "ASTM D1883", "AASHTO T 193"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    facts=facts,
    rules=RULES,
    finish=FINISH,
    flow=FLOW,
    virtual=virtual,
    mistakes=MISTAKES,
    practice=practice_of(under, by_hand=False),
    called=called,
    board=board,
    leads=("bearing_ratio_percent", "governs"),
    uncertainties_hold="the calibration of the force, its division, and the place on the curve",
    least_soil_g=7000,
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
        "maximum_dry_density_mg_m3": FromTest("compaction", "maximum_dry_density_mg_m3"),
        "optimum_water_percent": FromTest("compaction", "optimum_water_percent"),
    },
    rows={"top": "reading", "bottom": "reading", "swell": "day", "tins": "tin"},
    synonyms=TIN_SYNONYMS,
)
