"""The order of work for a water content."""

from vadum.soil.contract.flow import Flow, Task
from vadum.soil.contract.numerics import plain
from vadum.soil.methods.water_content.record import Record

_HOT = (
    "Hot tins and oven shelves: gloves and tongs.",
    "Contaminated or organic soil gives off fumes: ventilate.",
)


def _mass(value: float | None, words: str) -> str:
    return "" if value is None else f"{plain(value, 6)} g {words}"


def _soil_note(record: Record) -> str:
    wet, tin = record.mass_wet_g, record.mass_tin_g
    return "" if wet is None or tin is None else f"{plain(wet - tin, 5)} g wet soil"


FLOW: Flow = (
    Task(
        key="specimen",
        title="Choose the specimen",
        does="Take it from the middle of the sample, fresh, with all its grain sizes. Note the largest grain.",
        fields=("largest_particle_mm", "report_to_percent", "sampled_at", "sealed", "gypsum_or_organic"),
        hands_s=180,
        is_done=lambda f, s: f.record.largest_particle_mm is not None,
        note=lambda f, s: (
            "" if f.record.largest_particle_mm is None else f"grains to {plain(f.record.largest_particle_mm)} mm"
        ),
    ),
    Task(
        key="tin",
        title="Tin and balance",
        does="A clean, dry tin with its lid; weigh it empty if its register is old.",
        fields=(
            "tin",
            "mass_tin_g",
            "mass_tin_register_g",
            "balance",
            "balance_readability_g",
            "balance_due_on",
            "balance_in_date",
        ),
        hands_s=60,
        is_done=lambda f, s: f.record.mass_tin_g is not None,
        note=lambda f, s: (
            f"tin {f.record.tin}, {plain(f.record.mass_tin_g, 6)} g"
            if f.record.tin and f.record.mass_tin_g is not None
            else ""
        ),
    ),
    Task(
        key="wet",
        title="Weigh it wet",
        does="Lid on, the outside of the tin dry.",
        fields=("mass_wet_g", "weighed_wet_at"),
        hands_s=60,
        is_done=lambda f, s: f.record.mass_wet_g is not None,
        note=lambda f, s: _soil_note(f.record),
    ),
    Task(
        key="dry",
        title="Dry it",
        does="Lid off, into the heat. In a microwave: a beaker of water beside it, vent between the spells, no metal.",
        fields=("in_oven_at", "oven_temperature_c"),
        cautions=(
            *_HOT,
            "A metal container never goes into a microwave; steam can burst out of wet clay.",
            "Open flame and hot plates: nothing that burns nearby, never left alone.",
        ),
        hands_s=60,
        waits_min=16 * 60,
        is_done=lambda f, s: f.record.in_oven_at is not None,
        note=lambda f, s: "" if f.record.in_oven_at is None else f"in since {f.record.in_oven_at:%d %b %H:%M}",
    ),
    Task(
        key="weigh",
        title="Weigh it dry",
        does="Lid on, cool 5 to 10 minutes, weigh. Where the school asks, heat again until the mass is constant.",
        fields=("weighings[].mass_dry_g", "weighings[].weighed_at", "weighings[].mirror", "cooled_min", "remarks"),
        cautions=("Take it out with tongs; a lid traps steam.",),
        hands_s=420,
        is_done=lambda f, s: any(w.mass_dry_g is not None for w in f.record.weighings),
        note=lambda f, s: _mass(
            next((w.mass_dry_g for w in reversed(f.record.weighings) if w.mass_dry_g), None), "dry with tin"
        ),
    ),
)
