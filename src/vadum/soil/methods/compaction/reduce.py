"""Maximum dry density and optimum water content, with the air lines and the stones' correction."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.compaction.facts import Facts
from vadum.soil.methods.compaction.peak import Peak, curve_points
from vadum.soil.methods.compaction.points import Made
from vadum.soil.methods.compaction.record import Record
from vadum.soil.methods.compaction.school import CompactionSchool
from vadum.soil.shared.oversize import with_stones_mg_m3, with_stones_percent
from vadum.soil.shared.phases import saturation_percent, zero_air_mg_m3
from vadum.soil.shared.physics import GRAVITY_M_S2, WATER_20_MG_M3
from vadum.soil.shared.water_by_tin import water_line

AIR_LINES = (0.0, 5.0, 10.0)


def _missing(record: Record, school: CompactionSchool, made: list[Made]) -> tuple[Missing, ...]:
    waits = []
    for field, words in (("mould_mass_g", "the empty mould"), ("mould_volume_cm3", "the mould's volume")):
        if getattr(record, field) is None:
            waits.append(Missing(name="dry density", waits_for=words, at=field))
    short = school.least_points - sum(m.counts for m in made)
    if short > 0:
        words = f"{short} more point{'s' if short > 1 else ''}"
        waits.append(Missing(name="peak", waits_for=words, at="points"))
    wet = [m for m in made if m.about and m.counts]
    if wet:
        words = f"{len(wet)} dry tin{'s' if len(wet) > 1 else ''}"
        waits.append(Missing(name="peak", waits_for=words, at=f"points[{wet[0].row}].mass_dry_g"))
    if record.specific_gravity_ratio is None:
        waits.append(Missing(name="air lines", waits_for="the specific gravity", at="specific_gravity_ratio"))
    return tuple(waits)


def _give_peak(results: Results, peak: Peak, record: Record, school: CompactionSchool, estimate: bool) -> None:
    a, b, c, d = peak.coefficients
    rows = ", ".join(str(i + 1) for i in peak.used)
    note = f"{school.fit} through points {rows}; x = w − {peak.origin:.3f}"
    inputs = {"w_0": peak.origin, "b": b, "c": c}
    place = "w_0 - b / (2 * c)"
    if abs(d) >= 1e-12:
        inputs, place = {**inputs, "d": d}, "w_0 + (-c - sqrt(c ** 2 - 3 * b * d)) / (3 * d)"
    results.give(
        "optimum_water_percent",
        "w_opt",
        "optimum water content",
        peak.water_percent,
        "%",
        school.water_step(peak.water_percent),
        place,
        inputs,
        note=note,
        uncertainty=peak.water_error,
        estimate=estimate,
    )
    results.give(
        "maximum_dry_density_mg_m3",
        "rho_dmax",
        "maximum dry density",
        peak.dry_mg_m3,
        "Mg/m³",
        school.density_to_mg_m3,
        "a + b * (w_opt - w_0) + c * (w_opt - w_0) ** 2 + d * (w_opt - w_0) ** 3",
        {"a": a, "b": b, "c": c, "d": d, "w_opt": peak.water_percent, "w_0": peak.origin},
        note=note,
        uncertainty=peak.dry_error,
        estimate=estimate,
    )
    results.give(
        "maximum_dry_unit_weight_kn_m3",
        "gamma_dmax",
        "maximum dry unit weight",
        GRAVITY_M_S2 * peak.dry_mg_m3,
        "kN/m³",
        school.unit_weight_to_kn_m3,
        "g * rho_dmax",
        {"g": GRAVITY_M_S2, "rho_dmax": peak.dry_mg_m3},
        estimate=estimate,
    )
    gravity = record.specific_gravity_ratio
    if known(gravity) and gravity * WATER_20_MG_M3 > peak.dry_mg_m3:
        particle = gravity * WATER_20_MG_M3
        results.give(
            "saturation_at_optimum_percent",
            "S_opt",
            "saturation at the optimum",
            saturation_percent(peak.water_percent, peak.dry_mg_m3, particle),
            "%",
            1,
            "w_opt * G_s / (G_s * rho_w / rho_dmax - 1)",
            {"w_opt": peak.water_percent, "G_s": gravity, "rho_w": WATER_20_MG_M3, "rho_dmax": peak.dry_mg_m3},
            estimate=estimate,
        )
    stones, stone_gravity = record.oversize_percent, record.oversize_gravity_ratio
    # Below five per cent the standard asks for no correction: none is given, and the rule says so.
    if known(stones) and school.least_oversize_percent <= stones < 100 and known(stone_gravity) and stone_gravity > 0:
        stone_water = record.oversize_water_percent if known(record.oversize_water_percent) else 0.0
        results.give(
            "corrected_dry_density_mg_m3",
            "rho_dT",
            "maximum dry density with the stones",
            with_stones_mg_m3(peak.dry_mg_m3, stones, stone_gravity),
            "Mg/m³",
            school.density_to_mg_m3,
            "100 / ((100 - P_C) / rho_dmax + P_C / (G_C * rho_w))",
            {"P_C": stones, "rho_dmax": peak.dry_mg_m3, "G_C": stone_gravity, "rho_w": WATER_20_MG_M3},
            source="ASTM D4718",
            estimate=estimate,
        )
        results.give(
            "corrected_water_percent",
            "w_T",
            "optimum water content with the stones",
            with_stones_percent(peak.water_percent, stones, stone_water),
            "%",
            school.water_step(peak.water_percent),
            "(w_opt * (100 - P_C) + w_C * P_C) / 100",
            {"w_opt": peak.water_percent, "P_C": stones, "w_C": stone_water},
            source="ASTM D4718",
            estimate=estimate,
        )


def saturation_of(made: Made, record: Record) -> float | None:
    """Saturation of a point; None without a specific gravity.

    Parameters: `made` the point; `record` its specific gravity.
    Returns: %.
    Source: phase relations.
    """
    gravity = record.specific_gravity_ratio
    if not known(gravity) or gravity * WATER_20_MG_M3 <= made.dry_mg_m3:
        return None
    return saturation_percent(made.water_percent, made.dry_mg_m3, gravity * WATER_20_MG_M3)


def _series(made: list[Made], peak: Peak | None, record: Record, school: CompactionSchool) -> dict[str, Table]:
    rows: Table = tuple(
        {
            "trial": m.row + 1,
            "w_percent": m.water_percent,
            "dry_mg_m3": m.dry_mg_m3,
            "state": "left out" if not m.counts else ("about" if m.about else "measured"),
            "label": str(m.row + 1),
            "saturation_percent": saturation_of(m, record),
            "energy_kj_m3": m.energy_kj_m3,
        }
        for m in made
    )
    lines: list[dict[str, float | int | str | bool | None]] = []
    gravity = record.specific_gravity_ratio
    if made and known(gravity) and gravity > 1:
        low = max(min(m.water_percent for m in made) - 1.5, 0.0)
        high = max(m.water_percent for m in made) + 1.5
        for air in AIR_LINES:
            for i in range(25):
                w = low + (high - low) * i / 24
                label = f"{air:g} % air" if i == 24 else ""
                dry = zero_air_mg_m3(w, gravity, air)
                lines.append({"w_percent": w, "dry_mg_m3": dry, "line": f"{air:g}", "label": label})
    curve: Table = ()
    top: Table = ()
    if peak:
        curve = tuple({"w_percent": w, "dry_mg_m3": y} for w, y in curve_points(made, peak, school))
        about = any(m.about for m in made if m.row in peak.used)
        label = f"{'about ' if about else ''}{peak.dry_mg_m3:.2f} Mg/m³ at {peak.water_percent:.1f} %"
        left = max(min(m.water_percent for m in made) - 1.5, 0.0)
        top = ({"w_percent": peak.water_percent, "dry_mg_m3": peak.dry_mg_m3, "w_from": left, "label": label},)
    return {"points": rows, "air_lines": tuple(lines), "curve": curve, "peak": top}


def reduce(facts: Facts, school: CompactionSchool) -> Outcome:
    """The curve and its peak so far: about while tins are wet, measured when they are dry."""
    record, made, peak = facts.record, list(facts.made), facts.peak
    waits = _missing(record, school, made)
    results = Results(school.standard, provisional=any(m.name == "peak" for m in waits))
    for m in made:
        row = record.points[m.row]
        tin, wet, dry = row.mass_tin_g, row.mass_wet_g, row.mass_dry_g
        if not m.about and known(tin) and known(wet) and known(dry):
            results.working.append(water_line(f"water_content_{m.row + 1}", wet, dry, tin))
        empty, volume = record.mould_mass_g or 0.0, record.mould_volume_cm3 or 1.0
        results.work(
            f"dry_density_{m.row + 1}",
            f"rho_d{m.row + 1}",
            "(M_2 - M_1) / V / (1 + w / 100)",
            {"M_2": row.mass_with_soil_g or 0.0, "M_1": empty, "V": volume, "w": m.water_percent},
            m.dry_mg_m3,
            "Mg/m³",
            note="w from the water added" if m.about else "",
        )
    if peak and not facts.flat:
        _give_peak(results, peak, record, school, any(m.about for m in made if m.row in peak.used))
    return Outcome(
        method="compaction",
        school=school.name,
        values=tuple(results.values),
        missing=waits,
        working=tuple(results.working),
        series=_series(made, peak, record, school),
    )
