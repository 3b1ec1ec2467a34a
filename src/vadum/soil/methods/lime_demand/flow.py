"""The order of work at a lime demand: sulphate asked first, soil, lime, six bottles, an hour of shaking, the meter,
six readings within a quarter of an hour."""

from datetime import datetime, timedelta

from vadum.soil.contract import paths
from vadum.soil.contract.call_advice import clock_advice, start_advice
from vadum.soil.contract.called import Called
from vadum.soil.contract.fields import known
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.task import Asks, Task, ask
from vadum.soil.contract.times import minutes_between
from vadum.soil.methods.lime_demand.facts import Facts, One, in_order, is_weighed
from vadum.soil.methods.lime_demand.record import Bottle, Buffer
from vadum.soil.methods.lime_demand.school import LimeSchool
from vadum.soil.shared.specimen import SPECIMEN

LIME_HURTS = (
    "Lime burns skin and eyes; quicklime reacts violently with water and heats. Goggles, gloves and apron on, eyewash "
    "within reach, fan on; read the safety data sheet."
)


def _sulphate_needs(f: Facts, s: LimeSchool) -> tuple[str, ...]:
    record = f.record
    if record.sulphate_known is None:
        return ("sulphate_known",)
    if record.sulphate_known == "measured" and record.sulphate_mg_kg is None:
        return ("sulphate_mg_kg",)
    if sulphate_too_high(f, s):
        return ("sulphate_reason",)
    return ("sulphate_known",)


def sulphate_too_high(f: Facts, s: LimeSchool) -> bool:
    """Whether the soluble sulphate makes lime heave."""
    value = f.record.sulphate_mg_kg
    return known(value) and value > s.most_sulphate_mg_kg


def _sulphate_asks(f: Facts, s: LimeSchool) -> str:
    if sulphate_too_high(f, s):
        return (
            f"Stop and ask: {plain(f.record.sulphate_mg_kg or 0)} mg/kg of sulphate, "
            f"above {plain(s.most_sulphate_mg_kg)}: lime may heave this ground."
        )
    return "Soluble sulphate first: is it known?"


def weighing_of(one: One) -> tuple[str, ...]:
    """What is still to be weighed into a bottle."""
    wanted = ("lime_g",) if one.is_lime_only else ("soil_g", "lime_g")
    return tuple(paths.at("bottles", one.row, name) for name in wanted if getattr(one.bottle, name) is None)


def _weigh(f: Facts, s: LimeSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """Bottle after bottle: what goes in, told to the hundredth of a gram."""
    if is_weighed(f.record, f.bottles):
        return None
    one = next((b for b in in_order(f.bottles) if not b.weighed), None)
    if one is None:
        row = len(f.record.bottles)
        path = paths.at("bottles", row, "holds")
        return ask("Which bottle is next?", "Lime only, or soil and lime.", (path,), 60, "bottle")
    wants = weighing_of(one)
    soil = paths.field_name(wants[0]) == "soil_g"
    told = one.told_soil_g if soil else one.told_lime_g
    amount = "" if told is None else f"{told:.2f} g" if soil else f"{told:.3f} g"
    what = "moist soil" if soil else "lime"
    return ask(
        f"Into the {one.words} bottle: {what}.",
        f"{plain(s.dry_g)} g of it dry. To 0.01 g." if soil else "To 0.01 g, better to 0.001 g.",
        wants,
        90,
        one.words,
        amount=amount,
        amount_note="told from the water content" if soil else f"for {one.words}",
    )


def _is_set(f: Facts, s: LimeSchool) -> bool:
    """Whether the meter was set to its buffers, and checked against another where the school sets it to two."""
    set_to = [b for b in f.record.buffers if b.part == "set to it" and known(b.buffer_ph)]
    checked = [b for b in f.record.buffers if b.part == "check" and known(b.buffer_read_ph)]
    return len(set_to) >= len(s.buffers_ph) and bool(checked)


def _meter(f: Facts, s: LimeSchool) -> Advice | None:
    if f.record.ph_meter is None:
        return ask("The pH meter, by its number.", "It brings its slope and its date.", ("ph_meter",), 30, "meter")
    if _is_set(f, s):
        return None
    row = next((i for i, b in enumerate(f.record.buffers) if b.buffer_ph is None or not _full(b)), None)
    many = sum(b.part == "set to it" for b in f.record.buffers)
    row = len(f.record.buffers) if row is None else row
    part = f.record.buffers[row].part if row < len(f.record.buffers) else None
    check = part == "check" or (part is None and many >= len(s.buffers_ph))
    which = "a third buffer as check" if check else f"buffer {plain(s.buffers_ph[min(many, len(s.buffers_ph) - 1)])}"
    wanted = ("part", "buffer", "buffer_ph", "buffer_opened_on", *(("buffer_read_ph",) if check else ()))
    held = f.record.buffers[row] if row < len(f.record.buffers) else Buffer()
    wants = tuple(paths.at("buffers", row, name) for name in wanted if getattr(held, name) is None)
    words = "Read without setting; it should come back to two hundredths." if check else "At 25 °C, fresh, run twice."
    return ask(f"The meter: {which}.", f"{words} The tip stays wet.", wants, 240, "buffer")


def _full(b: Buffer) -> bool:
    return b.part is not None and known(b.buffer_ph) and (b.part == "set to it" or known(b.buffer_read_ph))


def _calls(f: Facts, now: datetime) -> list[tuple[Called, Advice]]:
    made = []
    for its in (f.shaking, *f.reading):
        if its.began_at is None or (its.over and not its.after_field):
            continue
        advice = clock_advice(its, f.record, now)
        if advice is not None:
            made.append((its, advice))
    return made


def _warm_owed(f: Facts, s: LimeSchool, now: datetime) -> bool:
    """Whether the last bottle read waits for its temperature: the probe still stands in it."""
    return any(
        b.counts
        and b.bottle.read_ph is not None
        and b.bottle.temperature_c is None
        and b.bottle.read_at is not None
        and now - b.bottle.read_at < timedelta(minutes=s.temperature_owed_min)
        for b in f.bottles
    )


def _hour(f: Facts, s: LimeSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """The hour and the quarter behind it: what the clock calls next; between two calls the meter is set."""
    if not is_weighed(f.record, f.bottles) or (f.all_read and not _warm_owed(f, s, now)):
        return None
    if f.record.water_in_at is None:
        return start_advice(f.shaking, f.record, now)
    made = _calls(f, now)
    dues = tuple(sorted((d for _, a in made for d in a.due), key=lambda d: d.at or now))
    unread = {b.row for b in f.bottles if b.counts and b.ph25 is None}
    passed = minutes_between(f.record.water_in_at, now)
    owed = next((a for c, a in made if a.wants and paths.field_name(a.wants[0]) == "temperature_c"), None)
    if owed is not None:
        return owed.model_copy(update={"due": (*owed.due[:1], *dues)})
    shaking = next((a for c, a in made if c.key == "shakes" and a.due), None)
    nearest = next((d.at for d in dues if d.at is not None), None)
    near = nearest is not None and nearest - now < timedelta(minutes=s.leave_min)
    if not near or shaking is None:
        between = _meter(f, s) if passed < s.stands_min + s.gate_min else None
        if between is not None:
            return between.model_copy(update={"due": (*between.due, *dues)})
        if f.record.bath_c is None:
            bath = ask("The bath: how warm is it?", "25 °C, give or take one.", ("bath_c",), 20, "bath")
            return bath.model_copy(update={"due": (*bath.due, *dues)})
    if shaking is not None and passed < s.stands_min:
        return shaking.model_copy(update={"due": dues})
    nxt = next((c for c in f.reading if c.only_row in unread), None)
    if nxt is None:
        return None
    advice = next((a for c, a in made if c is nxt), None)
    if advice is None:  # the gate is shut, or nobody has said when the water went in
        path = nxt.path(nxt.next_row)
        return ask(f"Read {nxt.words}.", nxt.how, (path, nxt.path(nxt.next_row, "temperature_c")), 90, nxt.name)
    return advice.model_copy(update={"due": dues or advice.due, "detail": nxt.how})


FLOW: Flow = (
    Task(
        key="sulphate",
        title="Sulphate asked first",
        does="Soluble sulphate makes lime-treated ground heave: it is asked before anything is weighed.",
        fields=("sulphate_known", "sulphate_mg_kg", "sulphate_reason"),
        needs=_sulphate_needs,
        is_done=lambda f, s: all(getattr(f.record, n) is not None for n in _sulphate_needs(f, s)),
        asks=_sulphate_asks,
        how="0.3 % is 3000 mg/kg. It goes on with a reason, which stands on top of the sheet.",
        label="sulphate",
        hands_s=60,
        note=lambda f, s: f"{f.record.sulphate_mg_kg:g} mg/kg" if f.record.sulphate_mg_kg is not None else "",
    ),
    Task(
        key="soil",
        title="Soil made ready",
        does="Air-dried, broken with a rubber pestle, over 0.425 mm, remixed, kept airtight; its water by oven.",
        fields=(
            "drying",
            "prepared_g",
            "water_percent",
            "finer_0425_percent",
            "organic_percent",
            "plasticity_index_percent",
            "untreated_ph",
        ),
        needs=("drying", "water_percent"),
        also=("prepared_g", "finer_0425_percent", "plasticity_index_percent", "untreated_ph"),
        asks="The soil below 0.425 mm: how it was dried, and its water content.",
        how="At least 350 g of it; what is told to weigh follows from its water.",
        label="soil",
        hands_s=1800,
        note=lambda f, s: f"water {f.record.water_percent:g} %" if f.record.water_percent is not None else "",
    ),
    Task(
        key="lime",
        title="The lime",
        does="The one that the site will use, fresh; its available CaO.",
        fields=(
            "lime",
            "lime_kind",
            "lime_opened_on",
            "lime_in_date",
            "lime_due_on",
            "available_cao_percent",
            "label_cao_percent",
        ),
        needs=("lime_kind",),
        also=("lime", "available_cao_percent", "lime_opened_on"),
        asks="Which lime: the bag, and what it is.",
        how="An open bag takes up carbon dioxide: its date counts.",
        label="lime",
        cautions=(LIME_HURTS,),
        hands_s=120,
        note=lambda f, s: f.record.lime_kind or "",
    ),
    Asks(
        key="bottles",
        title="Bottles weighed",
        does="Moist soil and lime into each; one bottle with lime alone.",
        fields=("water_ml", *(f"bottles[].{n}" for n in ("holds", "lime_percent", "lime_g", "soil_g"))),
        is_done=lambda f, s: is_weighed(f.record, f.bottles),
        think=_weigh,
        hands_s=1200,
        note=lambda f, s: f"{sum(b.weighed for b in f.bottles)} of {sum(b.counts for b in f.bottles)}",
    ),
    Asks(
        key="hour",
        title="Water in, shaken, read",
        does="Shaken every ten minutes for an hour; the meter set meanwhile; all read within a quarter of an hour, the "
        "lime-only bottle first, then the lowest lime.",
        fields=(
            "planned_water_at",
            "water_in_at",
            *(f"shakes[].{n}" for n in ("shaken_at", "excluded_because")),
            "bath_c",
            "ph_meter",
            "ph_slope_percent",
            "ph_meter_in_date",
            "ph_meter_due_on",
            *(f"buffers[].{n}" for n in Buffer.model_fields),
            *(f"bottles[].{n}" for n in Bottle.model_fields if n not in ("holds", "lime_percent", "lime_g", "soil_g")),
        ),
        is_done=lambda f, s: f.all_read,
        think=_hour,
        cautions=("Probe rinsed before a buffer and going down in lime; not rinsed going up.",),
        hands_s=2400,
        waits_min=75.0,
        holds=("bath", "pH meter"),
        note=lambda f, s: f"{sum(b.ph25 is not None for b in f.bottles)} read" if f.points or f.only_ph else "",
    ),
    Task(
        key="remarks",
        title="Strength design follows",
        does="The demand says nothing on strength: a full mix design with its mellowing time must follow.",
        fields=("remarks",),
        due_now=lambda f, s: False,
        is_done=lambda f, s: f.all_read,
        optional=True,
        hands_s=60,
    ),
    SPECIMEN,
)

FINISH = "The demand stands; the strength design is still to follow."
