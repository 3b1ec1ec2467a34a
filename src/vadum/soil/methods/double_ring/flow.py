"""The order of work at a double ring: rings driven, filled alike, both volumes by the clock until steady."""

from datetime import datetime

from vadum.soil.contract import paths
from vadum.soil.contract.call_advice import clock_advice, start_advice
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.task import Asks, Task, ask
from vadum.soil.contract.times import span
from vadum.soil.methods.double_ring.facts import Facts
from vadum.soil.methods.double_ring.record import Interval
from vadum.soil.methods.double_ring.school import RingSchool
from vadum.soil.shared.specimen import SPECIMEN


def may_end(f: Facts, s: RingSchool) -> bool:
    """Whether it may stop: steady, or its hours are over."""
    return f.is_steady or f.lasted_min >= 60 * s.least_h - 1e-9


def steady_words(f: Facts, s: RingSchool) -> str:
    """How near it is to steady."""
    if f.steady is None:
        return f"Steady: {s.steady_many} intervals within {s.steady_percent:g} %."
    worst = max(f.steady.farthest_percent, f.steady.trend_percent)
    return f"The last {s.steady_many} intervals lie within {worst:.0f} %, steady at {s.steady_percent:g} %."


def _read(f: Facts, s: RingSchool, outcome: Outcome, now: datetime) -> Advice | None:
    if f.over:
        return None
    its = f.called
    if its.began_at is None and not its.taken:
        return start_advice(its, f.record, now)
    end = ("ended",) if may_end(f, s) else ()
    made = clock_advice(its, f.record, now) if its.began_at is not None else None
    if made is None:
        path = paths.at(its.key, its.rows, its.reads[0])
        return ask("Read both rings.", steady_words(f, s), (path, *end), 90, "both rings")
    words = f"{steady_words(f, s)} {its.how}"
    if end:
        words = f"It may stop: {'steady' if f.is_steady else span(f.lasted_min) + ' of record'}. {words}"
    row = its.next_row
    heads = tuple(its.path(row, n) for n in ("head_inner_mm", "head_annulus_mm"))
    return made.model_copy(update={"detail": words, "wants": (*made.wants, *heads, *end)})


FLOW: Flow = (
    Task(
        key="place",
        title="Place",
        does="Services located; level ground; ground water and layers below where they are known.",
        fields=("place", "tested_on", "slope_percent", "water_below_m", "layer_below_m", "water_quality"),
        needs=("place",),
        also=("water_below_m", "layer_below_m", "slope_percent"),
        asks="Where it stands.",
        how="Buried services are located and marked before anything is driven in.",
        label="place",
        cautions=("Buried services: located and marked first.",),
        hands_s=300,
        note=lambda f, s: f.record.place or "",
    ),
    Task(
        key="rings",
        title="Rings driven",
        does="Inner ring 50 to 100 mm, outer about 150 mm, level; inside and outside diameters by the register.",
        fields=(
            "rings",
            "rings_in_date",
            "rings_due_on",
            "inner_diameter_mm",
            "inner_outside_diameter_mm",
            "outer_diameter_mm",
            "inner_driven_mm",
            "outer_driven_mm",
            "rings_state",
        ),
        needs=("inner_diameter_mm", "inner_outside_diameter_mm", "outer_diameter_mm"),
        also=("rings", "inner_driven_mm", "outer_driven_mm", "rings_state"),
        asks="The rings: their diameters, how deep they stand.",
        how="The annulus lies between the outer's inside and the inner's outside.",
        label="rings",
        cautions=("Driving rings: fingers clear, hearing protected; two to lift.",),
        hands_s=1200,
        note=lambda f, s: f"{f.record.inner_driven_mm:g} mm" if f.record.inner_driven_mm is not None else "",
    ),
    Task(
        key="water",
        title="Water kept alike",
        does="One depth in both, kept within 5 mm; evaporation controlled.",
        fields=(
            "water_added",
            "inner_bottle_area_cm2",
            "annulus_bottle_area_cm2",
            "head_mm",
            "evaporation",
            "evaporation_mm_h",
        ),
        needs=lambda f, s: (
            ("water_added", "head_mm", "inner_bottle_area_cm2", "annulus_bottle_area_cm2")
            if f.record.water_added == "constant-level bottles"
            else ("water_added", "head_mm")
        ),
        also=("evaporation",),
        asks="How the water is kept, and how deep.",
        how="25 to 150 mm; the same in both rings.",
        label="water",
        cautions=("Water is heavy: carry it in halves.",),
        hands_s=300,
        note=lambda f, s: f"{f.record.head_mm:g} mm" if f.record.head_mm is not None else "",
    ),
    Asks(
        key="readings",
        title="Read both rings",
        does="Water into each ring, temperature; every 15 min, then 30, then 60; six hours or until steady.",
        fields=(
            "planned_start_at",
            "started_at",
            *(f"readings[].{n}" for n in Interval.model_fields),
            "ended",
        ),
        is_done=lambda f, s: f.over,
        think=_read,
        hands_s=900,
        waits_min=360.0,
        holds=("rings",),
        note=lambda f, s: f"{f.rates[-1].inner_mm_h:.3g} mm/h" if f.rates else "",
    ),
    Task(
        key="after",
        title="Dig out",
        does="Rings out; what lies below, how far the water came.",
        fields=("dug_out", "remarks"),
        also=("dug_out",),
        due_now=lambda f, s: f.over,
        is_done=lambda f, s: f.record.dug_out is not None,
        asks="Done. The sheet can be signed.",
        how="What lies under the rings belongs on the report.",
        optional=True,
        hands_s=600,
    ),
    SPECIMEN,
)

FINISH = "The rate stands: an infiltration rate, no conductivity."
