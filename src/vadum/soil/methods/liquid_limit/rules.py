"""The rules that judge a liquid limit."""

import itertools
import math
from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean, plain
from vadum.soil.contract.outcome import Level, Verdict
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_most, said
from vadum.soil.contract.times import minutes_between, span
from vadum.soil.methods.liquid_limit.facts import Facts, measured_limit
from vadum.soil.methods.liquid_limit.line import runs_right, told_apart
from vadum.soil.methods.liquid_limit.points import abscissa, band_words, penetrations, repeats_agree
from vadum.soil.methods.liquid_limit.school import LiquidLimitSchool
from vadum.soil.shared.specimen import preparation_said
from vadum.soil.shared.water_by_tin import balance_in_date, tins_possible, tins_told_apart

LIMIT = ("liquid_limit_percent",)


def _unit(school: LiquidLimitSchool) -> str:
    return "drops" if school.apparatus == "cup" else "mm"


def _device(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    r = f.record
    if r.device is None or r.device_due_on is None or r.tested_on is None:
        return None
    held = r.tested_on <= r.device_due_on and r.device_passed != "no"
    inspected = f", inspected {r.device_inspected_on:%d %b %Y}" if r.device_inspected_on else ""
    if r.device_passed == "no":
        inspected += " and not passed"
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
    held = compare.at_most(max(abs(v) for v in off.values()), f.limit_off_percent)
    about = " by water added" if f.line.estimated else ""
    level: Level = "watch" if f.line.estimated else "redo"
    limit = f"{plain(f.limit_off_percent, 2)} point" + ("s" if f.limit_off_percent != 1 else "")
    if f.swapped and not held:
        a, b = f.swapped
        words = f"trials {a + 1} and {b + 1} stand on the line in each other's place"
        do = f"Their tins look exchanged: read the numbers of the tins of trials {a + 1} and {b + 1}."
        return said(False, words, limit, (f"trials[{a}].tin", f"trials[{b}].tin"), do, level)
    worst = max(off, key=lambda i: abs(off[i]))
    blamed = told_apart(list(f.counting), s, f.limit_off_percent)
    if held or blamed is None:
        far = f"{plain(abs(off[worst]), 2)} points"
        words = (
            f"trial {worst + 1} is {far} off{about}" if held else f"the points lie up to {far} off their line{about}"
        )
        do = "They do not tell which: look at the tins' numbers, the drops and the masses; then repeat a trial."
        return said(held, words, limit, ("trials",), do, level)
    words = f"trial {blamed + 1} is {plain(abs(f.alone[blamed]), 2)} points from the line of the others{about}"
    do = f"Repeat trial {blamed + 1}, or leave it out with a reason."
    return said(False, words, limit, (f"trials[{blamed}]",), do, level)


def _runs_right(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    if f.line is None or len(f.counting) < 3 or f.line.estimated:
        return None
    held = runs_right(f.line, s)
    cup = s.apparatus == "cup"
    word = "falls" if f.line.fit.slope < 0 else "rises"
    do = "Wetter soil closes in fewer drops." if cup else "Wetter soil lets the cone in deeper."
    if f.swapped:
        do += f" The tins of trials {f.swapped[0] + 1} and {f.swapped[1] + 1} look exchanged."
    else:
        do += " Tins exchanged, or soil that dried between the trials: look at the tins' numbers."
    limit = "falling" if cup else "rising"
    against = "drops" if cup else "penetration"
    return said(held, f"water content {word} with {against}", limit, ("trials",), do)


def _apart(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    """The points span enough, and no two neighbours leave a hole."""
    x = sorted(p.abscissa for p in f.points if p.counts)
    if s.kind != "multipoint" or len(x) < max(s.least_points, 3):
        return None
    span_, unit = x[-1] - x[0], _unit(s)
    limit = f"{plain(s.least_span)} {unit} from least to most, evenly"
    if not compare.at_least(span_, s.least_span):
        low, high = s.accepted
        near = low if x[0] - low > high - x[-1] else high
        do = f"Add a point near {plain(near)} {unit}."
        return said(False, f"{plain(x[0], 3)} to {plain(x[-1], 3)} {unit}", limit, ("trials",), do)
    share = s.most_gap_share_of_three if len(x) == 3 else s.most_gap_share
    gap, at = max((b - a, a) for a, b in itertools.pairwise(x))
    # Drops are whole: a step of one more is no hole.
    allowed = share * span_ + (1 if s.apparatus == "cup" else s.repeat_mm or 0.0)
    do = f"Add a point near {plain(at + gap / 2, 3)} {unit}."
    words = f"{plain(x[0], 3)} to {plain(x[-1], 3)} {unit}, widest step {plain(gap, 3)}"
    return said(compare.at_most(gap, allowed), words, limit, ("trials",), do)


def _repeated(f: Facts, s: LiquidLimitSchool) -> Iterator[Seen]:
    if s.apparatus != "cone" or s.repeat_mm is None:
        return
    limit = f"two within {plain(s.repeat_mm)} mm, else three within {plain(s.third_mm)} mm"
    for i, trial in enumerate(f.record.trials):
        found = penetrations(trial)
        if not found or trial.excluded_because:
            continue
        words = f"trial {i + 1}: {', '.join(plain(p, 3) for p in found)} mm"
        agree = repeats_agree(trial, s)
        if agree is False:
            yield Seen(
                False, words, limit, (f"trials[{i}].penetration_mm",), "Remix this point and drop the cone again."
            )
        elif agree is None:
            next_field = "second_penetration_mm" if len(found) < 2 else "third_penetration_mm"
            do = "Refill the cup and drop the cone again before the tin is filled."
            yield Seen(False, words, limit, (f"trials[{i}].{next_field}",), do, "watch")
        else:
            yield Seen(True, words, limit)


def _countable(f: Facts, s: LiquidLimitSchool) -> Iterator[Seen]:
    for i, trial in enumerate(f.record.trials):
        if s.apparatus == "cup" and known(trial.blows) and not trial.excluded_because and trial.blows > s.most_blows:
            yield Seen(
                False, f"trial {i + 1}: {trial.blows} drops", f"{s.most_blows} or fewer", (f"trials[{i}].blows",)
            )


def _seasoned(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    since = f.record.seasoned_from_at
    closed = [t.closed_at for t in f.record.trials if t.closed_at is not None]
    if since is None or not closed:
        return None
    minutes = minutes_between(since, min(closed))
    words = f"{span(minutes)} closed before the first trial" if minutes >= 0 else "closed after the first trial"
    return said(compare.at_least(minutes, s.season_min), words, f"{span(s.season_min)} or more")


def _share_entered(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    share = f.record.finer_than_425um_percent
    if not f.points:
        return None
    return said(
        known(share), f"{plain(share, 3)} %" if known(share) else "not entered", "entered: the limit is that part's"
    )


def _straight(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    if f.line is None or len(f.counting) < 3 or f.line.estimated:
        return None
    fit = f.line.fit
    # A flat line explains little of a spread that is little: what counts is the scatter itself.
    scatter = fit.residual_sd or 0.0
    if s.fit == "loglog":
        scatter *= math.log(10) * f.line.at(s.target)
    held = fit.r_squared >= s.least_r_squared_ratio or scatter <= f.limit_off_percent / 2
    words = f"r² = {fit.r_squared:.3f}, scatter {plain(scatter, 2)} points"
    return said(held, words, f"{plain(s.least_r_squared_ratio)} or more, or {plain(f.limit_off_percent / 2, 2)} points")


def _spread(f: Facts, s: LiquidLimitSchool) -> Seen | None:
    if len(f.one_point) < 2:
        return None
    words = "{} points apart" + (" by water added" if f.estimated else "")
    spread = max(f.one_point) - min(f.one_point)
    level: Level = "watch" if f.estimated else "redo"
    most = max(s.most_spread_percent, s.most_residual_share * mean(list(f.one_point)))
    return at_most(spread, most, "", words, digits=2, limit_words="{} points", level=level)


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
    Rule(
        "the line runs as physics has it",
        _runs_right,
        source=PHYSICS,
        level="stop",
        affects=LIMIT,
    ),
    Rule("the points span the range", _apart, affects=LIMIT),
    Rule("penetrations repeated", _repeated, source="BS 1377-2"),
    Rule(
        "drops that can be counted",
        _countable,
        source=LABORATORY,
        level="watch",
        do="Far too dry, or a slip of the digits: look again; add water.",
    ),
    Rule(
        # A fat clay takes the night to draw its water in; until then it closes too late.
        "seasoned long enough",
        _seasoned,
        at=("seasoned_from_at",),
        level="watch",
        do="Say so on the sheet, or season the rest and repeat.",
    ),
    preparation_said,
    Rule(
        "share below 0.425 mm entered",
        _share_entered,
        at=("finer_than_425um_percent",),
        source=LABORATORY,
        level="watch",
        do="Weigh what stays on the sieve: reports and the liquidity index ask for it.",
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
