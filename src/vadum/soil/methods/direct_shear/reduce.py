"""The envelope of peak and tail, and what each stage came to."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain, rounded, significant_step
from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.direct_shear import box as boxes
from vadum.soil.methods.direct_shear.facts import Envelope, Facts, Sheared, rate_for
from vadum.soil.methods.direct_shear.school import ShearSchool
from vadum.soil.shared.envelope import Line, band_words, by_stresses
from vadum.soil.shared.physics import GRAVITY_M_S2, WATER_20_MG_M3

FEW = 60  # readings of a hand: each is drawn
MOST_DRAWN = 400  # points of a curve: more are not seen


def _kind(facts: Facts) -> str:
    return "" if facts.drained else ", undrained, total stress"


def _work_line(results: Results, line: Line, prefix: str) -> None:
    """The sums of a line of least squares, and its slope and intercept."""
    if line.held:
        return
    x_mean = (line.least_x + line.most_x) / 2
    results.work(
        f"{prefix}slope",
        "b",
        "b_0",
        {"b_0": line.slope},
        line.slope,
        "",
        source="least squares",
        note=f"{line.n} points, {plain(line.least_x)} to {plain(line.most_x)} kPa, middle {plain(x_mean)}; "
        f"r² {line.r_squared:.4f}",
    )


SYMBOLS = {"peak": "p", "tail": "t", "residual": "r"}


def _give_envelope(
    results: Results, facts: Facts, school: ShearSchool, envelope: Envelope, which: str, name: str
) -> None:
    line, strength, free = envelope.line, envelope.strength, envelope.free
    kind, symbol = _kind(facts), SYMBOLS[which]
    few = len(envelope.rows) < school.least_stages or facts.hand is not None
    _work_line(results, free or line, f"{which}_")
    held = ""
    if free is not None:
        angle = rounded(by_stresses(free).phi_degrees, school.report_to_degrees)
        cohesion = rounded(free.intercept, school.report_to_kpa)
        held = f"held through zero; the free fit: {angle}°, {cohesion} kPa"
    band = band_words(line, strength)
    results.give(
        f"phi_{which}_degrees",
        f"phi_{symbol}",
        f"friction angle, {name}{kind}",
        strength.phi_degrees,
        "°",
        school.report_to_degrees,
        "180 / pi * atan(b)",
        {"b": line.slope},
        uncertainty=strength.phi_error_degrees,
        provisional=few,
        until="so far" if few else "",
        note="; ".join(words for words in (held, band) if words),
    )
    results.give(
        f"c_{which}_kpa",
        f"c_{symbol}",
        f"cohesion, {name}{kind}",
        strength.c_kpa,
        "kPa",
        school.report_to_kpa,
        "0 * a" if line.held else "a",
        {"a": (free or line).intercept},
        uncertainty=strength.c_error_kpa,
        provisional=few,
        until="so far" if few else "",
        reported="0, held" if free is not None else rounded(strength.c_kpa, school.report_to_kpa),
    )
    results.say(f"{which}_honest", "", f"confidence, {name}", "", band, provisional=few)


def _give_stage(results: Results, facts: Facts, school: ShearSchool, st: Sheared) -> None:
    record, own, prefix = facts.record, st.stage, st.prefix
    ratio, area = record.lever_ratio, facts.box.area_mm2
    if st.normal_kpa is not None and known(own.hanger_kg) and known(ratio):
        results.give(
            f"{prefix}normal_kpa",
            f"sigma_{st.row + 1}",
            f"stage {st.row + 1}, normal stress",
            st.normal_kpa,
            "kPa",
            0.1,
            "1000 * g * (m_d + r * m_h) / A",
            {"g": GRAVITY_M_S2, "m_d": boxes.direct_kg(record), "r": ratio, "m_h": own.hanger_kg, "A": area},
        )
    peak = st.peak
    if peak is not None and peak.shear_kpa > 0 and not own.excluded_because:
        open_yet = not st.over
        until = "so far" if open_yet else ""
        corrected = school.area == "corrected"
        left = facts.box.area_at_mm2(peak.travel_mm) if corrected else area
        results.give(
            f"{prefix}peak_kpa",
            f"tau_{st.row + 1}",
            f"stage {st.row + 1}, {'shear stress at failure' if st.at_displacement else 'peak shear stress'}",
            peak.shear_kpa,
            "kPa",
            0.1,
            "1000 * F / A",
            {"F": peak.force_n, "A": left},
            provisional=open_yet,
            until=until,
            note=f"{'no peak: ' if st.at_displacement else ''}at {plain(peak.travel_mm, 3)} mm"
            + (", on the area that is left" if corrected else ""),
        )
        if corrected and st.normal_kpa is not None:
            results.give(
                f"{prefix}normal_at_peak_kpa",
                f"sigma_p{st.row + 1}",
                f"stage {st.row + 1}, normal stress at {'failure' if st.at_displacement else 'the peak'}",
                peak.normal_kpa,
                "kPa",
                0.1,
                "sigma * A_0 / A",
                {"sigma": st.normal_kpa, "A_0": area, "A": left},
                provisional=open_yet,
            )
        travel = {"x": peak.travel_mm}
        name = f"stage {st.row + 1}, travel at {'failure' if st.at_displacement else 'the peak'}"
        results.give(f"{prefix}peak_mm", "x_p", name, peak.travel_mm, "mm", 0.01, "x", travel, provisional=open_yet)
        secant = st.secant_degrees
        if secant is not None and st.over:
            inputs = {"tau": peak.shear_kpa, "sigma": peak.normal_kpa}
            name = f"stage {st.row + 1}, angle of this stage alone"
            formula = "180 / pi * atan(tau / sigma)"
            results.give(f"{prefix}secant_degrees", "phi_i", name, secant, "°", 0.1, formula, inputs)
        if st.opening_degrees is not None and st.over:
            slope = -math.tan(math.radians(st.opening_degrees))
            name = f"stage {st.row + 1}, angle of dilation"
            inputs = {"m": slope}
            results.give(
                f"{prefix}dilation_degrees",
                "psi",
                name,
                st.opening_degrees,
                "°",
                0.1,
                "180 / pi * atan(-m)",
                inputs,
                note="slope of the vertical gauge on the travel, fitted round the peak",
            )
    if st.tail is not None and st.over and not own.excluded_because:
        words = f"at large displacement, from {plain(st.tail.from_mm, 3)} mm"
        results.give(
            f"{prefix}tail_kpa",
            f"tau_t{st.row + 1}",
            f"stage {st.row + 1}, shear stress {words}",
            st.tail.shear_kpa,
            "kPa",
            0.1,
            "tau",
            {"tau": st.tail.shear_kpa},
            note=f"mean of {st.tail.n} readings",
        )
    if st.residual is not None and st.traverses_agree and st.over and not own.excluded_because:
        left = 1000 * (abs(own.reversals[-1].force_n or 0.0) - _friction(st)) / st.residual.shear_kpa
        results.give(
            f"{prefix}residual_kpa",
            f"tau_r{st.row + 1}",
            f"stage {st.row + 1}, residual shear stress",
            st.residual.shear_kpa,
            "kPa",
            0.1,
            "1000 * F / A",
            {"F": st.residual.shear_kpa * left / 1000, "A": left},
            note=f"end of traverse {st.residual.traverses}, "
            f"{plain(st.residual.apart_percent, 2)} % from the one before",
        )
        if st.residual.travelled_mm is not None:
            travelled = st.residual.travelled_mm
            name = f"stage {st.row + 1}, travel of all traverses"
            results.give(f"{prefix}travelled_mm", "x_r", name, travelled, "mm", 0.1, "x", {"x": travelled})
    _give_state(results, facts, st)


def _friction(st: Sheared) -> float:
    return st.stage.friction_n if known(st.stage.friction_n) else 0.0


def _give_state(results: Results, facts: Facts, st: Sheared) -> None:
    record, state, prefix, n = facts.record, st.state, st.prefix, st.row + 1
    water = record.water_before_percent
    if state.dry_mg_m3 is None or state.mass_g is None or water is None:
        return
    inputs = {"M": state.mass_g, "A": facts.box.area_mm2, "h": st.height_mm, "w": water}
    name, formula = f"stage {n}, dry density", "M / (A * h / 1000) / (1 + w / 100)"
    results.give(f"{prefix}dry_mg_m3", "rho_d", name, state.dry_mg_m3, "Mg/m³", 0.01, formula, inputs)
    particle = record.particle_density_mg_m3
    if state.void_ratio is None or not known(particle):
        return
    sign = "" if record.particle_density_from == "measured" else "# "
    e, inputs = state.void_ratio, {"rho_s": particle, "rho_d": state.dry_mg_m3}
    said = sign + rounded(e, 0.01)
    formula = "rho_s / rho_d - 1"
    results.give(f"{prefix}void_ratio", "e_0", f"stage {n}, void ratio", e, "", 0.01, formula, inputs, reported=said)
    loaded = state.void_ratio_loaded
    if loaded is not None:
        inputs = {"e_0": e, "s": (e - loaded) / (1 + e) * st.height_mm, "h": st.height_mm}
        said, name = sign + rounded(loaded, 0.01), f"stage {n}, void ratio under its load"
        formula = "e_0 - (1 + e_0) * s / h"
        results.give(f"{prefix}void_ratio_loaded", "e_c", name, loaded, "", 0.01, formula, inputs, reported=said)
    full = state.saturation_percent
    if full is not None and water > 0:
        inputs = {"w": water, "rho_s": particle, "rho_d": state.dry_mg_m3, "rho_w": WATER_20_MG_M3}
        said, name = sign + rounded(full, 1), f"stage {n}, saturation before"
        formula = "w * rho_s / ((rho_s / rho_d - 1) * rho_w)"
        results.give(f"{prefix}saturation_percent", "S_r", name, full, "%", 1, formula, inputs, reported=said)


def _give_time(results: Results, facts: Facts, school: ShearSchool, st: Sheared) -> None:
    """t50, t90 and t100 of a stage, and the rate that follows."""
    n, settled = st.row + 1, st.settled
    by = " (moved by hand)" if settled.by_hand else ""
    for key, symbol, value in (
        ("t50_min", "t_50", settled.t50_min),
        ("t90_min", "t_90", settled.t90_min),
        ("t100_min", "t_100", settled.t100_min),
    ):
        if value is not None:
            step = significant_step(value)
            name = f"stage {n}, {symbol.replace('_', '')}{by}"
            results.give(f"{st.prefix}{key}", symbol, name, value, "min", step, "t", {"t": value})
    rate = rate_for(settled, facts.record, school)
    if rate is not None and st.needed_min is not None and st.needed_measured:
        inputs = {"d_f": rate * st.needed_min, "t_f": st.needed_min}
        name, step = f"stage {n}, rate that its consolidation gives", significant_step(rate)
        results.give(f"{st.prefix}rate_mm_min", "v", name, rate, "mm/min", step, "d_f / t_f", inputs)
    if st.peak_min is not None and st.over:
        name = f"stage {n}, time to {'failure' if st.at_displacement else 'the peak'}"
        step = significant_step(st.peak_min)
        results.give(f"{st.prefix}peak_min", "t_p", name, st.peak_min, "min", step, "t", {"t": st.peak_min})


def _missing(facts: Facts) -> tuple[Missing, ...]:
    if facts.hand is None:
        return ()
    st = facts.in_hand
    at = f"stages[{facts.hand}].wanted_kpa" if st is None else f"stages[{facts.hand}].shear"
    words = f"stage {facts.hand + 1}" + (", sheared past its peak" if st is not None else "")
    return (Missing(name="envelope", waits_for=words, at=at),)


def reduce(facts: Facts, school: ShearSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results = Results(school.standard)
    if facts.peak:
        some = any(st.at_displacement for st in facts.counting)
        _give_envelope(results, facts, school, facts.peak, "peak", "at failure" if some else "peak")
    if facts.peak is None and facts.about is not None:
        about = facts.about.strength.phi_degrees
        results.give(
            "phi_peak_degrees",
            "phi_p",
            f"friction angle, peak{_kind(facts)}",
            about,
            "°",
            1,
            "180 / pi * atan(b)",
            {"b": facts.about.line.slope},
            estimate=True,
            provisional=True,
            until="until every stage is sheared",
            reported=f"about {rounded(about, 1)}",
        )
    if facts.tail:
        _give_envelope(results, facts, school, facts.tail, "tail", "large displacement")
    if facts.residual:
        _give_envelope(results, facts, school, facts.residual, "residual", "residual")
    for st in facts.stages:
        _give_stage(results, facts, school, st)
        _give_time(results, facts, school, st)
    return Outcome(
        method="direct_shear",
        school=school.name,
        values=tuple(results.values),
        missing=_missing(facts),
        working=tuple(results.working),
        series=_series(facts, school),
    )


def envelope_rows(envelope: Envelope | None, label: str) -> list[dict[str, Cell]]:
    """The line from no stress to a little beyond its last point, with one standard error on either side."""
    if envelope is None:
        return []
    line, far = envelope.line, 1.15 * envelope.line.most_x
    rows: list[dict[str, Cell]] = []
    for i in range(25):
        x = far * i / 24
        error = line.error_at(x)
        rows.append(
            {
                "normal_kpa": x,
                "shear_kpa": line.at(x),
                "low_kpa": None if error is None else line.at(x) - error,
                "high_kpa": None if error is None else line.at(x) + error,
                "of": label,
            }
        )
    return rows


def _series(facts: Facts, school: ShearSchool) -> dict[str, Table]:
    curves: list[dict[str, Cell]] = []
    for st in facts.stages:
        step = max(1, math.ceil(len(st.points) / MOST_DRAWN))
        kept = [p for i, p in enumerate(st.points) if i % step == 0 or i == len(st.points) - 1 or p is st.peak]
        now = facts.hand == st.row
        curves += [
            {
                "stage": st.row + 1,
                "words": st.words.replace(f"stage {st.row + 1}, ", ""),
                "row": p.row + 1,
                "travel_mm": p.travel_mm,
                "shear_kpa": p.shear_kpa,
                "normal_kpa": p.normal_kpa,
                "ratio": p.shear_kpa / p.normal_kpa if p.normal_kpa > 0 else None,
                "vertical_mm": p.vertical_mm,
                "now": now or facts.hand is None,
                "few": len(kept) <= FEW,
            }
            for p in kept
        ]
    peaks: Table = tuple(
        {
            "stage": st.row + 1,
            "label": f"{st.row + 1}",
            "travel_mm": st.peak.travel_mm,
            "shear_kpa": st.peak.shear_kpa,
            "normal_kpa": st.peak.normal_kpa,
            "state": "left out" if st.stage.excluded_because else "peak" if st.over else "so far",
            "peak_words": f"{st.peak.shear_kpa:.1f} kPa",
        }
        for st in facts.stages
        if st.peak is not None and st.peak.shear_kpa > 0
    )
    tails: Table = tuple(
        {"stage": st.row + 1, "normal_kpa": end.normal_kpa, "shear_kpa": end.shear_kpa, "state": "tail"}
        for st in facts.counting
        if (end := (st.residual if st.traverses_agree else None) if facts.residual else st.tail)
    )
    ends, ends_words = (facts.residual, "residual") if facts.residual else (facts.tail, "large displacement")
    settled: Table = tuple(
        {"stage": st.row + 1, "minutes": r.minutes, "root": math.sqrt(max(r.minutes, 0.0)), "settlement_mm": r.moved}
        for st in facts.stages
        for r in st.settled.readings
    )
    said: list[dict[str, Cell]] = []
    first = (facts.about, "about") if facts.hand is not None else (facts.peak, "peak")
    for envelope, kind in (first, (ends, "tail")):
        if envelope is not None:
            at = 0.45 * envelope.line.most_x
            degrees = envelope.strength.phi_degrees
            words = f"about {degrees:.0f}°" if kind == "about" else f"φ′ {degrees:.1f}°"
            row: dict[str, Cell] = {"normal_kpa": at, "shear_kpa": envelope.line.at(at), "of": kind}
            said.append(row | {"label": f"{words} {ends_words}" if kind == "tail" else words})
    stages: Table = tuple(
        {
            "stage": st.row + 1,
            "sigma": None if st.normal_kpa is None else st.normal_kpa,
            "tau": st.peak.shear_kpa if st.peak and st.over else None,
            "travel": st.peak.travel_mm if st.peak and st.over else None,
            "tail": st.tail.shear_kpa if st.tail else None,
            "psi": st.opening_degrees if st.over else None,
            "secant": st.secant_degrees if st.over else None,
            "dry": st.state.dry_mg_m3,
        }
        for st in facts.stages
    )
    expected: Table = ()
    if facts.hand is not None and facts.about is not None:
        hand = facts.in_hand
        normal = None if hand is None else hand.normal_kpa or hand.stage.wanted_kpa
        if normal is None:
            # The loads double from stage to stage where nobody has said otherwise.
            normal = 2 * max(n for n, _ in facts.about.points)
        if not (hand and hand.peak and hand.fell_percent > 0):
            tau = facts.about.line.at(normal)
            words = f"{facts.hand + 1}, about {tau:.0f} kPa"
            expected = ({"normal_kpa": normal, "shear_kpa": tau, "label": words},)
    return {
        "curves": tuple(curves),
        "ends": tuple({row["stage"]: row for row in curves}.values()),
        "expected": expected,
        "peaks": peaks,
        "tails": tails,
        "envelope": (
            *(envelope_rows(facts.peak, "peak") if facts.hand is None else envelope_rows(facts.about, "about")),
            *envelope_rows(ends, "tail"),
        ),
        "said": tuple(said),
        "settlement": settled,
        "stages": stages,
        "strength_points": tuple(
            {"kind": "plane", "specimen": st.row + 1, "normal_kpa": st.peak.normal_kpa, "shear_kpa": st.peak.shear_kpa}
            for st in facts.counting
            if st.peak and facts.drained
        ),
        "truth": (),
    }
