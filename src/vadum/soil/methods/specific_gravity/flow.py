"""The order of work for a specific gravity."""

from vadum.soil.contract.flow import Flow, Task
from vadum.soil.contract.numerics import plain
from vadum.soil.methods.specific_gravity.advice import soil_in

FLOW: Flow = (
    Task(
        key="soil",
        title="Soil as slurry",
        does="Through 4.75 mm; mixed to a slurry so that no air is folded in. Keep all of it.",
        fields=("came_through_mm", "balance", "balance_readability_g", "balance_due_on", "balance_in_date"),
        cautions=("Mixer blades: unplug before clearing them.",),
        hands_s=900,
        is_done=lambda f, s: bool(f.record.determinations),
        note=lambda f, s: "" if f.record.came_through_mm is None else f"through {plain(f.record.came_through_mm)} mm",
    ),
    Task(
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
        hands_s=300,
        is_done=lambda f, s: any(d.mass_full_g is not None for d in f.record.determinations),
        note=lambda f, s: ", ".join(d.pycnometer for d in f.record.determinations if d.pycnometer),
    ),
    Task(
        key="air",
        title="Draw the air",
        does="Vacuum with shaking, or gentle boiling, until no bubble rises; fill with de-aired water; stopper; wipe.",
        fields=("deaired_by", "deaired_min"),
        cautions=(
            "Glass under vacuum can burst: eye protection, guard in front.",
            "Boiling slurry bumps: low heat, gloves, never stoppered.",
        ),
        hands_s=900,
        waits_min=120,
        is_done=lambda f, s: f.record.deaired_by is not None,
        note=lambda f, s: f"{f.record.deaired_by}" if f.record.deaired_by else "",
    ),
    Task(
        key="weigh",
        title="Weigh with soil and water",
        does="At even temperature; the mass, then the temperature in the slurry.",
        fields=("determinations[].mass_with_soil_g", "determinations[].temperature_c"),
        hands_s=300,
        is_done=lambda f, s: bool(f.record.determinations) and all(soil_in(d) for d in f.record.determinations),
        note=lambda f, s: (
            f"{sum(soil_in(d) for d in f.record.determinations)} weighed" if f.record.determinations else ""
        ),
    ),
    Task(
        key="dry",
        title="Dry and weigh the soil",
        does="Pour out without loss, oven overnight, cool with the lid on, weigh.",
        fields=("in_oven_at", "determinations[].mass_dry_soil_g", "remarks"),
        cautions=("Hot dishes: gloves and tongs.",),
        hands_s=300,
        waits_min=16 * 60,
        is_done=lambda f, s: (
            bool(f.record.determinations) and all(d.mass_dry_soil_g is not None for d in f.record.determinations)
        ),
    ),
)
