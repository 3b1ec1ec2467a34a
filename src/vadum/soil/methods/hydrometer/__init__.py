"""Hydrometer analysis: the fine end of the grading, by sedimentation."""

from vadum.soil.contract.method import Derived, FromTest, Method
from vadum.soil.methods.hydrometer.facts import facts
from vadum.soil.methods.hydrometer.flow import FINISH, FLOW, unused
from vadum.soil.methods.hydrometer.record import Record
from vadum.soil.methods.hydrometer.reduce import reduce
from vadum.soil.methods.hydrometer.rules import RULES
from vadum.soil.methods.hydrometer.school import SCHOOLS
from vadum.soil.methods.hydrometer.timing import board, called
from vadum.soil.methods.hydrometer.virtual import MISTAKES, virtual

METHOD = Method(
    name="hydrometer",
    code="HY",
    title="Hydrometer",
    version="1",
    standards=("ASTM D422", "ASTM D7928", "AASHTO T 88", "ISO 17892-4"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    facts=facts,
    rules=RULES,
    finish=FINISH,
    called=called,
    board=board,
    leads=("finer_than_2um_percent",),
    flow=FLOW,
    unused=unused,
    virtual=virtual,
    by_clock=True,
    mistakes=MISTAKES,
    uncertainties_hold="the error of a hydrometer's reading or a pipette's weighings, carried through the percentage",
    least_soil_g=120,
    limits_of_use=(
        "Sizes of spheres that settle as fast as the grains, of soil that the dispersant took apart. Plates and "
        "flocs settle otherwise: compare like with like."
    ),
    derived={
        "readings": Derived("readings", "trial", 1, (("size_mm", "size, mm", 3), ("finer_percent", "finer, %", 3)))
    },
    begins_with=lambda school: (("hydrometer_type", "pipette"),) if school.by == "pipette" else (),
    columns={
        "blanks": (
            "reading_g_l",
            "reading_sg",
            "temperature_c",
            "container",
            "drawn_ml",
            "mass_container_g",
            "mass_dried_g",
        ),
        "readings": (
            "elapsed_min",
            "read_at",
            "reading_g_l",
            "reading_sg",
            "temperature_c",
            "depth_mm",
            "container",
            "drawn_ml",
            "mass_container_g",
            "mass_dried_g",
            "excluded_because",
        ),
    },
    takes={
        "specific_gravity_ratio": FromTest(
            "specific_gravity", "specific_gravity_ratio", {"specific_gravity_from": "measured"}
        ),
        "passing_percent": FromTest("sieve", "passing_2mm_percent", {"came_through_mm": "2"}),
    },
    rows={"blanks": "blank", "readings": "reading"},
    synonyms={
        "elapsed_min": ("time", "elapsed", "min"),
        "temperature_c": ("temperature", "temp", "°c", "c"),
        "reading_g_l": ("reading", "hydrometer", "r", "g l"),
        "reading_sg": ("sg", "density"),
    },
)
