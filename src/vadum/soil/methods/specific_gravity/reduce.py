"""Specific gravity of solids at 20 °C from pycnometers."""

from vadum.soil.contract.numerics import error_of_mean, mean
from vadum.soil.contract.outcome import Missing, Outcome
from vadum.soil.contract.results import Results
from vadum.soil.methods.specific_gravity.facts import Facts
from vadum.soil.methods.specific_gravity.pycnometer import counting, determined
from vadum.soil.methods.specific_gravity.school import SpecificGravitySchool


def reduce(facts: Facts, school: SpecificGravitySchool) -> Outcome:
    """The mean specific gravity so far."""
    record = facts.record
    found = counting(record)
    short = school.least_determinations - len(found)
    results = Results(school.standard, provisional=short > 0)
    for one in found:
        made = determined(record.determinations[one.row])
        assert made is not None
        results.work(
            f"specific_gravity_{one.row + 1}",
            f"G_{one.row + 1}",
            "M_s / (M_s + M_p + (M_c - M_p) * rho_t / rho_c - M_pws) * rho_t / rho_20",
            made[1],
            one.gravity,
        )
    if found:
        gravities = [f.gravity for f in found]
        value = mean(gravities)
        error = error_of_mean(gravities)
        names = {f"G_{f.row + 1}": f.gravity for f in found}
        results.give(
            "specific_gravity_ratio",
            "G_s",
            "specific gravity at 20 °C",
            value,
            "",
            school.report_to,
            f"({' + '.join(names)}) / {len(names)}",
            names,
            uncertainty=error,
        )
    missing: tuple[Missing, ...] = ()
    if short > 0:
        words = f"{short} more pycnometer{'s' if short > 1 else ''}"
        missing = (Missing(name="specific gravity", waits_for=words, at="determinations"),)
    points = tuple({"determination": f.row + 1, "gravity": f.gravity, "label": f"{f.gravity:.3f}"} for f in found)
    mean_row = tuple({"gravity": v.value} for v in results.values)
    return Outcome(
        method="specific_gravity",
        school=school.name,
        values=tuple(results.values),
        missing=missing,
        working=tuple(results.working),
        series={"determinations": points, "mean": mean_row},
    )
