"""The strain modulus of both loadings with what they rest on, the subgrade reaction, and the job's limits."""

import math

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain, significant_step
from vadum.soil.contract.outcome import Missing, Outcome
from vadum.soil.contract.results import Results
from vadum.soil.methods.plate_modulus.facts import CYCLES, KPA, Curve, Facts
from vadum.soil.methods.plate_modulus.modulus import (
    Origin,
    error_of_modulus,
    settled_at,
    straight_part,
    strain_modulus,
    stress_at,
    subgrade_reaction,
)
from vadum.soil.methods.plate_modulus.record import Record
from vadum.soil.methods.plate_modulus.school import ModulusSchool
from vadum.soil.methods.plate_modulus.series import series
from vadum.soil.shared.water_by_tin import masses_of

SOURCE = "DIN 18134"
PARABOLA = "1.5 * r / (a_1 + a_2 * sigma_0max)"
UNITS = {"a0": "mm", "a1": "mm m²/MN", "a2": "mm m⁴/MN²"}
TERMS = {"a0": "start", "a1": "slope", "a2": "bend"}


def _give_fit(results: Results, name: str, words: str, curve: Curve, provisional: bool) -> None:
    """The parabola's terms with their errors, and its scatter."""
    fit = curve.fit
    if fit is None:
        return
    inputs = {"n": float(fit.n)}
    for i, (term, unit) in enumerate(UNITS.items()):
        value, error = (fit.a0, fit.a1, fit.a2)[i], fit.error_of(i)
        step = significant_step(error if error else value, 2 if error else 4)
        results.give(
            f"{name}_{term}",
            term.replace("a", "a_"),
            f"{TERMS[term]}, {words}",
            value,
            unit,
            min(step, 0.01),
            "a",
            {"a": value},
            note="least squares of s = a0 + a1 σ + a2 σ²",
            uncertainty=error,
            provisional=provisional,
        )
    if fit.residual_mm is not None:
        results.give(
            f"{name}_scatter_mm",
            "s_y",
            f"scatter, {words}",
            fit.residual_mm,
            "mm",
            0.001,
            "s",
            {"s": fit.residual_mm},
            note=f"{fit.n - 3} degree{'s' if fit.n != 4 else ''} of freedom",
            provisional=provisional,
        )
    results.work(f"{name}_points", "n", "n", inputs, inputs["n"], "", note=_choice(name, fit.n))


def _choice(name: str, n: int) -> str:
    return f"{n} points of the {'first' if name == 'first' else 'second'} loading are in the fit"


def _points_words(facts: Facts, school: ModulusSchool, name: str) -> str:
    """Which points are in a loading's fit, as its working says it."""
    if name == "first":
        return f"preload's point {'in' if school.fit_preload else 'not in'} the fit"
    return f"last unloaded point {'in' if school.fit_last_down else 'not in'} the fit"


def _modulus(
    facts: Facts, school: ModulusSchool, name: str, curve: Curve
) -> tuple[float, str, dict[str, float], float | None] | None:
    """A loading's modulus by the school: its value, formula, inputs and standard error; None while it has none."""
    r, greatest = facts.width_mm / 2, facts.greatest
    if greatest is None or school.evaluates == "subgrade reaction":
        return None
    if school.evaluates in ("parabola", "secant"):
        fit = curve.fit
        value = strain_modulus(r, fit, greatest) if fit else None
        if fit is None or value is None:
            return None
        error = error_of_modulus(r, fit, greatest)
        if school.evaluates == "parabola":
            return value, PARABOLA, {"r": r, "a_1": fit.a1, "a_2": fit.a2, "sigma_0max": greatest}, error
        low, high = (share * greatest for share in school.secant_shares)
        secant = {"r": r, "sigma_a": low, "sigma_b": high, "s_a": fit.at(low), "s_b": fit.at(high)}
        value = 1.5 * r * (high - low) / (fit.at(high) - fit.at(low))
        return value, "1.5 * r * (sigma_b - sigma_a) / (s_b - s_a)", secant, error
    if school.evaluates == "settlement":
        if not curve.sigma:
            return None
        start = curve.settled[0] if name == "again" else 0.0
        if name == "again" and len(curve.sigma) < 2:
            return None
        sank = curve.settled[-1] - start
        if not sank > 0:
            return None
        inputs = {"r": r, "p": curve.sigma[-1], "s": sank}
        return 1.5 * r * curve.sigma[-1] / sank, "1.5 * r * p / s", inputs, None
    low, high = (kpa / KPA for kpa in school.secant_kpa)
    factor, formula = 2.0 * r, "D * (sigma_b - sigma_a) / (s_b - s_a)"
    if school.evaluates == "secant of the readings":
        low, high = (share * greatest for share in school.secant_shares)
        factor, formula = 1.5 * r, "1.5 * r * (sigma_b - sigma_a) / (s_b - s_a)"
    a, b = (settled_at(curve.sigma, curve.settled, at, school.near_share) for at in (low, high))
    if a is None or b is None or not b > a:
        return None
    plate = {"D": factor} if "D *" in formula else {"r": r}
    inputs = plate | {"sigma_a": low, "sigma_b": high, "s_a": a, "s_b": b}
    return factor * (high - low) / (b - a), formula, inputs, None


def moduli(facts: Facts, school: ModulusSchool) -> tuple[float | None, float | None]:
    """The moduli of both loadings, MN/m²; None for one that is not there."""
    both = [_modulus(facts, school, name, getattr(facts, name)) for name, _, _ in CYCLES]
    return (both[0][0] if both[0] else None), (both[1][0] if both[1] and school.reloads else None)


def _give_moduli(results: Results, facts: Facts, school: ModulusSchool) -> dict[str, float]:
    found: dict[str, float] = {}
    me = school.evaluates == "two secants"
    errors: dict[str, float | None] = {}
    done = {"first": facts.ended, "again": facts.over}
    for name, symbol, words in CYCLES:
        if name == "again" and not school.reloads:
            continue
        curve: Curve = getattr(facts, name)
        if school.evaluates in ("parabola", "secant") and done[name]:
            _give_fit(results, name, words, curve, False)
        its = _modulus(facts, school, name, curve)
        if its is None:
            continue
        value, formula, inputs, error = its
        found[name], errors[name] = value, error
        key = "ev1_mn_m2" if name == "first" else "ev2_mn_m2"
        title = f"{'modulus ME' if me else 'strain modulus'}, {words}"
        shown = symbol.replace("Ev", "M_E" if me else "E_v")
        note = _points_words(facts, school, name) if school.evaluates in ("parabola", "secant") else ""
        results.give(
            key,
            shown,
            title,
            value,
            "MN/m²",
            0.1 if value < 100 else 1.0,
            formula,
            inputs,
            note=note,
            uncertainty=error,
            estimate=not done[name],
            until="the loading's end" if not done[name] else "",
        )
    if len(found) == 2 and all(modulus > 0 for modulus in found.values()):
        ratio = found["again"] / found["first"]
        shares = [(error or 0.0) / found[name] for name, error in errors.items()]
        error = ratio * math.hypot(*shares) if all(errors.values()) else None
        results.give(
            "ev_ratio",
            "E_v2/E_v1",
            "ratio of the moduli",
            ratio,
            "",
            0.01,
            "E_v2 / E_v1",
            {"E_v2": found["again"], "E_v1": found["first"]},
            uncertainty=error,
            estimate=not facts.over,
            until="the loading's end" if not facts.over else "",
        )
    return found


def _give_so_far(results: Results, facts: Facts, school: ModulusSchool) -> None:
    """Ev1 while the first loading goes on: as if it bent on like this to its greatest stress."""
    fit = facts.first.fit
    if facts.ended or fit is None or school.evaluates not in ("parabola", "secant"):
        return
    to = facts.ahead_first_kpa / KPA
    value = strain_modulus(facts.width_mm / 2, fit, to)
    if value is None:
        return
    here = strain_modulus(facts.width_mm / 2, fit, facts.first.sigma[-1])
    stopped = "" if here is None else f" Stopped here it would be {plain(here, 2)}."
    inputs = {"r": facts.width_mm / 2, "a_1": fit.a1, "a_2": fit.a2, "sigma_0max": to}
    note = f"if it bends on like this to {plain(to, 2)} MN/m².{stopped}"
    results.give(
        "ev1_mn_m2",
        "E_v1",
        "strain modulus, first loading",
        value,
        "MN/m²",
        1.0,
        PARABOLA,
        inputs,
        note=note,
        estimate=True,
        until="the first loading's end",
    )


def origin_of(facts: Facts, school: ModulusSchool) -> Origin | None:
    """The corrected origin of a modulus of subgrade reaction."""
    if school.k_at_mm is None:
        return None
    seat = [one for one in facts.steps if one.cycle == "preload" and one.counts]
    sigma = [*((one.kpa or 0.0) / KPA for one in seat), *facts.first.sigma]
    settled = [*(one.settlement_mm or 0.0 for one in seat), *facts.first.settled]
    return straight_part(sigma, settled)


def _with_seat(facts: Facts) -> tuple[list[float], list[float]]:
    seat = [one for one in facts.steps if one.cycle == "preload" and one.counts]
    sigma = [*((one.kpa or 0.0) / KPA for one in seat), *facts.first.sigma]
    return sigma, [*(one.settlement_mm or 0.0 for one in seat), *facts.first.settled]


def _give_reaction(results: Results, facts: Facts, school: ModulusSchool) -> None:
    """The modulus of subgrade reaction, with and without the corrected origin; of no narrower plate than it is for."""
    if school.evaluates != "subgrade reaction" or not facts.ended:
        return
    if facts.width_mm < school.k_width_mm:
        results.withhold("ks_mn_m3", "k_s", "modulus of subgrade reaction", "MN/m³")
        return
    sigma, settled = _with_seat(facts)
    if school.k_at_kpa is not None:
        at = school.k_at_kpa / KPA
        sank = settled_at(sigma, settled, at, school.near_share)
        if sank is None or not sank > 0:
            return
        bends = facts.record.bending_factor_ratio if known(facts.record.bending_factor_ratio) else 1.0
        wets = facts.record.saturation_factor_ratio if known(facts.record.saturation_factor_ratio) else 1.0
        inputs = {"sigma": at, "s": sank, "f_b": bends, "f_s": wets}
        results.give(
            "ks_mn_m3",
            "k",
            "modulus of subgrade reaction",
            subgrade_reaction(at, sank) * bends * wets,
            "MN/m³",
            0.1,
            "1000 * sigma / s * f_b * f_s",
            inputs,
            note="AASHTO T 222, doubtful",
            source="AASHTO T 222",
        )
        return
    at_mm = school.k_at_mm or 1.25
    plain_stress = stress_at(sigma, settled, at_mm)
    if plain_stress is not None:
        results.give(
            "ks_mn_m3",
            "k_s",
            "subgrade reaction, origin as read",
            subgrade_reaction(plain_stress, at_mm),
            "MN/m³",
            0.1,
            "1000 * sigma / s",
            {"sigma": plain_stress, "s": at_mm},
        )
    origin = origin_of(facts, school)
    if origin is None:
        return
    where = f"straight part from reading {origin.first + 1} to {origin.last + 1}"
    if origin.at_mm <= 0:
        where += ": no bedding-in before it, none is taken off"
    shift = max(0.0, origin.at_mm)
    results.give(
        "origin_mm", "s_0", "settlement at the corrected origin", shift, "mm", 0.01, "s_0", {"s_0": shift}, note=where
    )
    stress = stress_at(sigma, settled, at_mm + shift)
    if stress is not None:
        results.give(
            "ks_corrected_mn_m3",
            "k_s",
            "subgrade reaction, origin corrected",
            subgrade_reaction(stress, at_mm),
            "MN/m³",
            0.1,
            "1000 * sigma / s",
            {"sigma": stress, "s": at_mm},
            note=f"read at {at_mm + shift:.3f} mm",
        )


def limits(record: Record, ev1: float | None, ev2: float | None) -> list[tuple[str, bool]]:
    """The job's own limits, each with whether it is held: least moduli, a greatest ratio unless Ev1 waives it."""
    found: list[tuple[str, bool]] = []
    for value, least, name in ((ev1, record.least_ev1_mn_m2, "Ev1"), (ev2, record.least_ev2_mn_m2, "Ev2")):
        if value is not None and known(least):
            held = compare.at_least(value, least)
            found.append((f"{name} {plain(value, 3)} {'≥' if held else '<'} {plain(least)} MN/m²", held))
    most, waived = record.most_ev_ratio, record.ratio_waived_from_ev1_mn_m2
    if ev1 is not None and ev2 is not None and known(most):
        ratio = ev2 / ev1
        held = compare.at_most(ratio, most)
        words = f"Ev2/Ev1 {ratio:.2f} {'≤' if held else '>'} {plain(most)}"
        if not held and known(waived) and compare.at_least(ev1, waived):
            held, words = True, f"{words}, not asked from an Ev1 of {plain(waived)} MN/m²"
        found.append((words, held))
    return found


def reduce(facts: Facts, school: ModulusSchool) -> Outcome:
    """Everything that the readings so far allow."""
    record = facts.record
    results = Results(SOURCE)
    if facts.greatest is not None:
        reached = max(
            (one for one in facts.steps if one.cycle == "first" and one.kpa is not None), key=lambda one: one.kpa or 0.0
        )
        inputs = {"F": reached.load_kn or 0.0, "A": facts.plate_mm2}
        note = f"the stress reached when {facts.limit_mm:g} mm ended the loading" if facts.by_settlement else ""
        results.give(
            "sigma_0max_mn_m2",
            "σ_0max",
            "greatest stress of the first loading",
            facts.greatest,
            "MN/m²",
            0.001,
            "1000 * F / A",
            inputs,
            note=note,
        )
        sank = max((one.settlement_mm or 0.0) for one in facts.steps if one.cycle == "first")
        results.give("settlement_mm", "s_max", "settlement at it", sank, "mm", 0.01, "s", {"s": sank})
    _give_so_far(results, facts, school)
    found = _give_moduli(results, facts, school)
    _give_reaction(results, facts, school)
    if facts.over:
        held = limits(record, found.get("first"), found.get("again"))
        if held:
            good = all(h for _, h in held)
            results.say(
                "job_limits",
                "",
                "the job's limits",
                "",
                f"{'held' if good else 'not held'}: {'; '.join(w for w, _ in held)}",
            )
    if known(record.light_evd_mn_m2):
        results.give(
            "evd_mn_m2",
            "E_vd",
            "light plate beside, typed",
            record.light_evd_mn_m2,
            "MN/m²",
            0.1,
            "E_vd",
            {"E_vd": record.light_evd_mn_m2},
            source="ASTM E2835",
        )
    tin = masses_of(record.tins[0]) if record.tins else None
    if tin:
        results.give_water("water_content_percent", "water content beside", tin)
    return Outcome(
        method="plate_modulus",
        school=school.name,
        values=tuple(results.values),
        missing=tuple(_missing(facts, school)),
        working=tuple(results.working),
        series=series(facts, school),
    )


def _missing(facts: Facts, school: ModulusSchool) -> list[Missing]:
    wants = []
    if facts.greatest is None:
        wants.append(("modulus of the first loading", "the end of the first loading"))
    if school.reloads and not facts.over:
        wants.append(("modulus of the second loading", "the second loading"))
    return [Missing(name=name, waits_for=waits, at="steps") for name, waits in wants]
