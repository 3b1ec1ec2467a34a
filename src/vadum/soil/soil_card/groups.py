"""Results that several runs of a sample make together: three efforts, three pushes in place, several rings."""

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

from vadum.soil.contract.compare import at_most
from vadum.soil.contract.numerics import error_of_mean, mean, plain, rounded
from vadum.soil.soil_card.evidence import Evidence, Told, usable

USUAL_SHARE_PERCENT = 95.0  # of the maximum dry density, where the job names no other; laboratory setting


class Joined(NamedTuple):
    """A result of several runs: its key, name, words, unit and the runs."""

    key: str
    name: str
    reported: str
    unit: str
    codes: str


def _figure(told: Told, key: str) -> float | None:
    value = told.outcome.value(key)
    return value.value if value and value.value is not None and usable(value) and not value.provisional else None


def ratio_at_density(moulds: Sequence[tuple[float, float]], wanted_mg_m3: float) -> float | None:
    """Bearing ratio at a dry density, by straight lines between moulds; None beyond them.

    Parameters: `moulds` of (dry density in Mg/m³, ratio in %), two or more; `wanted_mg_m3` in Mg/m³.
    Returns: %; None where the wanted density lies outside the moulds: it is never read beyond them.
    Source: ASTM D1883, three efforts.

    >>> ratio_at_density([(1.80, 6.0), (1.90, 12.0), (1.98, 20.0)], 1.94)
    16.0
    """
    rows = sorted(moulds)
    for (d0, r0), (d1, r1) in pairwise(rows):
        if d0 <= wanted_mg_m3 <= d1 and d1 > d0:
            return round(r0 + (r1 - r0) * (wanted_mg_m3 - d0) / (d1 - d0), 9)
    return None


def three_efforts(evidence: Evidence) -> list[Joined]:
    """The ratio at the wanted share of the maximum density, from moulds of several efforts."""
    found = []
    for told in evidence.of("cbr"):
        ratio, dry = _figure(told, "bearing_ratio_percent"), _figure(told, "dry_density_mg_m3")
        if ratio is not None and dry is not None:
            found.append((told, dry, ratio))
    if len(found) < 2:
        return []
    most = evidence.known("compaction", "maximum_dry_density_mg_m3")
    typed = next((t.record.maximum_dry_density_mg_m3 for t, _, _ in found if t.record.maximum_dry_density_mg_m3), None)
    maximum = most.value if most else typed
    share = next((t.record.target_percent for t, _, _ in found if t.record.target_percent), USUAL_SHARE_PERCENT)
    if maximum is None:
        return []
    wanted = share / 100 * maximum
    ratio = ratio_at_density([(dry, r) for _, dry, r in found], wanted)
    codes = ", ".join(t.code for t, _, _ in found)
    name = f"bearing ratio at {plain(share)} % of the maximum, {rounded(wanted, 0.01)} Mg/m³"
    if ratio is None:
        low, high = min(d for _, d, _ in found), max(d for _, d, _ in found)
        words = f"not between the moulds, {rounded(low, 0.01)} to {rounded(high, 0.01)} Mg/m³"
        return [Joined("ratio_at_density", name, words, "", codes)]
    return [Joined("ratio_at_density", name, rounded(ratio, 1 if ratio >= 10 else 0.1), "%", codes)]


def three_in_place(evidence: Evidence) -> list[Joined]:
    """Three pushes at one spot as one result where they lie together, by the school that asks for three."""
    told = [t for t in evidence.of("field_cbr") if t.school.pushes_of_a_group]
    found = [(t.code, r) for t in told if (r := _figure(t, "bearing_ratio_percent")) is not None]
    if not found:
        return []
    school = told[0].school
    group = school.pushes_of_a_group
    three, name = found[:group], "bearing ratio in place, mean of three"
    codes = ", ".join(code for code, _ in three)
    if len(three) < group:
        left = group - len(three)
        return [Joined("ratio_of_three", name, f"{left} more at this spot", "", codes)]
    ratios = [r for _, r in three]
    middle, apart = mean(ratios), max(ratios) - min(ratios)
    limit = next((most for below, most in school.group_range_by_ratio if middle < below), None)
    if limit is not None and at_most(apart, limit):
        return [Joined("ratio_of_three", name, rounded(middle, 1), "%", codes)]
    return [Joined("ratio_of_three", name, f"apart by {plain(apart, 2)} points: three more", "", codes)]


def several_rings(evidence: Evidence) -> list[Joined]:
    """Rings of one place as one result: mean, spread, number."""
    found = [(t.code, d) for t in evidence.of("ring_density") if (d := _figure(t, "dry_density_mg_m3")) is not None]
    if len(found) < 2:
        return []
    dry = [d for _, d in found]
    spread = (error_of_mean(dry) or 0.0) * math.sqrt(len(dry))
    name = f"dry density, mean of {len(dry)} rings"
    words = f"{rounded(mean(dry), 0.01)} ± {rounded(spread, 0.01)}"
    return [Joined("mean_of_rings", name, words, "Mg/m³", ", ".join(code for code, _ in found))]
