"""The order of work at a constant-head well: services, auger, brush, fill, stand it plumb, one head or two."""

from datetime import datetime

from vadum.soil.contract import paths
from vadum.soil.contract.call_advice import clock_advice, start_advice
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.task import Asks, Task, ask
from vadum.soil.methods.well_permeameter.facts import Facts
from vadum.soil.methods.well_permeameter.record import Head, Level
from vadum.soil.methods.well_permeameter.school import WellSchool
from vadum.soil.shared.conductivity import MM_H
from vadum.soil.shared.specimen import SPECIMEN


def _at(f: Facts, name: str) -> str:
    return paths.at("heads", f.hand or 0, name)


def _is_set(f: Facts) -> bool:
    here = f.in_hand
    return here is not None and here.head.head_mm is not None and here.head.reservoir_used is not None


def _read(f: Facts, s: WellSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """The head in hand by the clock; a second one may begin when it is steady."""
    if f.hand is None:
        return None
    if f.in_hand is None and f.hand:
        return ask(
            "Steady: a second, higher head may begin, or this one is enough.",
            "In the same hole; it takes as long again, and tells alpha* by itself.",
            ("enough", _at(f, "head_mm")),
            60,
            "second",
        )
    if not _is_set(f):
        return ask(
            "The depth of water, and which reservoir.",
            "Both for fast soil, the inner one for slow.",
            (_at(f, "head_mm"), _at(f, "reservoir_used")),
            120,
            "head",
        )
    its = f.holding
    if its is None:
        return None
    if its.began_at is None and not its.taken:
        return start_advice(its, f.record, now)
    made = clock_advice(its, f.record, now) if its.began_at is not None else None
    end = _at(f, "steady")
    here = f.in_hand
    said = (
        ""
        if here is None or here.steady is None
        else (
            f"Last {s.steady_many} rates within {max(here.steady.farthest_percent, here.steady.trend_percent):.0f} %, "
            f"steady at {s.steady_percent:g} %."
        )
    )
    if made is None:
        path = paths.at(its.key, its.rows, "level_mm")
        return ask("Read the level.", said, (path, end), 30, "level")
    return made.model_copy(update={"detail": f"{said} {made.detail}".strip(), "wants": (*made.wants, end)})


FLOW: Flow = (
    Task(
        key="place",
        title="Services, place, soil",
        does="Services located and marked; topsoil off; texture and structure by hand.",
        fields=(
            "place",
            "easting_m",
            "northing_m",
            "ground",
            "water_below_m",
            "layer_below_m",
            "layers_ratio",
            "safety_ratio",
        ),
        needs=("ground",),
        also=("place", "water_below_m", "layer_below_m"),
        asks="Where, and what soil: texture and structure say alpha*.",
        how="Services are located and marked before anything is dug.",
        label="place",
        cautions=("Buried services: located and marked before the auger. A hole is covered when it is left.",),
        hands_s=600,
        note=lambda f, s: f.record.ground or "",
    ),
    Task(
        key="auger",
        title="Auger, size, brush",
        does="To depth, the sizing auger to its radius; the smeared wall brushed once or twice, not more.",
        fields=("hole_radius_mm", "radius_by", "hole_depth_m", "wall"),
        needs=("hole_radius_mm", "wall"),
        also=("radius_by", "hole_depth_m"),
        asks="The hole: its radius, and was its wall brushed?",
        how="An auger smears fine soil; a brush opens it again.",
        label="hole",
        cautions=("Backs straight at the auger; two for a deep hole.",),
        hands_s=900,
        note=lambda f, s: f"{10 * f.radius_cm:.0f} mm" if f.record.hole_radius_mm else "",
    ),
    Task(
        key="reservoir",
        title="Fill, stand it plumb",
        does="Fill both reservoirs; stand it plumb in the hole; its areas by the register.",
        fields=(
            "reservoir",
            "reservoir_in_date",
            "reservoir_due_on",
            "both_area_cm2",
            "inner_area_cm2",
            "level_reads_to_mm",
            "plumb",
        ),
        needs=("both_area_cm2", "plumb"),
        also=("reservoir", "inner_area_cm2", "level_reads_to_mm"),
        asks="The reservoir's areas; does it stand plumb?",
        how="The register's figure counts; none is built in.",
        label="reservoir",
        hands_s=300,
        note=lambda f, s: f.record.reservoir or "",
    ),
    Asks(
        key="heads",
        title="Lift to the head, read",
        does="Lift the air tube slowly; stopwatch at the first lift; level and temperature until steady.",
        fields=(
            *(f"heads[].{name}" for name in Head.model_fields if name != "readings"),
            *(f"heads[].readings[].{name}" for name in Level.model_fields),
            "bubbling",
            "enough",
        ),
        is_done=lambda f, s: f.hand is None,
        think=_read,
        hands_s=1800,
        waits_min=40.0,
        holds=("reservoir",),
        note=lambda f, s: f"{MM_H * f.kfs_cm_s:.2g} mm/h" if f.kfs_cm_s is not None else "",
    ),
    Task(
        key="backfill",
        title="Backfill",
        does="Tube down, reservoir out; the hole filled and tamped.",
        fields=("remarks",),
        due_now=lambda f, s: False,
        is_done=lambda f, s: f.hand is None,
        optional=True,
        hands_s=300,
    ),
    SPECIMEN,
)

FINISH = "The fall is steady; the conductivity stands."
