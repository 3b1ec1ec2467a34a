"""The order of work for an unconfined compression."""

from datetime import datetime

from vadum.soil.contract.called import Called
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.task import BALANCE, Calls, Task
from vadum.soil.contract.times import span
from vadum.soil.methods.unconfined_compression.facts import Facts
from vadum.soil.methods.unconfined_compression.rules import left_min, may_stop, past_peak_words
from vadum.soil.methods.unconfined_compression.school import UnconfinedSchool
from vadum.soil.shared import force_reading
from vadum.soil.shared.specimen import SPECIMEN
from vadum.soil.shared.tin_tasks import dry_tin, fill_tin

SIZES = (
    "diameter_top_mm",
    "diameter_middle_mm",
    "diameter_bottom_mm",
    "height_1_mm",
    "height_2_mm",
    "height_3_mm",
)
READ = (
    "deformation_mm",
    "force_n",
    "ring_div",
    "elapsed_s",
    "read_at",
    "missed",
    "noted",
    "excluded_because",
)


def _core_note(f: Facts, s: UnconfinedSchool) -> str:
    return "" if f.core is None else f"{f.core.diameter_mm:.1f} × {f.core.height_mm:.1f} mm"


def _rate_words(f: Facts, s: UnconfinedSchool) -> tuple[str, str]:
    if f.core is None:
        return "", ""
    low, high = (r / 100 * f.core.height_mm for r in (s.least_rate_percent_min, s.most_rate_percent_min))
    return f"{plain(low, 2)}–{plain(high, 2)} mm/min", "for this core"


def live(f: Facts, s: UnconfinedSchool, now: datetime) -> str:
    """What the curve says while it grows: the strain, the running maximum, how far past it, the time left."""
    said = [f"strain {100 * f.last_strain:.2f} %"]
    if f.peak is not None and f.peak.stress_kpa > 0:
        said.append(f"greatest {f.peak.stress_kpa:.0f} kPa at {100 * f.peak.strain:.1f} %")
        said += [words] if (words := past_peak_words(f, s)) else []
    left = left_min(f, s, now)
    if left is not None:
        said.append(f"{span(left)} left" if left > 0 else f"over {span(s.most_failure_min)}")
    return ", ".join(said)


def _called(f: Facts, s: UnconfinedSchool) -> Called | None:
    return f.called


def _force_by(f: Facts, s: UnconfinedSchool) -> tuple[str, ...]:
    return () if force_reading.force_known(f.record) else ("load_by", "load_cell", "proving_ring", "ring_factor_n_div")


def _read_note(f: Facts, s: UnconfinedSchool) -> str:
    return f"{len(f.points)} readings" if f.points else ""


FLOW: Flow = (
    Task(
        key="core",
        title="Cut and measure the core",
        does="Ends parallel and square; three diameters, three heights; weigh it. Soon after it came out of its tube.",
        fields=(
            "specimen",
            "depth_m",
            "description",
            "sample_type",
            "disturbance_class",
            "orientation",
            "preparation",
            "extruded_at",
            "diameters_at",
            *SIZES,
            "mass_g",
            "largest_particle_mm",
            "ends_square",
            *BALANCE,
        ),
        needs=(*SIZES, "mass_g"),
        also=("largest_particle_mm", "ends_square", "sample_type"),
        gives="strength",
        asks="Measure the core: three diameters, three heights; weigh it.",
        how="Top, middle and bottom. Drying adds strength: cover it until it stands in the frame.",
        label="core",
        cautions=("Knives and wire saws: cut away from the hand.",),
        hands_s=600,
        holds=("balance",),
        note=_core_note,
    ),
    Task(
        key="frame",
        title="Into the frame",
        does="Platens clean, core upright under the middle of the upper one; cell and gauge to zero; set the rate.",
        fields=(
            *force_reading.FIELDS,
            "platen_friction_n",
            "temperature_c",
            "rate_mm_min",
        ),
        needs=("rate_mm_min",),
        also=lambda f, s: (
            () if force_reading.force_known(f.record) else ("load_by", "load_cell", "proving_ring", "ring_factor_n_div")
        ),
        is_done=lambda f, s: force_reading.force_known(f.record) and f.record.rate_mm_min is not None,
        asks="Set the core up; say what reads the force, and set the rate.",
        how="The number of a ring brings its calibration. Both gauges to zero.",
        amount=_rate_words,
        label="frame",
        cautions=("The frame's pinch point: fingers clear before the platen moves.",),
        hands_s=240,
        holds=("frame",),
        note=lambda f, s: f"{plain(f.record.rate_mm_min)} mm/min" if f.record.rate_mm_min is not None else "",
    ),
    Calls(
        key="compress",
        title="Compress",
        does="Force at each called shortening, or the logger's block; past the peak, or to the stop strain.",
        fields=(*(f"readings[].{name}" for name in READ), "stopped"),
        of=_called,
        is_done=lambda f, s: f.over,
        gauge="the force",
        begin="Both gauges at zero: read the force, start the frame.",
        live=live,
        may_stop=may_stop,
        cautions=(
            "The frame's pinch point: hands out while it runs.",
            "Brittle cores spall: eye protection.",
        ),
        hands_s=900,
        holds=("frame",),
        alone=False,
        note=_read_note,
    ),
    Task(
        key="failure",
        title="How it failed",
        does="Sketch it: by which mode, and the plane's angle to the horizontal; fissures and stones.",
        fields=("failure_mode", "plane_degrees", "fissures", "stones"),
        needs=("failure_mode",),
        also=("fissures", "stones"),
        asks="How did it fail? Choose the mode; drag the plane on the drawing to its angle.",
        how="Then break it open: fissures, stones.",
        label="failure",
        hands_s=60,
        note=lambda f, s: f.record.failure_mode or "",
    ),
    fill_tin(
        title="Water content",
        does="The whole core into its tin, or its trimmings and said so.",
        asks="The core into a tin, for its water content.",
        how="All of it; trimmings only where the core is wanted for more.",
        fields=("tin", "mass_tin_g", "mass_tin_register_g", "mass_wet_g", "water_from", "in_oven_at"),
        needs=("mass_tin_g", "mass_wet_g", "water_from"),
        gives="dry density",
    ),
    dry_tin("of the core", ("mass_dry_g",), hands_s=180),
    Task(
        key="beside",
        title="What stands beside",
        does="Particle density; natural water and limits; the remoulded core for the sensitivity.",
        fields=(
            "particle_density_mg_m3",
            "particle_density_from",
            "natural_water_percent",
            "liquid_limit_percent",
            "plastic_limit_percent",
            "remoulded_strength_kpa",
            "remoulded_water_percent",
            "remoulded_density_mg_m3",
            "remarks",
        ),
        needs=("particle_density_mg_m3",),
        also=("particle_density_from", "natural_water_percent", "remoulded_strength_kpa"),
        gives="saturation",
        optional=True,
        asks="The strength stands. Saturation waits for the particle density.",
        how="The sheet can be signed without; with a remoulded core it gives the sensitivity.",
        hands_s=60,
    ),
    SPECIMEN,
)

FINISH = "The core is tested, its tin is dry."
