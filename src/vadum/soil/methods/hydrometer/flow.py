"""The order of work for a hydrometer analysis."""

from datetime import datetime, timedelta
from typing import Any

from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.task import BALANCE, Calls, Rows, Task
from vadum.soil.contract.times import span
from vadum.soil.contract.timetable import minutes_words
from vadum.soil.contract.waits import Oven, Wait
from vadum.soil.methods.hydrometer import pipette
from vadum.soil.methods.hydrometer.facts import Facts
from vadum.soil.methods.hydrometer.school import HydrometerSchool
from vadum.soil.methods.hydrometer.suspension import BULB, bulb_missing, stem_field
from vadum.soil.methods.hydrometer.timing import named
from vadum.soil.shared.specimen import SPECIMEN


def _gauge_needs(f: Facts, s: HydrometerSchool) -> tuple[str, ...]:
    return ("hydrometer_type",) if f.record.hydrometer_type is None else ("hydrometer_type", *bulb_missing(f.record))


def _soaked(f: Facts, s: HydrometerSchool) -> tuple[datetime, datetime] | None:
    since = f.record.soaked_from_at
    return None if since is None else (since, since + timedelta(minutes=s.soak_min))


def _stem(f: Facts) -> tuple[str, ...]:
    return (stem_field(f.record), "temperature_c")


def _temperatures(f: Facts) -> int:
    return len({t for t, _ in f.corrections})


def _started(f: Facts, s: HydrometerSchool) -> bool:
    return f.record.started_at is not None or any(r.elapsed_min is not None for r in f.record.readings)


def _before(f: Facts, s: HydrometerSchool) -> bool:
    """Once a cylinder stands, its clock calls; what was not noted before is filled in at its step."""
    return not _started(f, s)


def _read(f: Facts) -> str:
    many = len(f.timetable.taken)
    return f"{many} read" if many else ""


def _by_hydrometer(s: HydrometerSchool) -> bool:
    return s.by == "hydrometer"


HYDROMETER = frozenset(f"{rows}[].{name}" for rows in ("readings", "blanks") for name in ("reading_g_l", "reading_sg"))
PIPETTE = frozenset(
    f"{rows}[].{name}"
    for rows in ("readings", "blanks")
    for name in ("drawn_ml", "container", "mass_container_g", "mass_dried_g")
)


def unused(school: HydrometerSchool) -> frozenset[str]:
    """The readings of the other instrument."""
    return PIPETTE if school.by == "hydrometer" else HYDROMETER


def _by_pipette(s: HydrometerSchool) -> bool:
    return s.by == "pipette"


def _sampled(f: Facts) -> int:
    return sum(b.drawn_ml is not None for b in f.record.blanks)


def _unweighed(f: Facts, s: HydrometerSchool) -> tuple[str, ...]:
    return tuple(path for path, _ in pipette.open_containers(f.record, "mass_container_g"))


def _undried(f: Facts) -> list[tuple[str, str]]:
    return pipette.open_containers(f.record, "mass_dried_g")


def _amount(f: Facts, s: HydrometerSchool) -> tuple[str, str]:
    return "", ""


BLANK: dict[str, Any] = {"rows": "blanks", "reads": _stem, "noun": "blank", "amount": _amount, "hands_s": 120}

FLOW: Flow = (
    Task(
        key="pipette",
        due_now=_before,
        applies=_by_pipette,
        title="Pipette, cylinder",
        does="The bath's temperature sets when each size has fallen to its depth.",
        fields=("hydrometer_type", "bath_temperature_c"),
        needs=("hydrometer_type", "bath_temperature_c"),
        also=("cylinder",),
        asks="Read the temperature of the bath that the cylinder will stand in.",
        how="It sets the times of the samples; each sample's own temperature sets its size.",
        label="pipette",
        hands_s=60,
        cautions=("Glass cylinders and pipettes; a bulb, never the mouth.",),
        note=lambda f, s: f"{plain(f.record.bath_temperature_c)} °C" if f.record.bath_temperature_c else "",
    ),
    Task(
        key="gauge",
        applies=_by_hydrometer,
        due_now=_before,
        title="Hydrometer, cylinder",
        does="Their numbers bring kind, bulb and area; a calibrated one needs its sizes.",
        fields=("hydrometer", "hydrometer_type", *BULB, "meniscus_g_l", "meniscus_sg", "cylinder", "cylinder_area_cm2"),
        needs=_gauge_needs,
        also=lambda f, s: ("hydrometer", "cylinder") if f.record.hydrometer_type is None else (),
        asks=lambda f, s: (
            "Take a hydrometer and a cylinder."
            if f.record.hydrometer_type is None
            else "Give the hydrometer's sizes: bulb and stem."
        ),
        how="Register it in the kit with its calibration, and its number brings its kind and its bulb.",
        label="hydrometer",
        hands_s=60,
        cautions=("Glass cylinders; wet floor.",),
        note=lambda f, s: named(f.record) if f.record.cylinder else "",
    ),
    Task(
        key="soil",
        due_now=_before,
        title="Soil",
        does="Fine soil weighed: oven-dry, or air-dry with its water content.",
        fields=(
            "mass_taken_g",
            "air_dry_water_percent",
            "mass_dry_g",
            "pretreated_for",
            "pretreatment_loss_percent",
            "came_through_mm",
            "passing_percent",
            "specific_gravity_ratio",
            "specific_gravity_from",
            "tested_on",
            *BALANCE,
        ),
        also=("mass_taken_g", "air_dry_water_percent", "mass_dry_g"),
        is_done=lambda f, s: f.mass_g is not None,
        asks="Weigh the fine soil.",
        how=lambda f, s: f"{s.usual_mass}; oven-dry mass, or air-dry with its water content.",
        hands_s=300,
        holds=("balance",),
        note=lambda f, s: f"{plain(f.mass_g)} g dry" if f.mass_g else "",
    ),
    Task(
        key="soak",
        due_now=_before,
        title="Dispersant, soak",
        does="As the school has it; stirred, covered, overnight.",
        fields=("dispersant_made_on", "soaked_from_at"),
        needs=("soaked_from_at",),
        also=(
            "dispersant_made_on",
            "specific_gravity_ratio",
            "specific_gravity_from",
            "passing_percent",
            "came_through_mm",
        ),
        asks="Dispersant over it; stir, cover, let it soak.",
        how=lambda f, s: f"{s.dispersant}. {span(s.soak_min)}. Record the time when it stands.",
        cautions=("Dispersant: keep it off eyes and skin.",),
        hands_s=300,
        waits_min=lambda s: s.soak_min,
        note=lambda f, s: f"since {f.record.soaked_from_at:%d %b %H:%M}" if f.record.soaked_from_at else "",
    ),
    Wait(
        key="mix",
        due_now=_before,
        title="Mix, into the cylinder",
        does="Cup mixer about 10 min, or 1 min of air jet; washed over without loss; to the litre mark; stopper.",
        fields=("mixed_min",),
        needs=("mixed_min",),
        ready=_soaked,
        asks=lambda f, s: f"Soaked. Mix it and wash it into {named(f.record)} without loss, up to the mark.",
        how=lambda f, s: f"About 10 min in the cup mixer ({span(s.mix_min)} at least) or 1 min of air jet.",
        waiting="Soaking until {}.",
        cautions=("Mixer blades: unplug before you reach in.",),
        hands_s=900,
        holds=("mixer",),
        note=lambda f, s: f"{plain(f.record.mixed_min)} min" if f.record.mixed_min is not None else "",
    ),
    Rows(
        key="blank",
        due_now=_before,
        title="Blank",
        applies=_by_hydrometer,
        does="Control cylinder of dispersant and water: reading and temperature, at two temperatures round the test's.",
        fields=("blanks[].reading_g_l", "blanks[].reading_sg", "blanks[].temperature_c"),
        is_done=lambda f, s: bool(f.corrections),
        asks="Blank: hydrometer and thermometer into the control cylinder.",
        how="Dispersant and water without soil; read at the top of the meniscus.",
        label="blank",
        note=lambda f, s: f"{len(f.corrections)} read" if f.corrections else "",
        **BLANK,
    ),
    Calls(
        key="start",
        title="Set down",
        does="End over end for a minute, 60 turns; nothing stuck above the mark; set down: time zero.",
        fields=("planned_start_at", "started_at"),
        of=lambda f, s: None if _started(f, s) else f.timetable,
        is_done=_started,
        cautions=("Glass: one hand on the stopper, one on the foot.",),
        hands_s=120,
        note=lambda f, s: f"{f.record.started_at:%d %b %H:%M:%S}" if f.record.started_at else "",
    ),
    Calls(
        key="readings",
        title="Readings",
        does="In gently before each; read or draw at its time; out again; then the temperature.",
        fields=(
            "readings[].inserted_at",
            "readings[].reading_g_l",
            "readings[].reading_sg",
            "readings[].read_at",
            "readings[].elapsed_min",
            "readings[].temperature_c",
            "readings[].excluded_because",
            "readings[].drawn_ml",
            "readings[].depth_mm",
            "mass_after_g",
            "remarks",
        ),
        of=lambda f, s: f.timetable,
        is_done=lambda f, s: False,
        hands_s=720,
        waits_min=lambda s: s.schedule_min[-1],
        holds=("hydrometer", "cylinder"),
        alone=False,
        note=lambda f, s: _read(f),
    ),
    Rows(
        key="second_blank",
        title="Second blank",
        applies=_by_hydrometer,
        does="At another temperature.",
        in_column=False,
        is_done=lambda f, s: _temperatures(f) > 1,
        least=lambda f, s: len(f.record.blanks) + 1,
        asks="A second blank, at another temperature.",
        how="So that the two span the test: cooler or warmer than the first by what the room moved.",
        label="blank",
        **BLANK,
    ),
    Rows(
        key="sample_blank",
        applies=_by_pipette,
        title="Sample of the dispersant",
        does="From a cylinder of dispersant and water without soil, of the same volume.",
        fields=("blanks[].drawn_ml", "blanks[].temperature_c"),
        rows="blanks",
        reads=("drawn_ml",),
        noun="blank",
        is_done=lambda f, s: _sampled(f) > 0,
        amount=_amount,
        asks="Draw a sample of dispersant and water without soil.",
        how="The same pipette: what it dries to is taken from every sample.",
        label="blank",
        hands_s=120,
        note=lambda f, s: f"{_sampled(f)} drawn" if _sampled(f) else "",
    ),
    Task(
        key="containers",
        applies=_by_pipette,
        title="Containers",
        does="The mass of each empty container, by its number.",
        fields=(
            "blanks[].container",
            "blanks[].mass_container_g",
            "readings[].container",
            "readings[].mass_container_g",
        ),
        needs=_unweighed,
        is_done=lambda f, s: bool(f.record.readings) and not _unweighed(f, s),
        asks="Enter the empty mass of each container, to 0.1 mg.",
        label="containers",
        hands_s=60,
        holds=("balance",),
    ),
    Oven(
        key="dry",
        applies=_by_pipette,
        title="Containers dried and weighed",
        does="Overnight; cooled in a desiccator; to 0.1 mg.",
        fields=(
            "in_oven_at",
            "blanks[].mass_dried_g",
            "readings[].mass_dried_g",
        ),
        is_done=lambda f, s: bool(f.record.readings) and not _undried(f),
        tins=_undried,
        vessel="container",
        cautions=("Hot containers: tongs.",),
        hands_s=300,
        holds=("oven",),
    ),
    Task(
        key="gravity",
        title="Specific gravity",
        does="Measured on this sample, or assumed.",
        in_column=False,
        needs=("specific_gravity_ratio", "specific_gravity_from"),
        is_done=lambda f, s: f.gravity is not None,
        asks="The percentages wait for the specific gravity.",
        how="Measured on this sample, or assumed: say which.",
        label="specific gravity",
        hands_s=60,
    ),
    SPECIMEN,
)

FINISH = "Wash the suspension over the finest sieve for the sand; the sample's card joins both curves."


def next_words(f: Facts, s: HydrometerSchool) -> str:
    """The scheduled reading that is waited for; empty when all are behind."""
    newest = max(f.taken, default=-1.0)
    ahead = [t for t in f.timetable.at if t > newest]
    return minutes_words(ahead[0]) if ahead else ""
