"""Field vane: from facts to values."""

from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.results import Results
from vadum.soil.methods.field_vane.facts import Facts
from vadum.soil.methods.field_vane.school import FieldVaneSchool


def reduce(facts: Facts, school: FieldVaneSchool) -> Outcome:
    """TO FILL: the values so far, each with its line of working, and the series of the picture."""
    results = Results(school.standard)
    return Outcome(
        method="field_vane",
        school=school.name,
        values=tuple(results.values),
        working=tuple(results.working),
        series={"example": ()},
    )
