"""The order of work for a bearing ratio in place, and of stripping down."""

from vadum.soil.contract.flow import Flow, Task
from vadum.soil.shared.bearing.calls import read_rows
from vadum.soil.shared.bearing.record import APPARATUS, CalledRow

UNDER = "Nobody under a raised vehicle. The jack only lifts; rated stands on firm ground hold."
FLOW: Flow = (
    Task(
        key="yard",
        title="Reaction, in the yard",
        does="Expected ratio against the rear axle's load; ring, gauge, plunger and discs by their numbers.",
        fields=(
            "expected_percent",
            "wanted_mm",
            "vehicle",
            "axle_kn",
            *APPARATUS,
        ),
        hands_s=300,
        is_done=lambda f, s: f.record.axle_kn is not None and f.record.forces_known(),
        note=lambda f, s: f"axle {f.record.axle_kn:g} kN" if f.record.axle_kn else "",
    ),
    Task(
        key="raise",
        title="Vehicle on its stands",
        does="Bracket and jack on; rear raised clear of the suspension; stands take the load, trolley jack out.",
        fields=("springs", "stands"),
        cautions=(
            UNDER,
            "Front wheels chocked, in gear, handbrake on.",
            "Traffic: cones, lights, a lookout. Buried services looked for before anything is driven in.",
        ),
        hands_s=600,
        is_done=lambda f, s: f.record.stands is not None,
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
        cautions=("Pinch points between jack, ring and bracket: hands out before it is wound.",),
        hands_s=600,
        is_done=lambda f, s: f.record.seated_div is not None,
        note=lambda f, s: f"{f.record.seating_n:g} N" if f.record.seating_n is not None else "",
    ),
    Task(
        key="wind",
        title="Wind and call",
        does="About 1 mm/min; the ring at each called penetration; stop when the reaction lifts.",
        fields=(*(f"readings[].{f}" for f in CalledRow.model_fields), "stopped", "zero_mm", "zero_because"),
        cautions=("Watch the stands: stop at once when one shifts.", UNDER),
        hands_s=720,
        is_done=lambda f, s: f.record.stopped is not None or len(f.record.readings) >= 12,
        note=lambda f, s: f"{read_rows(f.record.readings)} readings" if f.record.readings else "",
    ),
    Task(
        key="strip",
        title="Strip down, in this order",
        does="Datum; discs; load off the ring with the jack, seen at zero; ring and plunger; stands; down.",
        fields=("ring_after_div", "stone_under_mm", "timed_mm_min", "repeated"),
        cautions=(UNDER,),
        hands_s=600,
        is_done=lambda f, s: f.record.ring_after_div is not None,
        note=lambda f, s: "ring at zero" if f.record.ring_after_div == 0 else "",
    ),
    Task(
        key="beside",
        title="Water and density beside",
        does="A tin from beneath the plunger; a density test beside it.",
        fields=(
            "balance",
            "balance_readability_g",
            "balance_due_on",
            "balance_in_date",
            "tins[].tin",
            "tins[].mass_tin_g",
            "tins[].mass_wet_g",
            "tins[].weighed_wet_at",
            "tins[].mass_dry_g",
            "dry_density_beside_mg_m3",
            "remarks",
        ),
        cautions=("Hot tins: gloves and tongs.",),
        hands_s=360,
        waits_min=16 * 60,
        is_done=lambda f, s: bool(f.record.tins) and f.record.tins[0].mass_dry_g is not None,
        note=lambda f, s: f"tin {f.record.tins[0].tin}" if f.record.tins and f.record.tins[0].tin else "",
    ),
)
