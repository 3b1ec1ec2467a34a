"""The rules that judge a bearing ratio in the mould."""

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, Judge, Rule, Seen, at_least, at_most, said
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.cbr.facts import Facts
from vadum.soil.methods.cbr.record import BULK
from vadum.soil.methods.cbr.school import MouldSchool
from vadum.soil.methods.cbr.specimen import surcharge_kpa
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
    hours = minutes_between(r.soak_started_at, r.soak_ended_at) / 60
    # Hours, on both sides: 91.5 h are not "4 days".
    held = compare.within(hours, s.soak_h - s.soak_within_h, s.soak_h + s.soak_within_h) and bool(f.swells)
    words = f"{plain(hours, 4)} h, {len(f.swells)} swell readings"
    return said(held, words, f"{plain(s.soak_h)} ± {plain(s.soak_within_h)} h, swell read")


def _surcharge(f: Facts, s: MouldSchool) -> Seen | None:
    mass = f.record.surcharge_kg
    if s.least_surcharge_kg is None or not known(mass):
        return None
    return at_least(mass, s.least_surcharge_kg, "kg", f"{{}}, {plain(surcharge_kpa(mass, s.mould_diameter_mm), 3)} kPa")


def _height(f: Facts, s: MouldSchool) -> Seen | None:
    if not f.swells:
        return None
    height = f.record.specimen_height_mm
    found = f"{plain(height)} mm measured" if known(height) else f"{plain(s.height_mm)} mm of the school (#)"
    return said(known(height), found, "measured")


def _replaced(f: Facts, s: MouldSchool) -> Seen | None:
    share = f.record.oversize_percent
    if not known(share) or share <= 0:
        return None
    wanted = "replaced" if s.replaces_oversize else "left out"
    done = f.record.oversize_replaced
    if done is None:
        return said(False, f"{plain(share, 3)} % screened out, not said what was done", wanted)
    return said(done == wanted, f"{plain(share, 3)} % {done}", wanted)


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
    Rule(
        "height that swell is told of measured",
        _height,
        at=("specimen_height_mm",),
        source=LABORATORY,
        level="watch",
        do="Measure the specimen's height; until then the school's is taken.",
    ),
    Rule(
        # Less than the pavement above lets a clay swell more than it ever will.
        "surcharge enough",
        _surcharge,
        at=("surcharge_kg",),
        level="watch",
        do="Annular and slotted discs together, or as the pavement above weighs; say so on the sheet.",
    ),
    Rule(
        "stones handled as the school does",
        _replaced,
        at=("oversize_replaced",),
        level="watch",
        do="Say on the sheet whether they were left out or replaced by 4.75 to 19 mm.",
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
