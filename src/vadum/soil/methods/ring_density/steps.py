"""The order of work for a density by ring."""

from vadum.soil.contract.method import Step
from vadum.soil.contract.numerics import plain
from vadum.soil.methods.ring_density.record import Record


def _soil_note(record: Record) -> str:
    full, empty = record.mass_with_soil_g, record.mass_container_g
    return "" if full is None or empty is None else f"{plain(full - empty, 5)} g moist"


STEPS: tuple[Step, ...] = (
    Step(
        key="drive",
        title="Drive the ring",
        does="Clear loose soil; ring level, block on top, even blows; dig out from the side.",
        fields=("ring", "ring_diameter_mm", "ring_height_mm", "sampled_at", "sealed"),
        cautions=(
            "Fingers clear of the block when hammering; eye protection.",
            "Services and edges: look before you dig or hammer; an excavation is entered only when it is safe.",
        ),
        hands_min=15,
        done=lambda r: r.ring_diameter_mm is not None and r.ring_height_mm is not None,
        note=lambda r: f"ring {r.ring}" if r.ring else "",
    ),
    Step(
        key="headspace",
        title="Headspace",
        does="From the edge down to the soil at four or more places; outside the ring once.",
        fields=("headspaces[].headspace_mm", "headspaces[].end", "outside_headspace_mm"),
        hands_min=3,
        done=lambda r: len(r.headspaces) >= 4,
        note=lambda r: f"{len(r.headspaces)} read" if r.headspaces else "",
        applies=lambda school: not school.full_ring,
    ),
    Step(
        key="weigh",
        title="Weigh the soil",
        does="All of it, in its bag or its ring; the empty bag too.",
        fields=(
            "mass_container_g",
            "mass_with_soil_g",
            "weighed_at",
            "balance",
            "balance_readability_g",
            "balance_due_on",
            "balance_in_date",
        ),
        cautions=("Cut the soil flat with the knife away from the hand.",),
        hands_min=4,
        done=lambda r: r.mass_with_soil_g is not None,
        note=_soil_note,
    ),
    Step(
        key="water",
        title="Subsample for water",
        does="Mixed, from all of the ring, into a tin; dry, cool, weigh.",
        fields=("tin", "mass_tin_g", "mass_wet_g", "in_oven_at", "mass_dry_g"),
        cautions=("Hot tins: gloves and tongs.",),
        hands_min=6,
        waits_min=16 * 60,
        done=lambda r: r.mass_dry_g is not None,
        note=lambda r: f"tin {r.tin}" if r.tin else "",
    ),
    Step(
        key="phases",
        title="Particle density",
        does="Measured on this sample, or assumed and said so.",
        fields=("particle_density_mg_m3", "particle_density_from", "remarks"),
        hands_min=1,
        done=lambda r: r.particle_density_mg_m3 is not None,
        note=lambda r: "" if r.particle_density_mg_m3 is None else f"{plain(r.particle_density_mg_m3)} Mg/m³",
    ),
)
