"""What now, for the threads."""

from datetime import datetime

from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Due, Outcome
from vadum.soil.methods.plastic_limit.record import Determination, Record
from vadum.soil.methods.plastic_limit.schools import PlasticLimitSchool
from vadum.soil.methods.plastic_limit.threads import nonplastic_because
from vadum.soil.shared.oven import oven_advice


def _roll(record: Record, school: PlasticLimitSchool) -> Advice | None:
    kept = [(i, d) for i, d in enumerate(record.determinations) if not d.excluded_because]
    half = next(((i, d) for i, d in kept if d.mass_wet_g is None), None)
    index, row = half or (len(record.determinations), Determination())
    if half is None and len(kept) >= school.least_determinations:
        return None
    at = f"determinations[{index}]."
    wants = tuple(f"{at}{f}" for f in ("tin", "mass_tin_g", "mass_wet_g") if getattr(row, f) is None)
    what = f"Roll threads for tin {index + 1}"
    return Advice(
        headline="Roll to 3.2 mm beside the rod until the thread crumbles there.",
        detail=f"Gather the crumbs, {plain(school.least_moist_g)} g or more, lid on at once. Crumbles thicker: "
        "too dry, take fresh; rolls thinner: fold and roll again.",
        amount=f"{len(kept) - (half is not None)} of {school.least_determinations}",
        amount_note="tins in",
        wants=wants,
        due=(Due(what=what, kind="hands", path=wants[0], hands_s=900, label=f"threads {index + 1}"),),
    )


def _oven(record: Record, school: PlasticLimitSchool, now: datetime) -> Advice | None:
    tins = [
        (f"determinations[{i}].mass_dry_g", d.tin or f"determination {i + 1}")
        for i, d in enumerate(record.determinations)
        if not d.excluded_because and d.mass_wet_g is not None and d.mass_dry_g is None
    ]
    return oven_advice(tins, record.in_oven_at, school.oven_min, now)


def advise(record: Record, school: PlasticLimitSchool, outcome: Outcome, now: datetime) -> Advice:
    """The one next action for these threads."""
    why = nonplastic_because(record)
    early = record.cannot_be_rolled == "yes" or record.liquid_limit_unobtainable == "yes"
    if why and early:
        return Advice(headline="Nonplastic.", detail=f"{why.capitalize()}. Sign the sheet with NP.", finished=True)
    advice = _roll(record, school) or _oven(record, school, now)
    if advice:
        return advice
    faults = [v for v in outcome.verdicts if v.level in ("stop", "redo")]
    if any(v.rule == "determinations agree" for v in faults):
        index = len(record.determinations)
        at = f"determinations[{index}]."
        return Advice(
            headline="The tins disagree: roll another.",
            detail=faults[0].found,
            wants=(f"{at}tin", f"{at}mass_wet_g"),
            due=(Due(what="Roll another tin of threads", kind="hands", path=f"{at}tin", hands_s=900),),
        )
    if faults:
        return Advice(headline=faults[0].remedy or faults[0].found, detail=faults[0].found)
    if record.liquid_limit_percent is None:
        return Advice(
            headline="The index waits for the liquid limit.",
            detail="It comes from the liquid limit of this sample, or type it. The plastic limit can be signed alone.",
            wants=("liquid_limit_percent", "natural_water_content_percent", "finer_than_2um_percent"),
            finished=True,
        )
    return Advice(
        headline="Done. The sheet can be signed.",
        detail="Natural water content and clay part, if known, give liquidity and activity.",
        wants=tuple(
            f for f in ("natural_water_content_percent", "finer_than_2um_percent") if getattr(record, f) is None
        ),
        finished=True,
    )
