"""The order of work for a bearing capacity by plate: pit and reaction, footing, plate, seating, load steps, rebound."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.task import BALANCE, Asks, Task
from vadum.soil.methods.plate_bearing.facts import Facts
from vadum.soil.shared.plate.advice import CAUTIONS, STEPS, climb, cycle_done, plate_task, reaction_task
from vadum.soil.shared.specimen import SPECIMEN
from vadum.soil.shared.tin_tasks import dry_beside, drying_beside


def _same(f: Facts) -> bool:
    record = f.record
    return known(record.footing_width_m) and record.footing_width_m == record.pit_width_m


FLOW: Flow = (
    reaction_task(
        "place", "layer", "chainage_m", "pit_width_m", "depth_m", "expected_ultimate_kpa", "design_kpa", "planned_kpa"
    ),
    Task(
        key="ground",
        title="Ground and water",
        does="Level the pit's floor on 5 mm of sand; how deep the water stands, and what was done about it.",
        fields=("behaves_as", "layer_below_m", "water_depth_m", "water_done", "water_factor_ratio", "datum_before_c"),
        needs=("behaves_as", "water_depth_m"),
        also=("water_done", "layer_below_m", "datum_before_c"),
        asks="Clay or sand, and where the ground water stands below the plate.",
        how="Within one plate width it is pumped down, or the flooded state is said.",
        label="ground",
        cautions=("Pit shored or battered, with a ladder; gas and water looked for; nobody in it alone.",),
        hands_s=600,
        note=lambda f, s: f.record.behaves_as or "",
    ),
    plate_task(),
    Asks(
        key="preload",
        title="Seat, off, then zero",
        does="A light load put on and taken off, then the gauges to zero.",
        fields=("zeroed",),
        is_done=lambda f, s: cycle_done(f, "preload"),
        think=climb,
        cautions=CAUTIONS,
        hands_s=120,
        alone=False,
    ),
    Asks(
        key="first",
        title="Load, step by step",
        does="Each step until it rests as the school asks; to the ultimate, the settlement, or as far as planned.",
        fields=(*STEPS, "steps[].wanted_kpa", "stopped"),
        is_done=lambda f, s: cycle_done(f, "preload", "first"),
        think=climb,
        cautions=("Stop if the platform moves; nobody under it. Jack guarded and rated.", *CAUTIONS),
        hands_s=3600,
        holds=("plate", "jack"),
        alone=False,
        note=lambda f, s: f"{len(f.kpa)} steps" if f.kpa else "",
    ),
    Asks(
        key="down",
        title="Rebound",
        does="Let down in two steps and read what comes back.",
        is_done=lambda f, s: f.over,
        think=climb,
        hands_s=600,
        alone=False,
    ),
    Task(
        key="footing",
        title="The footing",
        does="Its own width, not the pit's; what it may settle; the factor of safety.",
        fields=(
            *("footing_width_m", "footing_length_m", "footing_because", "permissible_mm", "safety_ratio"),
            *("ultimate_by", "ultimate_hand_kpa", "ultimate_because"),
            *("second_plate_mm", "second_plate_kpa", "compared_at_mm"),
        ),
        needs=lambda f, s: ("footing_width_m", *(("footing_because",) if _same(f) else ())),
        also=("permissible_mm", "safety_ratio", "footing_length_m"),
        gives="allowable pressure",
        asks="The footing to be built: its own width in m, not the pit's.",
        how="Settlement and strength of the footing follow from it; the lower governs.",
        label="footing",
        hands_s=60,
        optional=True,
        note=lambda f, s: f"{f.record.footing_width_m:g} m" if f.record.footing_width_m else "",
    ),
    Task(
        key="beside",
        title="Tin and what was seen",
        does="A tin from beneath the plate, the datum's temperature, whether the load stood centred.",
        fields=(
            *BALANCE,
            *("tins[].tin", "tins[].mass_tin_g", "tins[].mass_tin_register_g", "tins[].mass_wet_g"),
            *("tins[].weighed_wet_at", "dry_density_beside_mg_m3", "compaction_beside_percent"),
            *("datum_after_c", "eccentric"),
        ),
        needs=("tins[0].mass_tin_g", "tins[0].mass_wet_g"),
        also=("tins[0].tin", "dry_density_beside_mg_m3", "datum_after_c", "eccentric"),
        asks="A tin from beneath the plate; the datum's temperature; was the load centred?",
        how="Strip from the top: pressure off, gauges, jack, plate.",
        label="beside",
        hands_s=600,
        optional=True,
    ),
    dry_beside(optional=True, is_done=lambda f, s: not drying_beside(f)),
    SPECIMEN,
)

FINISH = "The plate is unloaded; the ultimate stands by every rule."
