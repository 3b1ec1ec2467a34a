"""The simulated jack on a hidden ground, its dials, and what practice tells of the waiting."""

from vadum.soil.contract.called import Called
from vadum.soil.contract.method import Dial, Seen
from vadum.soil.contract.times import span
from vadum.soil.shared.plate import load as loads
from vadum.soil.shared.plate.facts import PlateFacts
from vadum.soil.shared.plate.ground import Ground, words
from vadum.soil.shared.plate.record import LETTERS
from vadum.soil.shared.plate.rest import rests_at_min
from vadum.soil.shared.plate.school import PlateSchool
from vadum.soil.shared.plate.steps import gauges_in_use

FAR_RATIO = 1.8  # waiting that much longer, or shorter by its inverse, is told
KPA = 1000.0


def plate_address(ground: Ground, facts: PlateFacts, seed: int, speed: float) -> str:
    """The simulated plate test on a hidden ground: at each start it is pumped to the next step of the plan."""
    piston = loads.piston_of(facts.record) or 20.0
    kn = ",".join(words(loads.load_for_kn(t.kpa, facts.plate_mm2)) for t in facts.plan.targets)
    return (
        f"simulated://plate?soft_mm={words(ground.soft_mm)}&bends_mm={words(ground.bends_mm)}"
        f"&stays_ratio={words(ground.stays_ratio)}&again_mm={words(ground.again_mm)}"
        f"&creep_mm={words(ground.creep_mm)}&greatest_mn_m2={words(ground.greatest)}"
        f"&ultimate_mn_m2={words(min(ground.ultimate, 1e6))}&gives_mm={words(ground.gives_mm)}"
        f"&piston_cm2={words(piston)}&area_mm2={words(facts.plate_mm2)}&gauges={gauges_in_use(facts.record)}"
        f"&loads={kn}&seed={seed}&speed={words(speed)}&running=1"
    )


def dials_of(facts: PlateFacts, called: Called) -> tuple[Dial, ...]:
    """What is read by eye: the pump's gauge, and each settlement gauge."""
    made = [Dial("pressure", "pump", "one division 1 bar, a turn 100 bar", 100.0)]
    for letter in LETTERS[: gauges_in_use(facts.record)]:
        made.append(Dial(f"gauge_{letter.lower()}", f"gauge {letter}", "one division 0.01 mm, a turn 1 mm", 1.0))
    return tuple(made)


def waited(facts: PlateFacts, school: PlateSchool, ground: Ground) -> tuple[Seen, ...]:
    """How long each step was held against what its creep needed, by the hidden ground: the one that lies furthest off.

    Nothing where the school holds by the clock.
    """
    if school.rest_by != "rate" or school.rest_mm_min is None:
        return ()
    worst: tuple[float, str, float, float] | None = None
    for one in facts.steps:
        if one.cycle != "first" or one.kpa is None or one.held_min is None:
            continue
        needed = max(school.hold_min, rests_at_min(ground.creeps_mm(one.kpa / KPA), school.rest_mm_min))
        off = max(one.held_min / needed, needed / max(one.held_min, 1e-3))
        if off > FAR_RATIO and (worst is None or off > worst[0]):
            worst = (off, f"{one.kpa:.0f} kPa", one.held_min, needed)
    if worst is None:
        return ()
    _, name, held, needed = worst
    better = (
        "Wait for the rate, not for the clock." if held < needed else "It was at rest long before: the rate says so."
    )
    return (Seen("waiting for rest", f"at {name} you waited {span(held)}, {span(needed)} were needed", better),)
