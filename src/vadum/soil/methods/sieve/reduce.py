"""Percent passing, characteristic sizes, and the shares of the size classes."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain, rounded, significant_step
from vadum.soil.contract.outcome import Cell, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.sieve.facts import Facts
from vadum.soil.methods.sieve.flow import missing_sieves
from vadum.soil.methods.sieve.rules import verdict_of_limit
from vadum.soil.methods.sieve.school import SieveSchool
from vadum.soil.shared.grading import (
    EDGES,
    GradePoint,
    System,
    bracket_of,
    coefficient_of_curvature,
    coefficient_of_uniformity,
    finer_percent,
    gaps,
    outside_words,
    shares_percent,
    size_mm,
)

SIZES = (10, 30, 50, 60, 85)


def _provisional(facts: Facts, school: SieveSchool) -> bool:
    """Whether a mass is still to come."""
    return facts.total_g is None or facts.record.mass_pan_g is None or bool(missing_sieves(facts, school))


def give_sizes(results: Results, points: list[GradePoint]) -> dict[int, float]:
    """The characteristic sizes by interpolation on log size, never extrapolated, and the two coefficients."""
    found: dict[int, float] = {}
    for finer in SIZES:
        key, symbol, name = f"d{finer}_mm", f"D_{finer}", f"{finer} % finer than"
        bracket, size = bracket_of(points, finer), size_mm(points, finer)
        if bracket is None or size is None:
            if points:
                results.say(key, symbol, name, "mm", outside_words(points, finer))
            continue
        coarse, fine = bracket
        flat = coarse.finer_percent == fine.finer_percent
        formula = "d_1" if flat else "d_2 * (d_1 / d_2) ** ((P - P_2) / (P_1 - P_2))"
        inputs = {"d_1": coarse.size_mm, "d_2": fine.size_mm, "P": float(finer)}
        inputs |= {"P_1": coarse.finer_percent, "P_2": fine.finer_percent}
        found[finer] = results.give(key, symbol, name, size, "mm", significant_step(size), formula, inputs)
    if 10 in found and 60 in found:
        cu = coefficient_of_uniformity(found[60], found[10])
        inputs = {"D_60": found[60], "D_10": found[10]}
        results.give("uniformity_ratio", "C_u", "uniformity", cu, "", significant_step(cu), "D_60 / D_10", inputs)
        if 30 in found:
            cc = coefficient_of_curvature(found[60], found[30], found[10])
            inputs = {**inputs, "D_30": found[30]}
            formula = "D_30 ** 2 / (D_10 * D_60)"
            results.give("curvature_ratio", "C_c", "curvature", cc, "", significant_step(cc), formula, inputs)
    return found


def give_shares(results: Results, points: list[GradePoint], school: SieveSchool, uncertainty: float | None) -> None:
    """Gravel, sand and fines by the school's boundaries, to its step, with the sands apart."""
    system: System = school.boundaries
    step = school.report_to_percent
    edges, shares = EDGES[system], shares_percent(points, system)

    def at(name: str) -> float:
        edge = edges[name]
        found = finer_percent(points, edge)
        return 100.0 if found is None else found

    def give(key: str, symbol: str, name: str, upper: float, lower: float, share: float | None) -> None:
        if share is None:
            return
        inputs = {"P_upper": upper, "P_lower": lower}
        results.give(key, symbol, name, share, "%", step, "P_upper - P_lower", inputs, uncertainty=uncertainty)

    g, s, f = plain(edges["gravel"]), plain(edges["fine sand"]), plain(edges["cobbles"])
    if points and points[0].size_mm >= edges["cobbles"]:
        give("cobbles_percent", "Co", f"cobbles, over {f} mm", 100.0, at("cobbles"), shares["cobbles"])
    give("gravel_percent", "Gr", f"gravel, over {g} mm", at("cobbles"), at("gravel"), shares["gravel"])
    give("sand_percent", "Sa", f"sand, {s} to {g} mm", at("gravel"), at("fine sand"), shares["sand"])
    sands = [name for name in edges if name.endswith(" sand")]
    for name, upper in zip(sands, ("gravel", *sands), strict=False):
        grade = name.partition(" ")[0]
        words = f"{name}, over {plain(edges[name])} mm"
        give(f"{grade}_sand_percent", f"{grade[0]}Sa", words, at(upper), at(name), shares[name])
    give("fines_percent", "F", f"fines, under {s} mm", at("fine sand"), 0.0, shares["fines"])


def _give_gap(results: Results, points: list[GradePoint], school: SieveSchool) -> None:
    """A gap in the grading, with its two sizes: what segregates when it is placed, and washes out when water runs."""
    for coarse, fine in gaps(points, school.gap_factor, school.gap_points, school.gap_beside_points):
        size = f"{plain(fine.size_mm)} and {plain(coarse.size_mm)} mm"
        held = rounded(coarse.finer_percent - fine.finer_percent, 1)
        results.say("gap", "", "gap-graded", "", f"{held} % between {size}")
        return


def _work(results: Results, facts: Facts) -> None:
    """The working of what passes each sieve, and of each loss."""
    for p in facts.passing:
        symbol = f"P_{p.aperture_mm:g}".replace(".", "")
        formula, note = "P_0 * (M_0 - M_ret) / M_0", f"passing {p.aperture_mm:g} mm"
        results.work(f"passing_{p.aperture_mm:g}", symbol, formula, p.inputs, p.finer_percent, "%", note=note)
    for one in facts.losses:
        results.work(
            f"loss_of_{one.part.replace(' ', '_')}",
            "loss",
            "100 * (M_before - M_after) / M_before",
            {"M_before": one.before_g, "M_after": one.after_g},
            one.percent,
            "%",
            note=f"{one.part}: sum of what came off the sieves",
        )


def reduce(facts: Facts, school: SieveSchool) -> Outcome:
    """The curve, the sizes and the shares so far."""
    results = Results(school.standard, provisional=_provisional(facts, school))
    points = list(facts.curve)
    _work(results, facts)
    # What was lost may have passed or stayed on any sieve: a rectangular distribution over the loss.
    error = max((abs(one.percent) for one in facts.losses), default=None)
    error = error / 3**0.5 if error else None
    if points and school.separation_only:
        fine = points[-1].finer_percent
        name = f"coarse fragments, over {plain(points[-1].size_mm)} mm"
        inputs = {"P_2": fine}
        results.give("coarse_percent", "X_m", name, 100 - fine, "%", 0.1, "100 - P_2", inputs, uncertainty=error)
    elif points:
        give_shares(results, points, school, error)
        give_sizes(results, points)
    _give_gap(results, points, school)
    part = finer_percent(points, 0.425) if points else None
    if part is not None:
        key, name = "finer_than_425um_percent", "passing 0.425 mm"
        results.give(key, "P_0425", name, part, "%", 0.1, "P", {"P": part}, uncertainty=error)
    two = finer_percent(points, 2.0) if points else None
    if two is not None:
        inputs = {"P": two}
        results.give("passing_2mm_percent", "P_2mm", "passing 2 mm", two, "%", 0.1, "P", inputs, uncertainty=error)
    return Outcome(
        method="sieve",
        school=school.name,
        values=tuple(results.values),
        missing=missing_sieves(facts, school),
        working=tuple(results.working),
        series=_series(facts),
    )


def _series(facts: Facts) -> dict[str, Table]:
    record, points = facts.record, facts.curve
    found = {p.aperture_mm: p.finer_percent for p in facts.passing}
    own = {p.name: p.own_g for p in facts.parts}
    heaviest = max((s.mass_retained_g or 0.0 for s in record.sieves), default=0.0) or 1.0
    stack: Table = tuple(
        {
            "row": i,
            "aperture_mm": s.aperture_mm,
            "mass_retained_g": s.mass_retained_g,
            "passing_percent": found.get(s.aperture_mm or 0.0),
            "share": max(s.mass_retained_g or 0.0, 0.0) / heaviest,
        }
        for i, s in sorted(enumerate(record.sieves), key=lambda pair: -(pair[1].aperture_mm or 0.0))
        if known(s.aperture_mm)
    )
    limits: list[tuple[float, dict[str, Cell]]] = []
    for i, limit in enumerate(record.envelope):
        if not known(limit.aperture_mm) or limit.aperture_mm <= 0:
            continue
        verdict = verdict_of_limit(points, limit)
        row: dict[str, Cell] = {"row": i, "size_mm": limit.aperture_mm}
        row |= {"least": limit.least_percent, "most": limit.most_percent}
        limits.append((limit.aperture_mm, {**row, "passing_percent": verdict.passing, "verdict": verdict.word}))
    return {
        "curve": tuple({"size_mm": p.size_mm, "finer_percent": p.finer_percent, "source": p.source} for p in points),
        "stack": stack,
        "envelope": tuple(row for _, row in sorted(limits, key=lambda pair: -pair[0])),
        "parts": tuple({"part": name, "dry_g": mass} for name, mass in own.items()),
    }
