"""What the desk draws of a core: its three diameters, how it shortens and bulges, the plane it failed on."""

from collections.abc import Mapping
from datetime import datetime
from math import cos, radians, sin
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.times import span
from vadum.soil.methods.unconfined_compression.facts import Facts
from vadum.soil.methods.unconfined_compression.rules import left_min, past_peak_words
from vadum.soil.methods.unconfined_compression.school import UnconfinedSchool

MIDDLE_X, FOOT_Y, TALL = 110.0, 232.0, 190.0  # of the drawing, in its own units
BULGE = 2.0  # the drawing shows the bulge twice as wide as the mean strain makes it: the eye must see it


def _outline(widths: tuple[float, float, float], top: float) -> str:
    """The core's outline through three half widths, from the top round to the top."""
    a, b, c = widths
    # A curve through the middle's half width: its control point lies twice as far out as the middle of the ends.
    bend = 2 * b - (a + c) / 2
    middle = (top + FOOT_Y) / 2
    return (
        f"M{MIDDLE_X - a:.1f} {top:.1f} Q{MIDDLE_X - bend:.1f} {middle:.1f} {MIDDLE_X - c:.1f} {FOOT_Y:.1f} "
        f"L{MIDDLE_X + c:.1f} {FOOT_Y:.1f} Q{MIDDLE_X + bend:.1f} {middle:.1f} {MIDDLE_X + a:.1f} {top:.1f} Z"
    )


def _drawn(facts: Facts) -> dict[str, Any] | None:
    core, record = facts.core, facts.record
    if core is None:
        return None
    scale = TALL / core.height_mm
    taken = (record.diameter_top_mm, record.diameter_middle_mm, record.diameter_bottom_mm)
    halves = [scale * (d if known(d) else core.diameter_mm) / 2 for d in taken]
    strain = min(max(facts.last_strain, 0.0), 0.5)
    top = FOOT_Y - TALL * (1 - strain)
    wider = 1 + BULGE * ((1 - strain) ** -0.5 - 1)
    middle = (top + FOOT_Y) / 2
    degrees = record.plane_degrees if known(record.plane_degrees) else 60.0
    reach = min(scale * core.diameter_mm * 0.75 / max(cos(radians(degrees)), 0.05), 0.62 * TALL)
    return {
        "was": _outline((halves[0], halves[1], halves[2]), FOOT_Y - TALL),
        "now": _outline((halves[0], halves[1] * wider, halves[2]), top),
        "top": top,
        "foot": FOOT_Y,
        "middle": (MIDDLE_X, middle),
        "half": max(halves),
        "diameters": [
            (words, f"{d:.1f}", y)
            for words, d, y in zip(
                ("top", "middle", "bottom"), taken, (FOOT_Y - TALL + 14, middle + 4, FOOT_Y - 6), strict=True
            )
            if known(d)
        ],
        "height": f"{core.height_mm:.1f}",
        "strain": f"{100 * strain:.2f}" if facts.points else "",
        "degrees": f"{degrees:g}",
        "reach": reach,
        "plane": (
            MIDDLE_X - reach * cos(radians(degrees)),
            middle + reach * sin(radians(degrees)),
            MIDDLE_X + reach * cos(radians(degrees)),
            middle - reach * sin(radians(degrees)),
        ),
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
