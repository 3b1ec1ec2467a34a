"""The bearing ratio of a moulded specimen: both ends, densities, swell."""

from vadum.soil.contract.compare import at_most
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import rounded
from vadum.soil.contract.outcome import Missing, Outcome
from vadum.soil.contract.results import Results
from vadum.soil.methods.cbr.facts import Facts
from vadum.soil.methods.cbr.school import MouldSchool
from vadum.soil.methods.cbr.specimen import height_mm, surcharge_kpa
from vadum.soil.shared.bearing.ends import Governing
from vadum.soil.shared.bearing.ratio import SO_FAR, SOURCE, give_end, give_governing, leading, series_of, waits_for
from vadum.soil.shared.bearing.school import ratio_step
from vadum.soil.shared.water_by_tin import measured_percent, water_line


def apart_percent(top: float, bottom: float) -> float:
    """How far each end lies from the mean of both, percent of the mean.

    Parameters: both ratios in %, above 0.
    Returns: %, 0 or more.
    Source: BS 1377-4.

    >>> round(apart_percent(13.17273, 14.07955), 4)
    3.3275
    """
    mean = (top + bottom) / 2
    return 100 * abs(top - mean) / mean


def _give_whole(results: Results, ends: list[tuple[str, Governing]], school: MouldSchool, over: bool) -> None:
    """The ratio of the specimen: the mean of two ends that agree, else each of them."""
    if len(ends) == 1:
        results.say("governs", "", "which governs", "", ends[0][1].sentence)
        return
    (_, top), (_, bottom) = ends
    said = f"top {top.short}, bottom {bottom.short}"
    if top.more_than or bottom.more_than or top.percent <= 0 or bottom.percent <= 0:
        results.say("governs", "", "which governs", "", f"Each end by itself, as one only proves a bound: {said}.")
        return
    apart, mean = apart_percent(top.percent, bottom.percent), (top.percent + bottom.percent) / 2
    pair = {"CBR_top": top.percent, "CBR_bottom": bottom.percent}
    results.work(
        "ends_apart_percent",
        "d",
        "100 * abs(CBR_top - CBR_bottom) / (CBR_top + CBR_bottom)",
        pair,
        apart,
        "%",
        note="each end from the mean of both",
    )
    if not at_most(apart, school.average_within_percent):
        both = " and ".join(rounded(g.percent, ratio_step(g.percent, school.rounding)) for _, g in ends)
        results.say("bearing_ratio_percent", "CBR", "bearing ratio, top and bottom", "%", f"{both} %")
        results.say(
            "governs", "", "which governs", "", f"Both, as each end lies {apart:.2g} % from their mean: {said}."
        )
        return
    results.give(
        "bearing_ratio_percent",
        "CBR",
        "bearing ratio, mean of both ends",
        mean,
        "%",
        ratio_step(mean, school.rounding),
        "(CBR_top + CBR_bottom) / 2",
        pair,
        estimate=not over,
        until=SO_FAR,
    )
    results.say(
        "governs",
        "",
        "which governs",
        "",
        f"{'The mean' if over else 'So far the mean'}, as each end lies within {apart:.2g} % of it: {said}.",
    )


def _give_specimen(results: Results, facts: Facts, school: MouldSchool) -> None:
    record, moist, water, dry = facts.record, facts.moist_mg_m3, facts.water, facts.dry
    step = school.density_to_mg_m3
    if water is not None and record.tins and not water[1]:
        tin = record.tins[0]
        line = water_line("water_content_percent", tin.mass_wet_g or 0.0, tin.mass_dry_g or 0.0, tin.mass_tin_g or 0.0)
        results.give(
            "water_content_percent",
            "w",
            "water content as compacted",
            water[0],
            "%",
            0.1,
            line.formula,
            line.inputs,
            source=line.source,
        )
    if moist is not None:
        inputs = {
            "M_2": record.mass_with_soil_g or 0.0,
            "M_1": record.mould_mass_g or 0.0,
            "V": record.mould_volume_cm3 or 1.0,
        }
        results.give("density_mg_m3", "rho", "density", moist, "Mg/m³", step, "(M_2 - M_1) / V", inputs)
    if moist is not None and water is not None and dry is not None:
        results.give(
            "dry_density_mg_m3",
            "rho_d",
            "dry density as compacted",
            dry[0],
            "Mg/m³",
            step,
            "rho / (1 + w / 100)",
            {"rho": moist, "w": water[0]},
            estimate=water[1],
        )
        most = record.maximum_dry_density_mg_m3
        if known(most) and most > 0:
            results.give(
                "compaction_percent",
                "D",
                "relative compaction",
                100 * dry[0] / most,
                "%",
                0.1,
                "100 * rho_d / rho_dmax",
                {"rho_d": dry[0], "rho_dmax": most},
                estimate=water[1],
            )
    readings = facts.swells
    if readings:
        row, swell = readings[-1]
        results.give(
            "swell_percent",
            "s",
            "swell",
            swell,
            "%",
            0.1,
            "100 * (g - g_0) / H",
            {
                "g": record.swell[row].gauge_mm or 0.0,
                "g_0": record.swell_zero_mm or 0.0,
                "H": height_mm(record, school),
            },
            note="" if known(record.specimen_height_mm) else f"# height of the school, {school.height_mm:g} mm",
            estimate=record.soak_ended_at is None,
            until=SO_FAR,
        )
    if known(record.surcharge_kg):
        diameter = school.mould_diameter_mm
        results.give(
            "surcharge_kpa",
            "q",
            "surcharge",
            surcharge_kpa(record.surcharge_kg, diameter),
            "kPa",
            0.1,
            "m * 9.80665 / (pi * (D / 1000) ** 2 / 4) / 1000",
            {"m": record.surcharge_kg, "D": diameter},
        )
    for i, words in ((1, "top end"), (2, "bottom end")):
        if len(record.tins) <= i or (after := measured_percent(record.tins[i])) is None:
            continue
        tin = record.tins[i]
        key = f"after_{'top' if i == 1 else 'bottom'}_percent"
        line = water_line(key, tin.mass_wet_g or 0.0, tin.mass_dry_g or 0.0, tin.mass_tin_g or 0.0)
        results.give(
            key,
            "w",
            f"water content after, {words}",
            after,
            "%",
            0.1,
            line.formula,
            line.inputs,
            source=line.source,
        )


def _missing(facts: Facts) -> list[Missing]:
    record, waits = facts.record, []
    if facts.moist_mg_m3 is None:
        words, at = "the mould with its soil", "mass_with_soil_g"
        if record.mould_mass_g is None or record.mould_volume_cm3 is None:
            words, at = "the mould", "mould_mass_g"
        waits.append(Missing(name="density", waits_for=words, at=at))
    if not record.tins or measured_percent(record.tins[0]) is None:
        waits.append(Missing(name="dry density", waits_for="the dry tin", at="tins[0].mass_dry_g"))
    return waits


def reduce(facts: Facts, school: MouldSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results, record, found = Results(SOURCE), facts.record, facts.pushes
    many = school.both_ends or len(found) > 1
    ends: list[tuple[str, Governing]] = []
    for one in found:
        give_end(results, record, one, school, many)
        key = f"{one.end.key}_percent" if many else "bearing_ratio_percent"
        its = give_governing(results, record, one, school, many, key)
        if its is not None:
            ends.append((one.end.key, its))
    if ends:
        _give_whole(results, ends, school, all(f.over for f in found))
    _give_specimen(results, facts, school)
    swell = tuple({"row": i + 1, "swell_percent": s} for i, s in facts.swells)
    return Outcome(
        method="cbr",
        school=school.name,
        values=leading(results.values),
        missing=(*waits_for(record, found, school), *_missing(facts)),
        working=tuple(results.working),
        series=series_of(facts, school) | {"swell": swell},
    )
