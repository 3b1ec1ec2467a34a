"""The order of work at falling-head cylinders: the place, each cylinder set and started, its level, the moisture
after."""

from datetime import datetime, timedelta

from vadum.soil.contract import paths
from vadum.soil.contract.call_advice import clock_advice, start_advice
from vadum.soil.contract.called import Called
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.task import Asks, Task, ask
from vadum.soil.contract.times import exact
from vadum.soil.methods.falling_head.facts import Facts, One
from vadum.soil.methods.falling_head.forecast import empty_at
from vadum.soil.methods.falling_head.record import Level, Standing
from vadum.soil.methods.falling_head.school import InfiltrationSchool
from vadum.soil.shared.specimen import SPECIMEN

SET = ("infiltrometer", "cylinder_radius_mm", "insertion_mm", "zero_above_soil_mm")


def wanted_many(f: Facts, s: InfiltrationSchool) -> int:
    """How many cylinders stand here."""
    return max(f.record.cylinders_count or s.cylinders, sum(o.counts for o in f.ones))


def _moisture(f: Facts, when: str) -> str:
    return f"{when}_percent" if f.record.moisture_by == "share of the volume" else f"{when}_index"


def _setting(f: Facts, s: InfiltrationSchool) -> Advice | None:
    """The next cylinder that is not in the ground yet."""
    for one in f.ones:
        if not one.counts or one.standing.started_at is not None or one.points:
            continue
        needs = (_moisture(f, "before"), *SET)
        wants = tuple(paths.at("cylinders", one.row, n) for n in needs if getattr(one.standing, n) is None)
        if wants:
            return _set_ask(one.row, one.name, wants)
    if sum(o.counts for o in f.ones) < wanted_many(f, s):
        row = len(f.ones)
        wants = tuple(paths.at("cylinders", row, n) for n in (_moisture(f, "before"), *SET))
        return _set_ask(row, f"cylinder {row + 1}", wants)
    return None


def _set_ask(row: int, name: str, wants: tuple[str, ...]) -> Advice:
    beside = tuple(paths.at("cylinders", row, n) for n in ("seal", "latitude_degrees", "longitude_degrees"))
    return ask(
        f"Set {name}: moisture beside it, then drive it in.",
        "Probe in 5 cm, 20 s. Mallet and block, no rocking; 50 mm deep; the sensor's zero above the soil.",
        (*wants, *beside),
        300,
        name,
    )


def _after(f: Facts) -> Advice | None:
    """What is still to be read at a cylinder that is empty."""
    for one in f.ones:
        if not one.counts or not one.over or not one.points:
            continue
        needs = (_moisture(f, "after"), "temperature_c")
        wants = tuple(paths.at("cylinders", one.row, n) for n in needs if getattr(one.standing, n) is None)
        if wants:
            return ask(
                f"{one.name} is {'empty' if one.is_empty else 'stopped'}: moisture at the same place.",
                "As before: probe 5 cm, 20 s. Then rinse the cylinder.",
                (*wants, paths.at("cylinders", one.row, "seal")),
                90,
                f"{one.name} after",
            )
    return None


def live_words(one: One, s: InfiltrationSchool, now: datetime) -> str:
    """What a draining cylinder says of itself: when it will be empty, or that it may stop."""
    if one.may_stop:
        return f"{one.name} may stop: slow enough, its slope is known."
    at = empty_at(one, s)
    return f"{one.name} is empty about {exact(at, now)}." if at is not None and at > now else ""


def _running(f: Facts, now: datetime) -> list[tuple[Called, Advice]]:
    """What drains, with what the clock calls of it."""
    return [
        (c, a)
        for c in f.calls
        if c.began_at is not None and not c.over and (a := clock_advice(c, f.record, now)) is not None and a.due
    ]


def _work(f: Facts, s: InfiltrationSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """Setting, starting, reading, and what is read after: what is near on the clock first."""
    running = _running(f, now)
    nearest = min(running, key=lambda pair: pair[1].due[0].at or now, default=None)
    dues = tuple(d for _, advice in running for d in advice.due)
    at = nearest[1].due[0].at if nearest else None
    if nearest and at is not None and at - now <= timedelta(seconds=s.leave_s):
        return _with_words(nearest, f, s, now, dues)
    other = _after(f) or _setting(f, s)
    if other is None:
        ready = next((c for c in f.calls if c.began_at is None and not c.taken and not c.over), None)
        other = start_advice(ready, f.record, now) if ready is not None else None
    if other is not None:
        return other.model_copy(update={"due": (*other.due, *dues)})
    return _with_words(nearest, f, s, now, dues) if nearest else None


def _with_words(
    nearest: tuple[Called, Advice], f: Facts, s: InfiltrationSchool, now: datetime, dues: tuple[object, ...]
) -> Advice:
    called, advice = nearest
    row = paths.parse(called.key).rows[0][1] if paths.parse(called.key).rows else 0
    one = f.ones[row]
    said = " ".join(w for o in f.ones if o.counts and not o.over and (w := live_words(o, s, now)))
    end = (paths.at("cylinders", one.row, "ended"),) if one.may_stop else ()
    return advice.model_copy(update={"detail": said or advice.detail, "wants": (*advice.wants, *end), "due": dues})


def is_done(f: Facts, s: InfiltrationSchool) -> bool:
    """Whether every cylinder is read to its end, with the moisture after."""
    counted = [o for o in f.ones if o.counts]
    return (
        len(counted) >= wanted_many(f, s)
        and all(o.over and o.points for o in counted)
        and all(getattr(o.standing, _moisture(f, "after")) is not None for o in counted)
    )


FLOW: Flow = (
    Task(
        key="place",
        title="Place and ground",
        does="Services located; mulch brushed aside; texture by hand; how the moisture is read.",
        fields=(
            "place",
            "tested_on",
            "texture",
            "cover",
            "slope_percent",
            "rain",
            "frozen",
            "cracks",
            "water_below_m",
            "moisture_by",
            "moisture_probe",
            "moisture_probe_in_date",
            "moisture_probe_due_on",
            "probe_error_percent",
            "porosity_percent",
            "cylinders_count",
            "head_mm",
        ),
        needs=("texture", "moisture_by"),
        also=("place", "frozen", "cracks", "porosity_percent", "cylinders_count"),
        asks="The ground: texture by hand, and how its moisture is read.",
        how="The texture says the suction; the porosity turns a 0-10 scale into water.",
        label="place",
        cautions=("Buried services: located and marked before anything is driven in. Vest on beside traffic; gloves.",),
        hands_s=600,
        note=lambda f, s: f.record.texture or "",
    ),
    Asks(
        key="cylinders",
        title="Set, fill, read",
        does="Each cylinder driven 5 cm, filled to 30 cm or more, read until empty; moisture and temperature after.",
        fields=(
            *(f"cylinders[].{n}" for n in Standing.model_fields if n != "readings"),
            *(f"cylinders[].readings[].{n}" for n in Level.model_fields),
        ),
        is_done=is_done,
        think=_work,
        cautions=("Mallet and block: fingers clear, hearing protected.",),
        hands_s=1800,
        waits_min=60.0,
        holds=("cylinders",),
        note=lambda f, s: f"{sum(o.over for o in f.ones)} of {wanted_many(f, s)}" if f.ones else "",
    ),
    Task(
        key="remarks",
        title="Rinse, restore",
        does="Cylinders out and rinsed; the ground as it was.",
        fields=("remarks",),
        due_now=lambda f, s: False,
        is_done=is_done,
        optional=True,
        hands_s=300,
    ),
    SPECIMEN,
)

FINISH = "Every cylinder is read; the conductivity stands."
