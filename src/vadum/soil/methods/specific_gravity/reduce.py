"""Specific gravity of solids at 20 °C from pycnometers."""

from vadum.soil.contract.outcome import Missing, Outcome
from vadum.soil.contract.results import Results
from vadum.soil.methods.specific_gravity.facts import Facts
from vadum.soil.methods.specific_gravity.pycnometer import determined
from vadum.soil.methods.specific_gravity.school import SpecificGravitySchool


def reduce(facts: Facts, school: SpecificGravitySchool) -> Outcome:
    """The mean specific gravity so far."""
    results = Results(school.standard, provisional=len(facts.found) < school.least_determinations)
    for one in facts.found:
        made = determined(facts.record.determinations[one.row])
        assert made is not None
        results.work(
            f"specific_gravity_{one.row + 1}",
            f"G_{one.row + 1}",
            "M_s / (M_s + M_p + (M_c - M_p) * rho_t / rho_c - M_pws) * rho_t / rho_20",
            made[1],
            one.gravity,
        )
    if facts.gravity:
        names = {f"G_{f.row + 1}": f.gravity for f in facts.found}
        results.give(
            "specific_gravity_ratio",
            "G_s",
            "specific gravity at 20 °C",
            facts.gravity.mean,
            "",
            school.report_to,
            f"({' + '.join(names)}) / {len(names)}",
            names,
            uncertainty=facts.gravity.error,
        )
    points = tuple({"determination": f.row + 1, "gravity": f.gravity, "label": f"{f.gravity:.3f}"} for f in facts.found)
    short = school.least_determinations - len(facts.found)
    words = f"{short} more pycnometer{'s' if short > 1 else ''}"
    waits = (Missing(name="specific gravity", waits_for=words, at="determinations"),) if short > 0 else ()
    return Outcome(
        method="specific_gravity",
        school=school.name,
        values=tuple(results.values),
        missing=waits,
        working=tuple(results.working),
        series={"determinations": points, "mean": tuple({"gravity": v.value} for v in results.values)},
    )
