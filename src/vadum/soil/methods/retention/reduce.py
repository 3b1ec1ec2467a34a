"""Water retention: the curve with its errors, water at the suctions that reports ask for, air and available water."""

import math

from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.retention.curve import PARAMETERS, Fitted
from vadum.soil.methods.retention.facts import Facts
from vadum.soil.methods.retention.school import RetentionSchool
from vadum.soil.shared.pressure_units import in_cm

SOURCE = "ISO 11274; ASTM D6836"
VG = "tr + (ts - tr) / (1 + (alpha * h)**n)**(1 - 1 / n)"
ASKED_KPA = (6.0, 10.0, 33.0)
SYMBOLS = {"theta_r": "theta_r", "theta_s": "theta_s", "alpha_per_cm": "alpha", "n": "n", "entry_cm": "h_b"}
NAMES = {
    "theta_r": "residual water",
    "theta_s": "saturated water, fitted",
    "alpha_per_cm": "alpha",
    "n": "n",
    "entry_cm": "air entry, Brooks-Corey",
    "lambda": "pores' index, Brooks-Corey",
}


def key_of(kpa: float) -> str:
    """The key of the water at a suction.

    >>> key_of(6.0), key_of(1500.0)
    ('theta_6_percent', 'theta_1500_percent')
    """
    return f"theta_{kpa:g}_percent".replace(".", "_")


def is_beyond(kpa: float, facts: Facts) -> bool:
    """Whether nothing was weighed at so much suction."""
    return kpa > facts.reached_kpa * 1.02


def open_words(facts: Facts) -> str:
    """What the curve still waits for; empty when it stands."""
    if not facts.over:
        return "every step has settled"
    return "" if all(one.cell.dry_g is not None for one in facts.ones if one.counts) else "the soil is dried"


def spread_1500(facts: Facts, school: RetentionSchool) -> tuple[float, float] | None:
    """How the water at the wilting point moves with a residual that nothing measured, shares of the volume."""
    if facts.fitted is None or facts.loose is None:
        return None
    h = in_cm(school.wilting_kpa)
    pair = sorted((facts.fitted.water(h), facts.loose.water(h)))
    return pair[0], pair[1]


def _inputs(fitted: Fitted, h: float) -> dict[str, float]:
    return {
        "tr": fitted.of("theta_r"),
        "ts": fitted.of("theta_s"),
        "alpha": fitted.of("alpha_per_cm"),
        "n": fitted.of("n"),
        "h": h,
    }


def _give_fit(results: Results, facts: Facts) -> None:
    fitted = facts.fitted
    if fitted is None:
        return
    until = open_words(facts)
    for name, unit, step, scale in (
        ("theta_s", "%", 0.1, 100.0),
        ("theta_r", "%", 0.1, 100.0),
        ("alpha_per_cm", "1/cm", 0.0001, 1.0),
        ("n", "", 0.001, 1.0),
    ):
        value = scale * fitted.of(name)
        error = fitted.error_of(name)
        fixed = error is None
        results.give(
            name if not name.startswith("theta") else f"{name}_percent",
            SYMBOLS[name],
            NAMES[name] + (", fixed" if fixed else ", van Genuchten" if name in ("alpha_per_cm", "n") else ""),
            value,
            unit,
            step,
            f"{scale:g} * p",
            {"p": fitted.of(name)},
            note="# fixed: nothing was weighed dry enough to find it" if fixed else f"through {fitted.n} points",
            uncertainty=None if error is None else scale * error,
            estimate=bool(until),
            until=until,
        )
    results.give(
        "rmse_percent",
        "RMSE",
        "points about the curve",
        100 * fitted.rmse,
        "%",
        0.01,
        "100 * s",
        {"s": fitted.rmse},
        uncertainty=100 * fitted.rmse / math.sqrt(2 * fitted.n),
        estimate=bool(until),
        until=until,
    )
    rows = []
    for i, a in enumerate(fitted.names):
        for j in range(i):
            rows.append(f"{PARAMETERS[fitted.names[j]]} with {PARAMETERS[a]} {fitted.correlation[i][j]:+.2f}")
    results.say("correlations", "", "correlations of the parameters", "", "; ".join(rows), provisional=bool(until))
    if facts.other is not None:
        entry = facts.other.of("entry_cm")
        results.give(
            "entry_cm",
            "h_b",
            NAMES["entry_cm"],
            entry,
            "cm",
            1.0,
            "h",
            {"h": entry},
            note=f"RMSE {100 * facts.other.rmse:.2f} %",
            uncertainty=facts.other.error_of("entry_cm"),
            estimate=bool(until),
            until=until,
        )
        index = facts.other.of("lambda")
        results.give(
            "pores_index",
            "lambda",
            NAMES["lambda"],
            index,
            "",
            0.01,
            "l",
            {"l": index},
            uncertainty=facts.other.error_of("lambda"),
            estimate=bool(until),
            until=until,
        )


def _give_water(results: Results, facts: Facts, school: RetentionSchool) -> None:
    fitted = facts.fitted
    if fitted is None:
        return
    until = open_words(facts)
    found: dict[float, tuple[float, float]] = {}
    for kpa in sorted({*ASKED_KPA, school.field_capacity_kpa, school.wilting_kpa}):
        h = in_cm(kpa)
        value, error = 100 * fitted.water(h), 100 * math.hypot(fitted.error_at(h), facts.between_cells)
        beyond = is_beyond(kpa, facts)
        if beyond and kpa == school.wilting_kpa and (pair := spread_1500(facts, school)) is not None:
            error = math.hypot(error, 100 * (pair[1] - pair[0]) / math.sqrt(3))
        found[kpa] = value, error
        results.give(
            key_of(kpa),
            "theta",
            f"water at {kpa:g} kPa, pF {math.log10(h):.1f}",
            value,
            "%",
            0.1,
            f"100 * ({VG})",
            _inputs(fitted, h),
            note="extrapolated: nothing was weighed so dry" if beyond else "",
            uncertainty=error,
            estimate=bool(until),
            until=until,
            provisional=beyond or None,
        )
    if facts.porosity is not None:
        for kpa in (6.0, 10.0):
            value = 100 * facts.porosity - found[kpa][0]
            results.give(
                f"air_{kpa:g}_percent",
                "AC",
                f"air in it at {kpa:g} kPa",
                value,
                "%",
                0.1,
                "100 * n - theta",
                {"n": facts.porosity, "theta": found[kpa][0]},
                uncertainty=found[kpa][1],
                estimate=bool(until),
                until=until,
            )
    saturated = 100 * fitted.of("theta_s")
    capacity, u_capacity = found[school.field_capacity_kpa]
    wilting, u_wilting = found[school.wilting_kpa]
    results.give(
        "drainable_percent",
        "n_d",
        "drainable pores",
        saturated - capacity,
        "%",
        0.1,
        "ts - fc",
        {"ts": saturated, "fc": capacity},
        uncertainty=u_capacity,
        estimate=bool(until),
        until=until,
        note=f"down to {school.field_capacity_kpa:g} kPa",
    )
    beyond = is_beyond(school.wilting_kpa, facts)
    available, u = capacity - wilting, math.hypot(u_capacity, u_wilting)
    if beyond and (pair := spread_1500(facts, school)) is not None:
        low, high = capacity - 100 * pair[1], capacity - 100 * pair[0]
        results.say(
            "available_range",
            "",
            "available water, as the residual may be",
            "%",
            f"{low:.0f} to {high:.0f}",
            provisional=True,
        )
    results.give(
        "available_percent",
        "AW",
        f"available water, {school.field_capacity_kpa:g} to {school.wilting_kpa:g} kPa",
        available,
        "%",
        0.1,
        "fc - wp",
        {"fc": capacity, "wp": wilting},
        uncertainty=u,
        estimate=bool(until),
        until=until,
        provisional=beyond or None,
        note="rests on an extrapolation" if beyond else "",
    )
    results.give(
        "available_mm",
        "AW",
        "the same, in a layer of 1 dm",
        available,
        "mm",
        0.1,
        "a",
        {"a": available},
        uncertainty=u,
        estimate=bool(until),
        until=until,
        provisional=beyond or None,
    )


def _give_cells(results: Results, facts: Facts, school: RetentionSchool) -> None:
    for one in facts.ones:
        if not one.counts:
            continue
        for held in one.held:
            if held.water_g is None or one.tare_g is None or one.dry_g is None:
                continue
            where = "saturated" if held.step is None else facts.pressures[held.step].words
            place = "s" if held.step is None else str(held.step + 1)
            blank = held.mass_g - one.tare_g - one.dry_g - held.water_g
            if held.theta_first is not None and one.volume_cm3:
                present = "" if held.theta == held.theta_first else f"; {held.theta:.3f} of the present volume"
                results.work(
                    f"c{one.row + 1}_{place}",
                    "theta",
                    "(M - M_a - M_d - M_b) / (r * V)",
                    {
                        "M": held.mass_g,
                        "M_a": one.tare_g,
                        "M_d": one.dry_g,
                        "M_b": blank,
                        "r": school.water_mg_m3,
                        "V": one.volume_cm3,
                    },
                    held.theta_first,
                    note=f"{one.name}, {where}{'' if held.settled else ', not settled'}{present}",
                )
            else:
                results.work(
                    f"c{one.row + 1}_{place}",
                    "w",
                    "100 * (M - M_a - M_d - M_b) / M_d",
                    {"M": held.mass_g, "M_a": one.tare_g, "M_d": one.dry_g, "M_b": blank},
                    held.w_percent or 0.0,
                    "%",
                    note=f"{one.name}, {where}: of the dry mass, its volume is not known",
                )
            results.work(
                f"c{one.row + 1}_{place}_h",
                "h",
                "h",
                {"h": held.suction_cm},
                held.suction_cm,
                "cm",
                note="at mid-height" if held.at_mid_height else "# as applied: core's height or outlet's level missing",
            )


def _series(facts: Facts, school: RetentionSchool) -> dict[str, Table]:
    points: list[dict[str, Cell]] = []
    for one in facts.ones:
        if not one.counts:
            continue
        for held in one.held:
            if held.theta is not None and held.suction_cm > 0:
                where = "saturated" if held.step is None else f"{facts.pressures[held.step].kpa:g} kPa"
                points.append(
                    {
                        "cell": one.name,
                        "suction": held.suction_cm,
                        "water": 100 * held.theta,
                        "step": where,
                        "state": "settled" if held.settled else "still losing",
                        "row": one.row + 1,
                    }
                )
    for suction, share, by in facts.typed:
        points.append({"cell": by, "suction": suction, "water": 100 * share, "step": by, "state": "settled", "row": 0})
    curve: list[dict[str, Cell]] = []
    if facts.fitted is not None:
        low, high = 1.0, in_cm(max(school.wilting_kpa, facts.reached_kpa)) * 1.2
        for i in range(81):
            h = low * (high / low) ** (i / 80)
            water, error = 100 * facts.fitted.water(h), 196 * facts.fitted.error_at(h)
            other = 100 * facts.loose.water(h) if facts.loose is not None else water
            curve.append(
                {
                    "suction": h,
                    "water": water,
                    "low": max(0.0, min(water, other) - error),
                    "high": max(water, other) + error,
                    "beyond": is_beyond(h / in_cm(1.0), facts),
                }
            )
    marks: list[dict[str, Cell]] = []
    if facts.porosity is not None:
        marks.append({"water": 100 * facts.porosity, "label": f"porosity {100 * facts.porosity:.1f} %"})
    tide: list[dict[str, Cell]] = []
    for one in facts.ones:
        first = next((w.at for w in one.weighed if w.at is not None), None)
        if not one.counts or first is None:
            continue
        for w in one.weighed:
            if w.at is not None:
                start = one.cell.saturated_at or first
                days = (w.at - start).total_seconds() / 86400
                tide.append(
                    {"cell": one.name, "day": days, "mass": w.mass_g - one.weighed[0].mass_g, "step": w.step + 1}
                )
    return {"points": tuple(points), "curve": tuple(curve), "marks": tuple(marks), "tide": tuple(tide)}


def reduce(facts: Facts, school: RetentionSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results = Results(SOURCE)
    _give_cells(results, facts, school)
    if facts.porosity is not None and facts.dry_density is not None:
        particle = facts.dry_density / (1 - facts.porosity)
        results.give(
            "porosity_percent",
            "n",
            "porosity",
            100 * facts.porosity,
            "%",
            0.1,
            "100 * (1 - rho_d / rho_s)",
            {"rho_d": facts.dry_density, "rho_s": particle},
            note="" if facts.particle_said else f"# particle density {particle:g} Mg/m³ taken",
            estimate=bool(open_words(facts)),
            until=open_words(facts),
        )
    saturated = [h.theta for o in facts.ones if o.counts for h in o.held if h.step is None and h.theta is not None]
    if saturated:
        mean = math.fsum(saturated) / len(saturated)
        inputs = {f"t_{i + 1}": t for i, t in enumerate(saturated)}
        results.give(
            "saturated_percent",
            "theta_0",
            "water when saturated",
            100 * mean,
            "%",
            0.1,
            f"100 * ({' + '.join(inputs)}) / {len(saturated)}",
            inputs,
            estimate=bool(open_words(facts)),
            until=open_words(facts),
        )
    _give_fit(results, facts)
    _give_water(results, facts, school)
    missing = []
    if facts.fitted is None or not facts.over:
        waits = "every step settled" if facts.ones else "saturated rings"
        missing.append(Missing(name="retention curve", waits_for=waits, at="cells"))
    return Outcome(
        method="retention",
        school=school.name,
        values=tuple(results.values),
        missing=tuple(missing),
        working=tuple(results.working),
        series=_series(facts, school),
    )
