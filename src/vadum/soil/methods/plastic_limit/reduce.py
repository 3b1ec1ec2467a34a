"""Plastic limit, plasticity index, liquidity and consistency index, activity; or nonplastic."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import rounded
from vadum.soil.contract.outcome import Outcome, Table, Value
from vadum.soil.contract.results import Results
from vadum.soil.methods.plastic_limit.facts import Facts
from vadum.soil.methods.plastic_limit.record import Record
from vadum.soil.methods.plastic_limit.school import PlasticLimitSchool
from vadum.soil.methods.plastic_limit.threads import Limits
from vadum.soil.shared.plasticity import (
    ACTIVITY,
    CONSISTENCY,
    LIQUID_FLOOR,
    PLASTIC_FLOOR,
    index_uncertainty_percent,
    limits_series,
    liquidity_index,
    with_floor,
)
from vadum.soil.shared.water_by_tin import masses_of


def _classed(value: float, classes: tuple[tuple[float, str], ...]) -> str:
    return next(word for limit, word in classes if value < limit)


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
    record, limits, index = facts.record, facts.limits, facts.index_percent
    if index is None or limits is None or facts.limit is None:
        return
    source, whole = "ASTM D4318", school.index_from_whole_numbers
    exact = Limits(facts.liquid_percent or 0.0, facts.limit.percent)
    error = index_uncertainty_percent(record.liquid_limit_uncertainty_percent, facts.limit.error)
    results.give(
        "plasticity_index_percent",
        "PI",
        "plasticity index",
        exact.apart,
        "%",
        school.report_to_percent,
        "LL - PL",
        {"LL": exact.liquid_percent, "PL": exact.plastic_percent},
        source=source,
        uncertainty=error,
        reported=rounded(index, school.report_to_percent),
    )
    if whole:
        # The sheet prints whole limits: an index formed from the unrounded ones could contradict it by one.
        results.work(
            "plasticity_index_reported",
            "PI",
            "LL_whole - PL_whole",
            {"LL_whole": limits.liquid_percent, "PL_whole": limits.plastic_percent},
            index,
            "%",
            source=source,
            note="from whole numbers, as reported",
        )
    _liquidity(results, facts, exact, whole)
    clay = record.finer_than_2um_percent
    if known(clay) and clay > 0:
        name = f"activity: {_classed(index / clay, ACTIVITY)}"
        results.give(
            "activity",
            "A",
            name,
            exact.apart / clay,
            "",
            0.01,
            "PI / C",
            {"PI": exact.apart, "C": clay},
            source="Skempton (1953)",
            uncertainty=error / clay,
            reported=rounded(index / clay, 0.01),
        )


def _liquidity(results: Results, facts: Facts, exact: Limits, whole: bool) -> None:
    """Liquidity and consistency, of the part below 0.425 mm that the limits are those of; reported from the limits as
    they are reported."""
    record, water, found = facts.record, facts.water_percent, facts.liquidity_index
    if water is None or found is None or facts.limit is None:
        return
    if known(record.finer_than_425um_percent) and known(record.natural_water_content_percent):
        coarse = record.coarse_water_content_percent
        parts = {
            "w": record.natural_water_content_percent,
            "w_c": coarse if known(coarse) else 0.0,
            "P": record.finer_than_425um_percent / 100,
        }
        note = "" if known(coarse) else "# the coarse part is taken to hold no water"
        results.give(
            "fine_water_content_percent",
            "w_f",
            "water content of the part below 0.425 mm",
            water,
            "%",
            0.1,
            "(w - w_c * (1 - P)) / P",
            parts,
            source="the water of both parts adds up",
            note=note,
        )
    inputs = {"w": water, "PL": exact.plastic_percent, "PI": exact.apart}
    value = liquidity_index(water, exact.plastic_percent, exact.apart)
    # LI = (w - PL)/PI: the plastic limit stands in it twice, the liquid limit once.
    plastic = with_floor(facts.limit.error, PLASTIC_FLOOR)
    liquid = with_floor(record.liquid_limit_uncertainty_percent, LIQUID_FLOOR)
    error = math.hypot((value - 1) * plastic, value * liquid) / exact.apart
    consistency = f"consistency index: {_classed(1 - found, CONSISTENCY)}"
    formula, note = "(w - PL) / PI", "reported from the whole limits" if whole else ""
    for key, symbol, name, worth, said, worked in (
        ("liquidity_index", "LI", "liquidity index", value, found, formula),
        ("consistency_index", "CI", consistency, 1 - value, 1 - found, f"1 - {formula}"),
    ):
        results.give(
            key,
            symbol,
            name,
            worth,
            "",
            0.01,
            worked,
            inputs,
            source="ASTM D4318",
            note=note,
            uncertainty=error,
            reported=rounded(said, 0.01),
        )


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
            uncertainty=with_floor(limit.error, PLASTIC_FLOOR),
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
        series=_chart(facts.limits.liquid_percent if index and facts.limits else None, index, short)
        | {"determinations": rows},
    )
