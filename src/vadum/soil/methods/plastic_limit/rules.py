"""The rules that judge a plastic limit and its indices."""

from collections.abc import Iterator

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, Judge, Rule, Seen, at_least, at_most, said, within
from vadum.soil.methods.plastic_limit.facts import Facts
from vadum.soil.methods.plastic_limit.school import PlasticLimitSchool
from vadum.soil.methods.plastic_limit.threads import typed_far_too_low
from vadum.soil.shared.plasticity import u_line_percent
from vadum.soil.shared.specimen import preparation_said
from vadum.soil.shared.water_by_tin import balance_in_date, tins_possible, tins_told_apart


def _agree(f: Facts, s: PlasticLimitSchool) -> Seen | None:
    if f.limit is None or len(f.limit.rows) < 2:
        return None
    words = "{} points apart"
    if s.most_apart_of_mean_percent is None:
        # What one hand repeats is a share of the water there is: half a point at 20 is a point and a half at 60.
        most = max(s.most_apart_percent or 0.0, s.most_apart_share * f.limit.percent)
        return at_most(f.limit.apart, most, "", words, digits=3, limit_words="{} points")
    limit = s.most_apart_of_mean_percent / 100 * f.limit.percent
    of_mean = f"{plain(limit, 3)} points ({plain(s.most_apart_of_mean_percent)} % of the mean)"
    return at_most(f.limit.apart, limit, "", words, digits=3, limit_words=of_mean)


def _u_line(f: Facts, s: PlasticLimitSchool) -> Seen | None:
    index, liquid = f.index_percent, f.limits.liquid_percent if f.limits else None
    if index is None or liquid is None:
        return None
    upper = u_line_percent(liquid)
    limit = f"{plain(upper, 3)}: 0.9 (LL − 8)"
    return at_most(index, upper, "", f"PI {{}} at LL {plain(liquid, 3)} %", digits=3, limit_words=limit)


def _liquidity(f: Facts, s: PlasticLimitSchool) -> Seen | None:
    return within(f.liquidity_index, (0.0, 1.0), "", "liquidity index {}", digits=3)


def _fine_part(f: Facts, s: PlasticLimitSchool) -> Seen | None:
    if f.liquidity_index is None:
        return None
    share = f.record.finer_than_425um_percent
    found = f"{plain(share, 3)} % of the soil is below 0.425 mm" if known(share) else "taken as the whole soil's (#)"
    return said(known(share), found, "the share is known")


def _liquid_limit_slip(f: Facts, s: PlasticLimitSchool) -> Seen | None:
    if f.limits is None:
        return None
    words = f"LL {plain(f.limits.liquid_percent, 3)}, PL {plain(f.limits.plastic_percent, 3)} %"
    return said(not typed_far_too_low(f.limits), words, "near the plastic limit or above it")


def _threads(f: Facts, s: PlasticLimitSchool) -> Iterator[Seen]:
    for i, row in enumerate(f.record.determinations):
        if row.excluded_because or not (known(row.mass_wet_g) and known(row.mass_tin_g)):
            continue
        moist = row.mass_wet_g - row.mass_tin_g
        at = (f"determinations[{i}].mass_wet_g",)
        seen = at_least(moist, s.least_moist_g, "g", f"determination {i + 1}: {{}}", digits=3, at=at)
        if moist > 0 and seen:
            yield seen


RULES: tuple[Judge, ...] = (
    *tins_told_apart("determinations", "determination"),
    tins_possible("determinations", "determination"),
    Rule(
        # Nonplastic by any of the rules is reported as NP, never as a negative index.
        "soil is plastic",
        lambda f, s: said(False, f.nonplastic, "threads roll, LL exists, PL < LL") if f.nonplastic else None,
        at=("cannot_be_rolled",),
        source="ASTM D4318, AASHTO T 90",
        level="watch",
        do="Report NP.",
    ),
    Rule(
        "determinations agree",
        _agree,
        at=("determinations",),
        do="Roll another tin of threads and compare.",
    ),
    Rule(
        # Above the U-line there is hardly ever a soil: one of the two limits is suspect.
        "below the U-line",
        _u_line,
        at=("liquid_limit_percent",),
        source="ASTM D2487",
        do="Recheck both limits: tins, tares, sums.",
        level="watch",
    ),
    Rule(
        # Above 1 it flows once disturbed, below 0 it was dried, or the water is the whole soil's and not the fine
        # part's: then a gravelly clay looks far too stiff.
        "liquidity index is that of soil in place",
        _liquidity,
        at=("natural_water_content_percent",),
        source=LABORATORY,
        level="watch",
        do="Look again at the natural water content, both limits, and the share below 0.425 mm.",
    ),
    Rule(
        "the water content is that of the part below 0.425 mm",
        _fine_part,
        at=("finer_than_425um_percent",),
        source=LABORATORY,
        level="watch",
        do="Enter the share below 0.425 mm: coarse grains hold next to no water.",
    ),
    preparation_said,
    Rule(
        "a liquid limit that belongs to this plastic limit",
        _liquid_limit_slip,
        at=("liquid_limit_percent",),
        source=LABORATORY,
        level="stop",
        do="Look at the digits of the liquid limit and whose it is.",
        affects=("plasticity_index_percent",),
    ),
    Rule(
        "enough threads in the tin",
        _threads,
        level="watch",
        do="Gather more threads in this tin before it goes to the oven.",
    ),
    balance_in_date,
)
