"""What now on the load ladder: load the next step, read the gauges at their time, wait for rest."""

from datetime import datetime
from typing import Any

from vadum.soil.contract.call_advice import clock_advice
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.task import Task, ask
from vadum.soil.contract.times import span
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate.facts import PlateFacts
from vadum.soil.shared.plate.plan import gives_kn
from vadum.soil.shared.plate.record import GAUGES, Cycle, GaugeReading, Step, TopUp
from vadum.soil.shared.plate.school import PlateSchool
from vadum.soil.shared.plate.steps import Target

CAUTIONS = (
    "Stand clear of jack and reaction; no hand between them.",
    "Hydraulic pressure: hose and couplings looked at, nobody over them.",
)
STEPS = (
    *(f"steps[].{f}" for f in Step.model_fields if f not in ("readings", "top_ups")),
    *(f"steps[].readings[].{f}" for f in GaugeReading.model_fields),
    *(f"steps[].top_ups[].{f}" for f in TopUp.model_fields),
)
GO = {
    "preload": ("Preload", "bring it to"),
    "first": ("Load", "pump to"),
    "down": ("Unload", "let down to"),
    "again": ("Load again", "pump to"),
}


def stress_words(f: PlateFacts, kpa: float) -> str:
    """A stress as the method says it, with its unit."""
    return f"{plain(kpa / f.per_unit, 3)} {f.unit}"


def _reading(f: PlateFacts, target: Target) -> tuple[float, str]:
    load = loads.load_for_kn(target.kpa, f.plate_mm2)
    piston = loads.piston_of(f.record)
    if loads.reads_pump(f.record) and piston is not None:
        return loads.pump_for_bar(load, piston), "bar"
    return load, "kN"


def wanted(f: PlateFacts, target: Target) -> tuple[str, str]:
    """What the hand brings a step to: the figure on the pump's gauge or the load cell, and its unit."""
    figure, unit = _reading(f, target)
    return f"{figure:.1f}", unit


def targets(f: PlateFacts, s: PlateSchool) -> dict[str, float]:
    """What the next load step is brought to, by the place of its reading; a load that is let down has none."""
    if not f.ahead or f.ahead[0].cycle == "down" or not f.ladder.reads:
        return {}
    figure, _ = _reading(f, f.ahead[0])
    return {f"steps[{len(f.steps)}].{f.ladder.reads[0]}": figure}


def next_step(f: PlateFacts, s: PlateSchool, lead: str = "") -> Advice | None:
    """Bring the load to the next step; None when none is to come."""
    if not f.ahead:
        return None
    target, row = f.ahead[0], len(f.steps)
    figure, unit = wanted(f, target)
    title, verb = GO[target.cycle]
    head = f"{lead}{verb} {figure} {unit}." if lead else f"{title}: {verb} {figure} {unit}."
    within = f"{stress_words(f, target.kpa)}, within {s.change_within_s:g} s."
    path = f"steps[{row}].{f.ladder.reads[0]}"
    detail = f"{within} {f.next_words}".strip()
    made = ask(head, detail, (path,), 60, "load", amount=f"{figure} {unit}", amount_note=stress_words(f, target.kpa))
    return made


def climb(f: PlateFacts, s: PlateSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """The ladder's advice; None when the test is over."""
    hand, rest = f.hand, f.rest
    if f.over:
        return None
    if hand is None or rest is None:
        return next_step(f, s)
    if rest.at_rest:
        return next_step(f, s, "At rest: " if s.rest_by != "time" else f"Held {span(hand.held_min or 0)}: ")
    made = clock_advice(f.holding, f.record, now) if f.holding is not None and f.holding.began_at is not None else None
    if made is None:
        path = f"steps[{hand.row}].readings[{len(hand.step.readings)}]"
        return ask("Read the gauges.", rest.words, tuple(f"{path}.{g}" for g in GAUGES[:1]), 30, "gauges")
    said = rest_words(f)
    # The ladder calls them, by hands that stand at the plate: the rack of the laboratory has no part in them.
    made = made.model_copy(update={"due": tuple(d.model_copy(update={"by": "load"}) for d in made.due[:1])})
    return made.model_copy(update={"detail": f"{said}. {made.detail}".strip() if said else made.detail})


def rest_words(f: PlateFacts) -> str:
    """How the step in hand stands to its rest, in one phrase; empty before anything is known."""
    hand, rest = f.hand, f.rest
    if hand is None or rest is None:
        return ""
    if rest.at_rest:
        return rest.words[:1].upper() + rest.words[1:]
    if rest.in_min is not None and hand.rate_mm_min is not None:
        return f"At rest in about {span(max(rest.in_min, 1.0))}"
    return rest.words[:1].upper() + rest.words[1:]


def may_begin(f: PlateFacts, s: PlateSchool) -> bool:
    """Whether nothing keeps the test from its first step: reaction enough, or begun all the same for a reason."""
    gives = gives_kn(f.record)
    return gives is not None and (gives >= f.plan.reaction_kn or bool(f.record.begun_because))


def _short(f: Any, s: Any) -> str:
    gives = gives_kn(f.record)
    if gives is None:
        return "What is it pressed against, and what does that give?"
    return f"The reaction is short: {gives:.1f} kN against {f.plan.reaction_kn:.1f} kN. Take more, or say why to begin."


def reaction_task(*fields: str) -> Task:
    """The task before the start: what is pressed against, and the distances; `fields` a method adds to it."""
    own = (
        *("reaction", "reaction_kn", "reaction_kg", "supports_mm", "datum_legs_mm", "ground", "largest_grain_mm"),
        *("begun_because",),
    )
    return Task(
        key="reaction",
        title="Reaction, distances",
        does="What it is pressed against, and how far its supports and the datum's legs stand from the plate.",
        fields=(*fields, *own),
        needs=lambda f, s: (
            *(() if gives_kn(f.record) is not None else ("reaction_kn",)),
            "supports_mm",
            "datum_legs_mm",
            *(() if gives_kn(f.record) is None or may_begin(f, s) else ("begun_because",)),
        ),
        also=lambda f, s: (*fields, "reaction", "ground", "largest_grain_mm"),
        is_done=lambda f, s: may_begin(f, s) and known(f.record.supports_mm) and known(f.record.datum_legs_mm),
        asks=_short,
        how="Measured before anything is set up: a short distance moves the datum with the ground.",
        amount=lambda f, s: (f"{f.plan.reaction_kn:.1f} kN", "wanted of the reaction"),
        label="reaction",
        cautions=(
            "Kentledge can topple: competent supervision, an exclusion zone, nobody under a platform.",
            "Machine braked and attended; gas, water and cables looked for before the pit is dug.",
        ),
        hands_s=600,
        skill="experienced",
        alone=False,
        note=lambda f, s: "" if gives_kn(f.record) is None else f"{gives_kn(f.record):.1f} kN",
    )


def plate_task(*fields: str) -> Task:
    """The task that sets up plate, jack and gauges; `fields` a method adds to it."""
    kit = (
        *("plate", "plate_shape", "plate_width_mm", "plate_thickness_mm", "jack", "piston_cm2", "jack_most_bar"),
        *("jack_due_on", "jack_in_date", "force_by", "load_cell", "load_cell_most_n", "load_cell_due_on"),
        *("load_cell_in_date", "gauges_count", "gauge_circle_mm"),
    )
    return Task(
        key="plate",
        title="Plate, jack, gauges",
        does="Plate turned and tapped until it sits; jack centred and plumb; gauges on their datum.",
        fields=(*kit, *fields),
        needs=lambda f, s: (
            *("plate_width_mm", "force_by"),
            *(("piston_cm2",) if loads.reads_pump(f.record) else ()),
            "gauges_count",
        ),
        also=lambda f, s: ("plate", "jack", *(("load_cell",) if not loads.reads_pump(f.record) else ()), *fields),
        asks="The plate, the jack and what reads the load.",
        how="The jack's number brings its piston. Its pump pressures stand on the rungs from then on.",
        label="plate",
        cautions=CAUTIONS,
        hands_s=600,
        holds=("plate", "jack"),
        note=lambda f, s: f"{f.width_mm:g} mm {'square' if f.square else 'round'}" if f.record.plate_width_mm else "",
    )


def cycle_done(f: PlateFacts, *cycles: Cycle) -> bool:
    """Whether no step of these parts of the test is to come or held."""
    if f.over:
        return True
    held = f.hand is not None and f.hand.cycle in cycles and not (f.rest is not None and f.rest.at_rest)
    return bool(f.steps) and not held and not any(t.cycle in cycles for t in f.ahead)
