"""Falling-head cylinders: the field-saturated conductivity of a surface from how fast clear cylinders drain."""

from vadum.soil.contract.method import Method
from vadum.soil.methods.falling_head.board import board
from vadum.soil.methods.falling_head.facts import facts
from vadum.soil.methods.falling_head.flow import FINISH, FLOW
from vadum.soil.methods.falling_head.record import Record
from vadum.soil.methods.falling_head.reduce import reduce
from vadum.soil.methods.falling_head.rules import RULES
from vadum.soil.methods.falling_head.school import SCHOOLS
from vadum.soil.methods.falling_head.virtual import MISTAKES, PRACTICE, virtual

METHOD = Method(
    name="falling_head",
    code="MP",
    title="Falling-head cylinders",
    version="1",
    standards=("ASTM D8152",),
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
    practice=PRACTICE,
    board=board,
    slip=True,
    uncertainties_hold="the fit, the spread of the suction of its texture, the moisture scale, the cylinders' scatter",
    limits_of_use=(
        "The conductivity of a wetted surface that still holds air, around cylinders of a few centimetres. It varies "
        "over steps by factors, and with the season; a fitted suction is no property of the soil."
    ),
    leads=("kfs_mm_h", "k20_mm_h", "rate_mm_h"),
    called=lambda facts, school: facts.calls,
    columns={
        "cylinders": (
            "infiltrometer",
            "insertion_mm",
            "zero_above_soil_mm",
            "before_index",
            "before_percent",
            "after_index",
            "after_percent",
            "temperature_c",
            "seal",
            "ended",
            "excluded_because",
        ),
        "cylinders[].readings": ("elapsed_s", "level_mm", "excluded_because"),
    },
    rows={"cylinders": "cylinder", "cylinders[].readings": "level"},
    blocks=("cylinders[].readings",),
    synonyms={
        "level_mm": ("level", "height", "head", "h"),
        "elapsed_s": ("time", "elapsed", "seconds", "t"),
    },
    hints={"before_index": "0 to 10", "after_index": "0 to 10"},
)
