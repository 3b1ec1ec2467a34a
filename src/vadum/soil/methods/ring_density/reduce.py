"""Moist and dry density of the ring's soil, and its phases."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.ring_density.checks import checks
from vadum.soil.methods.ring_density.core import core_of
from vadum.soil.methods.ring_density.record import Record
from vadum.soil.methods.ring_density.schools import RingDensitySchool
from vadum.soil.shared.phases import dry_density_mg_m3, give_phases
from vadum.soil.shared.water_by_tin import measured_percent, water_line


def _missing(record: Record, school: RingDensitySchool) -> tuple[Missing, ...]:
    waits = []
    for field, words in (("ring_diameter_mm", "the ring's diameter"), ("ring_height_mm", "the ring's height")):
        if getattr(record, field) is None:
            waits.append(Missing(name="volume", waits_for=words, at=field))
    short = school.least_headspaces - sum(h.headspace_mm is not None for h in record.headspaces)
    if not school.full_ring and short > 0:
        waits.append(Missing(name="volume", waits_for=f"{short} more headspaces", at="headspaces"))
    for field, words in (("mass_container_g", "the empty bag"), ("mass_with_soil_g", "the moist soil's mass")):
        if getattr(record, field) is None:
            waits.append(Missing(name="density", waits_for=words, at=field))
    if measured_percent(record) is None:
        waits.append(Missing(name="dry density", waits_for="the subsample's dry mass", at="mass_dry_g"))
    if record.particle_density_mg_m3 is None:
        waits.append(Missing(name="saturation", waits_for="the particle density", at="particle_density_mg_m3"))
    return tuple(waits)


def reduce(record: Record, school: RingDensitySchool) -> Outcome:
    """Densities and phases so far."""
    waits = _missing(record, school)
    core = core_of(record, school)
    results = Results(school.standard, provisional=any(m.name != "saturation" for m in waits))
    water = measured_percent(record)
    if water is not None and known(record.mass_wet_g) and known(record.mass_dry_g) and known(record.mass_tin_g):
        line = water_line("water_content_percent", record.mass_wet_g, record.mass_dry_g, record.mass_tin_g)
        results.give(
            "water_content_percent",
            "w",
            "water content",
            water,
            "%",
            0.1,
            line.formula,
            line.inputs,
            source=line.source,
        )
    series: dict[str, Table] = {"phases": (), "headspaces": (), "core": ()}
    if core:
        results.work(
            "volume_cm3",
            "V",
            "pi * d ** 2 / 4 * (H - h_top - h_bottom) / 1000",
            {"d": core.diameter_mm, "H": core.height_mm, "h_top": core.top_mm, "h_bottom": core.bottom_mm},
            core.volume_cm3,
            "cm³",
        )
        series["core"] = ({"empty_ratio": core.top_mm / core.height_mm},)
    density = core.density(record) if core else None
    if core and density is not None:
        masses = {"M_2": record.mass_with_soil_g or 0.0, "M_1": record.mass_container_g or 0.0, "V": core.volume_cm3}
        step = school.report_to_mg_m3
        formula = "(M_2 - M_1) / V"
        results.give("density_mg_m3", "rho", "density, moist", density, "Mg/m³", step, formula, masses)
        if water is not None:
            dry = dry_density_mg_m3(density, water)
            inputs = {"rho": density, "w": water}
            results.give("dry_density_mg_m3", "rho_d", "dry density", dry, "Mg/m³", step, "rho / (1 + w / 100)", inputs)
            particle = record.particle_density_mg_m3
            give_phases(results, dry, water, particle if known(particle) else None)
            if known(particle) and particle > dry:
                solids, water_share = (
                    100 * dry / particle,
                    next(v.value or 0 for v in results.values if v.symbol == "theta"),
                )
                air = 100 - solids - water_share
                parts = (("solids", solids), ("water", water_share), ("air", max(air, 0.0)))
                low = 0.0
                rows: list[dict[str, Cell]] = []
                for name, share in parts:
                    rows.append({"phase": name, "from": low, "to": low + share, "label": f"{name} {share:.0f} %"})
                    low += share
                series["phases"] = tuple(rows)
    series["headspaces"] = tuple(
        {"place": i + 1, "headspace_mm": h.headspace_mm, "end": h.end or "top"}
        for i, h in enumerate(record.headspaces)
        if known(h.headspace_mm)
    )
    return Outcome(
        method="ring_density",
        school=school.name,
        values=tuple(results.values),
        missing=waits,
        verdicts=tuple(checks(record, school)),
        working=tuple(results.working),
        series=series,
    )
