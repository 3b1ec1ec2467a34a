"""Values, working and series of the pushes, as both methods report them."""

import itertools
import math

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain, rounded
from vadum.soil.contract.outcome import Cell, Missing, Table, Value
from vadum.soil.contract.results import Results
from vadum.soil.shared.bearing.curve import STANDARD_CURVE, STANDARD_STRESS_MPA, force_at_kn
from vadum.soil.shared.bearing.ends import (
    EndResult,
    Governing,
    PushFacts,
    Ratio,
    diameter_of,
    reference_kn,
)
from vadum.soil.shared.bearing.record import BearingRecord
from vadum.soil.shared.bearing.school import BearingSchool, ratio_step
from vadum.soil.shared.proving_ring import ring_force_kn

SO_FAR = "so far"
ABOVE = 0.08  # of the largest force: the marks of two ends often share a zero, so the second stands above the first
BESIDE_MM = 0.1  # how far before the read-off the slope is taken
SOURCE = "BS 1377-4, BS 1377-9, ASTM D1883"


def _name(found: EndResult, many: bool) -> str:
    return f", {found.end.words}" if many else ""


def give_force(results: Results, record: BearingRecord, found: EndResult, at_mm: float, symbol: str) -> float | None:
    """The force at a corrected penetration with the two readings it lies between; None beyond the record.

    Parameters: `at_mm` after the zero correction, mm.
    Returns: kN; None beyond the record: it is not extrapolated.
    Source: BS 1377-4, ASTM D1883: the curve through the readings.
    """
    at = at_mm + found.shift_mm
    for a, b in itertools.pairwise(found.points):
        if a.penetration_mm <= at <= b.penetration_mm:
            value = a.force_kn + (b.force_kn - a.force_kn) * (at - a.penetration_mm) / (
                b.penetration_mm - a.penetration_mm
            )
            return results.work(
                f"{found.end.prefix}{symbol}",
                symbol,
                "F_a + (F_b - F_a) * (p + shift - p_a) / (p_b - p_a)",
                {
                    "F_a": a.force_kn,
                    "F_b": b.force_kn,
                    "p": at_mm,
                    "shift": found.shift_mm,
                    "p_a": a.penetration_mm,
                    "p_b": b.penetration_mm,
                },
                value,
                "kN",
                note=f"readings {a.row + 1} and {b.row + 1}",
            )
    return None


def _give_zero(results: Results, found: EndResult, many: bool) -> None:
    end, zero = found.end, found.computed
    if zero is None:
        return
    if zero.shift_mm > 0:
        force = zero.slope_kn_mm * (zero.at_mm - zero.shift_mm)
        inputs = {"p_t": zero.at_mm, "F_t": force, "k": zero.slope_kn_mm}
        results.work(
            f"{end.prefix}computed_zero_mm",
            "p_0",
            "p_t - F_t / k",
            inputs,
            zero.shift_mm,
            "mm",
            note=f"steepest tangent, {zero.why}",
        )
    if found.by == "computed" and zero.shift_mm == 0:
        note = f"no correction: the curve {zero.why}" if zero.why != "too short" else "too few readings for a tangent"
    elif found.by == "analyst":
        note = f"drawn by the analyst ({end.zero_because or 'no reason given'}); computed {plain(zero.shift_mm, 3)} mm"
    else:
        note = "found by the program"
    results.give(
        f"{end.prefix}zero_correction_mm",
        "p_0",
        f"zero correction{_name(found, many)}",
        found.shift_mm,
        "mm",
        0.01,
        "p_0",
        {"p_0": found.shift_mm},
        note=note,
        estimate=not found.over,
        until=SO_FAR,
    )


def _give_force_of_a_division(results: Results, record: BearingRecord, found: EndResult) -> None:
    """How the first read-off's neighbours became forces: one worked reading stands for all."""
    ring = record.ring()
    point = next((p for p in reversed(found.points) if known(found.end.rows[p.row].ring_div)), None)
    if ring is None or point is None:
        return
    divisions = found.end.rows[point.row].ring_div or 0.0
    seated = found.end.seated_div if known(found.end.seated_div) else 0.0
    if ring.table:
        results.work(
            f"{found.end.prefix}force_kn",
            "F",
            "F_ring - F_seated",
            {"F_ring": ring_force_kn(ring, divisions), "F_seated": ring_force_kn(ring, seated)},
            point.force_kn,
            "kN",
            note=f"reading {point.row + 1}: {divisions:g} divisions, straight line in the ring's table",
        )
    else:
        results.work(
            f"{found.end.prefix}force_kn",
            "F",
            "(d - d_0) * k / 1000",
            {"d": divisions, "d_0": seated, "k": ring.factor_n_div or 0.0},
            point.force_kn,
            "kN",
            note=f"reading {point.row + 1}; d_0 is the reading once seated",
        )


def ratio_error(found: EndResult, ratio: Ratio, record: BearingRecord, school: BearingSchool) -> float | None:
    """Standard uncertainty of a ratio: force by its calibration and its division, place by `u_F = (dF/dp) u_p`.

    Parameters: `found` the push; `ratio` at one of the two penetrations; `record` its ring; `school` the errors.
    Returns: % of bearing ratio; None where there is no ratio.
    Source: propagation of errors; the gauges' own are laboratory settings.
    """
    if ratio.percent is None or ratio.force_kn is None or found.curve is None or ratio.force_kn <= 0:
        return None
    before = force_at_kn(found.curve, ratio.at_mm - BESIDE_MM, found.shift_mm)
    slope = (ratio.force_kn - before) / BESIDE_MM if before is not None else 0.0
    factor = record.ring_factor_n_div
    division = factor / 1000 / math.sqrt(12) if known(factor) else 0.0
    force = math.hypot(school.force_error_percent / 100 * ratio.force_kn, division, slope * school.place_error_mm)
    return ratio.percent * force / ratio.force_kn


def give_end(results: Results, record: BearingRecord, found: EndResult, school: BearingSchool, many: bool) -> None:
    """Zero, both ratios and the governing one of a push."""
    prefix = found.end.prefix
    _give_force_of_a_division(results, record, found)
    _give_zero(results, found, many)
    diameter = diameter_of(record, school)
    for ratio, order in zip(found.ratios, ("first", "second"), strict=False):
        if ratio.percent is None:
            continue
        force = give_force(results, record, found, ratio.at_mm, f"F_{order}")
        reference = reference_kn(ratio.at_mm, school, diameter)
        formula, inputs = "100 * F / F_s", {"F": force or 0.0, "F_s": reference}
        if school.reference == "stress":
            formula = "100 * (1000 * F / (pi * D ** 2 / 4)) / q_s"
            inputs = {"F": force or 0.0, "D": diameter, "q_s": STANDARD_STRESS_MPA[ratio.at_mm]}
        results.give(
            f"{prefix}{order}_percent",
            "CBR",
            f"ratio at {plain(ratio.at_mm)} mm{_name(found, many)}",
            ratio.percent,
            "%",
            ratio_step(ratio.percent, school.rounding),
            formula,
            inputs,
            uncertainty=ratio_error(found, ratio, record, school),
            estimate=not found.over,
            until=SO_FAR,
        )


def give_governing(
    results: Results, record: BearingRecord, found: EndResult, school: BearingSchool, many: bool, key: str
) -> Governing | None:
    """The governing ratio of one push, or the bound it proves; gives it back."""
    its = found.governs
    if its is None:
        return None
    name = f"bearing ratio{_name(found, many)}"
    error = next((ratio_error(found, r, record, school) for r in found.ratios if r.at_mm == its.at_mm), None)
    if its.more_than:
        words = f"> {rounded(its.percent, ratio_step(its.percent, school.rounding))} %"
        results.say(key, "CBR", name, "%", words)
    else:
        results.give(
            key,
            "CBR",
            name,
            its.percent,
            "%",
            ratio_step(its.percent, school.rounding),
            "CBR",
            {"CBR": its.percent},
            note=its.sentence,
            uncertainty=error,
            estimate=not found.over,
            until=SO_FAR,
        )
    return its


def waits_for(record: BearingRecord, found: tuple[EndResult, ...], school: BearingSchool) -> list[Missing]:
    """What the ratios still wait for."""
    waits = []
    if not record.forces_known() and not any(r.force_kn is not None for f in found for r in f.end.rows):
        waits.append(Missing(name="forces", waits_for="the ring's calibration", at="proving_ring"))
    for one in found:
        path = f"{one.end.rows_path}[{len(one.end.rows)}].{one.end.force_field}"
        if not one.over and not any(r.percent is not None for r in one.ratios):
            far = plain(school.first_mm + one.shift_mm, 3)
            waits.append(Missing(name=f"ratio, {one.end.words}", waits_for=f"readings beyond {far} mm", at=path))
    return waits


def series_of(facts: PushFacts, school: BearingSchool) -> dict[str, Table]:
    """The picture: readings, curves, tangents, read-offs, the standard curve and the call that comes next."""
    readings: list[dict[str, Cell]] = []
    tangents: list[dict[str, Cell]] = []
    zeros: list[dict[str, Cell]] = []
    marks: list[dict[str, Cell]] = []
    ends: list[dict[str, Cell]] = []
    top = 0.0
    record, pushes = facts.record, facts.pushes
    for found in pushes:
        end = found.end
        if len(pushes) > 1 and found.points:
            last = found.points[-1]
            ends.append(
                {
                    "end": end.words,
                    "penetration_mm": last.penetration_mm,
                    "force_kn": last.force_kn,
                    "label": end.words,
                }
            )
        for p in found.points:
            readings.append(
                {
                    "trial": p.row + 1,
                    "end": end.words,
                    "penetration_mm": p.penetration_mm,
                    "force_kn": p.force_kn,
                    "ring_div": end.rows[p.row].ring_div,
                }
            )
            top = max(top, p.force_kn)
        if found.curve is None:
            continue
        tangents += _tangent(found)
        if len(found.points) >= 5:
            zeros.append(_zero_mark(found, ABOVE * top * len(zeros)))
        for ratio in found.ratios:
            if ratio.force_kn is not None and ratio.percent is not None:
                step = ratio_step(ratio.percent, school.rounding)
                marks.append(
                    {
                        "end": end.words,
                        "penetration_mm": ratio.at_mm + found.shift_mm,
                        "force_kn": ratio.force_kn,
                        "zero_kn": 0.0,
                        "label": f"{rounded(ratio.percent, step)} %",  # the end is told by its side of the curve
                    }
                )
    return {
        "readings": tuple(readings),
        "tangents": tuple(tangents),
        "handles": tuple(zeros),
        "marks": tuple(marks),
        "ends": tuple(ends),
        "truth": (),  # what lay under the plunger: known in practice only, and only when it is over
        "standard": _standard(record, school, top),
    }


def _tangent(found: EndResult) -> list[dict[str, Cell]]:
    """The line from the zero to where it touches the curve, and a little beyond."""
    if found.computed is None or found.curve is None or found.shift_mm <= 0:
        return []
    slope = found.computed.slope_kn_mm
    if found.by == "analyst":
        # The analyst's line leaves the axis at the drawn zero and touches the curve from above.
        steep = [
            f / (p - found.shift_mm)
            for p, f in zip(found.curve.penetration_mm, found.curve.force_kn, strict=True)
            if p > found.shift_mm + 0.1
        ]
        slope = max(steep, default=slope)
    # As far as the eye needs to see where it touches; further up it would cross the figures read off.
    touches = slope * (found.computed.at_mm - found.shift_mm)
    upper = min(max(1.25 * touches, 0.5 * max(found.curve.force_kn)), 0.9 * max(found.curve.force_kn))
    ends = ((found.shift_mm, 0.0), (found.shift_mm + upper / slope, upper)) if slope > 0 else ()
    return [
        {"end": found.end.words, "by": found.by, "penetration_mm": p, "force_kn": f, "order": i}
        for i, (p, f) in enumerate(ends)
    ]


def _zero_mark(found: EndResult, high_kn: float) -> dict[str, Cell]:
    words = f"{found.end.words}: zero moves by {found.shift_mm:.2f} mm" if found.shift_mm else ""
    if found.by == "analyst" and found.computed is not None:
        words = f"{found.end.words}: drawn {found.shift_mm:.2f} mm, computed {found.computed.shift_mm:.2f} mm"
    return {
        "end": found.end.words,
        "at": found.shift_mm,
        "high": high_kn,
        "words": f"{found.end.words}: zero at {{}} mm",
        "by": found.by,
        "label": words,
        "path": f"{found.end.prefix}zero_mm",
    }


def _standard(record: BearingRecord, school: BearingSchool, top: float) -> Table:
    """The standard material as far as the picture is high, so that it leads the eye and does not flatten the curve."""
    most = max(1.15 * top, 0.5)
    points = list(STANDARD_CURVE)
    if school.reference == "stress":
        diameter = diameter_of(record, school)
        points = [(0.0, 0.0)] + [(p, reference_kn(p, school, diameter)) for p in (school.first_mm, school.second_mm)]
    shown: list[dict[str, Cell]] = []
    for (p0, f0), (p1, f1) in itertools.pairwise(points):
        if f0 >= most:
            break
        if not shown:
            shown.append({"penetration_mm": p0, "force_kn": f0, "label": ""})
        share = min(1.0, (most - f0) / (f1 - f0))
        shown.append({"penetration_mm": p0 + share * (p1 - p0), "force_kn": f0 + share * (f1 - f0), "label": ""})
    if shown:
        shown[-1]["label"] = "100 %"
    return tuple(shown)


def leading(values: list[Value]) -> tuple[Value, ...]:
    """The values with the ratio and its sentence first."""
    first = ("bearing_ratio_percent", "governs")
    return tuple(sorted(values, key=lambda v: first.index(v.key) if v.key in first else len(first)))
