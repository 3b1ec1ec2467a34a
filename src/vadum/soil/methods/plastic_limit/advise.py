"""What now, for the threads."""

from datetime import datetime, timedelta

from vadum.soil.methods.plastic_limit.record import Determination, Record
from vadum.soil.methods.plastic_limit.schools import PlasticLimitSchool
from vadum.soil.methods.plastic_limit.threads import nonplastic_because
from vadum.soil.numerics import plain
from vadum.soil.outcome import Advice, Due, Outcome
from vadum.soil.times import clock, minutes_between, span


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
    rows = [
        (i, d)
        for i, d in enumerate(record.determinations)
        if not d.excluded_because and d.mass_wet_g is not None and d.mass_dry_g is None
    ]
    if not rows:
        return None
    tins = ", ".join(d.tin or str(i + 1) for i, d in rows)
    many = "s" if len(rows) > 1 else ""
    if record.in_oven_at is None:
        what = f"Tin{many} {tins} into the oven"
        return Advice(
            headline=f"{what}.",
            detail="Lids off, 105–115 °C. Enter when they are in.",
            wants=("in_oven_at",),
            due=(Due(what=what, kind="hands", path="in_oven_at", hands_s=60),),
        )
    ready = record.in_oven_at + timedelta(minutes=school.oven_min)
    wants = tuple(f"determinations[{i}].mass_dry_g" for i, _ in rows)
    due = Due(
        what=f"Weigh tin{many} {tins} dry",
        kind="wait",
        at=ready,
        since=record.in_oven_at,
        path=wants[0],
        hands_s=60 + 60 * len(rows),
        label=f"tin{many} {tins}",
        detail="Cool 5 to 10 min with the lid on.",
    )
    left = minutes_between(now, ready)
    if left > 0:
        return Advice(
            headline=f"Tin{many} {tins} in the oven until {clock(ready, now)}.",
            detail="Nothing to do for this soil until then.",
            amount=clock(ready, now),
            amount_note=f"in {span(left)}",
            wants=wants,
            due=(due,),
        )
    return Advice(
        headline=f"Tin {rows[0][1].tin or rows[0][0] + 1} is dry: weigh it.",
        detail="Cool 5 to 10 min with the lid on.",
        amount=f"since {clock(ready, now)}",
        wants=wants,
        due=(due,),
    )


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
        return Advice(headline=faults[0].todo or faults[0].found, detail=faults[0].found)
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
