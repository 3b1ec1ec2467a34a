"""The order of work for a sieve analysis."""

from datetime import datetime, timedelta

from vadum.soil.contract.fields import known
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Due, Missing, Outcome
from vadum.soil.contract.task import BALANCE, Asks, Task
from vadum.soil.contract.times import span
from vadum.soil.contract.waits import Oven, Wait
from vadum.soil.methods.sieve.facts import Facts
from vadum.soil.methods.sieve.school import SieveSchool
from vadum.soil.methods.sieve.stack import waits_for_water
from vadum.soil.shared.specimen import SPECIMEN


def _split(f: Facts) -> bool:
    return known(f.record.split_at_mm)


def _begun(f: Facts) -> bool:
    """Whether a sieve or the pan is weighed."""
    return any(s.mass_retained_g is not None for s in f.record.sieves) or f.record.mass_pan_g is not None


def _shaken(f: Facts, s: SieveSchool) -> tuple[datetime, datetime] | None:
    since = f.record.shaken_from_at
    return None if since is None else (since, since + timedelta(minutes=s.shake_min))


def _first_mass(f: Facts, s: SieveSchool) -> tuple[str, ...]:
    return (f"sieves[{f.still[0]}].mass_retained_g",) if f.still else ()


def _weigh(f: Facts, s: SieveSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """Sieve after sieve, three fields ahead, so that the hand that types need not wait."""
    if not f.still:
        return None
    wants = tuple(f"sieves[{i}].mass_retained_g" for i in f.still[:3])
    aperture = plain(f.record.sieves[f.still[0]].aperture_mm or 0.0)
    due = Due(
        what=f"Weigh what stays on {aperture} mm",
        kind="hands",
        path=wants[0],
        hands_s=60 * len(f.still),
        label=f"{aperture} mm",
    )
    return Advice(
        headline=f"{aperture} mm: brush it out and weigh.",
        detail="Nothing on it: type 0. A sieve you did not use: strike its aperture in the steps.",
        amount=f"{len(f.in_use) - len(f.still)} of {len(f.in_use)}",
        amount_note="sieves weighed",
        wants=wants,
        due=(due,),
    )


def missing_sieves(f: Facts, s: SieveSchool) -> tuple[Missing, ...]:
    """The sieves, the pan and the washed soil that the curve and its sum still wait for."""
    waits = []
    if waits_for_water(f.record):
        waits.append(Missing(name="dry mass", waits_for="the water content", at="water_content_percent"))
    if s.wash_over_mm and f.record.mass_washed_g is None:
        waits.append(Missing(name="sum of parts", waits_for="the mass after washing", at="mass_washed_g"))
    if f.still or not f.record.sieves:
        words = f"{len(f.still) or 'the'} sieve{'s' if len(f.still) != 1 else ''}"
        at = f"sieves[{f.still[0]}].mass_retained_g" if f.still else "sieves"
        waits.append(Missing(name="percent passing", waits_for=words, at=at))
    return tuple(waits)


def _note(f: Facts, s: SieveSchool) -> str:
    return f"{len(f.in_use) - len(f.still)} of {len(f.in_use)}" if f.rows else ""


FLOW: Flow = (
    Task(
        key="soil",
        title="Soil taken",
        does="Loosened with a rubber pestle, reduced by riffling; enough for its largest grain.",
        fields=(
            "largest_particle_mm",
            "mass_total_g",
            "weighed_as",
            "water_content_percent",
            "over_75mm_percent",
            "grain_shape",
            *BALANCE,
        ),
        needs=lambda f, s: () if _split(f) else ("mass_total_g",),
        also=("largest_particle_mm", "weighed_as", "water_content_percent", "split_at_mm"),
        is_done=lambda f, s: _split(f) or f.record.mass_total_g is not None,
        gives="percent passing",
        asks="Weigh the soil you sieve.",
        how="Oven-dry, or moist with its water content. Much gravel: name a separating sieve and split.",
        cautions=("Dust: mask, or work damp.",),
        hands_s=300,
        holds=("balance",),
        note=lambda f, s: f"{plain(f.record.mass_total_g, 5)} g" if f.record.mass_total_g is not None else "",
    ),
    Task(
        key="split",
        title="Split",
        does="Much gravel: separate, sieve the coarse whole, riffle a part of the finer. At 2 mm for other tests.",
        fields=("split_at_mm", "mass_coarse_g", "mass_finer_g", "mass_part_g"),
        needs=lambda f, s: ("mass_coarse_g", "mass_finer_g") if _split(f) else (),
        also=("mass_part_g", "water_content_percent"),
        is_done=lambda f, s: f.record.mass_coarse_g is not None and f.record.mass_finer_g is not None,
        due_now=lambda f, s: _split(f),
        gives="percent passing",
        asks=lambda f, s: f"Separate at {plain(f.record.split_at_mm or 0)} mm; weigh both, riffle a part of the finer.",
        how="Keep the dust. The finer may be moist: give its water content then.",
        hands_s=900,
        note=lambda f, s: f"at {plain(f.record.split_at_mm)} mm" if f.record.split_at_mm is not None else "",
    ),
    Task(
        key="wash",
        title="Wash",
        does="Over the finest sieve until the water runs clear; all that stays into the oven.",
        fields=("washed_over_mm", "dispersant_soak_h", "in_oven_at"),
        needs=("in_oven_at",),
        is_done=lambda f, s: f.record.in_oven_at is not None or f.record.mass_washed_g is not None,
        asks=lambda f, s: (
            f"Wash it over {plain(s.wash_over_mm or 0)} mm until the water runs clear, then into the oven."
        ),
        how="Soaked with dispersant first where it is clayey; a guard sieve above. Record the time when it is in.",
        cautions=("Wet floor: non-slip boots, hose out of the way.",),
        hands_s=1500,
        holds=("oven",),
        applies=lambda s: s.wash_over_mm is not None,
    ),
    Oven(
        key="dry",
        title="Dry what stayed",
        does="Overnight; cool, weigh.",
        fields=("mass_washed_g",),
        tins=lambda f: [("mass_washed_g", "of washed soil")] if f.record.mass_washed_g is None else [],
        is_done=lambda f, s: f.record.mass_washed_g is not None,
        vessel="pan",
        cautions=("Hot pans: gloves and tongs.",),
        hands_s=180,
        holds=("oven",),
        applies=lambda s: s.wash_over_mm is not None,
        note=lambda f, s: f"{plain(f.record.mass_washed_g, 5)} g stayed" if f.record.mass_washed_g is not None else "",
    ),
    Task(
        key="shake",
        title="Shake",
        does="Stack coarse over fine, pan below, lid on; shake until little more passes in a further minute.",
        fields=("shaken_from_at", "further_minute_g", "further_minute_at_mm"),
        needs=("shaken_from_at",),
        is_done=lambda f, s: f.record.shaken_from_at is not None or _begun(f),
        asks="Stack the sieves, soil on top, into the shaker.",
        how=lambda f, s: f"{span(s.shake_min)}. Record the time when it runs.",
        label="stack",
        cautions=("Shaker: clamp the stack, hands clear, hearing protection.",),
        hands_s=180,
        waits_min=lambda s: s.shake_min,
        holds=("shaker", "sieves"),
    ),
    Wait(
        key="shaking",
        title="Shaking",
        does="Until it stops.",
        in_column=False,
        ready=_shaken,
        needs=_first_mass,
        is_done=lambda f, s: _begun(f) or not f.still,
        due_now=lambda f, s: not _begun(f) and bool(f.still),
        asks="Take the stack from the shaker and weigh each sieve.",
        how="From the coarsest down; brush each out.",
        waiting="Shaking until {}.",
        label="sieve stack",
        hands_s=600,
    ),
    Asks(
        key="weigh",
        title="Weigh each sieve",
        does="From the coarsest down, brushed out; the pan last.",
        fields=(
            "sieves[].aperture_mm",
            "sieves[].mass_retained_g",
            "sieves[].sieve",
            "sieves[].sieve_diameter_mm",
            "sieves[].sieve_state",
            "sieves[].in_portions",
            "sieves[].further_minute_g",
            "mass_pan_g",
        ),
        think=_weigh,
        is_done=lambda f, s: bool(f.rows) and not f.still and f.record.mass_pan_g is not None,
        cautions=("Never press grains through with the fingers: wires break, and cut.",),
        hands_s=720,
        holds=("balance", "sieves"),
        note=_note,
    ),
    Task(
        key="name_sieves",
        title="Sieves",
        does="",
        in_column=False,
        needs=lambda f, s: () if f.rows else (f"sieves[{len(f.record.sieves)}].aperture_mm",),
        is_done=lambda f, s: bool(f.rows),
        asks="Name the sieves of the stack.",
        how="Aperture in mm, from the coarsest.",
        label="sieves",
        hands_s=60,
    ),
    Task(
        key="pan",
        title="Pan",
        does="",
        in_column=False,
        needs=("mass_pan_g",),
        gives="sum of parts",
        asks="The pan: weigh it too.",
        how="With it the sum is checked.",
        hands_s=60,
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
        is_done=lambda f, s: bool(f.record.envelope),
        due_now=lambda f, s: False,
        optional=True,
        hands_s=120,
        note=lambda f, s: f.record.envelope_name or (f"{len(f.record.envelope)} lines" if f.record.envelope else ""),
    ),
    Task(
        key="further",
        title="A further minute",
        does="",
        in_column=False,
        optional=True,
        needs=("further_minute_g",),
        applies=lambda s: s.separation_only,
        asks="Done. The sheet can be signed.",
        how="Every sieve is weighed and the sum holds.",
    ),
    SPECIMEN,
)

FINISH = "Every sieve is weighed and the sum holds."
