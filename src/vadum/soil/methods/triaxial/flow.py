"""The order of work for a triaxial test: the set once, then each specimen from its membrane to its tin."""

from datetime import datetime, timedelta
from functools import partial

from vadum.soil.contract import paths
from vadum.soil.contract.call_advice import clock_advice, start_advice
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.task import BALANCE, Asks, Calls, Task, ask, still_open
from vadum.soil.contract.times import clock, span
from vadum.soil.contract.waits import Oven, Wait
from vadum.soil.methods.triaxial.facts import Facts, Tested
from vadum.soil.methods.triaxial.record import Specimen
from vadum.soil.methods.triaxial.rules import may_stop, past_peak_words
from vadum.soil.methods.triaxial.school import TriaxialSchool
from vadum.soil.shared.row_in_hand import holds, wants
from vadum.soil.shared.specimen import SPECIMEN

SIZES = (
    "diameter_top_mm",
    "diameter_middle_mm",
    "diameter_bottom_mm",
    "height_1_mm",
    "height_2_mm",
    "height_3_mm",
    "mass_g",
)
STEP = ("cell_from_kpa", "cell_to_kpa", "pore_from_kpa", "pore_to_kpa")
READ = (
    "deformation_mm",
    "force_n",
    "pore_kpa",
    "volume_cm3",
    "cell_kpa",
    "elapsed_s",
    "read_at",
    "missed",
    "noted",
    "excluded_because",
)
DRAINED = ("volume_cm3", "shortening_mm", "elapsed_min", "read_at", "excluded_because")
SHIELD = "Cell pressure stores energy: shield closed, hoses tight, nobody in front; never above the cell's rating."


def _specimen(f: Facts) -> Specimen:
    return f.in_hand.specimen if f.in_hand else Specimen()


def _words(f: Facts) -> str:
    return f.in_hand.words if f.in_hand else f"specimen {(f.hand or 0) + 1}"


_open, _done = partial(wants, "specimens"), partial(holds, "specimens")


def quick(s: TriaxialSchool) -> bool:
    """Whether the school's tests are neither saturated nor consolidated."""
    return "UU" in s.kinds


def consolidates(s: TriaxialSchool) -> bool:
    """Whether the school's tests are consolidated."""
    return not quick(s)


def _soaked(f: Facts, s: TriaxialSchool) -> tuple[datetime, datetime] | None:
    since = _specimen(f).membrane_soaked_from_at
    return None if since is None else (since, since + timedelta(minutes=s.membrane_soak_min))


def _rested(f: Facts, s: TriaxialSchool) -> tuple[datetime, datetime] | None:
    since = _specimen(f).under_pressure_from_at
    return None if since is None else (since, since + timedelta(minutes=s.rest_min))


def saturated_enough(one: Tested, s: TriaxialSchool) -> bool:
    """Whether B is proved, or has stayed what it was over two steps under enough back pressure (stiff soil)."""
    if not one.answers:
        return False
    last = one.answers[-1].b_ratio
    if last >= s.least_b_ratio - 1e-9:
        return True
    before = one.answers[-3:-1]
    unchanged = len(before) == 2 and all(abs(last - a.b_ratio) <= s.unchanged_b_ratio for a in before)
    back = one.answers[-1].back_kpa or one.answers[-1].pore_kpa
    return unchanged and back >= s.enough_back_kpa


def next_step(one: Tested | None, f: Facts, s: TriaxialSchool) -> tuple[float, float, float] | None:
    """The next step of the saturation: cell raised to, back then to, and the pore pressure that would prove B; kPa.

    Parameters: the specimen in hand with its steps; `s` the step and the least effective stress, kPa.
    Returns: three pressures, or None where the cell's rating ends it.
    Source: ASTM D4767; the step is a laboratory setting.
    """
    last = one.answers[-1] if one and one.answers else None
    if last is None:
        cell, pore = s.increment_kpa, 0.0
        start = 0.0
    else:
        start = last.cell_kpa
        pore = last.back_kpa if last.back_kpa is not None else last.pore_kpa
        cell = start + s.increment_kpa
    rating = f.record.cell_rating_kpa
    if rating is not None and cell > rating:
        return None
    return cell, cell - s.least_effective_kpa, pore + s.least_b_ratio * (cell - start)


def _saturate(f: Facts, s: TriaxialSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """Step after step of the cell pressure until B is proved; then the saturation is ended."""
    one, hand = f.in_hand, f.hand
    if hand is None or _specimen(f).saturated is not None:
        return None
    path, rows = paths.at("specimens", hand, "increments"), _specimen(f).increments
    end = paths.at("specimens", hand, "saturated")
    begun = next((i for i, r in enumerate(rows) if any(getattr(r, n) is None for n in STEP)), None)
    if begun is not None:
        wants = tuple(paths.at(path, begun, n) for n in STEP if getattr(rows[begun], n) is None)
        return ask(
            f"{_words(f)}: read what the step gave.",
            "Back line closed; wait until the pore pressure stands.",
            wants,
            300,
            "step",
        )
    b = one.b_ratio if one else None
    proved = f"B {b:.2f}" if b is not None else "No step yet"
    if one is not None and saturated_enough(one, s):
        last = len(rows) - 1
        wants = (end,) if rows[last].back_kpa is not None else (paths.at(path, last, "back_kpa"), end)
        short = paths.at("specimens", hand, "saturation_shortening_mm")
        return ask(
            f"{proved}: saturated. End it, or go on.",
            "Its shortening in saturation beside.",
            (*wants, short),
            60,
            "end",
        )
    step = next_step(one, f, s)
    if step is None:
        return ask(
            f"{proved}: the next step would be above the cell's rating.",
            "Leave it under pressure for longer.",
            (end,),
            60,
            "end",
        )
    cell, back, pore = step
    if rows and rows[-1].back_kpa is None:
        back_path = paths.at(path, len(rows) - 1, "back_kpa")
        words = f"To {plain(max(0.0, rows[-1].cell_to_kpa or 0.0) - s.least_effective_kpa)} kPa; then the next step."
        return ask(f"{proved}: raise the back pressure.", words, (back_path,), 600, "back")
    wants = tuple(paths.at(path, len(rows), n) for n in STEP)
    words = f"Close the back line. A pore pressure of {plain(pore, 4)} kPa proves B {plain(s.least_b_ratio)}."
    made = ask(f"{proved}: cell to {plain(cell)}, then back to {plain(back)}.", words, wants, 900, "step")
    return made.model_copy(update={"amount": f"{plain(cell)} kPa", "amount_note": "in the cell"})


def may_end(one: Tested, s: TriaxialSchool) -> bool:
    """Whether a specimen has consolidated: t100 is behind it."""
    t100 = one.drainage.t100_min or (one.drainage.log.t100_min if one.drainage.log else None)
    read = one.drainage.readings
    return t100 is not None and bool(read) and read[-1].minutes >= t100


def _consolidate(f: Facts, s: TriaxialSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """The consolidation by the clock; it may be ended as soon as t100 is behind it."""
    its, one = f.draining, f.in_hand
    if its is None or one is None or one.specimen.consolidated is not None:
        return None
    if its.began_at is None and not its.taken:
        return start_advice(its, f.record, now)
    made = clock_advice(its, f.record, now) if its.began_at is not None else None
    end = one.path("consolidated")
    if may_end(one, s) or made is None:
        found = [f"{n} {span(v)}" for n, v in (("t50", one.drainage.t50_min), ("t90", one.drainage.t90_min)) if v]
        rate = f"; its rate follows: {plain(one.needed_percent_min, 2)} %/min" if one.needed_percent_min else ""
        advice = ask("Consolidated: end it, or read on.", f"{', '.join(found)}{rate}.", (end,), 30, "end")
        short = still_open(f.record, one.path("consolidation_shortening_mm"))
        return advice.model_copy(update={"wants": (end, *short, *(made.wants if made else ()))})
    return made.model_copy(update={"wants": (*made.wants, end)})


def _rate(f: Facts, s: TriaxialSchool) -> tuple[str, str]:
    one = f.in_hand
    if one is None or one.needed_percent_min is None or one.start is None:
        return "", ""
    rate = one.needed_percent_min
    hours = span(s.stop_strain_percent / rate)
    return f"{plain(rate / 100 * one.start.height_mm, 2)} mm/min", f"{plain(rate, 2)} %/min at the most, {hours} in all"


def live(f: Facts, s: TriaxialSchool, now: datetime) -> str:
    """What the curve says while it grows."""
    one = f.in_hand
    if one is None or not one.points:
        return ""
    last = one.points[-1]
    said = [f"q {last.deviator_kpa:.0f} kPa at {100 * last.strain:.2f} %"]
    if last.rise_kpa is not None:
        said.append(f"u rose {last.rise_kpa:.0f} kPa")
    words = past_peak_words(one, s)
    return ", ".join([*said, words] if words else said)


def _tins(f: Facts) -> list[tuple[str, str]]:
    return [
        (paths.at("specimens", t.row, "mass_dry_g"), t.specimen.tin or f"of {t.words}")
        for t in f.tested
        if t.specimen.mass_wet_g is not None and t.specimen.mass_dry_g is None and not t.specimen.excluded_because
    ]


def _since(f: Facts) -> datetime | None:
    times = [t.specimen.in_oven_at for t in f.tested if t.specimen.in_oven_at is not None]
    return max(times) if times else None


def _of(*fields: str) -> tuple[str, ...]:
    return tuple(f"specimens[].{name}" for name in fields)


def _sheared(f: Facts, s: TriaxialSchool) -> str:
    done = [t for t in f.tested if t.counts and t.deviator]
    return ", ".join(f"{abs(t.deviator.deviator_kpa):.0f}" for t in done if t.deviator) + " kPa" if done else ""


FLOW: Flow = (
    Task(
        key="set",
        title="Kind of test, cell",
        does="Which kind, what cell and its rating, what reads the load; soil and what is expected.",
        fields=(
            "kind",
            "direction",
            "staging",
            "description",
            "depth_m",
            "sample_type",
            "brittle",
            "largest_particle_mm",
            "in_situ_kpa",
            "expected_failure_percent",
            "particle_density_mg_m3",
            "particle_density_from",
            "water_before_percent",
            "triaxial_cell",
            "cell_rating_kpa",
            "cell_fluid",
            "load_cell",
            "load_cell_most_n",
            "load_cell_due_on",
            "load_cell_in_date",
            "piston_zeroed",
            "piston_area_mm2",
            "piston_friction_n",
            "membrane_modulus_kpa",
            "membrane_modulus_from",
            "side_drains",
            "drains_through",
            "drains_perimeter_mm",
            "temperature_c",
            *BALANCE,
        ),
        needs=("kind", "cell_rating_kpa", "piston_zeroed"),
        also=("direction", "staging", "largest_particle_mm", "side_drains", "drains_through", "particle_density_mg_m3"),
        gives="envelope",
        asks="Which kind of test, which cell, and what it is rated to?",
        how="The cell's number brings its rating. Is the load zeroed under pressure?",
        label="set",
        hands_s=180,
        note=lambda f, s: f.record.kind or "",
    ),
    Task(
        key="ready",
        applies=consolidates,
        title="Discs, membrane, lines",
        does="Discs boiled ten minutes, then under vacuum; the membrane in water overnight; lines flushed.",
        fields=_of(
            "number",
            "wanted_kpa",
            "discs_boiled_at",
            "discs_vacuum_from_at",
            "membrane",
            "membrane_thickness_mm",
            "membrane_soaked_from_at",
            "lines_flushed",
        ),
        needs=_open("wanted_kpa", "membrane_soaked_from_at"),
        also=_open("discs_boiled_at", "membrane", "membrane_thickness_mm"),
        is_done=_done("wanted_kpa", "membrane_soaked_from_at"),
        asks=lambda f, s: f"{_words(f)}: its membrane into clean water, its discs boiled.",
        how="Overnight before the day of the test: a membrane soaked two hours lets water through.",
        label="membrane",
        cautions=("Boiling water: tongs; let it cool.",),
        hands_s=900,
        note=lambda f, s: f"membrane {_specimen(f).membrane}" if _specimen(f).membrane else "",
    ),
    Task(
        key="trim",
        title="Trim and measure",
        does="From outside while turning, top to bottom, ends in the mitre mould; three diameters, three heights.",
        fields=_of(*SIZES, "failed_by", "plane_degrees", "excluded_because"),
        needs=lambda f, s: _open(*(("wanted_kpa",) if quick(s) else ()), *SIZES)(f, s),
        is_done=lambda f, s: _done(*(("wanted_kpa",) if quick(s) else ()), *SIZES)(f, s),
        asks=lambda f, s: f"{_words(f)}: trim it; three diameters, three heights, its mass.",
        how="A stone at the surface is picked out, the hole filled with trimmings.",
        label="trim",
        cautions=("Scalpels and wire saws: cut away from the hand.",),
        hands_s=2400,
        holds=("balance",),
        note=lambda f, s: (
            f"{f.in_hand.core.diameter_mm:.1f} × {f.in_hand.core.height_mm:.1f} mm"
            if f.in_hand and f.in_hand.core
            else ""
        ),
    ),
    Wait(
        key="mount",
        applies=consolidates,
        title="Mount it",
        does="Discs, papers, membrane, rings; cell filled; a small cell pressure, and look for a leak.",
        fields=_of("mounted_at"),
        needs=_open("mounted_at"),
        ready=_soaked,
        is_done=_done("mounted_at"),
        asks=lambda f, s: f"{_words(f)}: mount it, lines flushed.",
        how="Record the time when it stands in its filled cell.",
        waiting="Its membrane has soaked until {}.",
        cautions=(SHIELD, "Compressed air and vacuum: fittings tight."),
        hands_s=2400,
        holds=("triaxial cell",),
        note=lambda f, s: f"{_specimen(f).mounted_at:%d %b %H:%M}" if _specimen(f).mounted_at else "",
    ),
    Asks(
        key="saturate",
        applies=consolidates,
        title="Saturate",
        does="Back line closed, the cell raised, the pore pressure read: B; then the back pressure after it.",
        fields=_of(
            *(f"increments[].{n}" for n in (*STEP, "back_kpa", "read_at", "excluded_because")),
            "saturated",
            "saturation_shortening_mm",
        ),
        is_done=_done("saturated"),
        think=_saturate,
        cautions=(SHIELD,),
        hands_s=3600,
        waits_min=24 * 60.0,
        holds=("triaxial cell", "pressure lines"),
        note=lambda f, s: f"B {f.in_hand.b_ratio:.2f}" if f.in_hand and f.in_hand.b_ratio is not None else "",
    ),
    Task(
        key="pressure",
        title="Pressure for its stage",
        does="The cell to its pressure; consolidated tests: the back pressure it keeps.",
        fields=_of("cell_kpa", "back_kpa", "under_pressure_from_at"),
        needs=lambda f, s: _open("cell_kpa", *(("under_pressure_from_at",) if quick(s) else ("back_kpa",)))(f, s),
        is_done=lambda f, s: _done("cell_kpa", *(("under_pressure_from_at",) if quick(s) else ("back_kpa",)))(f, s),
        asks=lambda f, s: f"{_words(f)}: bring the cell to its pressure.",
        how="Shield closed. Back line closed while the cell is raised.",
        label="pressure",
        cautions=(SHIELD,),
        hands_s=300,
        holds=("triaxial cell",),
        note=lambda f, s: f"{plain(_specimen(f).cell_kpa or 0)} kPa" if _specimen(f).cell_kpa is not None else "",
    ),
    Asks(
        key="consolidate",
        applies=consolidates,
        title="Consolidate",
        does="Water out by the clock until t100 is behind it; t50 or t90 gives the rate.",
        fields=_of(
            "planned_drain_at",
            "drained_from_at",
            "consolidated",
            "volume_out_cm3",
            "consolidation_shortening_mm",
            "t50_min",
            "t90_min",
            "t100_min",
            *(f"consolidation[].{n}" for n in DRAINED),
        ),
        is_done=_done("consolidated"),
        think=_consolidate,
        hands_s=600,
        waits_min=24 * 60.0,
        holds=("triaxial cell", "pressure lines"),
        note=lambda f, s: (
            f"t50 {span(f.in_hand.drainage.t50_min)}" if f.in_hand and f.in_hand.drainage.t50_min is not None else ""
        ),
    ),
    Wait(
        key="rate",
        title="Set the rate",
        does="By its own consolidation; a quick test by its school. Load zeroed, piston seated.",
        fields=_of("rate_mm_min"),
        needs=_open("rate_mm_min"),
        is_done=_done("rate_mm_min"),
        ready=lambda f, s: _rested(f, s) if quick(s) else None,
        waiting="Under its pressure until {}.",
        asks=lambda f, s: f"{_words(f)}: set the rate of the platen.",
        amount=_rate,
        label="rate",
        hands_s=120,
        holds=("frame",),
        note=lambda f, s: (
            f"{plain(_specimen(f).rate_mm_min or 0)} mm/min" if _specimen(f).rate_mm_min is not None else ""
        ),
    ),
    Calls(
        key="shear",
        title="Shear",
        does="Load and pore pressure (or water out) at each called shortening, or the logger's block.",
        fields=(*_of(*(f"shear[].{name}" for name in READ)), *_of("stopped")),
        of=lambda f, s: f.shearing,
        is_done=lambda f, s: f.hand is None or (f.in_hand is not None and f.in_hand.over),
        gauge="load and pressure",
        begin="Piston seated, gauges at zero: read them, start the frame.",
        live=live,
        may_stop=lambda f, s: f.in_hand is not None and may_stop(f.in_hand, s),
        cautions=(SHIELD, "The frame's pinch point: hands out while it runs."),
        hands_s=3600,
        holds=("frame", "triaxial cell"),
        note=_sheared,
    ),
    Task(
        key="strip",
        title="Vent, strip, weigh it whole",
        does="Vent to nothing before a nut is turned; sketch and photograph; the whole specimen into its tin.",
        fields=_of("tin", "mass_tin_g", "mass_tin_register_g", "mass_wet_g", "in_oven_at"),
        is_done=lambda f, s: f.hand is None,
        due_now=lambda f, s: False,
        optional=True,
        cautions=("Vent the cell to nothing before it is opened.",),
        hands_s=900,
        holds=("balance",),
    ),
    Oven(
        key="dry",
        title="Dry it whole",
        does="Each specimen's tin, overnight.",
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
        does="Whether there are more specimens; remarks.",
        fields=("enough", "remarks"),
        optional=True,
        is_done=lambda f, s: True,
    ),
    SPECIMEN,
)

FINISH = "Every specimen is sheared; the envelope stands."


def specimen_words(one: Tested, now: datetime) -> str:
    """Where a specimen stands, for its line in the desk."""
    own = one.specimen
    if own.excluded_because:
        return f"left out: {own.excluded_because}"
    if one.counts and one.deviator:
        return f"q {abs(one.deviator.deviator_kpa):.0f} kPa at {100 * abs(one.deviator.strain):.1f} %"
    if one.points:
        return f"shear, {100 * abs(one.points[-1].strain):.1f} %"
    if own.consolidated:
        return "consolidated"
    if one.drainage.readings:
        return f"consolidating, {len(one.drainage.readings)} readings"
    if own.saturated:
        return "saturated"
    if one.b_ratio is not None:
        return f"saturating, B {one.b_ratio:.2f}"
    if own.mounted_at:
        return "mounted"
    if own.membrane_soaked_from_at:
        return f"membrane in water since {clock(own.membrane_soaked_from_at, now)}"
    return "being made"
