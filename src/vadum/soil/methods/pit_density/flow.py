"""The order of work for a density by excavation."""

from dataclasses import replace

from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.task import BALANCE, Task
from vadum.soil.methods.pit_density.facts import Facts
from vadum.soil.methods.pit_density.school import PitDensitySchool
from vadum.soil.shared.specimen import SPECIMEN
from vadum.soil.shared.tin_tasks import dry_tin, fill_tin

VOLUME = {
    "sand": ("sand_density_mg_m3", "mass_sand_cone_g", "mass_sand_before_g", "mass_sand_after_g"),
    "water": ("water_poured_ml",),
    "balloon": ("balloon_before_cm3", "balloon_after_cm3"),
    "typed": ("volume_cm3",),
}
ASKS = {
    "sand": "Cone on the plate, let the sand run, close, weigh what is left.",
    "water": "Liner in without folds, pour water to the mark.",
    "balloon": "Balloon on the plate: the reading before digging, and now in the hole.",
    "typed": "Measure the hole and type its volume.",
}
HOW = {
    "sand": "No shaking while it runs.",
    "water": "Note the whole volume poured.",
    "balloon": "The same pressure both times, the plate not moved between.",
    "typed": "By your own apparatus.",
}


def _needs_volume(f: Facts, s: PitDensitySchool) -> tuple[str, ...]:
    return VOLUME[s.volume_by]


def unused(school: PitDensitySchool) -> frozenset[str]:
    """What other ways of measuring the hole read."""
    return frozenset(name for way, names in VOLUME.items() if way != school.volume_by for name in names)


def finish(f: Facts, s: PitDensitySchool) -> str:
    """What is said when nothing is left to do."""
    wanted = "whole soil" if s.wants == "whole soil" else "fine earth"
    return f"Both densities stand; the job wants the {wanted}." if f.soil else f"The density of the {wanted} stands."


SEPARATE = Task(
    key="separate",
    title="Separate at 2 mm",
    does="Air-dry if wet; rubber pestle for the aggregates, never for stones; weigh stones dry, fines as they are.",
    fields=("mass_coarse_g", "coarse_water_percent", "mass_fines_g", "stone_density_mg_m3"),
    needs=("mass_coarse_g", "mass_fines_g"),
    also=("stone_density_mg_m3",),
    gives="dry density",
    applies=lambda s: s.dry_by == "separation",
    asks="Air-dry if wet, then separate at 2 mm: stones dry, fines as they are.",
    how="Crush aggregates with the rubber pestle, not stones; brush the stones clean; keep the dust.",
    cautions=("Dust: mask.",),
    hands_s=1200,
    waits_min=24 * 60,
    note=lambda f, s: "" if f.record.mass_coarse_g is None else f"{plain(f.record.mass_coarse_g, 5)} g stones",
)

FLOW: Flow = (
    Task(
        key="dig",
        title="Dig the hole",
        does="Plate level on a flat place; dig with spoon and chisel; all soil into one bag; weigh it there.",
        fields=("mass_soil_field_g", "largest_particle_mm", "layer", "layer_depth_mm", "offset_m"),
        also=("largest_particle_mm",),
        needs=("mass_soil_field_g",),
        gives="water content",
        asks="Dig the hole; every grain of it into the bag, weigh it there.",
        how="Walls clean, nothing loose left in, bag closed at once.",
        cautions=(
            "Eye protection when chiselling; services and edges: look before you dig.",
            "An excavation is entered only when its sides are safe.",
        ),
        hands_s=1200,
        holds=("balance",),
        note=lambda f, s: (
            "" if f.record.mass_soil_field_g is None else f"{plain(f.record.mass_soil_field_g, 5)} g moist"
        ),
    ),
    Task(
        key="volume",
        title="Measure the hole",
        does="Sand through the cone, or water into a liner, or another apparatus.",
        fields=(
            *VOLUME["sand"],
            "sand_calibrated_on",
            "sand_state",
            "sand_state_then",
            "tested_on",
            "water_template_ml",
            *VOLUME["water"],
            *VOLUME["balloon"],
            *VOLUME["typed"],
        ),
        also=lambda f, s: {"sand": ("sand_calibrated_on",), "water": ("water_template_ml",)}.get(s.volume_by, ()),
        needs=_needs_volume,
        gives="volume",
        asks=lambda f, s: ASKS[s.volume_by],
        how=lambda f, s: HOW[s.volume_by],
        hands_s=600,
        note=lambda f, s: "" if f.hole is None else f"{plain(f.hole.volume_cm3)} cm³",
    ),
    Task(
        key="bag",
        title="The bag on arrival",
        does="Weigh it before it is opened.",
        fields=("mass_soil_lab_g", *BALANCE),
        needs=("mass_soil_lab_g",),
        asks="Weigh the bag on arrival.",
        how="Against the field's mass: shows what was lost.",
        hands_s=60,
        holds=("balance",),
    ),
    SEPARATE,
    fill_tin(
        title="A tin for the water",
        does="Of the field soil with all its grains; where it was separated, of the fines.",
        asks="A tin for the water content.",
        how=lambda f, s: (
            "Of the fines, mixed; 50 g or more."
            if s.dry_by == "separation"
            else "Of the field soil, mixed, with all its grains: stones hold less water."
        ),
        hands_s=90,
    ),
    dry_tin(
        "for the water",
        ("in_oven_at", "mass_dry_g", "remarks"),
        does="18 to 24 h at 105 °C; lid on, cool, weigh.",
        hands_s=300,
    ),
    Task(
        key="compare",
        title="Reference and phases",
        does="The laboratory's maximum with its effort and mould; this place's own stones; particle density; a gauge.",
        fields=(
            "reference_density_mg_m3",
            "reference_from",
            "field_oversize_percent",
            "oversize_gravity_ratio",
            "required_percent",
            "particle_density_mg_m3",
            "particle_density_from",
            "gauge_density_mg_m3",
            "gauge_water_percent",
        ),
        needs=("reference_density_mg_m3",),
        also=("reference_from", "required_percent", "particle_density_mg_m3"),
        optional=True,
        asks="Done. The sheet can be signed.",
        how="With the laboratory's maximum the relative compaction stands beside.",
        hands_s=60,
    ),
    replace(
        SEPARATE,
        key="separate_option",
        fields=("mass_coarse_g", "mass_fines_g", "stone_density_mg_m3"),
        gives="",
        optional=True,
        in_column=False,
        due_now=lambda f, s: False,
        applies=lambda s: s.dry_by == "tin",
    ),
    SPECIMEN,
)
