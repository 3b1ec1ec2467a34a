"""The envelope of the circles, and what each specimen came to."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain, rounded, significant_step
from vadum.soil.contract.outcome import Missing, Outcome
from vadum.soil.contract.results import Results
from vadum.soil.methods.triaxial import cell as cells
from vadum.soil.methods.triaxial.cell import Point
from vadum.soil.methods.triaxial.drainage import LAMBDA, drains_through, water_out_cm3
from vadum.soil.methods.triaxial.facts import Envelope, Facts, Tested, too_few
from vadum.soil.methods.triaxial.school import TriaxialSchool
from vadum.soil.methods.triaxial.series import series
from vadum.soil.shared.consolidation import T90
from vadum.soil.shared.envelope import band_words, mean_line, moves_without

UNIT_WEIGHT_KN_M3 = 9.81  # of water, for a conductivity from cv and mv


def _give_envelope(results: Results, facts: Facts, school: TriaxialSchool, env: Envelope, key: str, words: str) -> None:
    line, found, few = env.line, env.strength, too_few(facts, school)
    results.work(
        f"slope{key}_ratio",
        "m",
        "m_0",
        {"m_0": line.slope},
        line.slope,
        source="least squares of t on s",
        note=f"{line.n} circles, s {plain(line.least_x)} to {plain(line.most_x)} kPa; r² {line.r_squared:.4f}",
    )
    until = "so far" if few else ""
    held = ""
    if env.free is not None:
        angle, cohesion = plain(env.free.phi_degrees, 3), plain(env.free.c_kpa, 2)
        held = f"held through zero; the free fit: {angle}°, {cohesion} kPa"
    results.give(
        f"phi{key}_degrees",
        "phi" if key == "_total" else "phi'",
        f"friction angle, {words}",
        found.phi_degrees,
        "°",
        school.report_to_degrees,
        "180 / pi * asin(m)",
        {"m": line.slope},
        uncertainty=found.phi_error_degrees,
        provisional=few,
        until=until,
        note="; ".join(words for words in (held, band_words(line, found)) if words),
    )
    results.give(
        f"c{key}_kpa",
        "c" if key == "_total" else "c'",
        f"cohesion, {words}",
        found.c_kpa,
        "kPa",
        school.report_to_kpa,
        "a / cos(asin(m))",
        {"a": line.intercept, "m": line.slope},
        uncertainty=found.c_error_kpa,
        provisional=few,
        until=until,
        reported="0, held" if env.free is not None else "",
    )


def _give_extras(results: Results, facts: Facts, school: TriaxialSchool, env: Envelope) -> None:
    few = too_few(facts, school)
    results.say("honest", "", "confidence", "", band_words(env.line, env.strength), provisional=few)
    extension = facts.record.direction == "extension"
    m = cells.slope_of_failure(env.strength.phi_degrees, extension)
    sign = "+" if extension else "-"
    results.give(
        "slope_m_ratio",
        "M",
        f"slope of failure in q and p, {'extension' if extension else 'compression'}",
        m,
        "",
        0.01,
        f"6 * sin(pi / 180 * phi) / (3 {sign} sin(pi / 180 * phi))",
        {"phi": env.strength.phi_degrees},
        provisional=few,
    )
    both = mean_line([s for s, _ in env.points], [t for _, t in env.points])
    if both and abs(both[1]) < 1 and len(env.points) > 2:
        words = f"{math.degrees(math.asin(both[1])):.1f}° by the line of geometric means"
        results.say("mean_line", "", "where s varies too", "", words, provisional=few)
    for i, row in enumerate(env.rows):
        without = moves_without([s for s, _ in env.points], [t for _, t in env.points], i)
        if len(env.rows) > 2 and without is not None and abs(without.slope) < 1:
            moved = math.degrees(math.asin(without.slope)) - env.strength.phi_degrees
            words = f"moves the angle by {moved:+.1f}°"
            results.say(f"without_{row + 1}", "", f"without specimen {row + 1}", "", words, provisional=few)


def _give_quick(results: Results, facts: Facts, school: TriaxialSchool) -> None:
    found = [(t.row + 1, t.deviator.t_kpa) for t in facts.counting if t.deviator]
    if not found or facts.shear_strength_kpa is None:
        return
    few, middle = too_few(facts, school), facts.shear_strength_kpa
    names = {f"s_{n}": v for n, v in found}
    spread = math.sqrt(math.fsum((v - middle) ** 2 for _, v in found) / (len(found) - 1)) if len(found) > 1 else None
    results.give(
        "shear_strength_kpa",
        "s_u",
        "undrained shear strength, mean",
        middle,
        "kPa",
        school.report_to_kpa,
        f"({' + '.join(names)}) / {len(names)}",
        names,
        uncertainty=None if spread is None else spread / math.sqrt(len(found)),
        provisional=few,
        until="so far" if few else "",
    )
    if spread is not None and middle > 0:
        share = 100 * spread / middle
        results.give(
            *("variation_percent", "V", "coefficient of variation", share, "%", 0.1, "100 * s / m"),
            {"s": spread, "m": middle},
            provisional=few,
        )
    if facts.total is not None:
        phi = facts.total.strength.phi_degrees
        results.give(
            *("phi_check_degrees", "phi_u", "angle fitted to the circles, a check", phi, "°", 0.1),
            "180 / pi * asin(m)",
            {"m": facts.total.line.slope},
            provisional=few,
        )


def _give_failure(
    results: Results, facts: Facts, school: TriaxialSchool, t: Tested, at: Point, name: str, key: str
) -> None:
    n, until = t.row + 1, "" if t.over else "so far"
    open_yet = not t.over
    way = "" if name == "deviator" else ", by obliquity"
    inputs = {"P": at.force_n, "A": at.area_mm2, "d_m": at.membrane_kpa, "d_f": at.drains_kpa}
    q = at.deviator_kpa
    results.give(
        f"{key}deviator_kpa",
        "q",
        f"specimen {n}, deviator at failure{way}",
        q,
        "kPa",
        school.report_to_kpa,
        "1000 * P / A - d_m - d_f"
        if abs(1000 * at.force_n / at.area_mm2 - at.measured_kpa) < 1e-6
        else "q_0 - d_m - d_f",
        inputs | {"q_0": at.measured_kpa},
        provisional=open_yet,
        until=until,
    )
    strain = 100 * abs(at.strain)
    results.give(
        *(
            f"{key}strain_percent",
            "eps_f",
            f"specimen {n}, strain at failure{way}",
            strain,
            "%",
            0.1,
            "e",
            {"e": strain},
        ),
        provisional=open_yet,
    )
    if facts.quick and facts.record.kind == "UU":
        return
    radial = {"s_3": at.radial_kpa}
    results.give(
        *(f"{key}minor_kpa", "sigma_3", f"specimen {n}, effective radial stress{way}", at.radial_kpa, "kPa", 1),
        "s_3",
        radial,
        provisional=open_yet,
    )
    if at.obliquity is not None:
        ratio = at.obliquity
        results.give(
            *(f"{key}obliquity_ratio", "R", f"specimen {n}, ratio of effective stresses{way}", ratio, "", 0.01),
            "(s_3 + q) / s_3" if q >= 0 else "s_3 / (s_3 + q)",
            radial | {"q": q},
            provisional=open_yet,
        )
    s_now = {"s_3": at.radial_kpa, "q": q}
    results.give(
        *(f"{key}s_kpa", "s'", f"specimen {n}, s′ = (σ1′ + σ3′)/2{way}", at.s_kpa, "kPa", 1, "s_3 + q / 2", s_now),
        provisional=open_yet,
    )
    results.give(
        *(f"{key}p_kpa", "p'", f"specimen {n}, p′ = (σ1′ + 2σ3′)/3{way}", at.p_kpa, "kPa", 1, "s_3 + q / 3", s_now),
        provisional=open_yet,
    )
    start = t.start_kpa if facts.anisotropic else 0.0
    if at.rise_kpa is not None and not facts.drained and q - start:
        # In extension by unloading the axis the cell stands still: what falls is the axial stress, and A counts by it.
        unloaded = facts.record.direction == "extension"
        ratio = (at.rise_kpa - (q - start)) / -(q - start) if unloaded else at.rise_kpa / (q - start)
        results.give(
            *(f"{key}a_ratio", "A_f", f"specimen {n}, A at failure{way}", ratio, "", 0.01),
            "(u - (q - q_0)) / -(q - q_0)" if unloaded else "u / (q - q_0)",
            {"u": at.rise_kpa, "q": q, "q_0": start},
            provisional=open_yet,
        )


def _give_specimen(results: Results, facts: Facts, school: TriaxialSchool, t: Tested) -> None:
    n, key = t.row + 1, t.prefix
    if t.b_ratio is not None:
        row = t.specimen.increments[t.answers[-1].row]
        inputs = {
            "c_1": row.cell_from_kpa or 0.0,
            "c_2": row.cell_to_kpa or 0.0,
            "u_1": row.pore_from_kpa or 0.0,
            "u_2": row.pore_to_kpa or 0.0,
        }
        formula = "(u_2 - u_1) / (c_2 - c_1)"
        results.give(
            f"{key}b_ratio", "B", f"specimen {n}, answer of the pore pressure", t.b_ratio, "", 0.01, formula, inputs
        )
    _give_consolidation(results, facts, school, t)
    at = t.failure(school)
    if at is not None and not t.specimen.excluded_because:
        deviator_first = school.criterion == "greatest deviator"
        _give_failure(results, facts, school, t, at, "deviator" if deviator_first else "obliquity", key)
        other = t.obliquity if deviator_first else t.deviator
        if other is not None and facts.measures_pore and not facts.drained:
            _give_failure(
                results, facts, school, t, other, "obliquity" if deviator_first else "deviator", f"{key}other_"
            )
        _give_stiffness(results, facts, t)
        if t.deviator is not None and not facts.drained:
            su = t.deviator.t_kpa
            inputs = {"q": abs(t.deviator.deviator_kpa)}
            name = f"specimen {n}, undrained shear strength"
            open_yet = not t.over
            results.give(f"{key}su_kpa", "s_u", name, su, "kPa", 1, "q / 2", inputs, provisional=open_yet)
            over = t.axial_effective_kpa if facts.anisotropic else t.effective_kpa
            if over and over > 0:
                inputs = {"s_u": su, "p": over}
                which = "axial consolidation stress" if facts.anisotropic else "consolidation pressure"
                name = f"specimen {n}, strength over its {which}"
                ratio = su / over
                results.give(f"{key}su_ratio", "s_u/p", name, ratio, "", 0.01, "s_u / p", inputs, provisional=open_yet)
        if t.deviator is not None:
            rubber, strips = t.deviator.membrane_kpa, t.deviator.drains_kpa
            if rubber or strips:
                words = f"membrane {rubber:.1f} kPa" + (f", drains {strips:.1f} kPa" if strips else "")
                results.say(f"{key}corrections", "", f"specimen {n}, taken from the deviator", "", words)
    _give_state(results, facts, t)


def _give_stiffness(results: Results, facts: Facts, t: Tested) -> None:
    n, key = t.row + 1, t.prefix
    # A later stage begins on a specimen that was sheared before: it has no modulus from its start.
    if t.deviator is None or len(t.points) < 4 or not t.over or t.shortened_mm:
        return
    start = t.start_kpa if facts.anisotropic else 0.0
    half = abs(t.deviator.deviator_kpa - start) / 2
    strain = cells.strain_at(t.points, half, start)
    if strain:
        inputs = {"q_h": half, "e": strain}
        e50 = half / strain / 1000
        name = f"specimen {n}, secant modulus to half of it"
        results.give(f"{key}e50_mpa", "E_50", name, e50, "MPa", significant_step(e50), "q_h / e / 1000", inputs)
    for share, word in ((0.001, "0.1"), (0.01, "1")):
        secant = cells.secant_mpa(t.points, share)
        if secant is not None:
            inputs = {"q_e": secant * share * 1000, "e": share}
            name, field = f"specimen {n}, secant modulus at {word} %", f"{key}e{word.replace('.', '')}_mpa"
            results.give(field, "E", name, secant, "MPa", significant_step(secant), "q_e / e / 1000", inputs)


def _give_flow(results: Results, facts: Facts, school: TriaxialSchool, t: Tested) -> None:
    """How quickly it consolidates, and the conductivity that follows, both for the ends it drains to."""
    t90, t100 = t.drainage.t90_min, t.drainage.t100_min
    start, core, out = t.start, t.core, water_out_cm3(t.specimen)
    if start is None or core is None or facts.quick or not t.effective_kpa or t.effective_kpa <= 0:
        return
    n, key, through = t.row + 1, t.prefix, drains_through(facts.record, school)
    name = f"specimen {n}, coefficient of consolidation, drained through {through}"
    if through in LAMBDA:
        if t100 is None:
            return
        wide, ratio = start.diameter_mm, LAMBDA[through]
        cv, formula = math.pi * wide**2 / (ratio * t100), "pi * D ** 2 / (l * t_100)"
        inputs = {"D": wide, "l": ratio, "t_100": t100}
    else:
        if t90 is None:
            return
        way = start.height_mm / (2 if through == "both ends" else 1)
        cv, formula = T90 * way**2 / t90, "T * d ** 2 / t_90"
        inputs = {"T": T90, "d": way, "t_90": t90}
    results.give(f"{key}cv_mm2_min", "c_v", name, cv, "mm²/min", significant_step(cv), formula, inputs)
    if out is not None and out > 0 and not facts.anisotropic:
        mv = out / core.volume_cm3 / t.effective_kpa
        k = cv / 60e6 * mv * UNIT_WEIGHT_KN_M3
        inputs = {"c_v": cv, "m_v": mv, "g_w": UNIT_WEIGHT_KN_M3}
        name, formula = f"specimen {n}, conductivity that follows", "c_v / 60000000 * m_v * g_w"
        results.give(f"{key}conductivity_m_s", "k", name, k, "m/s", significant_step(k), formula, inputs)


def _give_consolidation(results: Results, facts: Facts, school: TriaxialSchool, t: Tested) -> None:
    n, key, drainage = t.row + 1, t.prefix, t.drainage
    if t.effective_kpa is not None:
        inputs = {"c": t.specimen.cell_kpa or 0.0, "b": t.specimen.back_kpa or 0.0}
        which = "radial effective consolidation stress" if facts.anisotropic else "effective consolidation pressure"
        name = f"specimen {n}, {which}"
        results.give(f"{key}effective_kpa", "p_c", name, t.effective_kpa, "kPa", 1, "c - b", inputs)
        axial = t.axial_effective_kpa
        if facts.anisotropic and t.points and axial is not None and axial > 0:
            inputs = {"p_c": t.effective_kpa, "q_0": t.start_kpa}
            name = f"specimen {n}, axial effective consolidation stress"
            results.give(f"{key}axial_kpa", "sigma_1c", name, axial, "kPa", 1, "p_c + q_0", inputs)
            ratio, inputs = t.effective_kpa / axial, {"p_c": t.effective_kpa, "s_1": axial}
            name = f"specimen {n}, ratio of consolidation stresses"
            results.give(f"{key}consolidation_ratio", "K_c", name, ratio, "", 0.01, "p_c / s_1", inputs)
        in_situ = facts.record.in_situ_kpa
        if known(in_situ) and in_situ > 0:
            ratio, inputs = t.effective_kpa / in_situ, {"p": t.effective_kpa, "p_0": in_situ}
            name = f"specimen {n}, of the stress in the ground"
            results.give(f"{key}in_situ_ratio", "p/p_0", name, ratio, "", 0.01, "p / p_0", inputs)
    if t.start is not None and t.core is not None and not facts.quick:
        start, core = t.start, t.core
        shown: tuple[tuple[str, str, str, float, str, float], ...] = (
            ("height_mm", "H_c", "height after consolidation", start.height_mm, "mm", 0.01),
            ("area_mm2", "A_c", "area after consolidation", start.area_mm2, "mm²", 1),
        )
        for field, symbol, words, value, unit, step in shown:
            results.give(f"{key}{field}", symbol, f"specimen {n}, {words}", value, unit, step, "x", {"x": value})
        out = water_out_cm3(t.specimen)
        if out is not None:
            share, inputs = 100 * out / core.volume_cm3, {"dV": out, "V_0": core.volume_cm3}
            name = f"specimen {n}, volume lost in consolidation"
            results.give(f"{key}volume_percent", "eps_v", name, share, "%", 0.1, "100 * dV / V_0", inputs)
            if t.effective_kpa and t.effective_kpa > 0 and not facts.anisotropic:
                mv = out / core.volume_cm3 / t.effective_kpa * 1000
                inputs |= {"p": t.effective_kpa}
                name, formula = f"specimen {n}, compressibility, MPa⁻¹", "1000 * dV / V_0 / p"
                results.give(f"{key}mv_ratio", "m_v", name, mv, "", significant_step(mv), formula, inputs)
    for field, symbol, minutes in (
        ("t50_min", "t_50", drainage.t50_min),
        ("t90_min", "t_90", drainage.t90_min),
        ("t100_min", "t_100", drainage.t100_min),
    ):
        if minutes is not None and not facts.quick:
            name = f"specimen {n}, {symbol.replace('_', '')}{' (moved by hand)' if drainage.by_hand else ''}"
            results.give(f"{key}{field}", symbol, name, minutes, "min", significant_step(minutes), "t", {"t": minutes})
    _give_flow(results, facts, school, t)
    if t.needed_percent_min is not None and not facts.quick:
        rate = t.needed_percent_min
        name = f"specimen {n}, greatest rate of strain"
        results.give(f"{key}most_percent_min", "v", name, rate, "%/min", significant_step(rate), "v", {"v": rate})
    if t.rate_percent_min is not None:
        rate, name = t.rate_percent_min, f"specimen {n}, rate of strain used"
        results.give(f"{key}rate_percent_min", "v", name, rate, "%/min", significant_step(rate), "v", {"v": rate})


def _give_state(results: Results, facts: Facts, t: Tested) -> None:
    n, key, state, core = t.row + 1, t.prefix, t.state, t.core
    if state.water_after_percent is not None:
        own = t.specimen
        inputs = {"M_1": own.mass_wet_g or 0.0, "M_2": own.mass_dry_g or 0.0, "M_c": own.mass_tin_g or 0.0}
        formula, name = "100 * (M_1 - M_2) / (M_2 - M_c)", f"specimen {n}, water content after"
        results.give(f"{key}water_percent", "w_f", name, state.water_after_percent, "%", 0.1, formula, inputs)
    if state.dry_mg_m3 is None or core is None or state.mass_dry_g is None:
        return
    inputs = {"M_d": state.mass_dry_g, "V_0": core.volume_cm3}
    results.give(
        f"{key}dry_mg_m3", "rho_d", f"specimen {n}, dry density", state.dry_mg_m3, "Mg/m³", 0.01, "M_d / V_0", inputs
    )
    particle, sign = facts.record.particle_density_mg_m3, ""
    if state.void_ratio is None or not known(particle):
        return
    sign = "" if facts.record.particle_density_from == "measured" else "# "
    inputs = {"rho_s": particle, "rho_d": state.dry_mg_m3}
    e = state.void_ratio
    said, formula = sign + rounded(e, 0.01), "rho_s / rho_d - 1"
    results.give(f"{key}void_ratio", "e_0", f"specimen {n}, void ratio", e, "", 0.01, formula, inputs, reported=said)
    if state.void_ratio_consolidated is not None and not facts.quick:
        loaded = state.void_ratio_consolidated
        inputs = {"e_0": e, "dV": (e - loaded) / (1 + e) * core.volume_cm3, "V_0": core.volume_cm3}
        said, name = sign + rounded(loaded, 0.01), f"specimen {n}, void ratio after consolidation"
        formula = "e_0 - (1 + e_0) * dV / V_0"
        results.give(f"{key}void_ratio_consolidated", "e_c", name, loaded, "", 0.01, formula, inputs, reported=said)
    full = state.saturation_percent
    if full is not None:
        said, inputs = sign + rounded(full, 1), {"S": full}
        name = f"specimen {n}, saturation before"
        results.give(f"{key}saturation_percent", "S_r", name, full, "%", 1, "S", inputs, reported=said)


def reduce(facts: Facts, school: TriaxialSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results = Results(school.standard)
    other = "greatest obliquity" if school.criterion == "greatest deviator" else "greatest deviator"
    if facts.quick:
        _give_quick(results, facts, school)
    if facts.effective:
        _give_envelope(results, facts, school, facts.effective, "", f"effective, {school.criterion}")
        _give_extras(results, facts, school, facts.effective)
    if facts.by_other:
        _give_envelope(results, facts, school, facts.by_other, "_by_other", f"effective, {other}")
    if facts.total and not facts.quick:
        _give_envelope(results, facts, school, facts.total, "_total", "total stress")
    for t in facts.tested:
        _give_specimen(results, facts, school, t)
    waits: tuple[Missing, ...] = ()
    if facts.hand is not None:
        words = f"specimen {facts.hand + 1}" + (", sheared to its failure" if facts.in_hand is not None else "")
        waited = "mean strength" if facts.quick else "envelope"
        waits = (Missing(name=waited, waits_for=words, at=f"specimens[{facts.hand}].wanted_kpa"),)
    return Outcome(
        method="triaxial",
        school=school.name,
        values=tuple(results.values),
        missing=waits,
        working=tuple(results.working),
        series=series(facts, school),
    )
