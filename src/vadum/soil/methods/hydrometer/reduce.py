"""Percent finer by Stokes' law, of the specimen and of the whole soil."""

import itertools
from typing import Any

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain, rounded
from vadum.soil.contract.outcome import Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.hydrometer import pipette
from vadum.soil.methods.hydrometer.facts import Facts
from vadum.soil.methods.hydrometer.flow import next_words
from vadum.soil.methods.hydrometer.record import Record
from vadum.soil.methods.hydrometer.school import HydrometerSchool
from vadum.soil.methods.hydrometer.stokes import gravity_correction
from vadum.soil.methods.hydrometer.suspension import (
    Settled,
    bulb_missing,
    of_specimen,
    reads_sg,
    share_percent,
    stem_reading,
)
from vadum.soil.shared.grading import GradePoint, finer_percent, ordered


def _missing(facts: Facts, school: HydrometerSchool) -> tuple[Missing, ...]:
    record, waits = facts.record, []
    if facts.mass_g is None:
        waits.append(Missing(name="percent finer", waits_for="the dry mass", at="mass_dry_g"))
    if facts.gravity is None:
        waits.append(Missing(name="percent finer", waits_for="the specific gravity", at="specific_gravity_ratio"))
    if bulb_missing(record):
        words = "the hydrometer's bulb and stem"
        waits.append(Missing(name="effective depth", waits_for=words, at=bulb_missing(record)[0]))
    if of_specimen(record):
        words = f"the share of the whole that passed {plain(record.came_through_mm or 0)} mm"
        waits.append(Missing(name="percent of the whole soil", waits_for=words, at="passing_percent"))
    short = 2 - len({t for t, _ in facts.corrections})
    if pipette.is_pipette(record):
        waits += _samples_missing(record)
    elif short > 0:
        words = "two blanks at two temperatures" if short == 2 else "a blank at another temperature"
        waits.append(Missing(name="composite correction", waits_for=words, at="blanks"))
    # A reading that was passed over is told by a rule; what is waited for lies ahead.
    ahead = next_words(facts, school)
    if ahead:
        waits.append(Missing(name="percent finer", waits_for=f"the reading at {ahead}", at="readings"))
    cold = [i for i, r in enumerate(record.readings) if stem_reading(r, record) is not None and r.temperature_c is None]
    if cold:
        at = f"readings[{cold[0]}].temperature_c"
        waits.append(Missing(name="percent finer", waits_for=f"{len(cold)} temperature(s)", at=at))
    return tuple(waits)


def _samples_missing(record: Record) -> list[Missing]:
    """What a pipette's percentages wait for: the blank, and containers that are not dried or were not weighed empty."""
    waits, left = [], pipette.open_containers(record, "mass_dried_g")
    if not any(known(b.drawn_ml) for b in record.blanks):
        waits.append(Missing(name="percent finer", waits_for="a sample of the dispersant alone", at="blanks"))
    if left:
        waits.append(Missing(name="percent finer", waits_for=f"{len(left)} container(s) to dry", at=left[0][0]))
    return waits


def curve(found: tuple[Settled, ...]) -> list[GradePoint]:
    """The grading curve of the readings that count, coarse to fine, of the whole soil."""
    return ordered(GradePoint(s.diameter_mm, s.of_whole_percent, "hydrometer") for s in found if s.counts)


def _work(results: Results, s: Settled, record: Record, mass: float, gravity: float) -> None:
    name = f"reading_{s.row + 1}"
    zero = "1" if reads_sg(record) else "0"
    stem = "sg" if reads_sg(record) else "g/L"
    n = s.row + 1
    left = ", hydrometer left in" if s.depth.left_in else ""
    by_pipette = pipette.is_pipette(record)
    from_a = "sample" if by_pipette else f"reading {plain(s.reading, 5)} {stem}{left}"
    results.work(
        f"{name}_diameter_mm",
        f"D_{n}",
        f"K * sqrt(({s.depth.formula}) / T)",
        {"K": s.constant, "T": s.elapsed_min, **s.depth.inputs},
        s.diameter_mm,
        "mm",
        note=f"{from_a}; K at {plain(s.temperature_c)} °C",
    )
    if by_pipette:
        formula = "100 * (m - m_d) * (V / V_p) / M_s"
        volume = record.readings[s.row].drawn_ml
        inputs = {"m": s.reading, "m_d": s.correction, "V": pipette.CYLINDER_ML, "V_p": volume or 0.0, "M_s": mass}
    elif reads_sg(record):
        formula = "100000 / M_s * G / (G - 1) * (R - c - 1)"
        inputs = {"M_s": mass, "G": gravity, "R": s.reading, "c": s.correction}
    else:
        formula = "100 * a * (R - c) / M_s"
        inputs = {"a": gravity_correction(gravity), "R": s.reading, "c": s.correction, "M_s": mass}
    note = f"correction {plain(s.correction, 4)} above {zero} at {plain(s.temperature_c)} °C"
    if by_pipette:
        note = "m: what the sample dried to, g; m_d: the dispersant in it, g, by the blank"
    results.work(f"{name}_finer_percent", f"P_{n}", formula, inputs, s.finer_percent, "%", note=note)
    share = record.passing_percent
    if known(share):
        inputs = {"P": s.finer_percent, "P_sieve": share}
        results.work(f"{name}_of_whole_percent", f"P_w{n}", "P * P_sieve / 100", inputs, s.of_whole_percent, "%")


def _drawn_for(points: list[GradePoint], size: float, within_percent: float) -> float:
    """The size at which the curve is read: of a sample that was drawn for a size and missed it by little, its own."""
    near = [p.size_mm for p in (points[0], points[-1]) if abs(p.size_mm - size) <= size * within_percent / 100]
    inside = points[-1].size_mm <= size <= points[0].size_mm
    return near[0] if near and not inside else size


def _interpolated(results: Results, points: list[GradePoint], size: float, key: str, name: str, **given: Any) -> None:
    """Percent finer than a size between two readings; said as a bound where the curve does not reach it."""
    found = finer_percent(points, size) if points and size <= points[0].size_mm else None
    symbol = f"P_{size * 1000:.2g}"
    step = given.pop("step")
    if found is None:
        if points and size < points[-1].size_mm:
            results.say(key, symbol, name, "%", f"under {rounded(points[-1].finer_percent, step)}")
        return
    pairs = itertools.pairwise(points)
    coarse, fine = next(((a, b) for a, b in pairs if b.size_mm <= size <= a.size_mm), (points[0], points[0]))
    inputs = {"d": size, "d_1": coarse.size_mm, "d_2": fine.size_mm}
    inputs |= {"P_1": coarse.finer_percent, "P_2": fine.finer_percent}
    formula = "P_2 + (P_1 - P_2) * ln(d / d_2) / ln(d_1 / d_2)"
    if coarse.size_mm == fine.size_mm:
        formula, inputs = "P_1", {"P_1": coarse.finer_percent}
    results.give(key, symbol, name, found, "%", step, formula, inputs, **given)


def _give_shares(results: Results, facts: Facts, school: HydrometerSchool, mass: float, gravity: float) -> None:
    """Shares finer than the fixed sizes, and the silt between."""
    points, step = curve(facts.settled), school.report_to_percent
    share, part = share_percent(facts.record) / 100, of_specimen(facts.record)
    # One reading's own error, carried through the percentage; the diameter's is small beside it.
    error = 100 * gravity_correction(gravity) * school.reading_error_g_l / mass * share
    by_pipette = pipette.is_pipette(facts.record)
    if by_pipette:
        # Two weighings of the sample and two of its blank.
        error = 100 * 2 * school.balance_error_g * pipette.CYLINDER_ML / school.pipette_ml / mass * share
    for size, key in (
        (0.02, "finer_than_20um_percent"),
        (0.005, "finer_than_5um_percent"),
        (school.clay_mm, "finer_than_2um_percent"),
    ):
        at = _drawn_for(points, size, school.pipette_size_within_percent) if by_pipette and points else size
        _interpolated(results, points, at, key, f"finer than {size * 1000:g} µm{part}", uncertainty=error, step=step)
    clay = next((v.value for v in results.values if v.key == "finer_than_2um_percent"), None)
    edge = school.fines_mm
    top = finer_percent(points, edge) if points and points[0].size_mm >= edge else None
    if clay is not None and top is not None:
        inputs, words = {"P_fines": top, "P_clay": clay}, f"silt, 2 µm to {edge:g} mm{part}"
        formula = "P_fines - P_clay"
        results.give("silt_percent", "Si", words, top - clay, "%", step, formula, inputs, uncertainty=error)


def reduce(facts: Facts, school: HydrometerSchool) -> Outcome:
    """The fine end of the curve so far."""
    waits = _missing(facts, school)
    # A share of the whole that is not known makes the results the specimen's own, not provisional.
    results = Results(school.standard, provisional=any(w.at != "passing_percent" for w in waits))
    if facts.mass_g and facts.gravity:
        for s in facts.settled:
            _work(results, s, facts.record, facts.mass_g, facts.gravity)
        _give_shares(results, facts, school, facts.mass_g, facts.gravity)
    return Outcome(
        method="hydrometer",
        school=school.name,
        values=tuple(results.values),
        missing=waits,
        working=tuple(results.working),
        series=_series(facts),
    )


def _series(facts: Facts) -> dict[str, Table]:
    found = facts.settled
    rows: Table = tuple(
        {
            "trial": s.row + 1,
            "elapsed_min": s.elapsed_min,
            "reading": s.reading,
            "temperature_c": s.temperature_c,
            "size_mm": s.diameter_mm,
            "finer_percent": s.of_whole_percent,
            "state": "measured" if s.counts else "left out",
            "label": f"{s.elapsed_min:.0f} min" if s.elapsed_min >= 1 else f"{60 * s.elapsed_min:.0f} s",
        }
        for s in found
    )
    blanks: Table = tuple({"temperature_c": t, "correction": c} for t, c in facts.corrections)
    return {
        "curve": tuple({"size_mm": p.size_mm, "finer_percent": p.finer_percent} for p in curve(found)),
        "readings": rows,
        "blanks": blanks,
    }
