"""In-place density by excavation."""

from vadum.soil.contract.method import FromTest, Method
from vadum.soil.methods.pit_density.facts import facts
from vadum.soil.methods.pit_density.flow import FLOW, finish, unused
from vadum.soil.methods.pit_density.record import Record
from vadum.soil.methods.pit_density.reduce import reduce
from vadum.soil.methods.pit_density.rules import RULES
from vadum.soil.methods.pit_density.school import SCHOOLS
from vadum.soil.methods.pit_density.virtual import MISTAKES, virtual

METHOD = Method(
    name="pit_density",
    code="PD",
    title="Pit density",
    version="1",
    standards=("ASTM D1556", "ASTM D2167", "ASTM D5030", "ISO 11272"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    leads=("dry_density_mg_m3", "fine_earth_density_mg_m3"),
    facts=facts,
    rules=RULES,
    flow=FLOW,
    unused=unused,
    finish=finish,
    virtual=virtual,
    mistakes=MISTAKES,
    limits_of_use=(
        "One hole, as large as it was dug. Two densities are given: of the whole soil, and of the fine earth between "
        "the stones; a job wants one of them, and they are not the same."
    ),
    takes={
        "particle_density_mg_m3": FromTest(
            "specific_gravity", "particle_density_mg_m3", {"particle_density_from": "measured"}
        ),
        "reference_density_mg_m3": FromTest("compaction", "maximum_dry_density_mg_m3"),
    },
    columns={},
)
