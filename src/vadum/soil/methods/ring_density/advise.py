"""What now, for the ring."""

from datetime import datetime

from vadum.soil.contract.advice import ask, done, fault, still_open
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.methods.ring_density.record import Record
from vadum.soil.methods.ring_density.schools import RingDensitySchool
from vadum.soil.shared.oven import oven_advice


def advise(record: Record, school: RingDensitySchool, outcome: Outcome, now: datetime) -> Advice:
    """Ring, headspace, weighing, subsample, oven; or that it is done."""

    ring = still_open(record, "ring", "ring_diameter_mm", "ring_height_mm")
    if record.ring_diameter_mm is None or record.ring_height_mm is None:
        return ask(
            "Take the ring and drive it level.",
            "Its number brings its size. Block on top, even blows, stop before the soil touches the block.",
            (*ring, "sampled_at", "sealed"),
            900,
            "ring",
        )
    read = [i for i, h in enumerate(record.headspaces) if h.headspace_mm is not None]
    if not school.full_ring and len(read) < school.least_headspaces:
        row = len(record.headspaces)
        path = f"headspaces[{row}].headspace_mm"
        extra = still_open(record, "outside_headspace_mm") if not read else ()
        return ask(
            "Headspace from the ring's edge down to the soil, round the ring.",
            "At even angles. Outside the ring too, once: it shows whether the core was pressed.",
            (path, *extra),
            30,
            "headspace",
            amount=f"{len(read)} of {school.least_headspaces}",
        )
    masses = still_open(record, "mass_container_g", "mass_with_soil_g")
    if masses:
        return ask(
            "Weigh all the soil of the ring, and its empty bag.",
            "Cut flat with the knife, away from the hand; nothing lost. Soon, or sealed.",
            masses,
            120,
            "weigh",
        )
    tin = still_open(record, "tin", "mass_tin_g", "mass_wet_g")
    if record.mass_tin_g is None or record.mass_wet_g is None:
        return ask(
            "Mix, and take a subsample into a tin.",
            f"{school.least_subsample_g:g} g and {school.least_subsample_percent:g} % of the soil, or more.",
            tin,
            120,
            "subsample",
        )
    tins = [("mass_dry_g", record.tin or "subsample")] if record.mass_dry_g is None else []
    drying = oven_advice(tins, record.in_oven_at, school.oven_min, now)
    if drying:
        return drying
    wrong = fault(outcome)
    if wrong:
        return wrong
    if record.particle_density_mg_m3 is None:
        return Advice(
            headline="Dry density stands. Saturation waits for the particle density.",
            detail="From a specific gravity of this sample, or assumed: say which. The sheet can be signed without.",
            wants=("particle_density_mg_m3", "particle_density_from"),
            finished=True,
        )
    return done("Every rule holds.")
