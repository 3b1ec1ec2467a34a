"""In-place density by a drive ring."""

from vadum.soil.contract.method import FromTest, Method
from vadum.soil.methods.ring_density.facts import facts
from vadum.soil.methods.ring_density.flow import FLOW
from vadum.soil.methods.ring_density.record import Record
from vadum.soil.methods.ring_density.reduce import reduce
from vadum.soil.methods.ring_density.rules import RULES
from vadum.soil.methods.ring_density.school import SCHOOLS
from vadum.soil.methods.ring_density.virtual import MISTAKES, virtual

METHOD = Method(
    name="ring_density",
    code="RD",
    title="Ring density",
    version="1",
    standards=("ASTM D2937", "ISO 11272", "BS 1377-9"),
    Record=Record,
    schools=SCHOOLS,
    reduce=reduce,
    leads=("dry_density_mg_m3", "density_mg_m3"),
    facts=facts,
    rules=RULES,
    flow=FLOW,
    virtual=virtual,
    mistakes=MISTAKES,
    uncertainties_hold="the balance, the ring's measures and the scatter of the headspace readings",
    limits_of_use=(
        "One place of the ground, as large as the ring. Driving can press or loosen it; stones under the edge spoil "
        "it. Several rings show the scatter."
    ),
    columns={"headspaces": ("end", "headspace_mm")},
    takes={
        "particle_density_mg_m3": FromTest(
            "specific_gravity", "particle_density_mg_m3", {"particle_density_from": "measured"}
        )
    },
    rows={"headspaces": "headspace"},
)
