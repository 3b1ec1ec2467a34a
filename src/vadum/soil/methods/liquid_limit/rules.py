"""The rules that judge a liquid limit."""

from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Level, Verdict
from vadum.soil.contract.rules import LABORATORY, Judge, Rule, Seen, at_most, said
from vadum.soil.methods.liquid_limit.facts import Facts, measured_limit
from vadum.soil.methods.liquid_limit.points import abscissa, band_words
from vadum.soil.methods.liquid_limit.school import LiquidLimitSchool
from vadum.soil.shared.water_by_tin import balance_in_date, tins_possible, tins_told_apart

LIMIT = ("liquid_limit_percent",)


def _unit(school: LiquidLimitSchool) -> str:
    return "drops" if school.apparatus == "cup" else "mm"


def _device(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    r = f.record
    if r.device is None or r.device_due_on is None or r.tested_on is None:
        return None
    held = r.tested_on <= r.device_due_on
    inspected = f", inspected {r.device_inspected_on:%d %b %Y}" if r.device_inspected_on else ""
    reason = f"; used because: {r.device_reason}" if r.device_reason and not held else ""
    at = ("device",) if held or r.device_reason else ("device_reason",)
    level: Level = "watch" if r.device_reason else "redo"
    return said(held, f"{r.device}{inspected}{reason}", f"due {r.device_due_on:%d %b %Y}", at, level=level)


def _drop(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    read = f.record.device_drop_mm
    if s.apparatus != "cup" or not known(read):
        return None
    held = compare.at_most(abs(read - s.drop_height_mm), s.drop_tolerance_mm)
    return said(held, f"{plain(read)} mm", f"{plain(s.drop_height_mm)} ± {plain(s.drop_tolerance_mm)} mm")


def _range(f: Facts, s: LiquidLimitSchool) -> Iterator[Seen]:
    """Trials beyond the school's range are kept and not used; with a tin taken, that is said."""
    low, high = s.accepted
    field = "blows" if s.apparatus == "cup" else "penetration_mm"
    for i, trial in enumerate(f.record.trials):
        x = abscissa(trial, s)
        if x is not None and not trial.excluded_because and not low <= x <= high and trial.mass_wet_g is not None:
            words = f"trial {i + 1}: {plain(x)} {_unit(s)}, not used"
            yield Seen(False, words, f"{band_words(s.accepted)} {_unit(s)}", (f"trials[{i}].{field}",))


def every_band_filled(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """Each of the school's bands holds a trial, or enough points stand; the rule bears the school's way in its name."""
    f, s = facts, school
    if not any(abscissa(t, s) for t in f.record.trials) or f.record.cannot_be_found == "yes":
        return
    gone, unit = f.open_bands, _unit(s)
    found = f"open: {', '.join(band_words(b) for b in gone)}" if gone else "all filled"
    limit = f"{', '.join(band_words(b) for b in s.bands)} {unit}"
    do = f"Bring the soil to {band_words(gone[0])} {unit}." if gone else ""
    seen = said(not gone, found, limit, do=do)
    name = "a trial in each band" if s.every_band else f"{s.least_points} points or more"
    yield from Rule(name, lambda f, s: seen, at=("trials",), level="watch", affects=LIMIT)(f, s)


def _verified(f: Facts, s: LiquidLimitSchool) -> Iterator[Seen]:
    low, high = s.accepted
    limit = f"both in {band_words(s.accepted)}, within {s.verification_drops}"
    for i, trial in enumerate(f.record.trials) if s.verified else ():
        if trial.excluded_because or trial.blows is None or trial.verification_blows is None:
            continue
        inside = all(low <= n <= high for n in (trial.blows, trial.verification_blows))
        held = inside and abs(trial.blows - trial.verification_blows) <= s.verification_drops
        words = f"trial {i + 1}: {trial.verification_blows} then {trial.blows} drops"
        yield Seen(held, words, limit, (f"trials[{i}].blows",))


def target_is_between(facts: Facts, school: LiquidLimitSchool) -> Iterator[Verdict]:
    """Points stand on both sides of where the line is read, so that nothing is extrapolated."""
    x = [p.abscissa for p in facts.points if p.counts]
    if school.kind != "multipoint" or len(x) < 2:
        return
    target = plain(school.target)
    do = f"Add a trial {'below' if min(x) > school.target else 'above'} {target}."
    held = min(x) <= school.target <= max(x)
    seen = said(held, ", ".join(plain(v) for v in x), f"from {target} or less to {target} or more", do=do)
    name = f"points on both sides of {target} {_unit(school)}"
    yield from Rule(name, lambda f, s: seen, at=("trials",), affects=LIMIT)(facts, school)


def _on_line(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    """On estimates this is a watch, in time to repeat the trial."""
    if f.line is None or len(f.counting) < 3:
        return None
    off = {p.row: (p.w_percent or 0.0) - f.line.at(p.abscissa) for p in f.counting}
    # A point that is off pulls the line towards itself: only the line of the others tells which one it is.
    worst = max(off, key=lambda i: abs(f.alone.get(i, off[i])))
    held = compare.at_most(max(abs(v) for v in off.values()), s.most_residual_percent)
    about = " by water added" if f.line.estimated else ""
    apart = f", {plain(abs(f.alone[worst]), 2)} from the line of the others" if worst in f.alone else ""
    words = f"trial {worst + 1} is {plain(abs(off[worst]), 2)} points off{apart}{about}"
    do = f"Repeat trial {worst + 1}, or leave it out with a reason."
    level: Level = "watch" if f.line.estimated else "redo"
    return said(held, words, f"{plain(s.most_residual_percent)} point", (f"trials[{worst}]",), do, level)


def _straight(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    if f.line is None or len(f.counting) < 3 or f.line.estimated:
        return None
    r2 = f.line.fit.r_squared
    return said(r2 >= s.least_r_squared_ratio, f"r² = {r2:.3f}", f"{plain(s.least_r_squared_ratio)} or more")


def _spread(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    if len(f.one_point) < 2:
        return None
    words = "{} points apart" + (" by water added" if f.estimated else "")
    spread = max(f.one_point) - min(f.one_point)
    level: Level = "watch" if f.estimated else "redo"
    return at_most(spread, s.most_spread_percent, "", words, digits=2, limit_words="{} points", level=level)


def _estimates(f: Facts, s: LiquidLimitSchool) -> Iterator[Seen]:
    for p in f.points:
        if p.excluded or p.estimated or p.estimate_percent is None or p.w_percent is None:
            continue
        if not compare.at_most(abs(p.w_percent - p.estimate_percent), s.most_estimate_gap_percent):
            tin, told = plain(p.w_percent, 3), plain(p.estimate_percent, 3)
            words = f"trial {p.row + 1}: tin {tin} %, by water added {told} %"
            at = (f"trials[{p.row}].mass_dry_g",)
            yield Seen(False, words, f"{plain(s.most_estimate_gap_percent)} points", at)


def _above_plastic(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    plastic, limit = f.record.plastic_limit_percent, measured_limit(f, s)
    if not known(plastic) or limit is None:
        return None
    return said(limit > plastic, f"LL {plain(limit, 3)}, PL {plain(plastic, 3)} %", "LL > PL")


RULES: tuple[Judge, ...] = (
    *tins_told_apart("trials", "trial"),
    tins_possible("trials", "trial"),
    Rule(
        # A groove that tears, or soil that slides on the brass, has no liquid limit to be found.
        "liquid limit can be found",
        lambda f, s: (
            said(False, "groove tears or soil slides on the brass", "a groove that closes by flow")
            if f.record.cannot_be_found == "yes"
            else None
        ),
        at=("cannot_be_found",),
        level="watch",
        do="Report nonplastic (NP); the plastic limit work can be saved.",
    ),
    Rule(
        "device inspection in date",
        _device,
        source=LABORATORY,
        do="Inspect the device, or write why it is used.",
    ),
    Rule(
        "drop height",
        _drop,
        at=("device_drop_mm",),
        source="ASTM D4318, device check",
        do="Reset the drop with the gauge block and repeat the trials.",
    ),
    every_band_filled,
    target_is_between,
    Rule(
        "second closure verifies the first",
        _verified,
        level="watch",
        do="Not used: remix without water and close it twice again.",
    ),
    Rule("points lie on the line", _on_line, source=LABORATORY, affects=LIMIT),
    Rule(
        "the line explains the points",
        _straight,
        at=("trials",),
        source=LABORATORY,
        level="watch",
        do="Look for a torn groove, a crusted dish or a swapped tin.",
    ),
    Rule("trials agree", _spread, at=("trials",), do="Make another trial.", affects=LIMIT),
    Rule("closure within the range", _range, level="watch", do="No dry mass is needed for it."),
    Rule(
        "tin agrees with the water added",
        _estimates,
        source=LABORATORY,
        level="watch",
        do="Check the tin's number and the water noted.",
    ),
    Rule(
        "liquid limit above plastic limit",
        _above_plastic,
        at=("plastic_limit_percent",),
        level="stop",
        do="Report nonplastic (NP), never a negative index.",
        affects=LIMIT,
    ),
    balance_in_date,
)
