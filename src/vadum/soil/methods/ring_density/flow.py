"""The order of work for a density by ring."""

from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.task import BALANCE, Rows, Task
from vadum.soil.methods.ring_density.facts import Facts
from vadum.soil.methods.ring_density.school import RingDensitySchool
from vadum.soil.shared.specimen import SPECIMEN
from vadum.soil.shared.tin_tasks import dry_tin, fill_tin


def _read(f: Facts, s: RingDensitySchool) -> tuple[str, ...]:
    """Outside the ring the ground is read once, with the first headspace."""
    return () if any(h.headspace_mm is not None for h in f.record.headspaces) else ("outside_headspace_mm",)


def _soil(f: Facts, s: RingDensitySchool) -> str:
    full, empty = f.record.mass_with_soil_g, f.record.mass_container_g
    return "" if full is None or empty is None else f"{plain(full - empty, 5)} g moist"


FLOW: Flow = (
    Task(
        key="drive",
        title="Drive the ring",
        does="Clear loose soil; ring level, block on top, even blows; dig out from the side.",
        fields=("ring", "ring_diameter_mm", "ring_height_mm", "sampled_at", "sealed"),
        needs=("ring_diameter_mm", "ring_height_mm"),
        also=("ring", "sampled_at", "sealed"),
        gives="volume",
        asks="Take the ring and drive it level.",
        how="Its number brings its size. Block on top, even blows, stop before the soil touches the block.",
        label="ring",
        cautions=(
            "Fingers clear of the block when hammering; eye protection.",
            "Services and edges: look before you dig or hammer; an excavation is entered only when it is safe.",
        ),
        hands_s=900,
        note=lambda f, s: f"ring {f.record.ring}" if f.record.ring else "",
    ),
    Rows(
        key="headspace",
        title="Headspace",
        does="From the edge down to the soil at four or more places; outside the ring once.",
        fields=("headspaces[].headspace_mm", "headspaces[].end", "outside_headspace_mm"),
        rows="headspaces",
        reads=("headspace_mm",),
        noun="headspace",
        least=lambda f, s: s.least_headspaces,
        also=_read,
        gives="volume",
        asks="Headspace from the ring's edge down to the soil, round the ring.",
        how="At even angles. Outside the ring too, once: it shows whether the core was pressed.",
        label="headspace",
        hands_s=30,
        applies=lambda s: not s.full_ring,
        note=lambda f, s: f"{len(f.record.headspaces)} read" if f.record.headspaces else "",
    ),
    Task(
        key="weigh",
        title="Weigh the soil",
        does="All of it, in its bag or its ring; the empty bag too.",
        fields=("mass_container_g", "mass_with_soil_g", "weighed_at", *BALANCE),
        needs=("mass_container_g", "mass_with_soil_g"),
        gives="density",
        asks="Weigh all the soil of the ring, and its empty bag.",
        how="Cut flat with the knife, away from the hand; nothing lost. Soon, or sealed.",
        cautions=("Cut the soil flat with the knife away from the hand.",),
        hands_s=120,
        holds=("balance",),
        note=_soil,
    ),
    fill_tin(
        title="Subsample for water",
        does="Mixed, from all of the ring, into a tin.",
        asks="Mix, and take a subsample into a tin.",
        how=lambda f, s: f"{s.least_subsample_g:g} g and {s.least_subsample_percent:g} % of the soil, or more.",
        label="subsample",
    ),
    dry_tin("subsample"),
    Task(
        key="phases",
        title="Particle density",
        does="Measured on this sample, or assumed and said so.",
        fields=(
            "particle_density_mg_m3",
            "particle_density_from",
            "mass_coarse_g",
            "stone_density_mg_m3",
            "area_ratio_percent",
            "remarks",
        ),
        needs=("particle_density_mg_m3",),
        also=("particle_density_from",),
        gives="saturation",
        optional=True,
        asks="Dry density stands. Saturation waits for the particle density.",
        how="From a specific gravity of this sample, or assumed: say which. The sheet can be signed without.",
        hands_s=60,
        note=lambda f, s: "" if f.particle_mg_m3 is None else f"{plain(f.particle_mg_m3)} Mg/m³",
    ),
    SPECIMEN,
)
