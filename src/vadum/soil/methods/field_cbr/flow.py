"""The order of work for a bearing ratio in place, and of stripping down."""

from vadum.soil.contract.called import Called
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.task import BALANCE, Calls, Task
from vadum.soil.methods.field_cbr.facts import Facts
from vadum.soil.methods.field_cbr.school import SpotSchool
from vadum.soil.shared.bearing.calls import gauge_words, read_rows, seating_words
from vadum.soil.shared.bearing.record import APPARATUS, CalledRow
from vadum.soil.shared.specimen import SPECIMEN
from vadum.soil.shared.tin_tasks import dry_beside

UNDER = "Nobody under a raised vehicle. The jack only lifts; rated stands on firm ground hold."


def _by_ring(f: Facts) -> bool:
    return f.record.force_field == "ring_div"


def _asks_ring(f: Facts, s: SpotSchool) -> str:
    lifts = f.plan.lifts_percent
    words = "Take ring, gauge, plunger and discs."
    return words if lifts is None else f"{words} The vehicle lifts at a ratio of about {lifts:.0f} %."


def _wants_reaction(f: Facts, s: SpotSchool) -> tuple[str, str]:
    return ("" if f.plan.wants_kn is None else f"{f.plan.wants_kn:.1f} kN"), "wanted from the axle"


def _seating(f: Facts, s: SpotSchool) -> tuple[str, ...]:
    return ("seating_n", "seated_div") if _by_ring(f) else ("seating_n",)


def _called(f: Facts, s: SpotSchool) -> Called:
    return f.calls[0]


FLOW: Flow = (
    Task(
        key="yard",
        title="Reaction, in the yard",
        does="Expected ratio against the rear axle's load; ring, gauge, plunger and discs by their numbers.",
        fields=("expected_percent", "wanted_mm", "vehicle", "axle_kn", *APPARATUS),
        needs=("expected_percent", "axle_kn"),
        also=("wanted_mm", "vehicle"),
        asks="Before leaving: will the vehicle hold it down?",
        how="The expected ratio and the rear axle's load say whether it lifts.",
        label="reaction",
        hands_s=120,
        note=lambda f, s: f"axle {f.record.axle_kn:g} kN" if f.record.axle_kn else "",
    ),
    Task(
        key="apparatus",
        title="Ring and gauge",
        does="",
        in_column=False,
        also=("proving_ring", "ring_factor_n_div", "ring_most_div", "gauge", "plunger", "force_by"),
        is_done=lambda f, s: f.record.forces_known(),
        asks=_asks_ring,
        how="Their numbers bring the calibrations that hold today.",
        label="ring and gauge",
        amount=_wants_reaction,
        hands_s=180,
    ),
    Task(
        key="raise",
        title="Vehicle on its stands",
        does="Bracket and jack on; rear raised clear of the suspension; stands take the load, trolley jack out.",
        fields=("springs", "stands"),
        needs=("springs", "stands"),
        asks="Raise the rear clear of its springs; set it on the stands, trolley jack out.",
        how="Chocks at the front, gear and handbrake first. Nobody underneath while it is on the jack.",
        cautions=(
            UNDER,
            "Front wheels chocked, in gear, handbrake on.",
            "Traffic: cones, lights, a lookout. Buried services looked for before anything is driven in.",
        ),
        hands_s=600,
        holds=("vehicle",),
        skill="experienced",
        alone=False,
        note=lambda f, s: f"stands {f.record.stands}" if f.record.stands else "",
    ),
    Task(
        key="set_up",
        title="Ring, discs, datum, seat",
        does="Ring and plunger, discs; datum beam well outside, gauge foot on it; seating load; both gauges zero.",
        fields=(
            "depth_m",
            "surcharge",
            "surcharge_kg",
            "datum_legs_mm",
            "vehicle_zero_mm",
            "seating_n",
            "seated_div",
        ),
        needs=("surcharge_kg",),
        also=("surcharge", "datum_legs_mm", "depth_m"),
        asks="Level the spot; ring, plunger and discs on.",
        how="No stone over the limit beneath; datum beam's legs well outside, gauge foot on it.",
        label="set up",
        cautions=("Pinch points between jack, ring and bracket: hands out before it is wound.",),
        hands_s=600,
        holds=("vehicle", "proving ring"),
        alone=False,
        note=lambda f, s: f"{f.record.seating_n:g} N" if f.record.seating_n is not None else "",
    ),
    Task(
        key="seat",
        title="Seat",
        does="",
        in_column=False,
        needs=_seating,
        also=("vehicle_zero_mm",),
        asks="Seat the plunger with the jack.",
        how="Then both gauges to zero; a ring that keeps its seating reading is entered as it stands.",
        amount=lambda f, s: seating_words(f.record, s),
        hands_s=120,
    ),
    Calls(
        key="wind",
        title="Wind and call",
        does="About 1 mm/min; the ring at each called penetration; stop when the reaction lifts.",
        fields=(*(f"readings[].{f}" for f in CalledRow.model_fields), "stopped", "zero_mm", "zero_because"),
        of=_called,
        gauge=lambda f, s: gauge_words(f.record),
        begin=lambda f, s: f"Both gauges at zero: read {gauge_words(f.record)}, start.",
        interval_s=lambda s, row: s.interval_s(row) if row < len(s.called_mm) else 0.0,
        cautions=("Watch the stands: stop at once when one shifts.", UNDER),
        hands_s=720,
        holds=("vehicle", "proving ring"),
        skill="experienced",
        alone=False,
        note=lambda f, s: f"{read_rows(f.record.readings)} readings" if f.record.readings else "",
    ),
    Task(
        key="strip",
        title="Strip down, in this order",
        does="Datum; discs; load off the ring with the jack, seen at zero; ring and plunger; stands; down.",
        fields=("ring_after_div", "stone_under_mm", "timed_mm_min", "repeated"),
        needs=("ring_after_div",),
        also=("stone_under_mm",),
        is_done=lambda f, s: f.record.ring_after_div is not None,
        due_now=lambda f, s: _by_ring(f),
        asks="Strip down: datum off, discs off, then take the load off with the jack and see the ring read zero.",
        how="Then ring and plunger, stands out last, down.",
        cautions=(UNDER,),
        hands_s=600,
        holds=("vehicle",),
        alone=False,
        note=lambda f, s: "ring at zero" if f.record.ring_after_div == 0 else "",
    ),
    Task(
        key="beside",
        title="Water and density beside",
        does="A tin from beneath the plunger; a density test beside it.",
        fields=(
            *BALANCE,
            "tins[].tin",
            "tins[].mass_tin_g",
            "tins[].mass_tin_register_g",
            "tins[].mass_wet_g",
            "tins[].weighed_wet_at",
            "dry_density_beside_mg_m3",
        ),
        needs=("tins[0].mass_tin_g", "tins[0].mass_wet_g"),
        also=("tins[0].tin",),
        asks="A tin from beneath the plunger; density beside it.",
        how="Sealed at once; look for a stone where it stood.",
        label="tin",
        hands_s=300,
        note=lambda f, s: f"tin {f.record.tins[0].tin}" if f.record.tins and f.record.tins[0].tin else "",
    ),
    dry_beside(is_done=lambda f, s: bool(f.record.tins) and f.record.tins[0].mass_dry_g is not None),
    SPECIMEN,
)

FINISH = "The spot is stripped and its tin is dry."
