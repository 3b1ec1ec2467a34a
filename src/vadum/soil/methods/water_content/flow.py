"""The order of work for a water content."""

from datetime import datetime, timedelta

from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Due, Outcome
from vadum.soil.contract.task import BALANCE, Asks, Task
from vadum.soil.contract.times import clock, minutes_between, span
from vadum.soil.methods.water_content.facts import Facts
from vadum.soil.methods.water_content.school import WaterContentSchool
from vadum.soil.shared.specimen import SPECIMEN

PLACES = {"oven": "oven", "microwave": "microwave", "direct heat": "heat"}
_HOT = (
    "Hot tins and oven shelves: gloves and tongs.",
    "Contaminated or organic soil gives off fumes: ventilate.",
)


def _mass(value: float | None, words: str) -> str:
    return "" if value is None else f"{plain(value, 6)} g {words}"


def _soil_note(f: Facts, s: WaterContentSchool) -> str:
    wet, tin = f.record.mass_wet_g, f.record.mass_tin_g
    return "" if wet is None or tin is None else f"{plain(wet - tin, 5)} g wet soil"


def _tin_note(f: Facts, s: WaterContentSchool) -> str:
    tin, mass = f.record.tin, f.record.mass_tin_g
    return f"tin {tin}, {plain(mass, 6)} g" if tin and mass is not None else ""


def _asks_tin(f: Facts, s: WaterContentSchool) -> str:
    if f.record.tin is None:
        return "Take a clean, dry tin."
    return "Weigh the empty tin." if f.record.mass_tin_g is None else "Weigh the tin with the wet soil."


def _into(f: Facts, s: WaterContentSchool) -> str:
    heat = f" at {plain(s.temperature_c[0])}–{plain(s.temperature_c[1])} °C" if s.temperature_c else ""
    return f"Lid off, tin {f.record.tin or ''} into the {PLACES[s.dried_by]}{heat}.".replace("  ", " ")


def _constant_words(f: Facts) -> str:
    if f.change is None:
        return "long enough in the heat"
    moved = abs(f.change.after_g - f.change.before_g)
    return f"constant: {plain(moved, 3)} g ≤ {plain(f.change.limit_g, 3)} g"


def _drying(f: Facts, s: WaterContentSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """Time left in the heat, or the next weighing: again and again until the mass is constant, so no single wait."""
    if f.dry:
        return None
    ready, row = f.next_at, len(f.record.weighings)
    path = f"weighings[{row}].mass_dry_g"
    tin = f"tin {f.record.tin}" if f.record.tin else "the tin"
    if ready is None:
        return Advice(headline=f"Weigh {tin} again.", wants=(path,), due=())
    wants = (path, f"weighings[{row}].mirror") if s.dried_by == "direct heat" else (path,)
    again = "again" if f.weighings else "dry"
    due = Due(
        what=f"Weigh {tin} {again}",
        kind="wait",
        at=ready,
        since=f.record.in_oven_at,
        path=path,
        hands_s=int(60 + 60 * s.cool_min),
        label=f"{tin} {again}",
        detail=f"Cool {span(s.cool_min)} with the lid on.",
    )
    left = minutes_between(now, ready)
    if left > 0:
        return Advice(
            headline=f"{tin.capitalize()} stays in the {PLACES[s.dried_by]} until {clock(ready, now)}.",
            detail="Not constant yet; one more spell." if f.weighings else f"{span(left)} to go.",
            amount=clock(ready, now),
            amount_note=f"in {span(left)}",
            wants=wants,
            due=(due,),
        )
    return Advice(
        headline=f"{tin.capitalize()} may come out.",
        detail=f"Cool {span(s.cool_min)} with the lid on, then weigh.",
        amount=f"since {clock(now - timedelta(minutes=-left), now)}",
        wants=wants,
        due=(due,),
    )


def _dry(f: Facts, s: WaterContentSchool, outcome: Outcome, now: datetime) -> Advice | None:
    wrong = next((v for v in outcome.verdicts if v.level in ("stop", "redo")), None)
    if wrong is not None:
        return None
    return Advice(
        headline="Dry. The sheet can be signed.",
        detail=f"Mass {_constant_words(f)}. The specimen is spent: no other test takes it.",
        finished=True,
    )


def unused(school: WaterContentSchool) -> frozenset[str]:
    """The mirror belongs to drying by direct heat."""
    return frozenset() if school.dried_by == "direct heat" else frozenset({"weighings[].mirror"})


FLOW: Flow = (
    Task(
        key="specimen",
        title="Choose the specimen",
        does="Take it from the middle of the sample, fresh, with all its grain sizes. Note the largest grain.",
        fields=(
            "largest_particle_mm",
            "report_to_percent",
            "sampled_at",
            "sealed",
            "gypsum_or_organic",
            "left_out",
            "left_out_g",
        ),
        is_done=lambda f, s: f.record.largest_particle_mm is not None,
        due_now=lambda f, s: False,
        hands_s=180,
        note=lambda f, s: (
            "" if f.record.largest_particle_mm is None else f"grains to {plain(f.record.largest_particle_mm)} mm"
        ),
    ),
    Task(
        key="tin",
        title="Tin and balance",
        does="A clean, dry tin with its lid; weigh it empty if its register is old.",
        fields=("tin", "tin_is", "mass_tin_g", "mass_tin_register_g", *BALANCE),
        needs=("mass_tin_g",),
        gives="water content",
        is_done=lambda f, s: f.record.mass_tin_g is not None,
        due_now=lambda f, s: False,
        hands_s=60,
        holds=("balance",),
        note=_tin_note,
    ),
    Task(
        key="wet",
        title="Weigh it wet",
        does="Lid on, the outside of the tin dry.",
        fields=("mass_wet_g", "weighed_wet_at"),
        needs=("tin", "mass_tin_g", "mass_wet_g"),
        also=("largest_particle_mm",),
        is_done=lambda f, s: not any(v is None for v in (f.record.tin, f.record.mass_tin_g, f.record.mass_wet_g)),
        asks=_asks_tin,
        how="Its number brings its tare from the register. Lid with it.",
        hands_s=120,
        holds=("balance",),
        note=_soil_note,
    ),
    Task(
        key="dry",
        title="Dry it",
        does="Lid off, into the heat. In a microwave: a beaker of water beside it, vent between the spells, no metal.",
        fields=("in_oven_at", "oven_temperature_c"),
        needs=("in_oven_at",),
        also=lambda f, s: ("oven_temperature_c",) if s.temperature_c else (),
        gives="water content",
        asks=_into,
        how=lambda f, s: f"It may come out after {span(s.first_min)}. Record the time when it is in.",
        cautions=(
            *_HOT,
            "A metal container never goes into a microwave; steam can burst out of wet clay.",
            "Open flame and hot plates: nothing that burns nearby, never left alone.",
        ),
        hands_s=60,
        waits_min=lambda s: s.first_min,
        holds=("oven",),
        note=lambda f, s: "" if f.record.in_oven_at is None else f"in since {f.record.in_oven_at:%d %b %H:%M}",
    ),
    Asks(
        key="weigh",
        title="Weigh it dry",
        does="Lid on, cool 5 to 10 minutes, weigh. Where the school asks, heat again until the mass is constant.",
        fields=(
            "weighings[].mass_dry_g",
            "weighings[].weighed_at",
            "weighings[].mirror",
            "cooled_min",
            "remarks",
        ),
        think=_drying,
        is_done=lambda f, s: any(w.mass_dry_g is not None for w in f.record.weighings),
        cautions=("Take it out with tongs; a lid traps steam.",),
        hands_s=420,
        holds=("balance",),
        note=lambda f, s: _mass(f.weighings[-1].mass_g if f.weighings else None, "dry with tin"),
    ),
    Asks(key="signed", title="Dry", does="", in_column=False, think=_dry),
    SPECIMEN,
)
