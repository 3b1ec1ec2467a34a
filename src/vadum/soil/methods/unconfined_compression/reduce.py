"""Unconfined compression: the strength, the undrained strength, the modulus, the state of the core."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import rounded, significant_step
from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.unconfined_compression.core import Core, Peak, secant_mpa
from vadum.soil.methods.unconfined_compression.facts import Facts
from vadum.soil.methods.unconfined_compression.school import BY_SHEAR_STRENGTH, BY_STRENGTH, UnconfinedSchool
from vadum.soil.shared.phases import void_ratio
from vadum.soil.shared.physics import WATER_20_MG_M3
from vadum.soil.shared.sensitivity import class_words, sensitivity

SO_FAR = "so far"
MOST_DRAWN = 400  # points of a picture: an eye tells no more apart


def strength_word(strength_kpa: float, shear_kpa: float, words: str) -> str:
    """The class of a strength by the older scale of q_u, or by ISO 14688-2 of s_u; both in kPa.

    >>> strength_word(138.2, 69.1, "older, by the strength")
    'stiff'
    >>> strength_word(138.2, 69.1, "ISO 14688-2, by the shear strength")
    'medium'
    """
    table, value = (BY_STRENGTH, strength_kpa) if words.startswith("older") else (BY_SHEAR_STRENGTH, shear_kpa)
    return next(word for limit, word in table if value < limit)


def indicative_friction_degrees(plane_degrees: float) -> float:
    """Friction told from the plane's angle to the horizontal, degrees: `phi = 2 theta - 90`. A remark, no result.

    Parameters: `plane_degrees` in degrees.
    Returns: °.
    Source: Mohr-Coulomb: a plane at 45 + phi/2.

    >>> indicative_friction_degrees(60)
    30
    """
    return 2 * plane_degrees - 90


def _give_strength(results: Results, facts: Facts, core: Core, peak: Peak, school: UnconfinedSchool) -> None:
    step = school.report_to_kpa
    force, eps = peak.force_n, peak.strain
    inputs = {"P": force, "A_0": core.area_mm2, "eps": eps}
    # The three diameters' scatter is the error that a repeated measuring would show; the cell's own is not known here.
    error = None
    if core.diameter_error_mm is not None:
        error = peak.stress_kpa * 2 * core.diameter_error_mm / core.diameter_mm
    note = "still rising: the value at the stop strain" if peak.rising else f"at reading of {100 * eps:.2f} % strain"
    formula = "1000 * P * (1 - eps) / A_0"
    results.give(
        "strength_kpa",
        "q_u",
        "unconfined compressive strength",
        peak.stress_kpa,
        "kPa",
        step,
        formula,
        inputs,
        note=note,
        uncertainty=error,
        estimate=not facts.over,
        until=SO_FAR,
    )
    shear = peak.stress_kpa / 2
    results.give(
        "shear_strength_kpa",
        "s_u",
        "undrained shear strength",
        shear,
        "kPa",
        step,
        "q_u / 2",
        {"q_u": peak.stress_kpa},
        uncertainty=None if error is None else error / 2,
        estimate=not facts.over,
        until=SO_FAR,
    )
    results.give(
        "strain_at_failure_percent",
        "eps_f",
        "strain at failure",
        100 * eps,
        "%",
        0.1,
        "100 * eps",
        {"eps": eps},
        estimate=not facts.over,
        until=SO_FAR,
    )
    if facts.over:
        word = strength_word(peak.stress_kpa, shear, school.strength_words)
        results.say("strength_class", "", f"strength ({school.strength_words})", "", word)


def _give_modulus(results: Results, facts: Facts, peak: Peak) -> None:
    half = facts.half_strain
    if half is None or half <= 0:
        return
    value = secant_mpa(peak.stress_kpa, half)
    inputs = {"q_u": peak.stress_kpa, "eps_50": half}
    results.give(
        "e50_mpa",
        "E_50",
        "secant modulus to half the strength",
        value,
        "MPa",
        significant_step(value, 3),
        "q_u / 2 / eps_50 / 1000",
        inputs,
        note=f"half the strength at {100 * half:.2f} % strain",
        estimate=not facts.over,
        until=SO_FAR,
    )
    toe = facts.toe_strain
    if toe is None or half <= toe:
        return
    more = {**inputs, "eps_0": toe}
    corrected = secant_mpa(peak.stress_kpa, half - toe)
    results.give(
        "e50_toe_mpa",
        "E_50,toe",
        "secant modulus, toe corrected",
        corrected,
        "MPa",
        significant_step(corrected, 3),
        "q_u / 2 / (eps_50 - eps_0) / 1000",
        more,
        estimate=not facts.over,
        until=SO_FAR,
    )
    results.give(
        "strain_at_failure_toe_percent",
        "eps_f,toe",
        "strain at failure, toe corrected",
        100 * (peak.strain - toe),
        "%",
        0.1,
        "100 * (eps - eps_0)",
        {"eps": peak.strain, "eps_0": toe},
        estimate=not facts.over,
        until=SO_FAR,
    )


def _give_test(results: Results, facts: Facts, core: Core) -> None:
    """How it was run: rate, time to failure, slenderness."""
    ratio = {"H": core.height_mm, "D": core.diameter_mm}
    results.give("slenderness_ratio", "H/D", "height to diameter", core.slenderness_ratio, "", 0.01, "H / D", ratio)
    if facts.rate_percent_min is not None:
        rate = facts.rate_percent_min
        results.give("rate_percent_min", "v", "rate of strain", rate, "%/min", 0.01, "v", {"v": rate})
    if facts.failure_min is not None and facts.over:
        minutes = facts.failure_min
        results.give("failure_min", "t_f", "time to failure", minutes, "min", 0.1, "t_f", {"t_f": minutes})


def _give_state(results: Results, facts: Facts, core: Core, school: UnconfinedSchool) -> None:
    record, state, step = facts.record, facts.state, school.density_to_mg_m3
    if facts.tin:
        results.give_water("water_content_percent", "water content", facts.tin)
    if state.density_mg_m3 is None or record.mass_g is None:
        return
    relative = error = None
    if core.diameter_error_mm is not None and core.height_error_mm is not None:
        relative = math.hypot(2 * core.diameter_error_mm / core.diameter_mm, core.height_error_mm / core.height_mm)
        error = state.density_mg_m3 * relative
    inputs = {"M": record.mass_g, "D": core.diameter_mm, "H": core.height_mm}
    formula = "M / (pi * D ** 2 / 4 * H / 1000)"
    rho = state.density_mg_m3
    results.give("density_mg_m3", "rho", "bulk density", rho, "Mg/m³", step, formula, inputs, uncertainty=error)
    if state.dry_mg_m3 is None or state.water_percent is None:
        return
    inputs = {"rho": rho, "w": state.water_percent}
    results.give(
        *("dry_density_mg_m3", "rho_d", "dry density", state.dry_mg_m3, "Mg/m³", step, "rho / (1 + w / 100)", inputs),
        uncertainty=None if relative is None else state.dry_mg_m3 * relative,
    )
    particle = record.particle_density_mg_m3
    if state.saturation_percent is None or not known(particle):
        return
    # A value that stands on an assumed figure carries its sign.
    sign = "" if record.particle_density_from == "measured" else "# "
    e = void_ratio(state.dry_mg_m3, particle)
    inputs = {"rho_s": particle, "rho_d": state.dry_mg_m3}
    said = sign + rounded(e, 0.01)
    error = None if relative is None else (1 + e) * relative
    results.give(
        *("void_ratio", "e", "void ratio", e, "", 0.01, "rho_s / rho_d - 1", inputs), uncertainty=error, reported=said
    )
    full = state.saturation_percent
    inputs |= {"w": state.water_percent, "rho_w": WATER_20_MG_M3}
    formula = "w * rho_s / ((rho_s / rho_d - 1) * rho_w)"
    said = sign + rounded(full, 1)
    results.give("saturation_percent", "S_r", "degree of saturation", full, "%", 1, formula, inputs, reported=said)


def _give_sensitivity(results: Results, facts: Facts, peak: Peak, school: UnconfinedSchool) -> None:
    record = facts.record
    if record.sample_type == "remoulded" and facts.over:
        # Another run of the sample takes it from here.
        q = {"q_u": peak.stress_kpa}
        step = school.report_to_kpa
        results.give("remoulded_strength_kpa", "q_ur", "strength remoulded", peak.stress_kpa, "kPa", step, "q_u", q)
        return
    remoulded = record.remoulded_strength_kpa
    if not known(remoulded) or remoulded <= 0 or not facts.over:
        return
    ratio = sensitivity(peak.stress_kpa, remoulded)
    inputs = {"q_u": peak.stress_kpa, "q_ur": remoulded}
    results.give("sensitivity_ratio", "S_t", "sensitivity", ratio, "", significant_step(ratio), "q_u / q_ur", inputs)
    words = class_words(ratio, remoulded / 2, school.sensitivity_classes)
    results.say("sensitivity_class", "", f"sensitivity ({school.sensitivity_classes})", "", words)


def _missing(facts: Facts) -> tuple[Missing, ...]:
    waits = []
    if facts.core is not None and not facts.over:
        words = "the series, past its peak" if facts.points else "the series"
        waits.append(Missing(name="strength", waits_for=words, at=f"readings[{len(facts.record.readings)}].force_n"))
    return tuple(waits)


def reduce(facts: Facts, school: UnconfinedSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results = Results(school.standard)
    core, peak = facts.core, facts.peak
    if core:
        if peak is not None and peak.stress_kpa > 0:
            _give_strength(results, facts, core, peak, school)
            _give_modulus(results, facts, peak)
            _give_sensitivity(results, facts, peak, school)
        _give_state(results, facts, core, school)
        _give_test(results, facts, core)
    plane = facts.record.plane_degrees
    if known(plane) and facts.record.failure_mode in ("one plane", "several planes"):
        words = f"about {indicative_friction_degrees(plane):.0f}°, from a plane at {plane:g}°: a remark, no result"
        results.say("plane_remark", "", "friction told from the plane", "", words)
    return Outcome(
        method="unconfined_compression",
        school=school.name,
        values=tuple(results.values),
        missing=_missing(facts),
        working=tuple(results.working),
        series=_series(facts, school),
    )


def _series(facts: Facts, school: UnconfinedSchool) -> dict[str, Table]:
    points, peak, core = facts.points, facts.peak, facts.core
    step = max(1, math.ceil(len(points) / MOST_DRAWN))
    kept = [p for i, p in enumerate(points) if i % step == 0 or i == len(points) - 1]
    curve: list[dict[str, Cell]] = [
        {"trial": p.row + 1, "strain_percent": 100 * p.strain, "stress_kpa": p.stress_kpa, "force_n": p.force_n}
        for p in kept
    ]
    marks: list[dict[str, Cell]] = []
    secant: list[dict[str, Cell]] = []
    if peak is not None and peak.stress_kpa > 0:
        label = f"{peak.stress_kpa:.0f} kPa" if facts.over else f"{peak.stress_kpa:.0f} kPa so far"
        marks.append({"strain_percent": 100 * peak.strain, "stress_kpa": peak.stress_kpa, "label": label})
        if facts.half_strain:
            up = min(2.0, peak.strain / facts.half_strain)
            secant = [
                {"strain_percent": 0.0, "stress_kpa": 0.0, "label": ""},
                {
                    "strain_percent": 100 * up * facts.half_strain,
                    "stress_kpa": up * peak.stress_kpa / 2,
                    "label": "E50",
                },
            ]
    shown: Table = ()
    if core is not None:
        strain = facts.last_strain
        shown = (
            {
                "top_mm": facts.record.diameter_top_mm,
                "middle_mm": facts.record.diameter_middle_mm,
                "bottom_mm": facts.record.diameter_bottom_mm,
                "height_mm": core.height_mm,
                "diameter_mm": core.diameter_mm,
                "strain_percent": 100 * strain,
                "stress_kpa": points[-1].stress_kpa if points else None,
            },
        )
    stop: Table = ({"strain_percent": school.stop_strain_percent, "label": f"{school.stop_strain_percent:g} %"},)
    return {
        "curve": tuple(curve),
        "peak": tuple(marks),
        "secant": tuple(secant),
        "stop": stop if points else (),
        "core": shown,
        "truth": (),
    }
