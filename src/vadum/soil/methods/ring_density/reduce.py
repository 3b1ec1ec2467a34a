"""Moist and dry density of the ring's soil, and its phases."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import error_of_mean
from vadum.soil.contract.outcome import Cell, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.ring_density.core import density_error
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
        spread = math.hypot(*(error_of_mean(list(read)) or 0.0 for read in (facts.top_mm, facts.bottom_mm)))
        share = density_error(core, moist.full_g - moist.empty_g, spread, school)
        error, name = share * density, "density, moist"
        results.give("density_mg_m3", "rho", name, density, "Mg/m³", step, formula, masses, uncertainty=error)
        if facts.dry_mg_m3 is not None and facts.water_percent is not None:
            inputs = {"rho": density, "w": facts.water_percent}
            formula = "rho / (1 + w / 100)"
            dry = facts.dry_mg_m3
            error = dry * math.hypot(share, school.water_error_percent / (100 + facts.water_percent))
            results.give(
                "dry_density_mg_m3", "rho_d", "dry density", dry, "Mg/m³", step, formula, inputs, uncertainty=error
            )
            _give_fine_earth(results, facts, core.volume_cm3, school)
            give_phases(results, facts.dry_mg_m3, facts.water_percent, facts.particle_mg_m3, error)
    return Outcome(
        method="ring_density",
        school=school.name,
        values=tuple(results.values),
        working=tuple(results.working),
        series=_series(facts),
    )


def _give_fine_earth(results: Results, facts: Facts, volume_cm3: float, school: RingDensitySchool) -> None:
    """The density of the fine earth between the fragments of the ring."""
    coarse = facts.record.mass_coarse_g
    if not known(coarse) or coarse <= 0 or facts.dry_mg_m3 is None:
        return
    read = facts.record.stone_density_mg_m3
    stone = read if known(read) and read > 0 else school.stone_density_mg_m3
    solids = facts.dry_mg_m3 * volume_cm3
    if coarse >= solids or coarse / stone >= volume_cm3:
        return
    results.give(
        "fine_earth_density_mg_m3",
        "rho_f",
        "dry density, fine earth",
        (solids - coarse) / (volume_cm3 - coarse / stone),
        "Mg/m³",
        school.report_to_mg_m3,
        "(M_d - M_c) / (V - M_c / rho_stone)",
        {"M_d": solids, "M_c": coarse, "V": volume_cm3, "rho_stone": stone},
        note="" if read == stone else f"# fragments taken as {stone:g} Mg/m³",
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
