"""Water retention: how much water a soil holds at which suction, by rings on plates over weeks."""

from vadum.soil.contract.method import FromTest, Method
from vadum.soil.methods.retention.board import board
from vadum.soil.methods.retention.facts import facts
from vadum.soil.methods.retention.flow import FINISH, FLOW
from vadum.soil.methods.retention.record import Record
from vadum.soil.methods.retention.reduce import reduce
from vadum.soil.methods.retention.rules import RULES
from vadum.soil.methods.retention.school import SCHOOLS, RetentionSchool
from vadum.soil.methods.retention.virtual import MISTAKES, PRACTICE, virtual


def begins_with(school: RetentionSchool) -> tuple[tuple[str, str], ...]:
    """The pressures that the school offers, each with its unit."""
    made: list[tuple[str, str]] = []
    for i, kpa in enumerate(school.steps_kpa):
        made += [(f"steps[{i}].pressure_as_read", f"{kpa:g}"), (f"steps[{i}].pressure_unit", "kPa")]
    return tuple(made)


METHOD = Method(
    name="retention",
    code="RC",
    title="Water retention",
    version="1",
    standards=("ISO 11274", "ASTM D6836"),
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
    begins_with=begins_with,
    board=board,
    uncertainties_hold="the scatter of the points about the curve and of the cells, and a residual that was fixed",
    least_soil_g=300,
    limits_of_use=(
        "The drying side only: wetting, the same soil holds less. Of rings of a few centimetres; beyond the last step "
        "that was weighed the curve is an extrapolation."
    ),
    leads=("available_percent", "theta_10_percent", "air_10_percent"),
    called=lambda facts, school: facts.calls,
    columns={
        "steps": ("pressure_as_read", "pressure_unit", "column_mm"),
        "cells": (
            "pressure_cell",
            "ring_diameter_mm",
            "core_height_mm",
            "outlet_below_mm",
            "saturated_g",
            "wet_out_g",
            "dry_g",
            "apparatus_g",
            "ring_g",
            "excluded_because",
        ),
        "cells[].weighings": ("weighed_at", "mass_g", "then", "temperature_c", "present_height_mm", "excluded_because"),
        "points": ("by", "suction_as_read", "suction_unit", "water_percent"),
    },
    rows={"steps": "step", "cells": "cell", "cells[].weighings": "weighing", "points": "point"},
    takes={
        "particle_density_mg_m3": FromTest("specific_gravity", "particle_density_mg_m3"),
    },
    synonyms={
        "mass_g": ("mass", "weight", "m"),
        "temperature_c": ("temperature", "temp"),
        "pressure_as_read": ("pressure", "suction"),
        "pressure_unit": ("unit",),
    },
    lasts=lambda school: "three to six weeks",
)
