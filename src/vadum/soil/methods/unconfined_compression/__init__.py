"""Unconfined compression: the quick undrained strength of a core."""

from vadum.soil.contract.method import FromTest, Method
from vadum.soil.methods.unconfined_compression.board import board
from vadum.soil.methods.unconfined_compression.facts import facts
from vadum.soil.methods.unconfined_compression.flow import FINISH, FLOW
from vadum.soil.methods.unconfined_compression.record import Record
from vadum.soil.methods.unconfined_compression.reduce import reduce
from vadum.soil.methods.unconfined_compression.rules import RULES
from vadum.soil.methods.unconfined_compression.school import SCHOOLS
from vadum.soil.methods.unconfined_compression.virtual import MISTAKES, PRACTICE, virtual

METHOD = Method(
    name="unconfined_compression",
    code="UC",
    title="Unconfined compression",
    version="1",
    standards=("ASTM D2166", "AASHTO T 208", "ISO 17892-7", "BS 1377-7"),
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
    uncertainties_hold="the scatter of the three diameters and the heights; not the load cell's own",
    least_soil_g=200,
    limits_of_use=(
        "A quick strength of one core as it stood, without drainage measured: for a cohesive, uniform, nearly "
        "saturated soil. Fissures, stones and drying decide it as much as the soil does."
    ),
    leads=("strength_kpa", "shear_strength_kpa", "strength_class"),
    called=lambda facts, school: (facts.called,) if facts.called else (),
    board=board,
    columns={"readings": ("deformation_mm", "force_n", "ring_div", "elapsed_s", "noted", "excluded_because")},
    rows={"readings": "reading"},
    blocks=("readings",),
    spends=lambda record: record.mass_dry_g is not None and record.water_from == "specimen",
    takes={
        "natural_water_percent": FromTest("water_content", "water_content_percent"),
        "liquid_limit_percent": FromTest("liquid_limit", "liquid_limit_percent"),
        "plastic_limit_percent": FromTest("plastic_limit", "plastic_limit_percent"),
        "remoulded_strength_kpa": FromTest("unconfined_compression", "remoulded_strength_kpa"),
    },
    synonyms={
        "deformation_mm": ("deformation", "displacement", "shortening", "travel", "mm"),
        "force_n": ("force", "load", "n"),
        "elapsed_s": ("time", "elapsed", "seconds", "s"),
        "ring_div": ("ring", "dial", "divisions"),
    },
)
