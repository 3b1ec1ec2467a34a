"""Vessels: what of the runs the clock calls, each as it stands, in the groups of the rack."""

import math
from collections.abc import Iterable
from datetime import datetime
from typing import Literal, NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.called import Called
from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.outcome import Advice, Due
from vadum.soil.contract.times import clock, exact, minutes_between
from vadum.soil.contract.timetable import Slot, due_at, minutes_words, slots
from vadum.tape.fence import fenced
from vadum.tape.ground import Place
from vadum.tape.runs import Read

Stage = Literal["running", "planned", "ready", "preparing", "done"]


RANK: dict[Stage, int] = {"running": 0, "planned": 1, "ready": 2, "preparing": 3, "done": 4}


class Vessel(NamedTuple):
    """Something that the clock calls, as the rack shows it: a run's only vessel, or one of several. `level` is how far
    it has come or how full it stands, 0 to 1, as drawn; None where it is not drawn filled."""

    id: str
    code: str
    name: str
    words: str
    stage: Stage
    school: str
    started_at: datetime | None
    planned_at: datetime | None
    slots: tuple[Slot, ...]
    advice: Advice
    dues: tuple[Due, ...]
    level: float | None
    called: Called
    last: dict[str, float]
    record: type[RecordPart]

    def says(self, now: datetime) -> str:
        """What stands under it: what was read last, or when it is called next."""
        slot = next((s for s in self.slots if s.state == "next"), None)
        if self.stage == "planned" and self.planned_at is not None:
            return f"starts {exact(self.planned_at, now)}"
        if self.stage != "running" or slot is None:
            return "read to its end" if self.stage == "done" else self.stage
        if self.called.is_exact and self.called.only_row is None:
            return f"{slot_words(slot)} next"
        shown = self.called.taken[-1].shows if self.called.taken else ""
        at = due_at(self.called, slot.at)
        return " · ".join(w for w in (shown, "now" if at <= now else clock(at, now)) if w)

    @property
    def taken(self) -> int:
        """Scheduled readings that stand."""
        return sum(s.state in ("done", "late", "early") for s in self.slots)


class Group(NamedTuple):
    """The vessels of one run, or of several runs of one test with a vessel each, side by side under one bar: straight
    where their calls come at their time. `code` is empty where they are of several runs."""

    code: str
    title: str
    words: str
    exact: bool
    vessels: tuple[Vessel, ...]
    headline: str
    stage: Stage

    @property
    def drawn(self) -> tuple[Vessel, ...]:
        """Those that stand on the rack."""
        return tuple(v for v in self.vessels if v.called.drawn)


def group_of(read: Read, place: Place, now: datetime) -> Group:
    """A run's vessels; raises BrokenRun."""
    return fenced(read.run, read.entries, "shown", lambda entries: _group(read.upto(entries), place, now))


def clock_calls(read: Read) -> tuple[Called, ...]:
    """What the clock calls in a run; nothing while a load is held (the ladder's)."""
    calls = read.method.called(read.facts, read.school)
    if any(c.by == "load" for c in calls):
        return ()
    return tuple(c for c in calls if c.by == "clock")


def belongs(path: str, called: Called, alone: bool) -> bool:
    """Whether a reading's path is of what is called: its start, its plan, or a row of its own."""
    if not path:
        return False
    if path in (called.begin_field, called.plan_field):
        return True
    found = paths.parse(path)
    if not found.rows or found.rows[-1][0] != called.key:
        return False
    return alone or called.only_row is None or found.row == called.only_row


def _group(read: Read, place: Place, now: datetime) -> Group:
    calls = clock_calls(read)
    assert calls
    advice = read.method.advised(read.facts, read.school, read.outcome, now)
    several = len(calls) > 1
    vessels = tuple(
        _vessel(read, place, now, called, advice, f"{read.run.code}:{i}" if several else read.run.code, not several)
        for i, called in enumerate(calls)
    )
    stage = min((v.stage for v in vessels), key=RANK.__getitem__)
    exact = any(c.is_exact for c in calls)
    return Group(read.run.code, read.method.title, place.words, exact, vessels, advice.headline, stage)


def _level(called: Called, now: datetime) -> float | None:
    """How far it has come, as the eye sees it: to its end after about a day; or how full its method says it is."""
    if called.filled is not None:
        return called.filled
    if called.began_at is None:
        return None
    return min(1.0, math.log1p(max(minutes_between(called.began_at, now), 0.0)) / math.log1p(1440))


def _vessel(read: Read, place: Place, now: datetime, called: Called, advice: Advice, name: str, alone: bool) -> Vessel:
    record = read.folded.record
    found = slots(called, now)
    planned = paths.reading_at(record, called.plan_field) if called.plan_field else None
    stage: Stage = "preparing"
    if called.over:
        stage = "done"
    elif called.began_at is not None:
        stage = "running" if any(s.state in ("next", "ahead") for s in found) else "done"
    elif planned is not None:
        stage = "planned"
    elif called.ready:
        stage = "ready"
    last: dict[str, float] = {}
    for row in paths.reading_at(record, called.key) or ():
        for f in (*called.reads, *((called.after_field,) if called.after_field else ())):
            value = getattr(row, f)
            if isinstance(value, float):
                last[f] = value
    return Vessel(
        id=name,
        code=read.run.code,
        name=called.name or read.run.code,
        words=place.words,
        stage=stage,
        school=read.school.title,
        started_at=called.began_at,
        planned_at=planned if called.began_at is None else None,
        slots=found,
        advice=advice,
        dues=tuple(d for d in advice.due if belongs(d.path, called, alone)),
        level=_level(called, now),
        called=called,
        last=last,
        record=read.method.Record,
    )


def together(groups: Iterable[Group]) -> tuple[Group, ...]:
    """Runs of one test with a vessel each as one group, where its first stands."""
    found: dict[str, Group] = {}
    for group in groups:
        key = group.title if len(group.vessels) == 1 else group.code
        if key in found:
            was = found[key]
            found[key] = was._replace(code="", words="", vessels=(*was.vessels, *group.vessels))
        else:
            found[key] = group
    return tuple(found.values())


def slot_words(slot: Slot) -> str:
    """A scheduled reading and how it stands, for the list under a vessel."""
    word = minutes_words(slot.at)
    if slot.state in ("late", "early"):
        return f"{word} {abs(slot.off_s):.0f} s {slot.state}"
    return f"{word} {slot.state}" if slot.state == "missed" else word
