"""Work that goes on without hands: the oven, a wait."""

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, ClassVar

from vadum.soil.contract.outcome import Advice, Due
from vadum.soil.contract.task import Says, Task, says, still_open
from vadum.soil.contract.times import clock, minutes_between, span

COOLING = "Cool 5 to 10 min with the lid on."


def oven_advice(
    tins: list[tuple[str, str]],
    in_oven_at: datetime | None,
    oven_min: float,
    now: datetime,
    before: str = "",
    vessel: str = "tin",
    in_oven: str = "in_oven_at",
    oven_c: tuple[float, float] | None = None,
) -> Advice | None:
    """What now for tins that are weighed wet and not yet dry; None when there is none.

    `tins` are (path of the dry mass, the tin's name); `before` is said ahead of putting them in; `vessel` is what
    holds the soil; `in_oven` the field of the time they went in; `oven_c` the school's band in °C.
    """
    if not tins:
        return None
    names = ", ".join(name for _, name in tins)
    many = "s" if len(tins) > 1 else ""
    wants = tuple(path for path, _ in tins)
    many_vessels = f"{vessel.capitalize()}{many}"
    if in_oven_at is None:
        heat = f", {oven_c[0]:g}–{oven_c[1]:g} °C" if oven_c else ""
        what = f"{many_vessels} {names} into the oven"
        return Advice(
            headline=f"{before}{what}.",
            detail=f"Lids off{heat}. Record the time when they are in.",
            wants=(in_oven,),
            due=(Due(what=what, kind="hands", path=in_oven, hands_s=120),),
        )
    ready = in_oven_at + timedelta(minutes=oven_min)
    due = Due(
        what=f"Weigh {vessel}{many} {names} dry",
        kind="wait",
        at=ready,
        since=in_oven_at,
        path=wants[0],
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
            wants=wants,
            due=(due,),
        )
    after = ", ".join(name for _, name in tins[1:])
    return Advice(
        headline=f"{vessel.capitalize()} {tins[0][1]} is dry: weigh it.",
        detail=f"{COOLING} Then {after}." if after else COOLING,
        amount=f"since {clock(ready, now)}",
        wants=wants,
        due=(due,),
    )


@dataclass(frozen=True, kw_only=True)
class Oven(Task):
    """Tins or dishes that dry. `tins(facts)` are those weighed wet and not yet dry: (path of the dry mass, name).

    `since(facts)` is when they went in; empty `in_oven`: it is told by the wet weighing and not asked. What
    `runs_beside` dries while other work goes on, and leads only when it asks first.
    """

    kind: ClassVar[str] = "oven"
    tins: Callable[[Any], list[tuple[str, str]]] = field(default=lambda facts: [], repr=False)
    since: Callable[[Any], datetime | None] = field(
        default=lambda facts: getattr(facts.record, "in_oven_at", None), repr=False
    )
    oven_min: Callable[[Any], float] = field(default=lambda school: school.oven_min, repr=False)
    before: str = ""
    vessel: str = "tin"
    in_oven: str = "in_oven_at"
    runs_beside: bool = False

    def done(self, facts: Any, school: Any) -> bool:
        """Whether everything is dry and weighed."""
        if self.is_done is not None:
            return self.is_done(facts, school)
        wanted = self.wanted(facts, school)
        return not self.tins(facts) and (not wanted or not still_open(facts.record, *wanted))

    def waits(self, school: Any) -> float:
        """Minutes in the oven."""
        return self.oven_min(school)

    def advice(self, facts: Any, school: Any, now: datetime) -> Advice | None:
        """In, wait, out, weigh one after the other."""
        tins, since = self.tins(facts), self.since(facts)
        band = getattr(school, "oven_c", None)
        return oven_advice(tins, since, self.oven_min(school), now, self.before, self.vessel, self.in_oven, band)


@dataclass(frozen=True, kw_only=True)
class Wait(Task):
    """Time that has to pass before the next field may be filled: at least, or exactly, until `ready(facts, school)`.

    `ready` gives since when and until when; None while it has not begun. In `waiting` the moment stands for `{}`.
    """

    kind: ClassVar[str] = "wait"
    ready: Callable[[Any, Any], tuple[datetime, datetime] | None] = field(
        default=lambda facts, school: None, repr=False
    )
    exactly: bool = False
    window_s: int | None = None
    waiting: Says = ""

    def advice(self, facts: Any, school: Any, now: datetime) -> Advice | None:
        """Until when, and what then."""
        if self.done(facts, school):
            return None
        spell = self.ready(facts, school)
        wants = self.in_order(still_open(facts.record, *self.wanted(facts, school)), facts, school)
        if spell is None or not wants:
            return super().advice(facts, school, now)
        since, until = spell
        left = minutes_between(now, until)
        headline = says(self.asks, facts, school) or f"{self.title}."
        how = says(self.how, facts, school) or self.does
        due = Due(
            what=headline.rstrip("."),
            kind="reading" if self.exactly else "wait",
            at=until,
            since=since,
            path=wants[0],
            hands_s=self.hands_s,
            window_s=self.window_s,
            label=self.label or self.key,
            detail=how,
        )
        if left <= 0:
            return Advice(headline=headline, detail=how, wants=wants, due=(due,))
        waiting = (says(self.waiting, facts, school) or f"{self.title}: until {{}}.").replace("{}", clock(until, now))
        return Advice(
            headline=waiting,
            detail="Nothing to do for this soil until then.",
            amount=clock(until, now),
            amount_note=f"in {span(left)}",
            wants=wants,
            due=(due,),
        )
