"""The bearing ratio in place, and the reaction it needs."""

from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.results import Results
from vadum.soil.methods.field_cbr.facts import Facts
from vadum.soil.methods.field_cbr.reaction import plan
from vadum.soil.methods.field_cbr.record import Record
from vadum.soil.methods.field_cbr.school import SpotSchool
from vadum.soil.shared.bearing.curve import standard_force_kn
from vadum.soil.shared.bearing.ends import all_found
from vadum.soil.shared.bearing.ratio import SOURCE, give_end, give_governing, leading, series_of, waits_for
from vadum.soil.shared.water_by_tin import measured_percent, water_line


def _give_plan(results: Results, record: Record, school: SpotSchool) -> None:
    its = plan(record, school)
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
    found = all_found(record, school)
    (one,) = found
    give_end(results, record, one, school, False)
    its = give_governing(results, one, record, school, False, "bearing_ratio_percent")
    if its is not None:
        results.say("governs", "", "which governs", "", its.sentence)
    if not one.over:
        _give_plan(results, record, school)
    for tin in record.tins[:1]:
        water = measured_percent(tin)
        if water is None:
            continue
        line = water_line("water_content_percent", tin.mass_wet_g or 0.0, tin.mass_dry_g or 0.0, tin.mass_tin_g or 0.0)
        results.give(
            "water_content_percent",
            "w",
            "water content beside",
            water,
            "%",
            0.1,
            line.formula,
            line.inputs,
            source=line.source,
        )
    return Outcome(
        method="field_cbr",
        school=school.name,
        values=leading(results.values),
        missing=tuple(waits_for(record, found, school)),
        working=tuple(results.working),
        series=series_of(record, school),
    )
