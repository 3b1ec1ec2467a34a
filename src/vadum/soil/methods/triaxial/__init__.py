"""Triaxial compression: a clay's strength by circles, drained, undrained, or quick."""

from vadum.soil.contract.method import Derived, FromTest, Method
from vadum.soil.methods.triaxial.board import board
from vadum.soil.methods.triaxial.facts import facts
from vadum.soil.methods.triaxial.flow import FINISH, FLOW
from vadum.soil.methods.triaxial.record import Record
from vadum.soil.methods.triaxial.reduce import reduce
from vadum.soil.methods.triaxial.rules import RULES
from vadum.soil.methods.triaxial.school import SCHOOLS
from vadum.soil.methods.triaxial.virtual import MISTAKES, PRACTICE, virtual

METHOD = Method(
    name="triaxial",
    code="TX",
    title="Triaxial",
    version="1",
    standards=("ASTM D4767", "ASTM D7181", "ASTM D2850", "ISO 17892-8", "ISO 17892-9", "BS 1377-7", "BS 1377-8"),
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
    uncertainties_hold="the scatter of the circles about their line, or of the strengths; not what each gauge errs by",
    least_soil_g=600,
    limits_of_use=(
        "Strength of the specimens under these pressures and this rate; the line holds within the range of s′ that was "
        "tested. Sampling and trimming decide as much as the test does."
    ),
    leads=("phi_degrees", "c_kpa", "shear_strength_kpa", "phi_by_other_degrees"),
    called=lambda facts, school: tuple(c for c in (facts.draining, facts.shearing) if c is not None),
    board=board,
    columns={
        "specimens": (
            "mass_g",
            "cell_kpa",
            "back_kpa",
            "volume_out_cm3",
            "rate_mm_min",
            "failed_by",
            "excluded_because",
        ),
        "specimens[].increments": (
            "cell_from_kpa",
            "cell_to_kpa",
            "pore_from_kpa",
            "pore_to_kpa",
            "back_kpa",
            "excluded_because",
        ),
        "specimens[].consolidation": ("elapsed_min", "volume_cm3", "shortening_mm", "read_at", "excluded_because"),
        "specimens[].shear": (
            "deformation_mm",
            "force_n",
            "pore_kpa",
            "volume_cm3",
            "cell_kpa",
            "elapsed_s",
            "noted",
            "excluded_because",
        ),
    },
    derived={
        "specimens": Derived(
            "specimens",
            "specimen",
            1,
            (
                ("b", "B", 2),
                ("q", "q, kPa", 4),
                ("strain", "at, %", 3),
                ("u", "Δu, kPa", 3),
                ("minor", "σ3′, kPa", 4),
                ("e", "e0", 3),
            ),
        )
    },
    rows={
        "specimens": "specimen",
        "specimens[].increments": "step",
        "specimens[].consolidation": "drainage",
        "specimens[].shear": "reading",
    },
    blocks=("specimens[].shear", "specimens[].consolidation"),
    takes={
        "particle_density_mg_m3": FromTest(
            "specific_gravity", "particle_density_mg_m3", {"particle_density_from": "measured"}
        ),
        "water_before_percent": FromTest("water_content", "water_content_percent"),
    },
    begins_with=lambda school: (("kind", school.kinds[0]),),
    synonyms={
        "deformation_mm": ("deformation", "displacement", "shortening", "travel", "axial"),
        "force_n": ("force", "load", "deviator", "n"),
        "pore_kpa": ("pore", "pwp", "u"),
        "volume_cm3": ("volume", "vol"),
        "cell_kpa": ("cell", "sigma3"),
        "elapsed_s": ("time", "elapsed", "seconds", "s"),
        "elapsed_min": ("time", "elapsed", "min"),
    },
)
