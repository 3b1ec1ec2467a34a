"""Field vane: at each depth the strength undisturbed and remoulded, the sensitivity, and what a design takes beside."""

from collections.abc import Iterator
from typing import Any

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import error_of_mean, plain, significant_step, straight_line
from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.field_vane.facts import Facts, Tested
from vadum.soil.methods.field_vane.school import VaneSchool
from vadum.soil.methods.field_vane.vane import Divisor, Torque
from vadum.soil.shared.sensitivity import class_words, remoulded_by_liquidity_kpa, sensitivity

LEAST_ON_LINE = 3


def _renamed(torque: Torque, letter: str) -> tuple[str, dict[str, float]]:
    """A torque's formula with its inputs named after what it is."""
    formula, inputs = torque.formula, {}
    for name, value in torque.inputs.items():
        formula = " ".join(f"{name}_{letter}" if part == name else part for part in formula.split(" "))
        inputs[f"{name}_{letter}"] = value
    return formula, inputs


def _give_strength(
    results: Results, t: Tested, facts: Facts, divisor: Divisor, torque: Torque, value: float, key: str, name: str
) -> None:
    letter = "p" if key == "strength_kpa" else "r"
    formula, inputs = _renamed(torque, letter)
    if t.friction is not None:
        rod, more = _renamed(t.friction, "f")
        formula, inputs = f"{formula} - {rod}", {**inputs, **more}
    net = results.work(
        f"{t.prefix}{letter}_net_n_m", f"T_{letter}", formula, inputs, torque.n_m - _rod(t), "N·m", note=t.words
    )
    symbol = "s_v" if letter == "p" else "s_vr"
    results.give(
        f"{t.prefix}{key}",
        symbol,
        f"{name} at {t.words}",
        value,
        "kPa",
        0.1,
        "T / k",
        {"T": net, "k": divisor.n_m_kpa},
    )


def _rod(t: Tested) -> float:
    return t.friction.n_m if t.friction else 0.0


def _give_depth(results: Results, t: Tested, facts: Facts, school: VaneSchool) -> None:
    """The values of one depth."""
    divisor = facts.divisor
    if divisor is None or t.peak is None or t.strength_kpa is None:
        return
    _give_strength(results, t, facts, divisor, t.peak, t.strength_kpa, "strength_kpa", "strength")
    if t.remoulded is not None and t.remoulded_kpa is not None:
        _give_strength(results, t, facts, divisor, t.remoulded, t.remoulded_kpa, "remoulded_kpa", "remoulded")
    if t.sensitivity is not None and t.remoulded_kpa is not None and t.strength_kpa > 0:
        ratio = sensitivity(t.strength_kpa, t.remoulded_kpa)
        inputs = {"s_v": t.strength_kpa, "s_vr": t.remoulded_kpa}
        name, step = f"sensitivity at {t.words}", significant_step(ratio)
        results.give(f"{t.prefix}sensitivity_ratio", "S_t", name, ratio, "", step, "s_v / s_vr", inputs)
        words = class_words(ratio, t.remoulded_kpa, school.sensitivity_classes)
        name = f"sensitivity at {t.words} ({school.sensitivity_classes})"
        results.say(f"{t.prefix}sensitivity_class", "", name, "", words)
    if not t.counts:
        return
    if facts.mu is not None:
        value, inputs = facts.mu * t.strength_kpa, {"mu": facts.mu, "s_v": t.strength_kpa}
        name = f"design value at {t.words}, {school.design}"
        results.give(f"{t.prefix}design_kpa", "s_d", name, value, "kPa", 0.1, "mu * s_v", inputs)
    if t.noted == "fissures":
        value, inputs = school.fissured_ratio * t.strength_kpa, {"f": school.fissured_ratio, "s_v": t.strength_kpa}
        name = f"# of the fissured mass at {t.words}, a setting"
        said = f"# {value:.1f}"
        results.give(f"{t.prefix}mass_kpa", "s_m", name, value, "kPa", 0.1, "f * s_v", inputs, reported=said)
    if t.effective_kpa is not None:
        value = t.effective_kpa
        name = f"effective vertical stress at {t.words}"
        results.give(f"{t.prefix}effective_kpa", "sigma_v0", name, value, "kPa", 1, "sigma", {"sigma": value})
        if t.stress_ratio is not None:
            inputs = {"s_v": t.strength_kpa, "sigma": value}
            name = f"strength over effective stress at {t.words}"
            results.give(f"{t.prefix}stress_ratio", "s_v/sigma", name, t.stress_ratio, "", 0.01, "s_v / sigma", inputs)


def _give_mean(results: Results, facts: Facts, school: VaneSchool) -> None:
    good = facts.counting
    if facts.mean_kpa is None:
        return
    strengths = [t.strength_kpa or 0.0 for t in good]
    names = {f"s_{t.row + 1}": t.strength_kpa or 0.0 for t in good}
    name = (
        f"undrained strength at {good[0].words}"
        if len(good) == 1
        else f"undrained strength, mean of {len(good)} depths"
    )
    results.give(
        "shear_strength_kpa",
        "s_v",
        name,
        facts.mean_kpa,
        "kPa",
        school.report_to_kpa,
        f"({' + '.join(names)}) / {len(names)}",
        names,
        uncertainty=error_of_mean(strengths),
        provisional=not facts.over,
    )
    if facts.mu is not None and facts.plasticity_percent is not None:
        results.give("mu_ratio", "mu", f"factor of design, {school.design}", facts.mu, "", 0.01, "mu", {"mu": facts.mu})


def _missing(facts: Facts) -> Iterator[Missing]:
    record = facts.record
    if facts.divisor is None:
        yield Missing(name="strength", waits_for="the vane's sizes or its divisor", at="vane_diameter_mm")
    if not facts.tested:
        yield Missing(name="strength", waits_for="the first depth", at="depths")
    for t in facts.tested:
        row = record.depths[t.row]
        if t.peak is None and not row.excluded_because and row.noted not in ("sand", "gravel"):
            yield Missing(name=f"strength at {t.words}", waits_for="its greatest torque", at=f"depths[{t.row}]")
    if record.unit_weight_kn_m3 is None and not record.layers:
        yield Missing(name="effective stress", waits_for="the ground's unit weight", at="unit_weight_kn_m3")


def reduce(facts: Facts, school: VaneSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results = Results(school.standard)
    if facts.divisor is not None:
        d = facts.divisor
        results.work(
            "divisor_n_m_kpa", "k", d.formula, d.inputs, d.n_m_kpa, "N·m/kPa", note="torque for each kPa of strength"
        )
    _give_mean(results, facts, school)
    for t in facts.tested:
        if not facts.record.depths[t.row].excluded_because:
            _give_depth(results, t, facts, school)
    return Outcome(
        method="field_vane",
        school=school.name,
        values=tuple(results.values),
        missing=tuple(_missing(facts)),
        working=tuple(results.working),
        series=_series(facts, school),
    )


def _liquidity(facts: Facts, row: Any) -> float | None:
    """Liquidity index at a depth, from its own water content."""
    plastic, index, water = facts.record.plastic_limit_percent, facts.plasticity_percent, row.water_percent
    if not (known(plastic) and known(water)) or not index:
        return None
    return (water - plastic) / index


def _line(facts: Facts) -> Table:
    """The line through the part below the crust: from the weakest depth down."""
    rows = [
        (t.middle_m, t.strength_kpa) for t in facts.counting if t.middle_m is not None and t.strength_kpa is not None
    ]
    weakest = min(range(len(rows)), key=lambda i: rows[i][1], default=0)
    below = rows[weakest:]
    if len(below) < LEAST_ON_LINE:
        return ()
    try:
        line = straight_line([z for z, _ in below], [s for _, s in below])
    except ReductionError:
        return ()
    label = f"{plain(line.slope, 2)} kPa/m"
    ends = (below[0][0], below[-1][0])
    return tuple({"depth_m": z, "strength_kpa": line.at(z), "label": label if z == ends[1] else ""} for z in ends)


def _series(facts: Facts, school: VaneSchool) -> dict[str, Table]:
    profile: list[dict[str, Cell]] = []
    by_stress: list[dict[str, Cell]] = []
    by_index: list[dict[str, Cell]] = []
    ratios: list[dict[str, Cell]] = []
    for t in sorted(facts.tested, key=lambda t: t.depth_m or 0.0):
        row = facts.record.depths[t.row]
        if t.depth_m is None or t.strength_kpa is None:
            continue
        state = "counts" if t.counts else "left out"
        label = t.noted if t.noted else ""
        base: dict[str, Cell] = {"trial": t.row + 1, "depth_m": t.depth_m}
        profile.append({**base, "strength_kpa": t.strength_kpa, "kind": "undisturbed", "state": state, "label": label})
        if t.remoulded_kpa is not None:
            profile.append({**base, "strength_kpa": t.remoulded_kpa, "kind": "remoulded", "state": state, "label": ""})
        if t.sensitivity is not None and t.counts:
            ratios.append({**base, "sensitivity": t.sensitivity, "label": f"S {t.sensitivity:.1f}"})
        if t.effective_kpa is not None:
            usual = school.usual_stress_ratio
            what = f"{usual:g} of the effective stress"
            by_stress.append({**base, "strength_kpa": usual * t.effective_kpa, "what": what})
        liquidity = _liquidity(facts, row)
        if liquidity is not None:
            by_index.append(
                {
                    **base,
                    "strength_kpa": remoulded_by_liquidity_kpa(liquidity),
                    "what": "remoulded, by liquidity index",
                }
            )
    _name_first(profile, "kind")
    _name_first(by_index, "what")
    _name_first(by_stress[::-1], "what")  # at the deepest row, out of the other's way
    return {
        "profile": tuple(profile),
        "line": _line(facts),
        "sensitivity": tuple(ratios),
        "beside": (*by_stress, *by_index),
    }


def _name_first(rows: list[dict[str, Cell]], kind: str) -> None:
    """The first row of each kind bears the kind's name: the picture needs no legend."""
    named: set[Cell] = set()
    for row in rows:
        row["name"] = "" if row[kind] in named else row[kind]
        named.add(row[kind])
