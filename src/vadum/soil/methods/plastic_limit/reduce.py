"""Plastic limit, plasticity index, liquidity and consistency index, activity; or nonplastic."""

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import error_of_mean, mean, rounded
from vadum.soil.contract.outcome import Line, Missing, Outcome, Table, Value
from vadum.soil.methods.plastic_limit.checks import checks
from vadum.soil.methods.plastic_limit.record import Record
from vadum.soil.methods.plastic_limit.schools import PlasticLimitSchool
from vadum.soil.methods.plastic_limit.threads import counting, nonplastic_because
from vadum.soil.shared.plasticity import ACTIVITY, CONSISTENCY, limits_series, liquidity_index
from vadum.soil.shared.water_by_tin import water_line


def _classed(value: float, classes: tuple[tuple[float, str], ...]) -> str:
    return next(word for limit, word in classes if value < limit)


def plasticity_index_percent(liquid_limit_percent: float, plastic_limit_percent: float) -> float:
    """`PI = LL - PL`, percentage points; raises ReductionError where it would not be positive (nonplastic).

    Source: ASTM D4318.

    >>> plasticity_index_percent(47, 22)
    25
    """
    if liquid_limit_percent <= plastic_limit_percent:
        raise ReductionError("plasticity index", f"LL {liquid_limit_percent}, PL {plastic_limit_percent}", "LL > PL")
    return liquid_limit_percent - plastic_limit_percent


def _chart(limit: float | None, index: Value | None, provisional: bool) -> dict[str, Table]:
    point: Table = ()
    if limit is not None and index is not None and index.value is not None:
        label = f"LL {rounded(limit, 1)}, PI {index.reported}"
        point = ({"ll": limit, "pi": index.value, "state": "about" if provisional else "measured", "label": label},)
    return limits_series() | {"point": point}


def _nonplastic(record: Record, school: PlasticLimitSchool, why: str) -> Outcome:
    def value(key: str, symbol: str, name: str) -> Value:
        return Value(key=key, symbol=symbol, name=name, value=None, unit="%", reported="NP")

    values: tuple[Value, ...] = (value("plasticity_index_percent", "PI", "plasticity index"),)
    if record.cannot_be_rolled == "yes":
        values = (value("plastic_limit_percent", "PL", "plastic limit"), *values)
    return Outcome(
        method="plastic_limit",
        school=school.name,
        values=values,
        verdicts=tuple(checks(record, school)),
        series=_chart(None, None, False) | {"determinations": ()},
    )


def _indices(
    record: Record, school: PlasticLimitSchool, limit: float, provisional: bool
) -> tuple[list[Value], list[Line]]:
    liquid = record.liquid_limit_percent
    if not known(liquid) or liquid <= limit:
        return [], []
    index = plasticity_index_percent(liquid, limit)
    reported = rounded(index, school.report_to_percent)
    source = "ASTM D4318"
    working = [
        Line(
            gives="plasticity_index_percent",
            symbol="PI",
            formula="LL - PL",
            inputs={"LL": liquid, "PL": limit},
            value=index,
            unit="%",
            source=source,
        )
    ]
    if school.index_from_whole_numbers:
        whole_ll, whole_pl = float(rounded(liquid, 1)), float(rounded(limit, 1))
        reported = rounded(whole_ll - whole_pl, 1)
        working.append(
            Line(
                gives="plasticity_index_reported",
                symbol="PI",
                formula="LL_whole - PL_whole",
                inputs={"LL_whole": whole_ll, "PL_whole": whole_pl},
                value=whole_ll - whole_pl,
                unit="%",
                source=source,
                note="from whole numbers, as reported",
            )
        )
    values = [
        Value(
            key="plasticity_index_percent",
            symbol="PI",
            name="plasticity index",
            value=index,
            unit="%",
            reported=reported,
            provisional=provisional,
        )
    ]
    water = record.natural_water_content_percent
    if known(water):
        liquidity = liquidity_index(water, limit, index)
        consistency = 1 - liquidity
        words = _classed(consistency, CONSISTENCY)
        inputs = {"w": water, "PL": limit, "PI": index}
        for key, symbol, name, value, formula in (
            ("liquidity_index", "LI", "liquidity index", liquidity, "(w - PL) / PI"),
            ("consistency_index", "CI", f"consistency index: {words}", consistency, "1 - (w - PL) / PI"),
        ):
            values.append(
                Value(
                    key=key,
                    symbol=symbol,
                    name=name,
                    value=value,
                    unit="",
                    reported=rounded(value, 0.01),
                    provisional=provisional,
                )
            )
            working.append(
                Line(gives=key, symbol=symbol, formula=formula, inputs=inputs, value=value, unit="", source=source)
            )
    clay = record.finer_than_2um_percent
    if known(clay) and clay > 0:
        activity = index / clay
        values.append(
            Value(
                key="activity",
                symbol="A",
                name=f"activity: {_classed(activity, ACTIVITY)}",
                value=activity,
                unit="",
                reported=rounded(activity, 0.01),
                provisional=provisional,
            )
        )
        working.append(
            Line(
                gives="activity",
                symbol="A",
                formula="PI / C",
                inputs={"PI": index, "C": clay},
                value=activity,
                unit="",
                source="Skempton (1953)",
            )
        )
    return values, working


def _missing(record: Record, school: PlasticLimitSchool) -> tuple[Missing, ...]:
    waits: list[Missing] = []
    kept = [(i, d) for i, d in enumerate(record.determinations) if not d.excluded_because]
    short = school.least_determinations - sum(d.mass_wet_g is not None for _, d in kept)
    if short > 0:
        words = f"{short} more tin{'s' if short > 1 else ''} of crumbled threads"
        waits.append(Missing(name="plastic limit", waits_for=words, at="determinations"))
    wet = [i for i, d in kept if d.mass_wet_g is not None and d.mass_dry_g is None]
    if wet:
        words = f"{len(wet)} dry tin{'s' if len(wet) > 1 else ''}"
        waits.append(Missing(name="plastic limit", waits_for=words, at=f"determinations[{wet[0]}].mass_dry_g"))
    if record.liquid_limit_percent is None:
        waits.append(Missing(name="plasticity index", waits_for="the liquid limit", at="liquid_limit_percent"))
    if record.natural_water_content_percent is None:
        waits.append(
            Missing(name="liquidity index", waits_for="the natural water content", at="natural_water_content_percent")
        )
    if record.finer_than_2um_percent is None:
        waits.append(Missing(name="activity", waits_for="the part finer than 2 µm", at="finer_than_2um_percent"))
    return tuple(waits)


def reduce(record: Record, school: PlasticLimitSchool) -> Outcome:
    """The record's limits and indices so far."""
    why = nonplastic_because(record)
    found = counting(record)
    if why and (record.cannot_be_rolled == "yes" or not found):
        return _nonplastic(record, school, why)
    values: list[Value] = []
    working: list[Line] = []
    limit: float | None = None
    index: Value | None = None
    short = len(found) < school.least_determinations
    for i, _ in found:
        row = record.determinations[i]
        if known(row.mass_tin_g) and known(row.mass_wet_g) and known(row.mass_dry_g):
            name = f"water_content_determination_{i + 1}"
            working.append(water_line(name, row.mass_wet_g, row.mass_dry_g, row.mass_tin_g))
    if found:
        contents = [content for _, content in found]
        limit = mean(contents)
        error = error_of_mean(contents)
        names = {f"w_{i + 1}": content for i, content in found}
        values.append(
            Value(
                key="plastic_limit_percent",
                symbol="PL",
                name="plastic limit",
                value=limit,
                unit="%",
                reported=rounded(limit, school.report_to_percent),
                uncertainty=error,
                provisional=short,
            )
        )
        working.append(
            Line(
                gives="plastic_limit_percent",
                symbol="PL",
                formula=f"({' + '.join(names)}) / {len(names)}",
                inputs=names,
                value=limit,
                unit="%",
                source=school.standard,
            )
        )
        if why:
            values.append(
                Value(
                    key="plasticity_index_percent",
                    symbol="PI",
                    name="plasticity index",
                    value=None,
                    unit="%",
                    reported="NP",
                    provisional=short,
                )
            )
        else:
            more, lines = _indices(record, school, limit, short)
            values += more
            working += lines
            index = next((v for v in more if v.key == "plasticity_index_percent"), None)
    rows: Table = tuple({"determination": i + 1, "w_percent": content} for i, content in found)
    return Outcome(
        method="plastic_limit",
        school=school.name,
        values=tuple(values),
        missing=_missing(record, school),
        verdicts=tuple(checks(record, school)),
        working=tuple(working),
        series=_chart(record.liquid_limit_percent if index else None, index, short) | {"determinations": rows},
    )
