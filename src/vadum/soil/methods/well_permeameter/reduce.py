"""The field-saturated conductivity of a well by each head and by both, its range by class, and a design rate."""

import math

from vadum.soil.contract.compare import at_most
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain, significant_step
from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.well_permeameter import well
from vadum.soil.methods.well_permeameter.facts import Facts, Reached
from vadum.soil.methods.well_permeameter.school import WellSchool
from vadum.soil.methods.well_permeameter.well import CLASSES
from vadum.soil.shared.conductivity import MM_H, at_temperature

SOURCE = "Reynolds and Elrick; ASTM D5126"
ONE = "36000 * C * Q / (2 * pi * H**2 + pi * a**2 * C + 2 * pi * H / alpha)"
TWO = (
    "36000 * (H_1 * C_2 * Q_2 - H_2 * C_1 * Q_1) / "
    "(pi * (2 * H_1 * H_2 * (H_2 - H_1) + a**2 * (H_1 * C_2 - H_2 * C_1)))"
)


def _step(value: float) -> float:
    return significant_step(value, 3)


def error_of(one: Reached, facts: Facts, school: WellSchool) -> float | None:
    """The relative error of a head's conductivity by its outflow, its depth of water and the hole's radius.

    Parameters: a head that gives a conductivity.
    Returns: a share; None while it gives none.
    Source: propagation through the one-head formula by small changes of each reading.
    """
    if one.kfs_cm_s is None or one.flow_cm3_s is None or one.head_cm is None or one.steady is None:
        return None

    def kfs(head_cm: float, radius_cm: float) -> float:
        shape = well.shape_factor(head_cm, radius_cm, facts.alpha)
        return well.one_head_cm_s(one.flow_cm3_s or 0.0, head_cm, radius_cm, shape, facts.alpha)

    base = kfs(one.head_cm, facts.radius_cm)
    by_head = kfs(one.head_cm + school.u_head_mm / 10, facts.radius_cm) / base - 1
    by_radius = kfs(one.head_cm, facts.radius_cm + school.u_radius_mm / 10) / base - 1
    return math.hypot(one.steady.scatter / one.steady.value, by_head, by_radius)


def _give_head(results: Results, one: Reached, facts: Facts, school: WellSchool) -> None:
    prefix = f"h{one.row + 1}_"
    if one.steady is None:
        return
    open_ = not one.over
    many = one.steady.many
    results.give(
        f"{prefix}rate_mm_min",
        "R",
        f"fall of the level, {one.words}",
        one.steady.value,
        "mm/min",
        0.01,
        "R",
        {"R": one.steady.value},
        note=f"mean of the last {many} rates",
        estimate=open_,
        until="a steady fall" if open_ else "",
        uncertainty=one.steady.scatter,
    )
    if one.kfs_cm_s is None or one.shape is None or one.flow_cm3_s is None or one.head_cm is None:
        return
    results.work(
        f"{prefix}flow",
        "Q",
        "R / 600 * X",
        {"R": one.steady.value, "X": 600 * one.flow_cm3_s / one.steady.value},
        one.flow_cm3_s,
        "cm³/s",
    )
    inputs = {
        "C": one.shape,
        "Q": one.flow_cm3_s,
        "H": one.head_cm,
        "a": facts.radius_cm,
        "alpha": facts.alpha,
        "pi": math.pi,
    }
    value = MM_H * one.kfs_cm_s
    share = error_of(one, facts, school)
    class_ = f"{'' if facts.alpha_said else '# '}α* {facts.alpha:g} per cm"
    results.give(
        f"{prefix}kfs_mm_h",
        "K_fs",
        f"conductivity, {one.words}",
        value,
        "mm/h",
        _step(value),
        ONE,
        inputs,
        note=class_,
        estimate=open_,
        until="a steady fall" if open_ else "",
        uncertainty=None if share is None else share * value,
    )


def safety_of(facts: Facts, school: WellSchool) -> tuple[float, str]:
    """The safety factor of a design: the job's, else of the table by the ratio of the layers, with where it is from."""
    record = facts.record
    if known(record.safety_ratio):
        return float(record.safety_ratio), "the job's"
    ratio = record.layers_ratio if known(record.layers_ratio) else 1.0
    found = next(factor for up_to, factor in school.safety_by_layers if at_most(ratio, up_to))
    return found, f"table, layers {plain(ratio)}" if known(record.layers_ratio) else "# table, one layer taken"


def _give_whole(results: Results, facts: Facts, school: WellSchool) -> None:
    counted = [h for h in facts.heads if h.counts]
    if facts.kfs_cm_s is None or not counted:
        return
    value = MM_H * facts.kfs_cm_s
    shares = [s for h in counted if (s := error_of(h, facts, school)) is not None]
    error = value * max(shares) if shares else None
    if facts.two is not None:
        low, high = sorted(counted[:2], key=lambda h: h.head_cm or 0.0)
        inputs = {
            "H_1": low.head_cm or 0.0,
            "H_2": high.head_cm or 0.0,
            "C_1": low.shape or 0.0,
            "C_2": high.shape or 0.0,
            "Q_1": low.flow_cm3_s or 0.0,
            "Q_2": high.flow_cm3_s or 0.0,
            "a": facts.radius_cm,
            "pi": math.pi,
        }
        results.give(
            "kfs_mm_h",
            "K_fs",
            "field-saturated conductivity, two heads",
            value,
            "mm/h",
            _step(value),
            TWO,
            inputs,
            uncertainty=error,
        )
        phi = 6000 * facts.two.phi_cm2_s
        results.give(
            "phi_m_mm2_min",
            "phi_m",
            "matric flux potential",
            phi,
            "mm²/min",
            _step(phi),
            "6000 * phi",
            {"phi": facts.two.phi_cm2_s},
        )
        alpha = facts.two.alpha_per_cm or 0.0
        results.give(
            "alpha_per_cm",
            "alpha*",
            "alpha* by both heads",
            alpha,
            "1/cm",
            0.001,
            "K / phi",
            {"K": facts.two.kfs_cm_s, "phi": facts.two.phi_cm2_s},
        )
    else:
        alone = [MM_H * (h.kfs_cm_s or 0.0) for h in counted]
        words = "one head" if len(alone) == 1 else f"{school.fall_back} mean of single heads"
        inputs = {f"K_{i + 1}": k for i, k in enumerate(alone)}
        names = list(inputs)
        formula = names[0] if len(names) == 1 else f"({' + '.join(names)}) / {len(names)}"
        if school.fall_back == "geometric" and len(names) > 1:
            formula = f"({' * '.join(names)}) ** (1 / {len(names)})"
        note = f"fall-back: {facts.two_refused}" if facts.two_refused else ""
        results.give(
            "kfs_mm_h",
            "K_fs",
            f"field-saturated conductivity, {words}",
            value,
            "mm/h",
            _step(value),
            formula,
            inputs,
            note=note,
            uncertainty=error,
        )
        phi = 6000 * facts.kfs_cm_s / facts.alpha
        results.give(
            "phi_m_mm2_min",
            "phi_m",
            "matric flux potential",
            phi,
            "mm²/min",
            _step(phi),
            "6000 * K / alpha",
            {"K": facts.kfs_cm_s, "alpha": facts.alpha},
        )
        low_k, high_k = class_range(facts)
        results.say(
            "kfs_range", "", "one class of alpha* up and down", "mm/h", f"{plain(low_k, 2)} to {plain(high_k, 2)}"
        )
    warm = facts.temperature_c
    referred = None if warm is None else at_temperature(value, warm, school.to_c)
    if referred is not None:
        results.give(
            "k20_mm_h",
            "K_20",
            f"referred to {school.to_c:g} °C",
            referred,
            "mm/h",
            _step(referred),
            "K * eta_T / eta_20",
            {"K": value, "eta_T": referred / value, "eta_20": 1.0},
            note=f"water at {warm:.1f} °C",
        )
    _give_design(results, facts, school)


def class_range(facts: Facts) -> tuple[float, float]:
    """Conductivity with alpha* of the next finer and the next coarser class, mm/h, of the first head that counts."""
    one = next(h for h in facts.heads if h.counts)
    order = sorted(CLASSES.values())
    i = order.index(facts.alpha)
    found = []
    for alpha in order[max(0, i - 1) : i + 2]:
        shape = well.shape_factor(one.head_cm or 1.0, facts.radius_cm, alpha)
        found.append(
            MM_H * well.one_head_cm_s(one.flow_cm3_s or 0.0, one.head_cm or 1.0, facts.radius_cm, shape, alpha)
        )
    return min(found), max(found)


def _give_design(results: Results, facts: Facts, school: WellSchool) -> None:
    assert facts.kfs_cm_s is not None
    factor, where = safety_of(facts, school)
    if school.design == "unit gradient":
        rate, formula, inputs = MM_H * facts.kfs_cm_s, "36000 * K / F", {"K": facts.kfs_cm_s, "F": factor}
    else:
        rate = well.infiltration_mm_h(facts.kfs_cm_s)
        formula, inputs = "(K / 6e-11) ** (1 / 3.7363) / F", {"K": facts.kfs_cm_s, "F": factor}
    value = rate / factor
    results.give(
        "design_mm_h",
        "I_d",
        "infiltration for a design",
        value,
        "mm/h",
        _step(value),
        formula,
        inputs,
        note=f"{school.design}, safety {plain(factor)}: {where}",
    )


def _series(facts: Facts, school: WellSchool) -> dict[str, Table]:
    rates: list[dict[str, Cell]] = []
    bands: list[dict[str, Cell]] = []
    for one in facts.heads:
        rates += [{"head": one.words, "minutes": r.minutes, "mm_min": r.mm_min, "row": r.row + 1} for r in one.rates]
        if one.steady is not None and one.rates:
            half = one.steady.value * school.steady_percent / 100
            start = one.rates[-one.steady.many].minutes
            bands.append(
                {
                    "head": one.words,
                    "from": start,
                    "to": one.rates[-1].minutes,
                    "low": one.steady.value - half,
                    "high": one.steady.value + half,
                    "steady": one.is_steady,
                    "label": f"{one.steady.value:.2f} mm/min" + ("" if one.is_steady else ", not steady"),
                }
            )
    return {"rates": tuple(rates), "bands": tuple(bands)}


def reduce(facts: Facts, school: WellSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results = Results(SOURCE)
    for one in facts.heads:
        _give_head(results, one, facts, school)
    _give_whole(results, facts, school)
    missing = []
    if facts.kfs_cm_s is None:
        missing.append(Missing(name="conductivity", waits_for="a steady fall", at="heads"))
    return Outcome(
        method="well_permeameter",
        school=school.name,
        values=tuple(results.values),
        missing=tuple(missing),
        working=tuple(results.working),
        series=_series(facts, school),
    )
