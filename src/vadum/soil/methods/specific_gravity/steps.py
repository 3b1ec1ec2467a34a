"""The order of work for a specific gravity."""

from vadum.soil.contract.method import Step
from vadum.soil.contract.numerics import plain
from vadum.soil.methods.specific_gravity.advise import soil_in

STEPS: tuple[Step, ...] = (
    Step(
        key="soil",
        title="Soil as slurry",
        does="Through 4.75 mm; mixed to a slurry so that no air is folded in. Keep all of it.",
        fields=("came_through_mm", "balance", "balance_readability_g", "balance_due_on", "balance_in_date"),
        cautions=("Mixer blades: unplug before clearing them.",),
        hands_min=15,
        done=lambda r: bool(r.determinations),
        note=lambda r: "" if r.came_through_mm is None else f"through {plain(r.came_through_mm)} mm",
    ),
    Step(
        key="pycnometers",
        title="Pycnometers",
        does="Clean and dry; the number brings the mass empty and full of water at its temperature.",
        fields=(
            "determinations[].pycnometer",
            "determinations[].mass_pycnometer_g",
            "determinations[].mass_full_g",
            "determinations[].full_at_c",
            "determinations[].excluded_because",
        ),
        cautions=("Glass: look for cracks before any vacuum.",),
        hands_min=5,
        done=lambda r: any(d.mass_full_g is not None for d in r.determinations),
        note=lambda r: ", ".join(d.pycnometer for d in r.determinations if d.pycnometer),
    ),
    Step(
        key="air",
        title="Draw the air",
        does="Vacuum with shaking, or gentle boiling, until no bubble rises; fill with de-aired water; stopper; wipe.",
        fields=("deaired_by", "deaired_min"),
        cautions=(
            "Glass under vacuum can burst: eye protection, guard in front.",
            "Boiling slurry bumps: low heat, gloves, never stoppered.",
        ),
        hands_min=15,
        waits_min=120,
        done=lambda r: r.deaired_by is not None,
        note=lambda r: f"{r.deaired_by}" if r.deaired_by else "",
    ),
    Step(
        key="weigh",
        title="Weigh with soil and water",
        does="At even temperature; the mass, then the temperature in the slurry.",
        fields=("determinations[].mass_with_soil_g", "determinations[].temperature_c"),
        hands_min=5,
        done=lambda r: bool(r.determinations) and all(soil_in(d) for d in r.determinations),
        note=lambda r: f"{sum(soil_in(d) for d in r.determinations)} weighed" if r.determinations else "",
    ),
    Step(
        key="dry",
        title="Dry and weigh the soil",
        does="Pour out without loss, oven overnight, cool with the lid on, weigh.",
        fields=("in_oven_at", "determinations[].mass_dry_soil_g", "remarks"),
        cautions=("Hot dishes: gloves and tongs.",),
        hands_min=5,
        waits_min=16 * 60,
        done=lambda r: bool(r.determinations) and all(d.mass_dry_soil_g is not None for d in r.determinations),
    ),
)
