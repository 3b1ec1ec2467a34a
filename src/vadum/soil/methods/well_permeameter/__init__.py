"""Constant-head well: the conductivity of wetted ground around a small augered hole."""

from vadum.soil.contract.method import Method
from vadum.soil.methods.well_permeameter.board import board
from vadum.soil.methods.well_permeameter.facts import facts
from vadum.soil.methods.well_permeameter.flow import FINISH, FLOW
from vadum.soil.methods.well_permeameter.record import Record
from vadum.soil.methods.well_permeameter.reduce import reduce
from vadum.soil.methods.well_permeameter.rules import RULES
from vadum.soil.methods.well_permeameter.school import SCHOOLS
from vadum.soil.methods.well_permeameter.virtual import MISTAKES, PRACTICE, virtual

METHOD = Method(
    name="well_permeameter",
    code="WP",
    title="Constant-head well",
    version="1",
    standards=("ASTM D5126",),
    Record=Record,
    schools=SCHOOLS,
    facts=facts,
    reduce=reduce,
    rules=RULES,
    flow=FLOW,
    finish=FINISH,
    virtual=virtual,
    mistakes=MISTAKES,
    by_clock=True,
    board=board,
    practice=PRACTICE,
    slip=True,
    uncertainties_hold="the scatter of the steady rates, the depth of water, the hole's radius; not the class of soil",
    limits_of_use=(
        "The conductivity of ground that still holds air, around one hole of a few centimetres, at one depth. One "
        "class of alpha* changes a single-head figure by about two; a site wants several holes."
    ),
    leads=("kfs_mm_h", "design_mm_h", "k20_mm_h"),
    called=lambda facts, school: (facts.holding,) if facts.holding else (),
    columns={
        "heads": ("head_mm", "reservoir_used", "lifted_at", "head_after_mm", "steady", "excluded_because"),
        "heads[].readings": ("elapsed_min", "read_at", "level_mm", "temperature_c", "excluded_because"),
    },
    rows={"heads": "head", "heads[].readings": "reading"},
    blocks=("heads[].readings",),
    synonyms={
        "level_mm": ("level", "reading", "reservoir"),
        "elapsed_min": ("time", "elapsed", "min"),
        "temperature_c": ("temperature", "temp", "t"),
    },
)
