"""Strain modulus by plate: how stiff a layer is the first time it is loaded, and how stiff the second."""

from vadum.soil.contract.method import Derived, Method
from vadum.soil.contract.times import span
from vadum.soil.methods.plate_modulus.board import board
from vadum.soil.methods.plate_modulus.facts import facts
from vadum.soil.methods.plate_modulus.flow import FINISH, FLOW
from vadum.soil.methods.plate_modulus.record import Record
from vadum.soil.methods.plate_modulus.reduce import reduce
from vadum.soil.methods.plate_modulus.rules import RULES
from vadum.soil.methods.plate_modulus.school import SCHOOLS
from vadum.soil.methods.plate_modulus.virtual import MISTAKES, PRACTICE, virtual
from vadum.soil.shared.plate.advice import targets
from vadum.soil.shared.plate.columns import COLUMNS, ROWS, SYNONYMS

METHOD = Method(
    name="plate_modulus",
    code="PM",
    title="Strain modulus by plate",
    version="1",
    standards=("DIN 18134", "NF P94-117-1", "SN 670 317", "AASHTO T 221", "AASHTO T 222"),
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
    lasts=lambda school: f"holds about {span(facts(Record(), school).plan.minutes)}",
    uncertainties_hold="the scatter of the readings about the fitted curve; not the jack's calibration nor the place",
    limits_of_use=(
        "The stiffness of the ground to about two plate widths beneath this one place, at the day's water content, "
        "under a load of minutes. What lies deeper, or comes with time, it does not feel."
    ),
    leads=("ev2_mn_m2", "ev_ratio", "ev1_mn_m2", "ks_corrected_mn_m3", "ks_mn_m3"),
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
            (("part", "part", 0), ("stress", "σ, MN/m²", 3), ("settlement_mm", "s, mm", 3), ("rate", "mm/min", 2)),
        )
    },
    synonyms=SYNONYMS,
)
