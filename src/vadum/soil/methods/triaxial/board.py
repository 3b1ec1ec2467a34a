"""What the desk draws of a triaxial test: the cell with its lines and pressures, and where each specimen stands."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Outcome
from vadum.soil.contract.times import clock, span
from vadum.soil.methods.triaxial.facts import Facts, Tested
from vadum.soil.methods.triaxial.flow import consolidates, next_step, saturated_enough, specimen_words
from vadum.soil.methods.triaxial.rules import may_stop, past_peak_words
from vadum.soil.methods.triaxial.school import TriaxialSchool
from vadum.soil.shared.consolidation_picture import drawn

TALL = 190.0  # of the pressure columns
STAGES = ("made", "saturated", "consolidated", "sheared")


def _pressures(one: Tested | None) -> tuple[float | None, float | None, float | None]:
    """Cell, back and pore pressure as they stand, kPa."""
    if one is None:
        return None, None, None
    own, cell, back, pore = one.specimen, None, None, None
    for row in own.increments:
        cell = row.cell_to_kpa if known(row.cell_to_kpa) else cell
        pore = row.pore_to_kpa if known(row.pore_to_kpa) else pore
        if known(row.back_kpa):
            back = pore = row.back_kpa
    if known(own.cell_kpa):
        cell = own.cell_kpa
    if known(own.back_kpa):
        back = pore = own.back_kpa
    last = own.shear[-1] if own.shear else None
    if last is not None:
        pore = last.pore_kpa if known(last.pore_kpa) else pore
        cell = last.cell_kpa if known(last.cell_kpa) else cell
    return cell, back, pore


def _columns(facts: Facts, one: Tested | None, school: TriaxialSchool) -> dict[str, Any]:
    """The three columns of pressure, drawn to one scale, with the step that comes next."""
    cell, back, pore = _pressures(one)
    step = None
    saturating = one is not None and one.specimen.saturated is None and consolidates(school)
    if (
        saturating
        and one is not None
        and not saturated_enough(one, school)
        and (one.answers or one.specimen.mounted_at)
    ):
        step = next_step(one, facts, school)
    shown = [p for p in (cell, back, pore, *(step or ())) if p is not None]
    top = max([100.0, *shown]) * 1.08
    low = max(0.0, min(shown) - 0.35 * top) if shown and min(shown) > 0.5 * top else 0.0

    def high(value: float | None) -> float:
        return 0.0 if value is None else TALL * max(0.0, value - low) / (top - low)

    nice = next(n for n in (10, 20, 50, 100, 200, 500, 1000) if (top - low) / n <= 6)
    first = int(low / nice) + 1
    wanted = dict(zip(("cell", "back", "pore"), step, strict=True)) if step else {}
    return {
        "columns": [
            {
                "name": name,
                "value": "" if value is None else f"{value:.1f}",
                "high": high(value),
                "next": f"{wanted[name]:.1f}".removesuffix(".0") if name in wanted else "",
                "next_high": high(wanted.get(name)),
                "words": {"cell": "", "back": "then", "pore": "proves it"}[name],
            }
            for name, value in (("cell", cell), ("back", back), ("pore", pore))
        ],
        "ticks": [(high(float(nice * n)), f"{nice * n}") for n in range(first, int(top / nice) + 1)],
        "effective": "" if cell is None or pore is None else f"{cell - pore:.0f}",
        "drains": one is not None and one.specimen.drained_from_at is not None and one.specimen.consolidated is None,
    }


def _stones(one: Tested) -> list[str]:
    """Its stages as stones: done, here, ahead."""
    own = one.specimen
    done = [one.core is not None, own.saturated is not None, own.consolidated is not None, one.over]
    here = next((i for i, d in enumerate(done) if not d), len(done))
    return ["done" if d else "here" if i == here else "ahead" for i, d in enumerate(done)]


def _saturation(one: Tested | None, school: TriaxialSchool) -> dict[str, Any] | None:
    """B against the cell pressure, as it was proved step by step."""
    if one is None or not one.answers or one.specimen.saturated is not None:
        return None
    most = max(a.cell_kpa for a in one.answers) + school.increment_kpa
    return {
        "points": [
            (150 * a.cell_kpa / most, 64 * (1 - (a.b_ratio - 0.4) / 0.6)) for a in one.answers if a.b_ratio > 0.3
        ],
        "wanted": 64 * (1 - (school.least_b_ratio - 0.4) / 0.6),
        "limit": f"{school.least_b_ratio:g}",
        "now": f"{one.answers[-1].b_ratio:.2f}",
        "proved": saturated_enough(one, school),
    }


def _ready(facts: Facts, school: TriaxialSchool, now: datetime) -> dict[str, Any] | None:
    """What is made ready for the specimen after the one in hand: its membrane in water, its discs under vacuum."""
    if facts.hand is None or not consolidates(school):
        return None
    following = facts.tested[facts.hand + 1] if facts.hand + 1 < len(facts.tested) else None
    since = following.specimen.membrane_soaked_from_at if following else None
    if following is None or since is None:
        return {"n": facts.hand + 2, "since": "", "share": 0.0, "words": "soak its membrane tonight", "vacuum": ""}
    until = since + timedelta(minutes=school.membrane_soak_min)
    soaked = (now - since).total_seconds() / 60
    enough = soaked >= school.membrane_soak_min
    vacuum = following.specimen.discs_vacuum_from_at
    return {
        "n": following.row + 1,
        "since": clock(since, now),
        "share": min(1.0, max(0.0, soaked / school.membrane_soak_min)),
        "words": f"{span(school.membrane_soak_min)} ✓" if enough else f"ready {clock(until, now)}",
        "vacuum": "" if vacuum is None else clock(vacuum, now),
    }


def _draining(facts: Facts, school: TriaxialSchool, one: Tested | None) -> dict[str, Any] | None:
    if one is None or one.points or facts.quick:
        return None
    drainage, rate = one.drainage, one.needed_percent_min
    return drawn(
        drainage.readings,
        drainage.root,
        drainage.log,
        (drainage.t50_min, drainage.t90_min, drainage.t100_min),
        what="Water out",
        unit="cm³",
        path=one.path("t90_min"),
        by_hand=drainage.by_hand,
        rate="" if rate is None else f"{plain(rate, 2)} %/min, {span(school.stop_strain_percent / rate)} to the end",
    )


def board(facts: Facts, school: TriaxialSchool, outcome: Outcome, now: datetime) -> Mapping[str, Any]:
    """The cell as it stands, and the specimens."""
    one = facts.in_hand if facts.hand is not None else (facts.tested[-1] if facts.tested else None)
    last = one.points[-1] if one and one.points else None
    return {
        "cell": _columns(facts, one, school),
        "strain_ratio": 0.0 if last is None else max(-0.2, min(0.2, last.strain)),
        "said": []
        if last is None
        else [
            ("q", f"{last.deviator_kpa:.0f}", "kPa"),
            ("strain", f"{100 * last.strain:.2f}", "%"),
            *([("u rose", f"{last.rise_kpa:.0f}", "kPa")] if last.rise_kpa is not None else []),
        ],
        "passed": "" if one is None or one.over or not one.points else past_peak_words(one, school),
        "may_stop_now": one is not None and bool(one.points) and may_stop(one, school),
        "saturation": _saturation(one, school),
        "settled": _draining(facts, school, one),
        "ready_for": _ready(facts, school, now),
        "rating": "" if not known(facts.record.cell_rating_kpa) else f"{facts.record.cell_rating_kpa:g}",
        "cell_name": facts.record.triaxial_cell or "",
        "quick": facts.quick,
        "specimens": [
            {
                "n": t.row + 1,
                "pressure": t.specimen.wanted_kpa,
                "words": specimen_words(t, now),
                "stones": _stones(t) if not facts.quick else [],
                "here": facts.hand == t.row,
                "done": t.counts,
                "out": bool(t.specimen.excluded_because),
                "because": t.specimen.excluded_because,
                "row": t.row,
                "mode": t.specimen.failed_by if t.over else "",
            }
            for t in facts.tested
        ],
        "wanted_specimens": school.least_specimens,
    }
