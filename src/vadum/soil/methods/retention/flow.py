"""The order of work at a retention curve: rings trimmed and soaked, saturated masses, a mass a day through the steps,
soil out, oven, empty cells."""

from datetime import datetime, timedelta

from vadum.soil.contract import paths
from vadum.soil.contract.call_advice import clock_advice
from vadum.soil.contract.called import Called
from vadum.soil.contract.fields import known
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.outcome import Advice, Due, Outcome
from vadum.soil.contract.task import Asks, Task, ask
from vadum.soil.contract.times import clock
from vadum.soil.methods.retention.facts import Facts, One
from vadum.soil.methods.retention.record import Cell, Point, Step, Weighing
from vadum.soil.methods.retention.school import RetentionSchool
from vadum.soil.shared.specimen import SPECIMEN

SIZES = ("pressure_cell", "ring_diameter_mm", "core_height_mm", "outlet_below_mm")
OF_THE_CELL = ("plate_entry_kpa", "pressure_cell_in_date", "pressure_cell_due_on")
AT_LAST = ("wet_out_g", "dry_g", "apparatus_g")


def wanted_many(f: Facts) -> int:
    """How many cells stand on the rack."""
    return max(f.record.cells_count or 1, sum(o.counts for o in f.ones))


def _cells(f: Facts) -> list[One]:
    return [o for o in f.ones if o.counts]


def _steps(f: Facts, s: RetentionSchool, outcome: Outcome, now: datetime) -> Advice | None:
    if f.pressures:
        open_ = next(
            (i for i, p in enumerate(f.record.steps) if known(p.pressure_as_read) and p.pressure_unit is None), None
        )
        if open_ is None:
            return None
        return ask(
            "Which unit is that pressure in?", "As its gauge shows it.", (f"steps[{open_}].pressure_unit",), 20, "unit"
        )
    wants = ("steps[0].pressure_as_read", "steps[0].pressure_unit")
    return ask("The first pressure, and its unit.", "As the gauge shows it; the next ones rise.", wants, 60, "pressure")


def _ready(one: One) -> bool:
    return all(getattr(one.cell, n) is not None for n in ("ring_diameter_mm", "core_height_mm"))


def _rings(f: Facts, s: RetentionSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """Ring after ring: its sizes; then its saturated mass."""
    row = next((o.row for o in _cells(f) if not _ready(o)), None)
    if row is None and len(_cells(f)) < wanted_many(f):
        row = len(f.ones)
    if row is not None:
        held = f.ones[row].cell if row < len(f.ones) else Cell()
        wants = tuple(paths.at("cells", row, n) for n in (*SIZES, "plate_entry_kpa") if getattr(held, n) is None)
        return ask(
            f"Ring {row + 1}: trimmed level, on its plate, in its cell.",
            "Seal over the plate, a little grease; suction counts at the core's mid-height.",
            wants,
            600,
            f"ring {row + 1}",
        )
    return None


def _saturate(f: Facts, s: RetentionSchool, outcome: Outcome, now: datetime) -> Advice | None:
    one = next((o for o in _cells(f) if o.cell.saturated_g is None), None)
    if one is None:
        return None
    return ask(
        f"{one.name}: saturated mass, then on to its line.",
        "Soaked overnight with its plate, again 24 h over it, lidded; no film on top.",
        (paths.at("cells", one.row, "saturated_g"),),
        120,
        f"{one.name} saturated",
    )


def _of_today(f: Facts, now: datetime) -> list[tuple[One, Called, Advice]]:
    made = []
    for one, called in zip(_cells(f), f.calls, strict=True):
        if called.over or called.began_at is None:
            continue
        advice = clock_advice(called, f.record, now)
        if advice is not None and advice.due:
            made.append((one, called, advice))
    return made


def verdict_on(one: One, s: RetentionSchool) -> str:
    """How a cell stands, in words."""
    if one.may_go_on:
        return "settled"
    if one.change_g is None:
        return "first day of its step"
    return f"{one.quiet_days} of {s.settled_days} days" if one.quiet_days else "still losing"


def _weigh(f: Facts, s: RetentionSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """The day's round: cell after cell; one that has settled goes on."""
    if not f.pressures or f.over:
        return None
    # A step that has settled is answered first: the cell is still on the balance.
    settled = next((o for o in _cells(f) if o.may_go_on and o.weighed and o.weighed[-1].weighing.then is None), None)
    made = _of_today(f, now)
    dues = tuple(_due(o, c, a, s) for o, c, a in made)
    if settled is not None:
        last = settled.step >= len(f.pressures) - 1
        to = "its last step is done" if last else f"on to {f.pressures[settled.step + 1].words}"
        path = paths.at(paths.at("cells", settled.row, "weighings"), settled.weighed[-1].row, "then")
        advice = ask(
            f"{settled.name} is settled at {f.pressures[settled.step].words}: {to}.",
            "Below the limit for its days. Goes on: to the next line.",
            (path,),
            60,
            f"{settled.name} goes on",
        )
        return advice.model_copy(update={"due": (*advice.due, *dues)})
    if not made:
        return None
    one, called, advice = min(made, key=lambda m: (m[2].due[0].at or now, m[0].row))
    at = advice.due[0].at or now
    words = f.pressures[one.step].words
    if at - now > timedelta(minutes=s.same_day_min):
        return advice.model_copy(
            update={
                "headline": f"Nothing to weigh until {clock(at, now)}.",
                "detail": f"{len(made)} cells on their lines; the day's round at the same hour.",
                "due": dues,
            }
        )
    return advice.model_copy(
        update={
            "headline": f"Weigh {one.name}, at {words}.",
            "detail": f"{verdict_on(one, s)[0].upper()}{verdict_on(one, s)[1:]}. {called.how}",
            "amount": one.name,
            "amount_note": words,
            "wants": (*advice.wants, called.path(called.next_row, "temperature_c")),
            "due": dues,
        }
    )


def _due(one: One, called: Called, advice: Advice, s: RetentionSchool) -> Due:
    first = advice.due[0]
    return first.model_copy(update={"what": f"Weigh {one.name}", "label": one.name, "detail": verdict_on(one, s)})


def _out(f: Facts, s: RetentionSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """Soil out, wet and oven-dry; the empty cell with the same parts, wet."""
    if not f.over:
        return None
    for name, words in (
        ("wet_out_g", "soil out, wet"),
        ("apparatus_g", "the empty cell, wet, with the same ring, plate, seals and washers"),
        ("dry_g", "its soil, oven-dry"),
    ):
        one = next((o for o in _cells(f) if getattr(o.cell, name) is None), None)
        if one is not None:
            return ask(
                f"{one.name}: {words}.",
                "What hung on the balance every day must hang on it now, without the soil.",
                (paths.at("cells", one.row, name),),
                180,
                one.name,
            )
    return None


def _is_out(f: Facts, s: RetentionSchool) -> bool:
    cells = _cells(f)
    return f.over and all(getattr(o.cell, n) is not None for o in cells for n in AT_LAST)


FLOW: Flow = (
    Task(
        key="soil",
        title="Soil and cells",
        does="Texture by hand, particle density; how many rings; what they are soaked in.",
        fields=("texture", "particle_density_mg_m3", "cells_count", "soaked_in", "lids", "algae"),
        needs=("cells_count",),
        also=("texture", "particle_density_mg_m3", "soaked_in"),
        asks="How many rings?",
        how="0.01 M calcium chloride keeps the clay as it is.",
        label="cells",
        hands_s=120,
        note=lambda f, s: f"{f.record.cells_count} rings" if f.record.cells_count else "",
    ),
    Asks(
        key="steps",
        title="Pressures",
        does="Each with the unit that its gauge shows, kPa and cm of water beside it.",
        fields=tuple(f"steps[].{n}" for n in Step.model_fields),
        is_done=lambda f, s: bool(f.pressures) and len(f.pressures) == len(f.record.steps),
        think=_steps,
        hands_s=120,
        note=lambda f, s: ", ".join(f"{p.kpa:g}" for p in f.pressures) + " kPa" if f.pressures else "",
    ),
    Asks(
        key="rings",
        title="Rings trimmed, soaked",
        does="Trimmed level; soaked overnight with its plate, seated, soaked again 24 h, lidded.",
        fields=tuple(f"cells[].{n}" for n in (*SIZES, *OF_THE_CELL, "excluded_because")),
        is_done=lambda f, s: len(_cells(f)) >= wanted_many(f) and all(_ready(o) for o in _cells(f)),
        think=_rings,
        hands_s=1800,
        note=lambda f, s: f"{sum(_ready(o) for o in _cells(f))} of {wanted_many(f)}",
    ),
    Asks(
        key="saturated",
        title="Saturated masses",
        does="Each weighed full, then on to the first line.",
        fields=("cells[].saturated_g", "cells[].saturated_at"),
        is_done=lambda f, s: bool(_cells(f)) and all(o.cell.saturated_g is not None for o in _cells(f)),
        think=_saturate,
        hands_s=600,
    ),
    Asks(
        key="weighings",
        title="Steps of pressure",
        does="A mass a day at the same hour; a cell goes on when its mass stands still for two days.",
        fields=tuple(f"cells[].weighings[].{n}" for n in Weighing.model_fields),
        is_done=lambda f, s: f.over,
        think=_weigh,
        cautions=(
            "Compressed air: shut the tap and let the pressure out before a cell is opened. Mercury is toxic: prefer a "
            "gauge; where it is used, a tray, ventilation and a spill kit, no open vessel.",
        ),
        hands_s=600,
        waits_min=6 * 7 * 1440.0,
        holds=("cells", "balance"),
        note=lambda f, s: (
            f"{sum(o.step for o in _cells(f))} of {len(f.pressures) * len(_cells(f))} settled" if f.pressures else ""
        ),
    ),
    Task(
        key="points",
        title="Points of another instrument",
        does="A dewpoint reading at 1500 kPa settles the dry end.",
        fields=tuple(f"points[].{n}" for n in Point.model_fields),
        due_now=lambda f, s: False,
        is_done=lambda f, s: bool(f.record.points),
        optional=True,
        hands_s=300,
    ),
    Asks(
        key="out",
        title="Soil out, oven, empty cells",
        does="Wet and oven-dry masses; the empty cell wet, with the same ring, plate, seals and washers.",
        fields=(*(f"cells[].{n}" for n in (*AT_LAST, "ring_g")), "dried_on"),
        is_done=_is_out,
        think=_out,
        hands_s=1800,
        waits_min=16 * 60.0,
        holds=("oven",),
    ),
    Task(
        key="remarks",
        title="Remarks",
        does="What else belongs on the report.",
        fields=("remarks",),
        due_now=lambda f, s: False,
        is_done=_is_out,
        optional=True,
        hands_s=60,
    ),
    SPECIMEN,
)

FINISH = "The curve stands: the drying side only."
