"""The rules that judge a bearing ratio in the mould."""

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, Judge, Rule, Seen, at_most, said
from vadum.soil.contract.times import minutes_between, span
from vadum.soil.methods.cbr.facts import Facts
from vadum.soil.methods.cbr.record import BULK
from vadum.soil.methods.cbr.school import MouldSchool
from vadum.soil.shared.bearing.rules import SHARED
from vadum.soil.shared.water_by_tin import balance_in_date, full_above_empty, tins_possible, tins_told_apart

SINKS_PERCENT = -0.1  # a gauge drifts by so much: beyond, it was moved


def _near(f: Facts, s: MouldSchool) -> Seen | None:
    wanted = f.record.optimum_water_percent
    if f.water is None or not known(wanted) or f.record.mass_with_soil_g is None:
        return None
    percent, about = f.water
    held = compare.at_most(abs(percent - wanted), s.most_water_gap_percent)
    found = f"{'about ' if about else ''}{plain(percent, 3)} %, wanted {plain(wanted, 3)} %"
    return said(held, found, f"± {plain(s.most_water_gap_percent)} points")


def _dense(f: Facts, s: MouldSchool) -> Seen | None:
    most, target = f.record.maximum_dry_density_mg_m3, f.record.target_percent
    if f.dry is None or not known(most) or most <= 0 or not known(target):
        return None
    reached = 100 * f.dry[0] / most
    held = compare.at_most(abs(reached - target), s.most_target_gap_percent)
    return said(
        held, f"{plain(reached, 4)} % of the maximum", f"{plain(target)} ± {plain(s.most_target_gap_percent)} %"
    )


def _soaked(f: Facts, s: MouldSchool) -> Seen | None:
    r = f.record
    if r.condition != "soaked" or r.soak_started_at is None or r.soak_ended_at is None:
        return None
    minutes = minutes_between(r.soak_started_at, r.soak_ended_at)
    held = compare.at_least(minutes, s.least_soak_share * s.soak_days * 1440) and bool(f.swells)
    return said(held, f"{span(minutes)}, {len(f.swells)} swell readings", f"{plain(s.soak_days)} days")


def _swell(f: Facts, s: MouldSchool) -> Seen | None:
    if not f.swells:
        return None
    row, last = f.swells[-1]
    sinks = last < SINKS_PERCENT
    held = compare.at_most(last, s.most_swell_percent) and not sinks
    do = "It sank: look whether the gauge was moved." if sinks else "A swelling soil: say so beside the ratio."
    limit = f"from 0 to {plain(s.most_swell_percent)} %"
    return said(held, f"{plain(last, 2)} %", limit, (f"swell[{row}].gauge_mm",), do)


def _agree(f: Facts, s: MouldSchool) -> Seen | None:
    ratios = [p.governs.percent for p in f.pushes if p.over and p.governs and not p.governs.more_than]
    if len(ratios) < 2 or sum(ratios) <= 0:
        return None
    mean = sum(ratios) / 2
    apart = 100 * abs(ratios[0] - mean) / mean
    words = f"top {plain(ratios[0], 3)}, bottom {plain(ratios[1], 3)} %: {{}} from their mean"
    return at_most(apart, s.average_within_percent, "%", words, digits=2, limit_words="{} of the mean")


RULES: tuple[Judge, ...] = (
    *tins_told_apart("tins", "tin"),
    full_above_empty(
        "the full mould weighs more than the empty one",
        "mass_with_soil_g",
        "mould_mass_g",
        "mould",
        affects=BULK,
        do="Look at the digits; was the collar on? Strike the wrong one.",
    ),
    tins_possible("tins", "tin"),
    Rule(
        "few stones screened out",
        lambda f, s: at_most(f.record.oversize_percent, s.most_oversize_percent, "%", digits=3),
        at=("oversize_percent",),
        source="BS 1377-4",
        level="watch",
        do="The mould does not stand for this soil: test in place, or say so on the sheet.",
    ),
    Rule(
        "compacted near the wanted water content",
        _near,
        at=("optimum_water_percent",),
        source=LABORATORY,
        level="watch",
        do="The ratio belongs to the water content it was compacted at: say so on the sheet.",
    ),
    Rule(
        "as dense as wanted",
        _dense,
        at=("target_percent",),
        source=LABORATORY,
        level="watch",
        do="Compact another with more or fewer blows, or bracket the wanted density with three.",
    ),
    Rule(
        "soaked for its days",
        _soaked,
        at=("soak_ended_at",),
        level="watch",
        do="Report it as soaked for the time it was; or soak another.",
    ),
    Rule("swell small", _swell, source=LABORATORY, level="watch"),
    Rule(
        "both ends agree",
        _agree,
        at=("bottom",),
        level="watch",
        do="Both are reported, no mean; look for a harder layer or a soaked end.",
    ),
    balance_in_date,
    *SHARED,
)
