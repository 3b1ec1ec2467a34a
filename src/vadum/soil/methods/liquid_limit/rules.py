"""The rules that judge a liquid limit."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean, plain
from vadum.soil.contract.outcome import Verdict
from vadum.soil.contract.rules import Judge
from vadum.soil.methods.liquid_limit.facts import Facts
from vadum.soil.methods.liquid_limit.line import flow_line, left_out_residuals
from vadum.soil.methods.liquid_limit.one_point import one_point_limits
from vadum.soil.methods.liquid_limit.points import abscissa, band_words, missing_bands, points
from vadum.soil.methods.liquid_limit.school import LiquidLimitSchool
from vadum.soil.shared.water_by_tin import balance_in_date, masses_possible

LIMIT = ("liquid_limit_percent",)


def _unit(school: LiquidLimitSchool) -> str:
    return "drops" if school.apparatus == "cup" else "mm"


def masses_obey_physics(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """No impossible mass in any trial that is not left out."""
    record = facts.record
    for index, trial in enumerate(record.trials):
        if not trial.excluded_because:
            yield from masses_possible(
                trial.mass_tin_g, trial.mass_wet_g, trial.mass_dry_g, f"trials[{index}].", f"trial {index + 1}"
            )


def readings_possible(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """No negative water, no closure before the first drop, no soil of no mass."""
    record = facts.record
    suspects: list[tuple[str, str, float | None, bool]] = [
        ("dry_soil_g", "soil taken", record.dry_soil_g, True),
        ("air_dry_water_percent", "its water content", record.air_dry_water_percent, False),
    ]
    for i, trial in enumerate(record.trials):
        if trial.excluded_because:
            continue
        name, at = f"trial {i + 1}: ", f"trials[{i}]."
        suspects += [
            (f"{at}water_added_ml", f"{name}water added", trial.water_added_ml, False),
            (f"{at}mass_dish_g", f"{name}dish + soil", trial.mass_dish_g, True),
            (f"{at}blows", f"{name}drops", trial.blows, True),
            (f"{at}verification_blows", f"{name}first closure", trial.verification_blows, True),
            (f"{at}penetration_mm", f"{name}penetration", trial.penetration_mm, True),
        ]
    for path, words, value, strict in suspects:
        if value is None or (known(value) and (value > 0 or (value == 0 and not strict))):
            continue
        yield Verdict(
            rule="readings are possible",
            level="stop",
            found=f"{words} reads {value}",
            limit="above 0" if strict else "0 or more",
            source="physics",
            remedy="Strike it and read again.",
            at=(path,),
        )


def soil_has_a_limit(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """A soil whose groove tears or that slides on the brass is nonplastic."""
    record = facts.record
    if record.cannot_be_found == "yes":
        yield Verdict(
            rule="liquid limit can be found",
            level="watch",
            found="groove tears or soil slides on the brass",
            limit="a groove that closes by flow",
            source=school.standard,
            remedy="Report nonplastic (NP); the plastic limit work can be saved.",
            at=("cannot_be_found",),
        )


def device_in_date(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """The device's inspection had not lapsed on the day of the test, or a reason is given."""
    record = facts.record
    if record.device is None or record.device_due_on is None or record.tested_on is None:
        return
    held = record.tested_on <= record.device_due_on
    inspected = f", inspected {record.device_inspected_on:%d %b %Y}" if record.device_inspected_on else ""
    reason = f"; used because: {record.device_reason}" if record.device_reason and not held else ""
    yield Verdict(
        rule="device inspection in date",
        level="fine" if held else ("watch" if record.device_reason else "redo"),
        found=f"{record.device}{inspected}{reason}",
        limit=f"due {record.device_due_on:%d %b %Y}",
        source="laboratory setting",
        remedy="" if held else "Inspect the device, or write why it is used.",
        at=("device",) if held or record.device_reason else ("device_reason",),
    )


def drop_height_right(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """The cup falls the height the method wants."""
    record = facts.record
    if school.apparatus != "cup" or not known(record.device_drop_mm):
        return
    off = abs(record.device_drop_mm - school.drop_height_mm)
    held = off <= school.drop_tolerance_mm + 1e-9
    yield Verdict(
        rule="drop height",
        level="fine" if held else "redo",
        found=f"{plain(record.device_drop_mm)} mm",
        limit=f"{plain(school.drop_height_mm)} ± {plain(school.drop_tolerance_mm)} mm",
        source="ASTM D4318, device check",
        remedy="" if held else "Reset the drop with the gauge block and repeat the trials.",
        at=("device_drop_mm",),
    )


def closures_within_range(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """Trials beyond the school's range are kept and not used; with a tin taken, that is said."""
    record = facts.record
    low, high = school.accepted
    outside = []
    for i, trial in enumerate(record.trials):
        x = abscissa(trial, school)
        if x is not None and not trial.excluded_because and not low <= x <= high and trial.mass_wet_g is not None:
            outside.append((i, x))
    for i, x in outside:
        yield Verdict(
            rule="closure within the range",
            level="watch",
            found=f"trial {i + 1}: {plain(x)} {_unit(school)}, not used",
            limit=f"{band_words(school.accepted)} {_unit(school)}",
            source=school.standard,
            remedy="No dry mass is needed for it.",
            at=(f"trials[{i}].blows" if school.apparatus == "cup" else f"trials[{i}].penetration_mm",),
        )


def every_band_filled(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """Each of the school's bands holds a trial, or enough points stand."""
    record = facts.record
    if not any(abscissa(t, school) for t in record.trials) or record.cannot_be_found == "yes":
        return
    missing = missing_bands(record, school)
    wanted = ", ".join(band_words(b) for b in school.bands)
    yield Verdict(
        rule="a trial in each band" if school.every_band else f"{school.least_points} points or more",
        level="watch" if missing else "fine",
        found=f"open: {', '.join(band_words(b) for b in missing)}" if missing else "all filled",
        limit=f"{wanted} {_unit(school)}",
        source=school.standard,
        remedy=f"Bring the soil to {band_words(missing[0])} {_unit(school)}." if missing else "",
        at=("trials",),
        affects=LIMIT,
    )


def both_closures_agree(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """Where the school verifies: second closure in range and close to the first."""
    record = facts.record
    if not school.verified:
        return
    for i, trial in enumerate(record.trials):
        if trial.excluded_because or trial.blows is None or trial.verification_blows is None:
            continue
        low, high = school.accepted
        apart = abs(trial.blows - trial.verification_blows)
        held = apart <= school.verification_drops and all(
            low <= n <= high for n in (trial.blows, trial.verification_blows)
        )
        yield Verdict(
            rule="second closure verifies the first",
            level="fine" if held else "watch",
            found=f"trial {i + 1}: {trial.verification_blows} then {trial.blows} drops",
            limit=f"both in {band_words(school.accepted)}, within {school.verification_drops}",
            source=school.standard,
            remedy="" if held else "Not used: remix without water and close it twice again.",
            at=(f"trials[{i}].blows",),
        )


def target_is_between(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """Points stand on both sides of where the line is read, so that nothing is extrapolated."""
    record = facts.record
    x = [p.abscissa for p in points(record, school) if p.counts]
    if school.kind != "multipoint" or len(x) < 2:
        return
    held = min(x) <= school.target <= max(x)
    unit, seen = _unit(school), ", ".join(plain(v) for v in x)
    yield Verdict(
        rule=f"points on both sides of {plain(school.target)} {unit}",
        level="fine" if held else "redo",
        found=seen,
        limit=f"from {plain(school.target)} or less to {plain(school.target)} or more",
        source=school.standard,
        remedy="" if held else f"Add a trial {'below' if min(x) > school.target else 'above'} {plain(school.target)}.",
        at=("trials",),
        affects=LIMIT,
    )


def points_on_the_line(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """No point lies farther from the line than the limit; on estimates this is a watch, in time to repeat it."""
    record = facts.record
    counting = [p for p in points(record, school) if p.counts and p.w_percent is not None]
    line = flow_line(counting, school) if school.kind == "multipoint" else None
    if line is None or len(counting) < 3:
        return
    off = {p.row: (p.w_percent or 0.0) - line.at(p.abscissa) for p in counting}
    # Leaving a point out tells which one is off when several are pulled by it.
    alone = left_out_residuals(counting, school)
    worst = max(off, key=lambda i: abs(alone.get(i, off[i])))
    held = max(abs(v) for v in off.values()) <= school.most_residual_percent
    about = " by water added" if line.estimated else ""
    apart = f", {plain(abs(alone[worst]), 2)} from the line of the others" if worst in alone else ""
    yield Verdict(
        rule="points lie on the line",
        level="fine" if held else ("watch" if line.estimated else "redo"),
        found=f"trial {worst + 1} is {plain(abs(off[worst]), 2)} points off{apart}{about}",
        limit=f"{plain(school.most_residual_percent)} point",
        source="laboratory setting",
        remedy="" if held else f"Repeat trial {worst + 1}, or leave it out with a reason.",
        at=(f"trials[{worst}]",),
        affects=LIMIT,
    )
    if not line.estimated:
        r2 = line.fit.r_squared
        straight = r2 >= school.least_r_squared_ratio
        yield Verdict(
            rule="the line explains the points",
            level="fine" if straight else "watch",
            found=f"r² = {r2:.3f}",
            limit=f"{plain(school.least_r_squared_ratio)} or more",
            source="laboratory setting",
            remedy="" if straight else "Look for a torn groove, a crusted dish or a swapped tin.",
            at=("trials",),
        )


def trials_agree(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """Where each trial gives a liquid limit: their spread."""
    record = facts.record
    if school.kind != "one_point":
        return
    counting = [p for p in points(record, school) if p.counts and p.w_percent is not None]
    if len(counting) < 2:
        return
    limits = one_point_limits(counting, school)
    spread = max(limits) - min(limits)
    held = spread <= school.most_spread_percent + 1e-9
    estimated = any(p.estimated for p in counting)
    yield Verdict(
        rule="trials agree",
        level="fine" if held else ("watch" if estimated else "redo"),
        found=f"{plain(spread, 2)} points apart" + (" by water added" if estimated else ""),
        limit=f"{plain(school.most_spread_percent)} points",
        source=school.standard,
        remedy="" if held else "Make another trial.",
        at=("trials",),
        affects=LIMIT,
    )


def estimates_agree(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """A tin far from the water added tells of a slip, in the tin or in the dish."""
    record = facts.record
    for p in points(record, school):
        if p.excluded or p.estimated or p.estimate_percent is None or p.w_percent is None:
            continue
        gap = p.w_percent - p.estimate_percent
        if abs(gap) > school.most_estimate_gap_percent:
            yield Verdict(
                rule="tin agrees with the water added",
                level="watch",
                found=f"trial {p.row + 1}: tin {plain(p.w_percent, 3)} %, "
                f"by water added {plain(p.estimate_percent, 3)} %",
                limit=f"{plain(school.most_estimate_gap_percent)} points",
                source="laboratory setting",
                remedy="Check the tin's number and the water noted.",
                at=(f"trials[{p.row}].mass_dry_g",),
            )


def above_the_plastic_limit(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """A liquid limit below the plastic limit means a nonplastic soil."""
    record = facts.record
    if not known(record.plastic_limit_percent):
        return
    counting = [p for p in points(record, school) if p.counts and p.w_percent is not None and not p.estimated]
    line = flow_line(counting, school) if school.kind == "multipoint" else None
    limit = line.at(school.target) if line else None
    if limit is None and school.kind == "one_point" and counting:
        limit = mean(one_point_limits(counting, school))
    if limit is None:
        return
    held = limit > record.plastic_limit_percent
    yield Verdict(
        rule="liquid limit above plastic limit",
        level="fine" if held else "stop",
        found=f"LL {plain(limit, 3)}, PL {plain(record.plastic_limit_percent, 3)} %",
        limit="LL > PL",
        source=school.standard,
        remedy="" if held else "Report nonplastic (NP), never a negative index.",
        at=("plastic_limit_percent",),
        affects=LIMIT,
    )


RULES: tuple[Judge, ...] = (
    masses_obey_physics,
    readings_possible,
    soil_has_a_limit,
    device_in_date,
    drop_height_right,
    every_band_filled,
    target_is_between,
    both_closures_agree,
    points_on_the_line,
    trials_agree,
    closures_within_range,
    estimates_agree,
    above_the_plastic_limit,
    balance_in_date,
)
