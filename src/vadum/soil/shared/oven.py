"""A night in the oven, as several methods advise on it: in, wait, out, weigh one after the other."""

from datetime import datetime, timedelta

from vadum.soil.contract.method import Step
from vadum.soil.contract.outcome import Advice, Due
from vadum.soil.contract.times import clock, minutes_between, span

COOLING = "Cool 5 to 10 min with the lid on."


def oven_advice(
    tins: list[tuple[str, str]],
    in_oven_at: datetime | None,
    oven_min: float,
    now: datetime,
    before: str = "",
    vessel: str = "tin",
) -> Advice | None:
    """What now for tins that are weighed wet and not yet dry; None when there is none.

    `tins` are (path of the dry mass, the tin's name); `before` is said ahead of putting them in; `vessel` is what
    holds the soil.
    """
    if not tins:
        return None
    names = ", ".join(name for _, name in tins)
    many = "s" if len(tins) > 1 else ""
    paths = tuple(path for path, _ in tins)
    many_vessels = f"{vessel.capitalize()}{many}"
    if in_oven_at is None:
        what = f"{many_vessels} {names} into the oven"
        return Advice(
            headline=f"{before}{what}.",
            detail="Lids off, 105–115 °C. Enter when they are in.",
            wants=("in_oven_at",),
            due=(Due(what=what, kind="hands", path="in_oven_at", hands_s=120),),
        )
    ready = in_oven_at + timedelta(minutes=oven_min)
    due = Due(
        what=f"Weigh {vessel}{many} {names} dry",
        kind="wait",
        at=ready,
        since=in_oven_at,
        path=paths[0],
        hands_s=120 + 60 * len(tins),
        label=f"{vessel}{many} {names}",
        detail=COOLING,
    )
    left = minutes_between(now, ready)
    if left > 0:
        return Advice(
            headline=f"{many_vessels} {names} in the oven until {clock(ready, now)}.",
            detail="Nothing to do for this soil until then.",
            amount=clock(ready, now),
            amount_note=f"in {span(left)}",
            wants=paths,
            due=(due,),
        )
    after = ", ".join(name for _, name in tins[1:])
    return Advice(
        headline=f"{vessel.capitalize()} {tins[0][1]} is dry: weigh it.",
        detail=f"{COOLING} Then {after}." if after else COOLING,
        amount=f"since {clock(ready, now)}",
        wants=paths,
        due=(due,),
    )


OVEN_STEP = Step(
    key="oven",
    title="Tins into the oven",
    does="Lids off, overnight at 105 to 115 °C.",
    fields=("in_oven_at",),
    cautions=("Hot shelves and tins: gloves and tongs.",),
    hands_min=2,
    waits_min=16 * 60,
    done=lambda r: r.in_oven_at is not None,
    note=lambda r: "" if r.in_oven_at is None else f"since {r.in_oven_at:%d %b %H:%M}",
)
