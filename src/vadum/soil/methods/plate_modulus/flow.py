"""The order of work for a strain modulus: before the start, the patch, the plate, both loadings, what stands beside."""

from vadum.soil.contract.flow import Flow
from vadum.soil.contract.task import BALANCE, Asks, Task
from vadum.soil.methods.plate_modulus.facts import Facts
from vadum.soil.methods.plate_modulus.reduce import moduli
from vadum.soil.methods.plate_modulus.school import ModulusSchool
from vadum.soil.shared.plate.advice import CAUTIONS, STEPS, climb, cycle_done, plate_task, reaction_task
from vadum.soil.shared.specimen import SPECIMEN
from vadum.soil.shared.tin_tasks import dry_beside, drying_beside

LIMITS = ("least_ev1_mn_m2", "least_ev2_mn_m2", "most_ev_ratio", "ratio_waived_from_ev1_mn_m2")


def _note(f: Facts, s: ModulusSchool, which: int) -> str:
    value = moduli(f, s)[which]
    return "" if value is None or not (f.ended if which == 0 else f.over) else f"Ev{which + 1} {value:.0f} MN/m²"


FLOW: Flow = (
    reaction_task("place", "layer", "chainage_m", "layer_thickness_m", *LIMITS),
    Task(
        key="patch",
        title="Patch levelled",
        does="Wider than the plate: straightedge and trowel, crust and loose grains off, a few mm of sand or gypsum.",
        fields=("crust_removed", "levelling", "gypsum_set", "tilt_degrees", "frozen", "soil_temperature_c"),
        needs=lambda f, s: ("levelling", *(("gypsum_set",) if f.record.levelling == "gypsum paste" else ()), "frozen"),
        also=("crust_removed", "tilt_degrees", "soil_temperature_c"),
        asks="Level the patch: crust and loose grains off.",
        how="Dry medium sand a few mm deep, or gypsum paste, which must set before the load.",
        label="patch",
        hands_s=600,
        alone=False,
        note=lambda f, s: f.record.levelling or "",
    ),
    plate_task("lever_plate_mm", "lever_gauge_mm", "lever_register_ratio"),
    Asks(
        key="preload",
        title="Preload, then zero",
        does="A light load for half a minute, then the gauges to zero.",
        fields=("zeroed",),
        is_done=lambda f, s: cycle_done(f, "preload"),
        think=climb,
        cautions=CAUTIONS,
        hands_s=60,
        alone=False,
    ),
    Asks(
        key="first",
        title="First loading",
        does="Step after step to the greatest stress, or to the settlement that ends it.",
        fields=(*STEPS, "steps[].wanted_mn_m2", "stopped"),
        is_done=lambda f, s: cycle_done(f, "preload", "first"),
        think=climb,
        cautions=CAUTIONS,
        hands_s=900,
        holds=("plate", "jack"),
        alone=False,
        note=lambda f, s: _note(f, s, 0),
    ),
    Asks(
        key="down",
        title="Unloading",
        does="At half, a quarter, and next to nothing of the greatest stress.",
        is_done=lambda f, s: cycle_done(f, "preload", "first", "down"),
        think=climb,
        applies=lambda s: s.reloads,
        hands_s=300,
        alone=False,
    ),
    Asks(
        key="again",
        title="Second loading",
        does="The same steps, up to the last but one.",
        is_done=lambda f, s: f.over,
        think=climb,
        applies=lambda s: s.reloads,
        hands_s=600,
        alone=False,
        note=lambda f, s: _note(f, s, 1),
    ),
    Task(
        key="beside",
        title="Tin and density beside",
        does="A tin from beneath the plate's edge; a density test beside it, before the machine drives off.",
        fields=(
            *BALANCE,
            *("tins[].tin", "tins[].mass_tin_g", "tins[].mass_tin_register_g", "tins[].mass_wet_g"),
            *("tins[].weighed_wet_at", "dry_density_beside_mg_m3", "compaction_beside_percent", "light_evd_mn_m2"),
            *("bending_factor_ratio", "saturation_factor_ratio"),
        ),
        needs=("tins[0].mass_tin_g", "tins[0].mass_wet_g"),
        also=("tins[0].tin", "dry_density_beside_mg_m3", "compaction_beside_percent"),
        asks="A tin beside the plate, and the density there.",
        how="Before the machine drives off: what the modulus says depends on both.",
        label="beside",
        hands_s=600,
        optional=True,
        note=lambda f, s: f"tin {f.record.tins[0].tin}" if f.record.tins and f.record.tins[0].tin else "",
    ),
    dry_beside(
        does="Overnight; cool with the lid on, weigh. Strip: pressure off first, then plate and gauges.",
        optional=True,
        is_done=lambda f, s: not drying_beside(f),
    ),
    SPECIMEN,
)

FINISH = "Both loadings are read; the moduli stand."
