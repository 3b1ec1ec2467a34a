"""What the desk draws of a core: its three diameters, how it shortens and bulges, the plane it failed on."""

import math
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.times import span
from vadum.soil.methods.unconfined_compression.core import area_at_mm2
from vadum.soil.methods.unconfined_compression.facts import Facts
from vadum.soil.methods.unconfined_compression.rules import left_min, past_peak_words
from vadum.soil.methods.unconfined_compression.school import UnconfinedSchool

PLANE_DEGREES = 60.0  # where a plane is drawn until it is dragged to its angle
MOST_STRAIN = 0.5


def _drawn(facts: Facts) -> dict[str, Any] | None:
    """The core's shape as shares of its height: its three diameters, how far it has shortened, how it has widened."""
    core, record = facts.core, facts.record
    if core is None:
        return None
    taken = (record.diameter_top_mm, record.diameter_middle_mm, record.diameter_bottom_mm)
    shape = [(d if known(d) else core.diameter_mm) / core.height_mm for d in taken]
    strain = min(max(facts.last_strain, 0.0), MOST_STRAIN)
    wider = math.sqrt(area_at_mm2(core.area_mm2, strain) / core.area_mm2)
    return {
        "width_ratios": shape,
        "diameters": [f"{d:.1f}" if known(d) else "" for d in taken],
        "height": f"{core.height_mm:.1f}",
        "strain_ratio": strain,
        "wider_ratio": wider,
        "degrees": f"{record.plane_degrees if known(record.plane_degrees) else PLANE_DEGREES:g}",
    }


def _said(facts: Facts, school: UnconfinedSchool, now: datetime) -> list[tuple[str, str, str, str]]:
    """What the eye must catch while it runs: a name, a number, its unit, and a word where the number asks for one."""
    if not facts.points:
        return []
    said = [
        ("stress", f"{facts.points[-1].stress_kpa:.0f}", "kPa", ""),
        ("strain", f"{100 * facts.last_strain:.2f}", "%", f"stops at {school.stop_strain_percent:g} %"),
    ]
    peak = facts.peak
    if peak is None or peak.stress_kpa <= 0:
        return said
    word = f"at {100 * peak.strain:.1f} % strain"
    if not facts.over:
        word = past_peak_words(facts, school) or word
    said.insert(1, ("greatest", f"{peak.stress_kpa:.0f}", "kPa", word))
    left = left_min(facts, school, now)
    if left is not None and not facts.over:
        word = f"of {span(school.most_failure_min)} to failure"
        said.append(("left", span(left) if left > 0 else "over", "", word))
    return said


def board(facts: Facts, school: UnconfinedSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The core as it stands in the frame, and what its curve says now."""
    return {
        "core": _drawn(facts),
        "said": _said(facts, school, now),
        "tested": bool(facts.points),
        "modes": ("bulge", "one plane", "several planes", "split"),
    }
