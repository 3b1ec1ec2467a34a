"""The bearing ratio in place, and the reaction it needs."""

from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.results import Results
from vadum.soil.methods.field_cbr.facts import Facts
from vadum.soil.methods.field_cbr.school import SpotSchool
from vadum.soil.shared.bearing.curve import standard_force_kn
from vadum.soil.shared.bearing.ratio import SOURCE, give_end, give_governing, leading, series_of, waits_for
from vadum.soil.shared.water_by_tin import masses_of


def _give_plan(results: Results, facts: Facts, school: SpotSchool) -> None:
    record, its = facts.record, facts.plan
    standard = standard_force_kn(its.wanted_mm)
    if its.wants_kn is not None and record.expected_percent is not None:
        results.give(
            "reaction_wanted_kn",
            "R",
            "reaction wanted",
            its.wants_kn,
            "kN",
            0.1,
            "CBR / 100 * F_s",
            {"CBR": record.expected_percent, "F_s": standard},
            note=f"to {its.wanted_mm:g} mm",
            estimate=True,
            until="a plan",
        )
    if its.lifts_percent is not None and record.axle_kn is not None:
        results.give(
            "lifts_at_percent",
            "CBR_lift",
            "the vehicle lifts at about",
            its.lifts_percent,
            "%",
            1,
            "100 * A * (1 - m / 100) / F_s",
            {"A": record.axle_kn, "m": school.reaction_margin_percent, "F_s": standard},
            note=f"to {its.wanted_mm:g} mm",
            estimate=True,
            until="a plan",
        )


def reduce(facts: Facts, school: SpotSchool) -> Outcome:
    """Everything that the readings so far allow."""
    record = facts.record
    results = Results(SOURCE)
    (one,) = facts.pushes
    if facts.sound_mm is not None:
        for ratio, order in zip(one.ratios, ("first", "second"), strict=False):
            if ratio.percent is None:
                results.withhold(f"{order}_percent", "CBR", f"ratio at {plain(ratio.at_mm)} mm", "%")
        if one.governs is None:
            results.withhold("bearing_ratio_percent", "CBR", "bearing ratio", "%")
    give_end(results, record, one, school, False)
    its = give_governing(results, record, one, school, False, "bearing_ratio_percent")
    if its is not None:
        results.say("governs", "", "which governs", "", its.sentence)
    if not one.over:
        _give_plan(results, facts, school)
    tin = masses_of(record.tins[0]) if record.tins else None
    if tin:
        results.give_water("water_content_percent", "water content beside", tin)
    return Outcome(
        method="field_cbr",
        school=school.name,
        values=leading(results.values),
        missing=tuple(waits_for(record, facts.pushes, school)),
        working=tuple(results.working),
        series=series_of(facts, school),
    )
