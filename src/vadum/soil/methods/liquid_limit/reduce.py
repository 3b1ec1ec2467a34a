"""Liquid limit from the trials: the line or the one-point formula, with its error."""

import math
from typing import NamedTuple

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean, rounded
from vadum.soil.contract.outcome import Line, Missing, Outcome, Table, Value
from vadum.soil.methods.liquid_limit.facts import Facts
from vadum.soil.methods.liquid_limit.line import FlowLine
from vadum.soil.methods.liquid_limit.one_point import one_point_factor
from vadum.soil.methods.liquid_limit.points import Point, band_words, bands_filled
from vadum.soil.methods.liquid_limit.school import PRINTED_FACTORS, LiquidLimitSchool
from vadum.soil.shared.plasticity import LIQUID_FLOOR, with_floor
from vadum.soil.shared.water_by_tin import water_line

KEY = "liquid_limit_percent"


class Given(NamedTuple):
    """Values and working that the counting points give."""

    values: list[Value]
    working: list[Line]


def _limit_value(value: float, error: float | None, estimate: bool, provisional: bool, step: float) -> Value:
    return Value(
        key=KEY,
        symbol="LL",
        name="liquid limit",
        value=value,
        unit="%",
        reported=("about " if estimate else "") + rounded(value, step),
        # Four points on a line do not make a limit certain to 0.05.
        uncertainty=None if estimate else with_floor(error, LIQUID_FLOOR),
        provisional=provisional or estimate,
        estimate=estimate,
    )


def _by_line(line: FlowLine, school: LiquidLimitSchool, provisional: bool) -> Given:
    fit = line.fit
    sums = {"n": float(fit.n), "S_x": fit.sum_x, "S_y": fit.sum_y, "S_xx": fit.sum_xx, "S_xy": fit.sum_xy}
    source = f"least squares, {school.standard}"
    x = "log10(x_0)" if school.fit in ("semilog", "loglog") else "x_0"
    read_off = f"10 ** (a + b * {x})" if school.fit == "loglog" else f"a + b * {x}"
    limit = line.at(school.target)
    values = [_limit_value(limit, line.error_at(school.target), line.estimated, provisional, school.report_to_percent)]
    working = [
        Line(
            gives="slope",
            symbol="b",
            formula="(n * S_xy - S_x * S_y) / (n * S_xx - S_x ** 2)",
            inputs=sums,
            value=fit.slope,
            unit="% per log cycle" if school.fit == "semilog" else "",
            source=source,
        ),
        Line(
            gives="intercept",
            symbol="a",
            formula="(S_y - b * S_x) / n",
            inputs={k: sums[k] for k in ("n", "S_x", "S_y")} | {"b": fit.slope},
            value=fit.intercept,
            unit="%",
            source=source,
        ),
        Line(
            gives=KEY,
            symbol="LL",
            formula=read_off,
            inputs={"a": fit.intercept, "b": fit.slope, "x_0": school.target},
            value=limit,
            unit="%",
            source=school.standard,
        ),
    ]
    error = line.error_at(school.target)
    if error is not None and fit.residual_sd is not None and school.fit != "loglog":
        x_0 = line.transformed(school.target)
        working.append(
            Line(
                gives="uncertainty",
                symbol="u",
                formula="s * sqrt(1 / n + (x_t - S_x / n) ** 2 / (S_xx - S_x ** 2 / n))",
                inputs={"s": fit.residual_sd, "n": float(fit.n), "x_t": x_0, "S_x": fit.sum_x, "S_xx": fit.sum_xx},
                value=error,
                unit="%",
                source="standard error of a fitted line",
            )
        )
    if school.fit == "semilog":
        values.append(
            Value(
                key="flow_index",
                symbol="I_f",
                name="flow index",
                value=-fit.slope,
                unit="% per log cycle",
                reported=("about " if line.estimated else "") + rounded(-fit.slope, 0.1),
                provisional=provisional or line.estimated,
                estimate=line.estimated,
            )
        )
        working.append(
            Line(
                gives="flow_index",
                symbol="I_f",
                formula="-b",
                inputs={"b": fit.slope},
                value=-fit.slope,
                unit="% per log cycle",
                source=school.standard,
            )
        )
    return Given(values, working)


def _factor_note(printed: bool, school: LiquidLimitSchool) -> str:
    if school.cone_factors:
        return "factor by penetration and water content: laboratory setting, not confirmed by the standard"
    return "printed factor" if printed else ""


def _by_one_point(counting: tuple[Point, ...], school: LiquidLimitSchool, provisional: bool) -> Given:
    values: list[Value] = []
    working: list[Line] = []
    limits = []
    for point in counting:
        content = point.w_percent or 0.0
        factor = one_point_factor(point.abscissa, school, content)
        limit = content * factor
        limits.append(limit)
        printed = bool(school.cone_factors) or (school.printed_factors and point.abscissa in PRINTED_FACTORS)
        working.append(
            Line(
                gives=f"liquid_limit_trial_{point.row + 1}",
                symbol=f"LL_{point.row + 1}",
                formula="w * k" if printed else "w * (N / N_0) ** e",
                inputs={"w": content, "k": factor}
                if printed
                else {"w": content, "N": point.abscissa, "N_0": school.target, "e": school.exponent},
                value=limit,
                unit="%",
                source=school.standard,
                note=_factor_note(printed, school),
            )
        )
    average = mean(limits)
    estimated = any(p.estimated for p in counting)
    error = None
    if len(limits) > 1:
        variance = math.fsum((x - average) ** 2 for x in limits) / (len(limits) - 1)
        error = math.sqrt(variance / len(limits))
        values.append(
            Value(
                key="spread_percent",
                symbol="R",
                name="spread of trials",
                value=max(limits) - min(limits),
                unit="%",
                reported=rounded(max(limits) - min(limits), 0.1),
                provisional=provisional or estimated,
                estimate=estimated,
            )
        )
        working.append(
            Line(
                gives="spread_percent",
                symbol="R",
                formula="LL_max - LL_min",
                inputs={"LL_max": max(limits), "LL_min": min(limits)},
                value=max(limits) - min(limits),
                unit="%",
                source="range",
            )
        )
    names = {f"LL_{p.row + 1}": x for p, x in zip(counting, limits, strict=True)}
    working.append(
        Line(
            gives=KEY,
            symbol="LL",
            formula=f"({' + '.join(names)}) / {len(names)}",
            inputs=names,
            value=average,
            unit="%",
            source=school.standard,
        )
    )
    return Given([_limit_value(average, error, estimated, provisional, school.report_to_percent), *values], working)


def _series(
    found: tuple[Point, ...], line: FlowLine | None, limit: float | None, school: LiquidLimitSchool
) -> dict[str, Table]:
    rows: Table = tuple(
        {
            "trial": p.row + 1,
            "label": f"T{p.row + 1}",
            "x": p.abscissa,
            "w_percent": p.w_percent,
            "state": "left out" if not p.counts else ("about" if p.estimated else "measured"),
        }
        for p in found
        if p.w_percent is not None
    )
    low, high = school.accepted
    drawn: Table = ()
    state = "about" if any(p.counts and p.estimated for p in found) else "measured"
    if line:
        steps = 24
        at = [low * 0.85 * (high * 1.15 / (low * 0.85)) ** (i / steps) for i in range(steps + 1)]
        drawn = tuple({"x": x, "w_percent": line.at(x), "state": state} for x in at)
    elif limit is not None and school.kind == "one_point":
        at = [low * (high / low) ** (i / 12) for i in range(13)]
        drawn = tuple({"x": x, "w_percent": limit * (school.target / x) ** school.exponent, "state": state} for x in at)
    about = "about " if state == "about" else ""
    label = "" if limit is None else f"LL {about}{rounded(limit, school.report_to_percent)} %"
    read_off: Table = ()
    if limit is not None:
        read_off = ({"x": school.target, "x_from": low * 0.8, "w_percent": limit, "label": label},)
    filled = bands_filled([p.abscissa for p in found if p.counts], school.bands)
    bands: Table = tuple(
        {"low": low, "high": high, "label": band_words((low, high)), "open": held is None}
        for (low, high), held in zip(dict.fromkeys(school.bands), filled, strict=False)
    )
    used: Table = tuple({"trial": p.row + 1, "used": p.counts} for p in found)
    return {"trials": used, "points": rows, "line": drawn, "read_off": read_off, "bands": bands}


def _missing(facts: Facts, school: LiquidLimitSchool) -> tuple[Missing, ...]:
    record = facts.record
    unit = "drops" if school.apparatus == "cup" else "mm"
    waits = [
        Missing(name="liquid limit", waits_for=f"a trial in {band_words(band)} {unit}", at="trials")
        for band in facts.open_bands
    ]
    counting = [p for p in facts.points if p.counts]
    wet = [p for p in counting if record.trials[p.row].mass_wet_g is None]
    dry = [p for p in counting if record.trials[p.row].mass_dry_g is None]
    for some, field, words in ((wet, "mass_wet_g", "wet tin"), (dry, "mass_dry_g", "dry tin")):
        if some:
            many = f"{len(some)} {words}{'s' if len(some) > 1 else ''}"
            waits.append(Missing(name="liquid limit", waits_for=many, at=f"trials[{some[0].row}].{field}"))
    return tuple(waits)


def reduce(facts: Facts, school: LiquidLimitSchool) -> Outcome:
    """The record's liquid limit so far: by its line or its one-point formula, measured or about."""
    record = facts.record
    found = facts.points
    if record.cannot_be_found == "yes":
        value = Value(
            key=KEY,
            symbol="LL",
            name="liquid limit",
            value=None,
            unit="%",
            reported="not obtainable",
            provisional=False,
        )
        return Outcome(
            method="liquid_limit",
            school=school.name,
            values=(value,),
            series=_series(found, None, None, school),
        )
    counting, line = facts.counting, facts.line
    waits = _missing(facts, school)
    provisional = bool(waits)
    result = Given([], [])
    if line:
        result = _by_line(line, school, provisional)
    elif school.kind == "one_point" and counting:
        result = _by_one_point(counting, school, provisional)
    waters: list[Line] = []
    for p in found:
        trial = record.trials[p.row]
        tin, wet, dry = trial.mass_tin_g, trial.mass_wet_g, trial.mass_dry_g
        if not p.estimated and p.w_percent is not None and known(tin) and known(wet) and known(dry):
            waters.append(water_line(f"water_content_trial_{p.row + 1}", wet, dry, tin))
    limit = next((v.value for v in result.values if v.key == KEY), None)
    return Outcome(
        method="liquid_limit",
        school=school.name,
        values=tuple(result.values),
        missing=waits,
        working=(*waters, *result.working),
        series=_series(found, line, limit, school),
    )
