"""Field vane."""

from vadum.soil.contract.method import Method
from vadum.soil.methods.field_vane.facts import facts
from vadum.soil.methods.field_vane.flow import FLOW
from vadum.soil.methods.field_vane.record import Record
from vadum.soil.methods.field_vane.reduce import reduce
from vadum.soil.methods.field_vane.rules import RULES
from vadum.soil.methods.field_vane.school import SCHOOLS
from vadum.soil.methods.field_vane.virtual import MISTAKES, virtual

METHOD = Method(
    name="field_vane",
    code="FV",  # two letters that no other method has
    title="Field vane",
    version="1",
    standards=("TO FILL",),
    Record=Record,
    schools=SCHOOLS,
    facts=facts,
    reduce=reduce,
    rules=RULES,
    flow=FLOW,
    virtual=virtual,
    mistakes=MISTAKES,
    limits_of_use="TO FILL: what the result does not say.",
    leads=(),
)
