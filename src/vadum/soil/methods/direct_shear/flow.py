"""The order of work for a direct shear: the box once, then each stage from its hanger to its tail."""

from datetime import datetime
from functools import partial

from vadum.soil.contract import paths
from vadum.soil.contract.call_advice import clock_advice, start_advice
from vadum.soil.contract.called import Called
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.task import BALANCE, Asks, Calls, Task, ask
from vadum.soil.contract.times import span
from vadum.soil.contract.waits import Oven
from vadum.soil.methods.direct_shear import box as boxes
from vadum.soil.methods.direct_shear.facts import Facts, Sheared, dry_sand, needed_min, rate_for
from vadum.soil.methods.direct_shear.record import Stage
from vadum.soil.methods.direct_shear.rules import may_stop, past_peak_words
from vadum.soil.methods.direct_shear.school import ShearSchool
from vadum.soil.shared import force_reading
from vadum.soil.shared.row_in_hand import holds, wants
from vadum.soil.shared.specimen import SPECIMEN

READ = (
    "travel_mm",
    "force_n",
    "ring_div",
    "vertical_mm",
    "second_vertical_mm",
    "elapsed_s",
    "read_at",
    "missed",
    "noted",
    "excluded_because",
)
BOX = ("box_shape", "box_width_mm", "cap_kg", "lever_ratio", "lever_balanced")


def _stage(f: Facts) -> Stage:
    return f.in_hand.stage if f.in_hand else Stage()


def _words(f: Facts) -> str:
    return f.in_hand.words if f.in_hand else f"stage {(f.hand or 0) + 1}"


_open, _done = partial(wants, "stages"), partial(holds, "stages")


def _made(f: Facts, s: ShearSchool) -> bool:
    return f.hand is None or (f.in_hand is not None and f.in_hand.state.mass_g is not None)


def _hanger_kg(f: Facts) -> float | None:
    """What has to hang for the stress that is wanted, kg; None while the lever or the stress is not known."""
    wanted, ratio = _stage(f).wanted_kpa, f.record.lever_ratio
    if wanted is None or ratio is None or ratio <= 0:
        return None
    kg = boxes.hanger_for_kg(wanted, boxes.direct_kg(f.record), ratio, f.box.area_mm2)
    return kg if kg > 0 else None


def _hang(f: Facts, s: ShearSchool) -> tuple[str, str]:
    kg = _hanger_kg(f)
    return ("", "") if kg is None else (f"{kg:.2f} kg", f"on the hanger, for {plain(_stage(f).wanted_kpa or 0)} kPa")


def targets(f: Facts, s: ShearSchool) -> dict[str, float]:
    """The mass on the hanger of the stage in hand, by its place."""
    kg = _hanger_kg(f)
    return {} if kg is None or f.hand is None else {f"stages[{f.hand}].hanger_kg": kg}


def settles(f: Facts, s: ShearSchool) -> bool:
    """Whether the stage in hand has to be watched while it consolidates: dry clean sand settles at once."""
    return not dry_sand(f.record)


def _settled(f: Facts, s: ShearSchool) -> bool:
    return f.hand is None or _stage(f).consolidated is not None or not settles(f, s)


def may_end(stage: Sheared, s: ShearSchool) -> bool:
    """Whether a stage has consolidated: its t100 is behind it by the factor that every school asks at the least."""
    t100 = stage.settled.t100_min or (stage.settled.log.t100_min if stage.settled.log else None)
    read = stage.settled.readings
    return t100 is not None and bool(read) and read[-1].minutes >= t100


def _watch(f: Facts, s: ShearSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """The consolidation by the clock; it may be ended as soon as t100 is behind it."""
    its: Called | None = f.settling
    if its is None or f.in_hand is None or _settled(f, s):
        return None
    if its.began_at is None and not its.taken:
        return start_advice(its, f.record, now)
    made = clock_advice(its, f.record, now) if its.began_at is not None else None
    end = f.in_hand.path("consolidated")
    if may_end(f.in_hand, s) or made is None:
        t90, t100 = f.in_hand.settled.t90_min, f.in_hand.settled.t100_min
        found = f"t90 {span(t90)}, t100 {span(t100)}. " if t90 and t100 else ""
        rate = rate_for(f.in_hand.settled, f.record, s)
        words = f"{found}Its rate follows: {plain(rate, 2)} mm/min." if rate else f"{found}Further readings may go on."
        advice = ask("Consolidated: end it, or read on.", words, (end,), 30, "end")
        return advice.model_copy(update={"wants": (end, *(made.wants if made else ()))})
    return made.model_copy(update={"wants": (*made.wants, end)})


def _rate(f: Facts, s: ShearSchool) -> tuple[str, str]:
    stage = f.in_hand
    if stage is None:
        return "", ""
    rate = rate_for(stage.settled, f.record, s)
    if rate is None:
        return "", ""
    minutes, measured = needed_min(stage.settled, f.record, s)
    if minutes is None or (dry_sand(f.record) and not measured):
        return f"{plain(rate, 2)} mm/min", "dry sand drains at once"
    return f"{plain(rate, 2)} mm/min", f"{'by its own consolidation' if measured else 'by its kind'}: {span(minutes)}"


def live(f: Facts, s: ShearSchool, now: datetime) -> str:
    """What the curve says while it grows."""
    stage = f.in_hand
    if stage is None or not stage.points:
        return ""
    last = stage.points[-1]
    said = [f"{last.shear_kpa:.1f} kPa at {last.travel_mm:.2f} mm"]
    if stage.peak is not None and stage.peak is not last:
        said.append(f"greatest {stage.peak.shear_kpa:.1f} kPa at {stage.peak.travel_mm:.2f} mm")
    words = past_peak_words(stage, s)
    return ", ".join([*said, words] if words else said)


def _sheared_note(f: Facts, s: ShearSchool) -> str:
    done = [st for st in f.stages if st.counts and st.peak]
    return ", ".join(f"{st.peak.shear_kpa:.0f}" for st in done if st.peak) + " kPa" if done else ""


def _tins(f: Facts) -> list[tuple[str, str]]:
    return [
        (paths.at("stages", st.row, "mass_dry_g"), st.stage.tin or f"of {st.words}")
        for st in f.stages
        if st.stage.mass_wet_g is not None and st.stage.mass_dry_g is None and not st.stage.excluded_because
    ]


def _since(f: Facts) -> datetime | None:
    times = [st.stage.in_oven_at for st in f.stages if st.stage.in_oven_at is not None]
    return max(times) if times else None


def _of(*fields: str) -> tuple[str, ...]:
    return tuple(f"stages[].{name}" for name in fields)


FLOW: Flow = (
    Task(
        key="box",
        title="Box, plates, hanger",
        does="Halves screwed together, ridged plates across the travel; cap, lever and hanger weighed once.",
        fields=(
            "soil",
            "normally_consolidated",
            "drainage",
            "largest_particle_mm",
            "description",
            "depth_m",
            "target_density_mg_m3",
            "water_before_percent",
            "particle_density_mg_m3",
            "particle_density_from",
            "shear_box",
            *BOX,
            "box_height_mm",
            "upper_half_kg",
            "lever_kg",
            "ridges_across",
            *BALANCE,
        ),
        needs=("soil", *BOX, "water_before_percent"),
        also=("largest_particle_mm", "drainage", "ridges_across"),
        gives="envelope",
        asks="The box and what loads it: its size, cap, lever; and what soil it is.",
        how="Ridges across the travel. A lever that is not balanced rests on the soil with its own weight.",
        label="box",
        cautions=("Box halves and screws: fingers clear when they close.",),
        hands_s=300,
        holds=("shear box",),
        note=lambda f, s: f"{plain(f.box.width_mm)} mm {'square' if f.box.square else 'round'}" if f.box.said else "",
    ),
    Task(
        key="force",
        title="What reads the force",
        does="Load cell or proving ring; both gauges seated.",
        fields=(*force_reading.FIELDS,),
        is_done=lambda f, s: force_reading.force_known(f.record),
        needs=lambda f, s: () if force_reading.force_known(f.record) else ("load_by",),
        also=lambda f, s: (
            () if force_reading.force_known(f.record) else ("load_cell", "proving_ring", "ring_factor_n_div")
        ),
        asks="What reads the shear force?",
        how="The number of a ring brings its calibration.",
        label="force",
        hands_s=60,
        note=lambda f, s: f.record.load_by or "",
    ),
    Task(
        key="specimen",
        title="Make the specimen",
        does="In lifts, tamped lightly, level; 5 mm below the rim. Weigh what is left: its mass by difference.",
        fields=_of("wanted_kpa", "mass_before_g", "mass_left_g", "mass_g", "height_mm", "excluded_because"),
        needs=lambda f, s: (
            () if f.hand is None else _open("wanted_kpa", "height_mm", *(() if _made(f, s) else ("mass_g",)))(f, s)
        ),
        also=_open("mass_before_g", "mass_left_g"),
        is_done=lambda f, s: _done("wanted_kpa", "height_mm")(f, s) and _made(f, s),
        asks=lambda f, s: f"A fresh specimen for {_words(f)}: the stress it is for, its height and mass.",
        how="Mass by difference: the container before, and what is left in it.",
        label="specimen",
        hands_s=900,
        holds=("shear box", "balance"),
        note=lambda f, s: f"{len(f.stages)} made" if f.stages else "",
    ),
    Task(
        key="load",
        title="Load it",
        does="Cap and ball; discs on the hanger; the lever level.",
        fields=_of("hanger_kg", "flooded", "gap_mm"),
        needs=_open("hanger_kg", "flooded"),
        is_done=_done("hanger_kg", "flooded"),
        asks=lambda f, s: f"Hang the discs for {_words(f)}; flooded or dry?",
        how="All that hangs, with the hanger itself. Let it down slowly.",
        amount=_hang,
        label="load",
        cautions=("Discs: lift one by one, stack safely, feet clear.",),
        hands_s=180,
        holds=("shear frame",),
        note=lambda f, s: f"{f.in_hand.normal_kpa:.1f} kPa" if f.in_hand and f.in_hand.normal_kpa is not None else "",
    ),
    Asks(
        key="settle",
        title="Consolidate",
        does="Vertical gauge by the clock until t100 is behind it; t90 gives the rate.",
        fields=(
            *_of("planned_load_at", "loaded_at", "consolidated", "settled_mm", "t50_min", "t90_min", "t100_min"),
            *_of(
                "settlement[].settlement_mm",
                "settlement[].elapsed_min",
                "settlement[].read_at",
                "settlement[].excluded_because",
            ),
        ),
        is_done=_settled,
        think=_watch,
        hands_s=300,
        waits_min=120.0,
        holds=("shear frame",),
        note=lambda f, s: (
            f"t90 {span(f.in_hand.settled.t90_min)}" if f.in_hand and f.in_hand.settled.t90_min is not None else ""
        ),
    ),
    Task(
        key="screws",
        title="Screws out, lift, zero",
        does="Both screws out; upper half lifted by the gap; every gauge to zero.",
        fields=_of("screws_out", "zeroed", "friction_n", "rate_mm_min"),
        needs=_open("screws_out", "gap_mm", "zeroed", "rate_mm_min"),
        also=_open("friction_n"),
        is_done=_done("screws_out", "zeroed", "rate_mm_min"),
        asks=lambda f, s: f"Both screws out, lift by the gap, all gauges to zero: {_words(f)}.",
        how="The shear cannot start while a screw holds the halves together. Then set the rate.",
        amount=_rate,
        label="screws",
        cautions=("The carriage moves: fingers clear.",),
        hands_s=120,
        holds=("shear frame",),
        note=lambda f, s: "out" if _stage(f).screws_out == "yes" else "",
    ),
    Calls(
        key="shear",
        title="Shear",
        does="Force and vertical gauge at each called travel, or the logger's block; past the peak, or to the end.",
        fields=(*_of(*(f"shear[].{name}" for name in READ)), *_of("stopped"), "tail_from_mm"),
        of=lambda f, s: f.shearing,
        is_done=lambda f, s: f.hand is None or (f.in_hand is not None and f.in_hand.over),
        gauge="force and gauge",
        begin="All gauges at zero: read them, start the carriage.",
        live=live,
        may_stop=lambda f, s: f.in_hand is not None and may_stop(f.in_hand, s),
        cautions=("The carriage moves: fingers clear.",),
        hands_s=1200,
        holds=("shear frame", "shear box"),
        alone=False,
        note=_sheared_note,
    ),
    Task(
        key="back",
        title="Back, traverses, tins",
        does="Carriage back; for a residual strength traverse it again; a tin of each specimen.",
        fields=_of(
            "reversals[].force_n",
            "reversals[].travel_mm",
            "reversals[].vertical_mm",
            "tin",
            "mass_tin_g",
            "mass_tin_register_g",
            "mass_wet_g",
            "in_oven_at",
        ),
        is_done=lambda f, s: f.hand is None,
        due_now=lambda f, s: False,
        hands_s=180,
        optional=True,
        holds=("balance",),
    ),
    Oven(
        key="dry",
        title="Water contents after",
        does="Each specimen's tin, overnight in the oven.",
        fields=_of("mass_dry_g"),
        tins=_tins,
        since=_since,
        in_oven="",
        is_done=lambda f, s: f.hand is None and not _tins(f),
        cautions=("Hot tins: gloves and tongs.",),
        hands_s=120,
        holds=("oven",),
        runs_beside=True,
    ),
    Task(
        key="beside",
        title="What stands beside",
        does="Particle density, for void ratios and saturation; whether the line is held through zero.",
        fields=("hold_zero", "enough", "remarks"),
        needs=("particle_density_mg_m3",),
        also=("particle_density_from",),
        gives="void ratio",
        optional=True,
        asks="The failure envelope is complete. Enter the particle density to get void ratio and saturation.",
        how="You can sign the sheet without it.",
        hands_s=60,
    ),
    SPECIMEN,
)

FINISH = "All stages sheared; the failure envelope is complete."


def stage_words(stage: Sheared) -> str:
    """Where a stage stands, for its line in the desk."""
    if stage.stage.excluded_because:
        return f"left out: {stage.stage.excluded_because}"
    if stage.counts and stage.peak:
        return f"{stage.failure_words} {stage.peak.shear_kpa:.1f} kPa"
    if stage.points:
        return f"shear, {len(stage.points)} readings in"
    if stage.stage.screws_out:
        return "screws out"
    if stage.settled.readings:
        return f"settling, {len(stage.settled.readings)} readings"
    return "loaded" if stage.normal_kpa is not None else "made"
