"""Moist and dry density of the ring's soil, and its phases."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.outcome import Cell, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.ring_density.facts import Facts
from vadum.soil.methods.ring_density.school import RingDensitySchool
from vadum.soil.shared.phases import give_phases, volumetric_water_percent


def _provisional(facts: Facts, school: RingDensitySchool) -> bool:
    """Whether anything but the particle density is still to come."""
    short = not school.full_ring and len(facts.top_mm) + len(facts.bottom_mm) < school.least_headspaces
    return facts.core is None or facts.moist is None or facts.tin is None or short


def reduce(facts: Facts, school: RingDensitySchool) -> Outcome:
    """Densities and phases so far."""
    results = Results(school.standard, provisional=_provisional(facts, school))
    core, moist, step = facts.core, facts.moist, school.report_to_mg_m3
    if facts.tin:
        results.give_water("water_content_percent", "water content", facts.tin)
    if core:
        results.work(
            "volume_cm3",
            "V",
            "pi * d ** 2 / 4 * (H - h_top - h_bottom) / 1000",
            {"d": core.diameter_mm, "H": core.height_mm, "h_top": core.top_mm, "h_bottom": core.bottom_mm},
            core.volume_cm3,
            "cm³",
        )
    if core and moist:
        density = moist.density_mg_m3
        masses = {"M_2": moist.full_g, "M_1": moist.empty_g, "V": core.volume_cm3}
        formula = "(M_2 - M_1) / V"
        results.give("density_mg_m3", "rho", "density, moist", density, "Mg/m³", step, formula, masses)
        if facts.dry_mg_m3 is not None and facts.water_percent is not None:
            inputs = {"rho": density, "w": facts.water_percent}
            formula = "rho / (1 + w / 100)"
            results.give("dry_density_mg_m3", "rho_d", "dry density", facts.dry_mg_m3, "Mg/m³", step, formula, inputs)
            give_phases(results, facts.dry_mg_m3, facts.water_percent, facts.particle_mg_m3)
    return Outcome(
        method="ring_density",
        school=school.name,
        values=tuple(results.values),
        working=tuple(results.working),
        series=_series(facts),
    )


def _series(facts: Facts) -> dict[str, Table]:
    """What fills the ring, the headspaces round its edge, and how far it is empty."""
    core = facts.core
    return {
        "phases": _phases(facts),
        "headspaces": tuple(
            {"place": i + 1, "headspace_mm": h.headspace_mm, "end": h.end or "top"}
            for i, h in enumerate(facts.record.headspaces)
            if known(h.headspace_mm)
        ),
        "core": ({"empty_ratio": core.top_mm / core.height_mm},) if core else (),
    }


def _phases(facts: Facts) -> Table:
    dry, water, particle = facts.dry_mg_m3, facts.water_percent, facts.particle_mg_m3
    if dry is None or water is None or particle is None or particle <= dry:
        return ()
    solids, wet = 100 * dry / particle, volumetric_water_percent(dry, water)
    low = 0.0
    rows: list[dict[str, Cell]] = []
    for name, share in (("solids", solids), ("water", wet), ("air", max(100 - solids - wet, 0.0))):
        rows.append({"phase": name, "from": low, "to": low + share, "label": f"{name} {share:.0f} %"})
        low += share
    return tuple(rows)
