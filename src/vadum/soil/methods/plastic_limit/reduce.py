"""Plastic limit, plasticity index, liquidity and consistency index, activity; or nonplastic."""

from vadum.soil.contract.errors import ReductionError
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import rounded
from vadum.soil.contract.outcome import Outcome, Table, Value
from vadum.soil.contract.results import Results
from vadum.soil.methods.plastic_limit.facts import Facts
from vadum.soil.methods.plastic_limit.record import Record
from vadum.soil.methods.plastic_limit.school import PlasticLimitSchool
from vadum.soil.shared.plasticity import ACTIVITY, CONSISTENCY, limits_series, liquidity_index
from vadum.soil.shared.water_by_tin import masses_of


def _classed(value: float, classes: tuple[tuple[float, str], ...]) -> str:
    return next(word for limit, word in classes if value < limit)


def plasticity_index_percent(liquid_limit_percent: float, plastic_limit_percent: float) -> float:
    """`PI = LL - PL`, percentage points; raises ReductionError where it would not be positive (nonplastic).

    Source: ASTM D4318.

    Parameters: `liquid_limit_percent` in %; `plastic_limit_percent` in %.
    Returns: %.
    Raises: ReductionError, which needs LL > PL.

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


def _nonplastic(record: Record, school: PlasticLimitSchool) -> Outcome:
    results = Results(school.standard)
    if record.cannot_be_rolled == "yes":
        results.say("plastic_limit_percent", "PL", "plastic limit", "%", "NP")
    results.say("plasticity_index_percent", "PI", "plasticity index", "%", "NP")
    return Outcome(
        method="plastic_limit",
        school=school.name,
        values=tuple(results.values),
        series=_chart(None, None, False) | {"determinations": ()},
    )


def _indices(results: Results, facts: Facts, school: PlasticLimitSchool) -> None:
    record, liquid, index = facts.record, facts.liquid_percent, facts.index_percent
    if index is None or liquid is None or facts.limit is None:
        return
    limit, step, source = facts.limit.percent, school.report_to_percent, "ASTM D4318"
    whole_ll, whole_pl = float(rounded(liquid, 1)), float(rounded(limit, 1))
    whole = school.index_from_whole_numbers
    results.give(
        "plasticity_index_percent",
        "PI",
        "plasticity index",
        index,
        "%",
        step,
        "LL - PL",
        {"LL": liquid, "PL": limit},
        source=source,
        reported=rounded(whole_ll - whole_pl, 1) if whole else "",
    )
    if whole:
        # The sheet prints whole limits: an index formed from the unrounded ones could contradict it by one.
        results.work(
            "plasticity_index_reported",
            "PI",
            "LL_whole - PL_whole",
            {"LL_whole": whole_ll, "PL_whole": whole_pl},
            whole_ll - whole_pl,
            "%",
            source=source,
            note="from whole numbers, as reported",
        )
    water = record.natural_water_content_percent
    if known(water):
        liquidity = liquidity_index(water, limit, index)
        inputs = {"w": water, "PL": limit, "PI": index}
        formula = "(w - PL) / PI"
        results.give("liquidity_index", "LI", "liquidity index", liquidity, "", 0.01, formula, inputs, source=source)
        name, formula = f"consistency index: {_classed(1 - liquidity, CONSISTENCY)}", "1 - (w - PL) / PI"
        results.give("consistency_index", "CI", name, 1 - liquidity, "", 0.01, formula, inputs, source=source)
    clay = record.finer_than_2um_percent
    if known(clay) and clay > 0:
        name = f"activity: {_classed(index / clay, ACTIVITY)}"
        inputs = {"PI": index, "C": clay}
        results.give("activity", "A", name, index / clay, "", 0.01, "PI / C", inputs, source="Skempton (1953)")


def _determinations(results: Results, facts: Facts) -> None:
    for i, _ in facts.limit.rows if facts.limit else ():
        tin = masses_of(facts.record.determinations[i])
        if tin:
            results.working.append(tin.line(f"water_content_determination_{i + 1}"))


def reduce(facts: Facts, school: PlasticLimitSchool) -> Outcome:
    """The record's limits and indices so far."""
    record, limit = facts.record, facts.limit
    if facts.nonplastic and (record.cannot_be_rolled == "yes" or limit is None):
        return _nonplastic(record, school)
    short = limit is None or len(limit.rows) < school.least_determinations
    results = Results(school.standard, provisional=short)
    _determinations(results, facts)
    if limit is not None:
        names = {f"w_{i + 1}": content for i, content in limit.rows}
        results.give(
            "plastic_limit_percent",
            "PL",
            "plastic limit",
            limit.percent,
            "%",
            school.report_to_percent,
            f"({' + '.join(names)}) / {len(names)}",
            names,
            uncertainty=limit.error,
        )
        if facts.nonplastic:
            results.say("plasticity_index_percent", "PI", "plasticity index", "%", "NP", provisional=short)
        else:
            _indices(results, facts, school)
    index = next((v for v in results.values if v.key == "plasticity_index_percent" and v.value is not None), None)
    rows: Table = tuple({"determination": i + 1, "w_percent": w} for i, w in limit.rows) if limit else ()
    return Outcome(
        method="plastic_limit",
        school=school.name,
        values=tuple(results.values),
        working=tuple(results.working),
        series=_chart(facts.liquid_percent if index else None, index, short) | {"determinations": rows},
    )
