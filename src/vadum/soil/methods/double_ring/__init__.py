"""Double-ring infiltrometer: the steady rate at which a flooded surface takes up water."""

from vadum.soil.contract.method import Derived, Method
from vadum.soil.methods.double_ring.board import board
from vadum.soil.methods.double_ring.facts import facts
from vadum.soil.methods.double_ring.flow import FINISH, FLOW
from vadum.soil.methods.double_ring.record import Record
from vadum.soil.methods.double_ring.reduce import reduce
from vadum.soil.methods.double_ring.rules import RULES
from vadum.soil.methods.double_ring.school import SCHOOLS
from vadum.soil.methods.double_ring.virtual import MISTAKES, PRACTICE, virtual

METHOD = Method(
    name="double_ring",
    code="DR",
    title="Double-ring infiltrometer",
    version="1",
    standards=("ASTM D3385",),
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
    uncertainties_hold="the scatter of the steady intervals, a volume's and a diameter's error",
    limits_of_use=(
        "An infiltration rate under a depth of water, around one pair of rings: no conductivity, and no rate for a "
        "design without what the ground below does."
    ),
    leads=("rate_mm_h", "mean_mm_h", "annulus_mm_h"),
    called=lambda facts, school: (facts.called,),
    alternatives=(
        (("readings[].inner_ml",), ("readings[].inner_bottle_mm",)),
        (("readings[].annulus_ml",), ("readings[].annulus_bottle_mm",)),
    ),
    columns={
        "readings": (
            "elapsed_min",
            "inner_ml",
            "annulus_ml",
            "inner_bottle_mm",
            "annulus_bottle_mm",
            "head_inner_mm",
            "head_annulus_mm",
            "temperature_c",
            "excluded_because",
        )
    },
    derived={"readings": Derived("inner", "row", 1, (("mm_h", "inner ring, mm/h", 3),))},
    rows={"readings": "interval"},
    blocks=("readings",),
    synonyms={
        "elapsed_min": ("time", "elapsed", "min"),
        "inner_ml": ("inner", "inner volume"),
        "annulus_ml": ("annulus", "annular", "outer"),
        "temperature_c": ("temperature", "temp"),
    },
)
