"""The infiltration rate of the inner ring: the greatest steady one, the mean of the steady ones beside it."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import significant_step
from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.double_ring.facts import Facts, Rate
from vadum.soil.methods.double_ring.school import RingSchool
from vadum.soil.shared.conductivity import MM_H, at_temperature

SOURCE = "ASTM D3385"
VELOCITY = "600 * V / (A * t)"
NO_CONDUCTIVITY = "an infiltration rate, no conductivity"


def error_of(one: Rate, facts: Facts, school: RingSchool) -> float:
    """The standard uncertainty of an interval's velocity by its volume and the ring's diameter, mm/h."""
    if facts.areas is None or one.inner_cm3 <= 0:
        return 0.0
    across = facts.record.inner_diameter_mm or 1.0
    share = math.hypot(school.u_ml / one.inner_cm3, 2 * school.u_diameter_mm / across)
    return one.inner_mm_h * share


def _give_areas(results: Results, facts: Facts) -> None:
    areas, record = facts.areas, facts.record
    if areas is None:
        return
    results.work(
        "inner_area",
        "A_I",
        "pi / 4 * d**2 / 100",
        {"pi": math.pi, "d": record.inner_diameter_mm or 0.0},
        areas.inner_cm2,
        "cm²",
    )
    if areas.annulus_cm2 is not None:
        results.work(
            "annulus_area",
            "A_A",
            "pi / 4 * (D**2 - d**2) / 100",
            {"pi": math.pi, "D": record.outer_diameter_mm or 0.0, "d": record.inner_outside_diameter_mm or 0.0},
            areas.annulus_cm2,
            "cm²",
            note="inside of the outer ring less the outside of the inner",
        )


def _give_rates(results: Results, facts: Facts, school: RingSchool) -> None:
    assert facts.areas is not None
    for i, one in enumerate(facts.rates, 1):
        results.work(
            f"v{i}",
            f"V_{i}",
            VELOCITY,
            {"V": one.inner_cm3, "A": facts.areas.inner_cm2, "t": one.lasted_min},
            one.inner_mm_h,
            "mm/h",
            note=f"inner ring, up to {one.minutes:g} min",
        )


def reduce(facts: Facts, school: RingSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results = Results(SOURCE)
    _give_areas(results, facts)
    if facts.areas is not None:
        _give_rates(results, facts, school)
    missing = []
    if facts.steady is None or not facts.over:
        missing.append(Missing(name="infiltration rate", waits_for="steady intervals", at="readings"))
    if facts.steady is not None and facts.areas is not None:
        _give_steady(results, facts, school)
    return Outcome(
        method="double_ring",
        school=school.name,
        values=tuple(results.values),
        missing=tuple(missing),
        working=tuple(results.working),
        series=_series(facts, school),
    )


def _give_steady(results: Results, facts: Facts, school: RingSchool) -> None:
    assert facts.steady is not None
    assert facts.areas is not None
    until = "" if facts.over else "steady intervals"
    greatest = max(facts.steady_rates, key=lambda r: r.inner_mm_h)
    value = greatest.inner_mm_h
    u = math.hypot(error_of(greatest, facts, school), facts.steady.scatter)
    step = significant_step(value, 3)
    results.give(
        "rate_mm_h",
        "i",
        "greatest steady infiltration rate, inner ring",
        value,
        "mm/h",
        step,
        VELOCITY,
        {"V": greatest.inner_cm3, "A": facts.areas.inner_cm2, "t": greatest.lasted_min},
        note=f"{NO_CONDUCTIVITY}; up to {greatest.minutes:g} min",
        uncertainty=u,
        estimate=not facts.over,
        until=until,
    )
    results.give(
        "rate_cm_s",
        "i",
        "the same",
        value / MM_H,
        "cm/s",
        significant_step(value / MM_H, 3),
        "i / 36000",
        {"i": value},
        uncertainty=u / MM_H,
        estimate=not facts.over,
        until=until,
    )
    steady = {f"v_{i + 1}": r.inner_mm_h for i, r in enumerate(facts.steady_rates)}
    results.give(
        "mean_mm_h",
        "i_m",
        f"mean of the last {len(steady)} intervals",
        facts.steady.value,
        "mm/h",
        significant_step(facts.steady.value, 3),
        f"({' + '.join(steady)}) / {len(steady)}",
        steady,
        uncertainty=math.hypot(facts.steady.scatter, error_of(greatest, facts, school)),
        estimate=not facts.over,
        until=until,
    )
    annulus = [r.annulus_mm_h for r in facts.steady_rates if r.annulus_mm_h is not None]
    if annulus:
        mean = math.fsum(annulus) / len(annulus)
        inputs = {f"v_{i + 1}": v for i, v in enumerate(annulus)}
        results.give(
            "annulus_mm_h",
            "i_A",
            f"annulus, mean of the last {len(annulus)}",
            mean,
            "mm/h",
            significant_step(mean, 3),
            f"({' + '.join(inputs)}) / {len(annulus)}",
            inputs,
            note="beside: it is not the result",
            uncertainty=u,
            estimate=not facts.over,
            until=until,
        )
    warm = [float(r.temperature_c) for r in facts.record.readings if known(r.temperature_c)]
    mean_c = math.fsum(warm) / len(warm) if warm else None
    referred = None if school.to_c is None or mean_c is None else at_temperature(value, mean_c, school.to_c)
    if referred is not None:
        results.give(
            "rate20_mm_h",
            "i_20",
            f"the rate referred to {school.to_c:g} °C",
            referred,
            "mm/h",
            significant_step(referred, 3),
            "i * r",
            {"i": value, "r": referred / value},
            note=f"water at {mean_c:.1f} °C",
            uncertainty=u * referred / value,
            estimate=not facts.over,
            until=until,
        )


def _series(facts: Facts, school: RingSchool) -> dict[str, Table]:
    rates: list[dict[str, Cell]] = []
    for one in facts.rates:
        for ring, v in (("inner ring", one.inner_mm_h), ("annulus", one.annulus_mm_h)):
            if v is not None:
                begun = one.minutes - one.lasted_min
                rates.append({"ring": ring, "from": begun, "to": one.minutes, "mm_h": v, "row": one.row + 1})
    bands: list[dict[str, Cell]] = []
    if facts.steady is not None:
        half = facts.steady.value * school.steady_percent / 100
        first = facts.steady_rates[0]
        bands.append(
            {
                "from": first.minutes - first.lasted_min,
                "to": facts.rates[-1].minutes,
                "low": facts.steady.value - half,
                "high": facts.steady.value + half,
                "label": f"{facts.steady.value:.3g} mm/h" + ("" if facts.is_steady else ", not steady"),
            }
        )
    inner = tuple(r for r in rates if r["ring"] == "inner ring")
    return {"rates": tuple(rates), "inner": inner, "bands": tuple(bands)}
