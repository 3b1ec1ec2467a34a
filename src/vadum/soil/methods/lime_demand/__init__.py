"""Lime demand by pH: how much lime keeps the pore water of a clay at the pH of a lasting reaction."""

from vadum.soil.contract.method import FromTest, Method
from vadum.soil.methods.lime_demand.board import board
from vadum.soil.methods.lime_demand.facts import facts, targets
from vadum.soil.methods.lime_demand.flow import FINISH, FLOW
from vadum.soil.methods.lime_demand.record import LIME_ONLY, SOIL, Record
from vadum.soil.methods.lime_demand.reduce import reduce
from vadum.soil.methods.lime_demand.rules import RULES
from vadum.soil.methods.lime_demand.school import SCHOOLS, LimeSchool
from vadum.soil.methods.lime_demand.virtual import MISTAKES, PRACTICE, virtual


def begins_with(school: LimeSchool) -> tuple[tuple[str, str], ...]:
    """The bottles that the school asks for, the lime-only one first."""
    made = [("bottles[0].holds", LIME_ONLY)]
    for i, lime in enumerate(school.limes_percent, 1):
        made += [(f"bottles[{i}].holds", SOIL), (f"bottles[{i}].lime_percent", f"{lime:g}")]
    return (*made, ("water_ml", f"{school.water_ml:g}"))


METHOD = Method(
    name="lime_demand",
    code="LP",
    title="Lime demand by pH",
    version="1",
    standards=("ASTM D6276", "BS 1924-2"),
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
    targets=targets,
    uncertainties_hold="the step from one bottle's lime to the next, or the meter's accuracy; not the soil's own",
    least_soil_g=350,
    limits_of_use=(
        "How much lime keeps the pore water at the pH of a lasting reaction. It says nothing on whether this soil "
        "reacts, or how strong it will be: a full mix design with its mellowing time must follow."
    ),
    leads=("open_percent", "demand_percent", "demand_quicklime_percent", "demand_whole_percent"),
    called=lambda facts, school: (facts.shaking, *facts.reading),
    columns={
        "bottles": ("holds", "lime_percent", "lime_g", "soil_g", "read_ph", "temperature_c", "excluded_because"),
        "buffers": ("part", "buffer_ph", "buffer_read_ph", "buffer_opened_on"),
        "shakes": ("shaken_at",),
    },
    rows={"bottles": "bottle", "buffers": "buffer", "shakes": "round"},
    row_named_by={"bottles": "lime_percent"},
    takes={
        "water_percent": FromTest("water_content", "water_content_percent"),
        "plasticity_index_percent": FromTest("plastic_limit", "plasticity_index_percent"),
    },
    synonyms={
        "lime_percent": ("lime", "dose", "percent"),
        "read_ph": ("ph", "reading"),
        "temperature_c": ("temperature", "temp", "t"),
    },
    hints={"sulphate_mg_kg": "0.3 % = 3000"},
)
