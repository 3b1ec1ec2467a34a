"""Specific gravity of solids at 20 °C from pycnometers."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Missing, Outcome
from vadum.soil.contract.results import Results
from vadum.soil.methods.specific_gravity.facts import Facts
from vadum.soil.methods.specific_gravity.pycnometer import given, whole_gravity
from vadum.soil.methods.specific_gravity.school import SpecificGravitySchool
from vadum.soil.shared.physics import WATER_20_MG_M3


def error_of(facts: Facts, school: SpecificGravitySchool) -> float | None:
    """Standard uncertainty of the mean: its scatter with one pycnometer's own; two equal ones have not none.

    Parameters: `facts` with the determinations; `school` a single one's own error.
    Returns: a ratio; None without any.
    Source: quadrature.
    """
    if facts.gravity is None:
        return None
    return math.hypot(facts.gravity.error or 0.0, school.own_error / math.sqrt(len(facts.found)))


def reduce(facts: Facts, school: SpecificGravitySchool) -> Outcome:
    """The mean specific gravity so far."""
    results = Results(school.standard, provisional=len(facts.found) < school.least_determinations)
    for one in facts.found:
        made = given(facts.record, facts.record.determinations[one.row])
        if made is None:
            continue
        water = "M_s / (M_s + M_p + (M_c - M_p) * rho_t / rho_c - M_pws) * rho_t / rho_20"
        liquid = "M_s / (M_s + M_pl - M_pls) * rho_l / rho_20"
        gas = "M_s / (V_c - V_x * (p_1 / p_2 - 1)) / rho_20"
        results.work(
            f"specific_gravity_{one.row + 1}",
            f"G_{one.row + 1}",
            gas if "p_1" in made[1] else liquid if "rho_l" in made[1] else water,
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
            uncertainty=error_of(facts, school),
        )
        record, mean, error = facts.record, facts.gravity.mean, error_of(facts, school)
        # Other methods take the density, never the bare ratio: near full saturation two parts in a thousand decide.
        results.give(
            "particle_density_mg_m3",
            "rho_s",
            "particle density",
            mean * WATER_20_MG_M3,
            "Mg/m³",
            school.report_to,
            "G_s * rho_w",
            {"G_s": mean, "rho_w": WATER_20_MG_M3},
            uncertainty=None if error is None else error * WATER_20_MG_M3,
        )
        coarse, finer = record.coarse_gravity_ratio, record.finer_percent
        if known(coarse) and known(finer) and coarse > 0 and 0 < finer <= 100:
            results.give(
                "whole_gravity_ratio",
                "G",
                "specific gravity of the whole soil",
                whole_gravity(mean, coarse, finer),
                "",
                school.report_to,
                "1 / (P / 100 / G_f + (1 - P / 100) / G_c)",
                {"P": finer, "G_f": mean, "G_c": coarse},
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
        series={"determinations": points, "mean": tuple({"gravity": v.value} for v in results.values[:1])},
    )
