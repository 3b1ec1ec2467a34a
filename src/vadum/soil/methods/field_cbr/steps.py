"""The order of work for a bearing ratio in place, and of stripping down."""

from vadum.soil.contract.method import Step
from vadum.soil.shared.bearing.calls import read_rows
from vadum.soil.shared.bearing.record import APPARATUS, CalledRow

UNDER = "Nobody under a raised vehicle. The jack only lifts; rated stands on firm ground hold."
STEPS: tuple[Step, ...] = (
    Step(
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
        hands_min=5,
        done=lambda r: r.axle_kn is not None and r.forces_known(),
        note=lambda r: f"axle {r.axle_kn:g} kN" if r.axle_kn else "",
    ),
    Step(
        key="raise",
        title="Vehicle on its stands",
        does="Bracket and jack on; rear raised clear of the suspension; stands take the load, trolley jack out.",
        fields=("springs", "stands"),
        cautions=(
            UNDER,
            "Front wheels chocked, in gear, handbrake on.",
            "Traffic: cones, lights, a lookout. Buried services looked for before anything is driven in.",
        ),
        hands_min=10,
        done=lambda r: r.stands is not None,
        note=lambda r: f"stands {r.stands}" if r.stands else "",
    ),
    Step(
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
        hands_min=10,
        done=lambda r: r.seated_div is not None,
        note=lambda r: f"{r.seating_n:g} N" if r.seating_n is not None else "",
    ),
    Step(
        key="wind",
        title="Wind and call",
        does="About 1 mm/min; the ring at each called penetration; stop when the reaction lifts.",
        fields=(*(f"readings[].{f}" for f in CalledRow.model_fields), "stopped", "zero_mm", "zero_because"),
        cautions=("Watch the stands: stop at once when one shifts.", UNDER),
        hands_min=12,
        done=lambda r: r.stopped is not None or len(r.readings) >= 12,
        note=lambda r: f"{read_rows(r.readings)} readings" if r.readings else "",
    ),
    Step(
        key="strip",
        title="Strip down, in this order",
        does="Datum; discs; load off the ring with the jack, seen at zero; ring and plunger; stands; down.",
        fields=("ring_after_div", "stone_under_mm", "timed_mm_min", "repeated"),
        cautions=(UNDER,),
        hands_min=10,
        done=lambda r: r.ring_after_div is not None,
        note=lambda r: "ring at zero" if r.ring_after_div == 0 else "",
    ),
    Step(
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
        hands_min=6,
        waits_min=16 * 60,
        done=lambda r: bool(r.tins) and r.tins[0].mass_dry_g is not None,
        note=lambda r: f"tin {r.tins[0].tin}" if r.tins and r.tins[0].tin else "",
    ),
)
