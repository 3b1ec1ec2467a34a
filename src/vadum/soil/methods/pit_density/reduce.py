"""Density of the whole soil and of the fine earth, the stones' share, and the water."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.pit_density.facts import Facts
from vadum.soil.methods.pit_density.pit import coarse_volume_cm3, hole_of, soil_of, stone_density_mg_m3
from vadum.soil.methods.pit_density.record import Record
from vadum.soil.methods.pit_density.school import PitDensitySchool
from vadum.soil.shared.water_by_tin import water_line


def fine_earth_density_mg_m3(fines_g: float, volume_cm3: float, coarse_g: float, stone_mg_m3: float) -> float:
    """Density of the fine earth, Mg/m3: `Md_fines / (V - Mcoarse / rho_particle)`.

    Masses dry in g, volume in cm3. Source: ISO 11272.

    >>> round(fine_earth_density_mg_m3(1570.0, 1500.0, 530.0, 2.65), 4)
    1.2077
    """
    return fines_g / (volume_cm3 - coarse_g / stone_mg_m3)


def _missing(record: Record, school: PitDensitySchool) -> tuple[Missing, ...]:
    by = {
        "sand": ("sand_density_mg_m3", "mass_sand_before_g", "mass_sand_after_g", "mass_sand_cone_g"),
        "water": ("water_poured_ml",),
        "typed": ("volume_cm3",),
    }[school.volume_by]
    fields = type(record).model_fields
    waits = [Missing(name="volume", waits_for=str(fields[f].title), at=f) for f in by if getattr(record, f) is None]
    for field in ("mass_coarse_g", "mass_fines_g", "mass_dry_g"):
        if getattr(record, field) is None:
            waits.append(Missing(name="dry density", waits_for=str(fields[field].title), at=field))
    if record.mass_soil_field_g is None:
        words = str(fields["mass_soil_field_g"].title)
        waits.append(Missing(name="water content", waits_for=words, at="mass_soil_field_g"))
    return tuple(waits)


def reduce(facts: Facts, school: PitDensitySchool) -> Outcome:
    """Both densities so far; the one the school wants first."""
    record = facts.record
    waits = _missing(record, school)
    hole, soil = hole_of(record, school), soil_of(record)
    results = Results(school.standard, provisional=any(m.name != "water content" for m in waits))
    step = school.report_to_mg_m3
    series: dict[str, Table] = {"parts": ()}
    if soil and known(record.mass_wet_g) and known(record.mass_dry_g) and known(record.mass_tin_g):
        line = water_line("air_dry_water_percent", record.mass_wet_g, record.mass_dry_g, record.mass_tin_g)
        results.working.append(line)
        results.work(
            "mass_fines_dry_g",
            "M_f",
            "M_separated / (1 + w / 100)",
            {"M_separated": record.mass_fines_g or 0.0, "w": soil.air_dry_percent},
            soil.fines_g,
            "g",
        )
    stones = coarse_volume_cm3(record, school)
    if hole:
        results.give("volume_cm3", "V", "hole's volume", hole.volume_cm3, "cm³", 1, hole.formula, hole.inputs)
    if hole and soil and stones is not None:
        v, stone = hole.volume_cm3, stone_density_mg_m3(record, school)
        dry = {"M_f": soil.fines_g, "M_c": soil.coarse_g, "V": v}

        def whole() -> None:
            name = "dry density, whole soil"
            value = soil.dry_g / v
            results.give("dry_density_mg_m3", "rho_d", name, value, "Mg/m³", step, "(M_f + M_c) / V", dry)

        def fine() -> None:
            if stones < v:
                value = fine_earth_density_mg_m3(soil.fines_g, v, soil.coarse_g, stone)
                results.give(
                    "fine_earth_density_mg_m3",
                    "rho_f",
                    "dry density, fine earth",
                    value,
                    "Mg/m³",
                    step,
                    "M_f / (V - M_c / rho_stone)",
                    {**dry, "rho_stone": stone},
                )

        for part in (whole, fine) if school.wants == "whole soil" else (fine, whole):
            part()
        results.give(
            "coarse_mass_percent",
            "X_m",
            "stones by mass",
            100 * soil.coarse_g / soil.dry_g,
            "%",
            1,
            "100 * M_c / (M_f + M_c)",
            {"M_c": soil.coarse_g, "M_f": soil.fines_g},
        )
        share = 100 * stones / v
        inputs = {"M_c": soil.coarse_g, "rho_stone": stone, "V": v}
        formula = "100 * M_c / rho_stone / V"
        results.give("coarse_volume_percent", "X_v", "stones by volume", share, "%", 1, formula, inputs)
        series["parts"] = (
            {"part": "stones", "from": 0.0, "to": min(share, 100.0), "label": f"stones {share:.0f} %"},
            {"part": "fine earth", "from": min(share, 100.0), "to": 100.0, "label": f"fine earth {100 - share:.0f} %"},
        )
        field = record.mass_soil_field_g
        if known(field) and field >= soil.dry_g:
            water = 100 * (field - soil.dry_g) / soil.dry_g
            inputs = {"M": field, "M_f": soil.fines_g, "M_c": soil.coarse_g}
            formula = "100 * (M - M_f - M_c) / (M_f + M_c)"
            results.give("water_content_percent", "w", "water content, whole soil", water, "%", 0.1, formula, inputs)
            results.give(
                "density_mg_m3", "rho", "density, moist", field / v, "Mg/m³", step, "M / V", {"M": field, "V": v}
            )
    return Outcome(
        method="pit_density",
        school=school.name,
        values=tuple(results.values),
        missing=waits,
        working=tuple(results.working),
        series=series,
    )
