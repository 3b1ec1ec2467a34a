"""Density of the whole soil and of the fine earth, the stones' share, and the water."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.pit_density.facts import Facts
from vadum.soil.methods.pit_density.flow import VOLUME
from vadum.soil.methods.pit_density.pit import Hole, Soil
from vadum.soil.methods.pit_density.school import PitDensitySchool
from vadum.soil.shared.conformity import statement
from vadum.soil.shared.phases import give_phases, volumetric_water_percent
from vadum.soil.shared.physics import WATER_20_MG_M3


def fine_earth_density_mg_m3(fines_g: float, volume_cm3: float, coarse_g: float, stone_mg_m3: float) -> float:
    """Density of the fine earth, Mg/m3: `Md_fines / (V - Mcoarse / rho_particle)`.

    Parameters: dry masses in g; the hole in cm³; the stones' particle density in Mg/m³, above 0.
    Returns: Mg/m³.
    Source: ISO 11272.

    >>> round(fine_earth_density_mg_m3(1570.0, 1500.0, 530.0, 2.65), 4)
    1.2077
    """
    return fines_g / (volume_cm3 - coarse_g / stone_mg_m3)


def _provisional(facts: Facts, school: PitDensitySchool) -> bool:
    """Whether a reading of the volume or of the dry masses is still to come."""
    record = facts.record
    separated = school.dry_by == "separation" or record.mass_fines_g is not None or record.mass_coarse_g is not None
    parts = ("mass_coarse_g", "mass_fines_g") if separated else ("mass_soil_field_g",)
    wanted = (*VOLUME[school.volume_by], *parts, "mass_dry_g")
    return any(getattr(record, field) is None for field in wanted)


def _give_densities(results: Results, facts: Facts, hole: Hole, soil: Soil, school: PitDensitySchool) -> None:
    """The density of the whole soil and of the fine earth between the stones, the wanted one first."""
    v, step = hole.volume_cm3, school.report_to_mg_m3
    dry = {"M_f": soil.fines_g, "M_c": soil.coarse_g, "V": v}

    def whole() -> None:
        formula = "(M_f + M_c) / V"
        results.give(
            "dry_density_mg_m3", "rho_d", "dry density, whole soil", soil.dry_g / v, "Mg/m³", step, formula, dry
        )

    def fine() -> None:
        if facts.stones_percent is not None:
            value = fine_earth_density_mg_m3(soil.fines_g, v, soil.coarse_g, facts.stone_mg_m3)
            inputs = {**dry, "rho_stone": facts.stone_mg_m3}
            name, formula = "dry density, fine earth", "M_f / (V - M_c / rho_stone)"
            results.give("fine_earth_density_mg_m3", "rho_f", name, value, "Mg/m³", step, formula, inputs)

    for part in (whole, fine) if school.wants == "whole soil" else (fine, whole):
        part()


def _give_by_tin(results: Results, facts: Facts, hole: Hole, school: PitDensitySchool) -> None:
    """Densities with the water of a representative tin: nothing has to be separated."""
    moist, mass, step = facts.moist_mg_m3 or 0.0, facts.record.mass_soil_field_g or 0.0, school.report_to_mg_m3
    inputs = {"M": mass, "V": hole.volume_cm3}
    results.give("density_mg_m3", "rho", "density, moist", moist, "Mg/m³", step, "M / V", inputs)
    if facts.tin is None or facts.water_percent is None or facts.dry_mg_m3 is None:
        return
    results.give_water("water_content_percent", "water content of the field soil", facts.tin)
    name, formula = "dry density, whole soil", "rho / (1 + w / 100)"
    given = {"rho": moist, "w": facts.water_percent}
    results.give("dry_density_mg_m3", "rho_d", name, facts.dry_mg_m3, "Mg/m³", step, formula, given)


def _give_compaction(results: Results, facts: Facts, school: PitDensitySchool) -> None:
    """Relative compaction, with the reference's run, effort and mould in its note."""
    record, dry, reference = facts.record, facts.dry_mg_m3, facts.reference_mg_m3
    if dry is None or reference is None or not known(record.reference_density_mg_m3):
        return
    corrected = reference != record.reference_density_mg_m3
    if corrected:
        results.work(
            "reference_with_stones_mg_m3",
            "rho_ref",
            "100 / ((100 - P_C) / rho_F + P_C / (G_C * rho_w))",
            {
                "P_C": record.field_oversize_percent or 0.0,
                "rho_F": record.reference_density_mg_m3,
                "G_C": record.oversize_gravity_ratio or 1.0,
                "rho_w": WATER_20_MG_M3,
            },
            reference,
            "Mg/m³",
            source="ASTM D4718",
            note="the reference with this place's own stones",
        )
    name = f"relative compaction{f' of {record.reference_from}' if record.reference_from else ''}"
    inputs = {"rho_d": dry, "rho_ref": reference}
    formula = "100 * rho_d / rho_ref"
    share = results.give("relative_compaction_percent", "RC", name, 100 * dry / reference, "%", 0.1, formula, inputs)
    if known(record.required_percent):
        words = statement(share, record.required_percent, school.conformity, school.conformity_guard_percent)
        if words:
            results.say("conformity", "", "conformity", "", words, provisional=results.provisional)


def _give_stones(results: Results, facts: Facts, hole: Hole, soil: Soil) -> None:
    masses = {"M_c": soil.coarse_g, "M_f": soil.fines_g}
    share = 100 * soil.coarse_g / soil.dry_g
    formula = "100 * M_c / (M_f + M_c)"
    results.give("coarse_mass_percent", "X_m", "stones by mass", share, "%", 1, formula, masses)
    volume = 100 * (facts.stones_cm3 or 0.0) / hole.volume_cm3
    inputs = {"M_c": soil.coarse_g, "rho_stone": facts.stone_mg_m3, "V": hole.volume_cm3}
    formula = "100 * M_c / rho_stone / V"
    results.give("coarse_volume_percent", "X_v", "stones by volume", volume, "%", 1, formula, inputs)


def _give_water(results: Results, moist_g: float, hole: Hole, soil: Soil, step: float) -> None:
    """The water of the whole soil: its moist mass in the field less all that stayed dry."""
    water = 100 * (moist_g - soil.dry_g) / soil.dry_g
    inputs = {"M": moist_g, "M_f": soil.fines_g, "M_c": soil.coarse_g}
    formula = "100 * (M - M_f - M_c) / (M_f + M_c)"
    results.give("water_content_percent", "w", "water content, whole soil", water, "%", 0.1, formula, inputs)
    v = hole.volume_cm3
    inputs = {"M": moist_g, "V": v}
    results.give("density_mg_m3", "rho", "density, moist", moist_g / v, "Mg/m³", step, "M / V", inputs)


def reduce(facts: Facts, school: PitDensitySchool) -> Outcome:
    """Both densities so far; the one the school wants first."""
    record, hole, soil = facts.record, facts.hole, facts.soil
    results = Results(school.standard, provisional=_provisional(facts, school))
    if soil and facts.tin:
        results.working.append(facts.tin.line("air_dry_water_percent"))
        inputs = {"M_separated": record.mass_fines_g or 0.0, "w": soil.air_dry_percent}
        results.work("mass_fines_dry_g", "M_f", "M_separated / (1 + w / 100)", inputs, soil.fines_g, "g")
    if hole:
        results.give("volume_cm3", "V", "hole's volume", hole.volume_cm3, "cm³", 1, hole.formula, hole.inputs)
    if hole and facts.moist_mg_m3 is not None and not soil:
        _give_by_tin(results, facts, hole, school)
    if facts.dry_mg_m3 is not None and facts.whole_water_percent is not None:
        particle = record.particle_density_mg_m3
        give_phases(results, facts.dry_mg_m3, facts.whole_water_percent, particle if known(particle) else None)
        _give_compaction(results, facts, school)
    parts: Table = ()
    if hole and soil and facts.stones_cm3 is not None:
        _give_densities(results, facts, hole, soil, school)
        _give_stones(results, facts, hole, soil)
        moist = record.mass_soil_field_g
        if known(moist) and moist >= soil.dry_g:
            _give_water(results, moist, hole, soil, school.report_to_mg_m3)
        share = 100 * facts.stones_cm3 / hole.volume_cm3
        edge = min(share, 100.0)
        parts = (
            {"part": "stones", "from": 0.0, "to": edge, "label": f"stones {share:.0f} %"},
            {"part": "fine earth", "from": edge, "to": 100.0, "label": f"fine earth {100 - share:.0f} %"},
        )
    elif facts.dry_mg_m3 is not None and facts.water_percent is not None:
        wet = min(volumetric_water_percent(facts.dry_mg_m3, facts.water_percent), 100.0)
        parts = (
            {"part": "solids and air", "from": 0.0, "to": 100 - wet, "label": f"solids and air {100 - wet:.0f} %"},
            {"part": "water", "from": 100 - wet, "to": 100.0, "label": f"water {wet:.0f} %"},
        )
    return Outcome(
        method="pit_density",
        school=school.name,
        values=tuple(results.values),
        working=tuple(results.working),
        series={"parts": parts},
    )
