"""The order of work for a sieve analysis."""

from vadum.soil.contract.flow import Flow, Task
from vadum.soil.contract.numerics import plain
from vadum.soil.methods.sieve.record import Record


def _weighed(record: Record) -> list[bool]:
    return [s.mass_retained_g is not None for s in record.sieves if s.aperture_mm is not None]


FLOW: Flow = (
    Task(
        key="soil",
        title="Soil taken",
        does="Loosened with a rubber pestle, reduced by riffling; enough for its largest grain.",
        fields=(
            "largest_particle_mm",
            "mass_total_g",
            "water_content_percent",
            "balance",
            "balance_readability_g",
            "balance_due_on",
            "balance_in_date",
        ),
        cautions=("Dust: mask, or work damp.",),
        hands_s=900,
        is_done=lambda f, s: f.record.mass_total_g is not None or f.record.mass_finer_g is not None,
        note=lambda f, s: f"{plain(f.record.mass_total_g, 5)} g" if f.record.mass_total_g is not None else "",
    ),
    Task(
        key="split",
        title="Split",
        does="Much gravel: separate, sieve the coarse whole, riffle a part of the finer. At 2 mm for other tests.",
        fields=("split_at_mm", "mass_coarse_g", "mass_finer_g", "mass_part_g"),
        hands_s=900,
        is_done=lambda f, s: f.record.mass_finer_g is not None,
        note=lambda f, s: f"at {plain(f.record.split_at_mm)} mm" if f.record.split_at_mm is not None else "",
    ),
    Task(
        key="wash",
        title="Wash and dry",
        does="Over the finest sieve until the water runs clear; all that stays into the oven.",
        fields=("washed_over_mm", "in_oven_at", "mass_washed_g"),
        cautions=("Wet floor. Hot pans: gloves and tongs.",),
        hands_s=1500,
        waits_min=16 * 60,
        is_done=lambda f, s: f.record.mass_washed_g is not None,
        note=lambda f, s: f"{plain(f.record.mass_washed_g, 5)} g stayed" if f.record.mass_washed_g is not None else "",
        applies=lambda school: school.wash_over_mm is not None,
    ),
    Task(
        key="shake",
        title="Shake",
        does="Stack coarse over fine, pan below, lid on; shake until little more passes in a further minute.",
        fields=("shaken_from_at", "further_minute_g"),
        cautions=("Shaker: clamp the stack, hands clear, hearing protection.",),
        hands_s=180,
        waits_min=10,
        is_done=lambda f, s: f.record.shaken_from_at is not None or any(_weighed(f.record)),
    ),
    Task(
        key="weigh",
        title="Weigh each sieve",
        does="From the coarsest down, brushed out; the pan last.",
        fields=(
            "sieves[].aperture_mm",
            "sieves[].mass_retained_g",
            "sieves[].sieve",
            "sieves[].sieve_diameter_mm",
            "sieves[].sieve_state",
            "mass_pan_g",
        ),
        cautions=("Never press grains through with the fingers: wires break, and cut.",),
        hands_s=720,
        is_done=lambda f, s: bool(_weighed(f.record)) and all(_weighed(f.record)) and f.record.mass_pan_g is not None,
        note=lambda f, s: f"{sum(_weighed(f.record))} of {len(_weighed(f.record))}" if _weighed(f.record) else "",
    ),
    Task(
        key="envelope",
        title="Specification",
        does="Limits of percent passing, typed, pasted or from a file; each sieve is held against them.",
        fields=(
            "envelope_name",
            "envelope[].aperture_mm",
            "envelope[].least_percent",
            "envelope[].most_percent",
            "remarks",
        ),
        hands_s=120,
        is_done=lambda f, s: bool(f.record.envelope),
        note=lambda f, s: f.record.envelope_name or (f"{len(f.record.envelope)} lines" if f.record.envelope else ""),
    ),
)
