"""Bearing by plate: what the ground of a foundation carries, and how far a footing on it will settle."""

from vadum.soil.contract.method import Derived, Method
from vadum.soil.contract.times import span
from vadum.soil.methods.plate_bearing.board import board
from vadum.soil.methods.plate_bearing.facts import facts
from vadum.soil.methods.plate_bearing.flow import FINISH, FLOW
from vadum.soil.methods.plate_bearing.record import Record
from vadum.soil.methods.plate_bearing.reduce import reduce
from vadum.soil.methods.plate_bearing.rules import RULES
from vadum.soil.methods.plate_bearing.school import SCHOOLS
from vadum.soil.methods.plate_bearing.virtual import MISTAKES, PRACTICE, virtual
from vadum.soil.shared.plate.advice import targets
from vadum.soil.shared.plate.columns import COLUMNS, ROWS, SYNONYMS

METHOD = Method(
    name="plate_bearing",
    code="PB",
    title="Bearing by plate",
    version="1",
    standards=("IS 1888", "ASTM D1194", "BS 1377-9", "AASHTO T 235"),
    Record=Record,
    schools=SCHOOLS,
    facts=facts,
    reduce=reduce,
    rules=RULES,
    flow=FLOW,
    finish=FINISH,
    virtual=virtual,
    mistakes=MISTAKES,
    practice=PRACTICE,
    slip=True,
    lasts=lambda school: (
        "holds about "
        + ", ".join(
            f"{span(facts(Record(ground=ground), school).plan.minutes)} on {ground}" for ground in ("sand", "clay")
        )
    ),
    limits_of_use=(
        "The test feels about two plate widths of soil only: no deeper soft layer, no consolidation with time; "
        "the pit itself disturbs the ground, the footing is bigger than the plate, and ground water may come to stand "
        "elsewhere."
    ),
    leads=("allowable_kpa", "ultimate_kpa", "footing_settlement_mm"),
    called=lambda facts, school: facts.called,
    board=board,
    targets=targets,
    alternatives=((("reaction_kn",), ("reaction_kg",)),),
    columns=COLUMNS,
    rows=ROWS,
    derived={
        "steps": Derived(
            "steps",
            "step",
            1,
            (
                ("part", "part", 0),
                ("kpa", "q, kPa", 4),
                ("settlement_mm", "s, mm", 3),
                ("rate", "mm/min", 2),
                ("creep_mm", "creep, mm/log t", 2),
            ),
        )
    },
    synonyms=SYNONYMS,
)
