"""A piece of work of a flow: what it fills, what it asks, its hands, what it holds; rows, called readings, thought."""

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, ClassVar, Literal

from vadum.soil.contract import paths
from vadum.soil.contract.call_advice import clock_advice, depth_advice, start_advice, travel_advice
from vadum.soil.contract.called import Called
from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.outcome import Advice, Due, Missing, Outcome

Says = str | Callable[[Any, Any], str]
Skill = Literal["helper", "technician", "experienced"]
BALANCE = ("balance", "balance_readability_g", "balance_due_on", "balance_in_date")


def says(what: Says, facts: Any, school: Any) -> str:
    """A sentence that may depend on what is known."""
    return what if isinstance(what, str) else what(facts, school)


def is_open(record: RecordPart, path: str) -> bool:
    """Whether nothing stands at that path yet."""
    return paths.reading_at(record, path) is None


def still_open(record: RecordPart, *fields: str) -> tuple[str, ...]:
    """Those of the fields that hold no reading yet."""
    return tuple(f for f in fields if is_open(record, f))


def ask(
    headline: str,
    detail: str,
    wants: tuple[str, ...],
    hands_s: int,
    label: str,
    *,
    amount: str = "",
    amount_note: str = "",
) -> Advice:
    """Hands are wanted now: what to do, the fields it fills, and about how long it takes."""
    path = wants[0] if wants else ""
    due = Due(what=headline.rstrip("."), kind="hands", path=path, hands_s=hands_s, label=label)
    return Advice(headline=headline, detail=detail, amount=amount, amount_note=amount_note, wants=wants, due=(due,))


@dataclass(frozen=True, kw_only=True)
class Task:
    """One piece of work.

    `fields` are the record's places it fills, `[]` for every row; `needs` those without which it is not done, `also`
    what is asked beside them. `gives` names the value that waits for the needs. `asks` and `how` are said when it is
    next. `hands_s` is what it takes of somebody, `waits_min` what it then takes of time, `holds` the equipment it
    keeps meanwhile, `alone` whether it may be left alone, `skill` who can do it. An `optional` task keeps nobody from
    signing; one that is not `in_column` is a second time of another and no step of its own.
    """

    kind: ClassVar[str] = "task"
    key: str
    title: str
    does: str
    fields: tuple[str, ...] = ()
    needs: tuple[str, ...] | Callable[[Any, Any], tuple[str, ...]] = ()
    also: tuple[str, ...] | Callable[[Any, Any], tuple[str, ...]] = ()
    gives: str = ""
    asks: Says = ""
    how: Says = ""
    label: str = ""
    amount: Callable[[Any, Any], tuple[str, str]] = field(default=lambda facts, school: ("", ""), repr=False)
    hands_s: int = 120
    waits_min: float | Callable[[Any], float] = 0.0
    holds: tuple[str, ...] = ()
    skill: Skill = "technician"
    alone: bool = True
    cautions: tuple[str, ...] = ()
    optional: bool = False
    in_column: bool = True
    is_done: Callable[[Any, Any], bool] | None = field(default=None, repr=False)
    note: Callable[[Any, Any], str] = field(default=lambda facts, school: "", repr=False)
    applies: Callable[[Any], bool] = field(default=lambda school: True, repr=False)
    due_now: Callable[[Any, Any], bool] = field(default=lambda facts, school: True, repr=False)

    def wanted(self, facts: Any, school: Any) -> tuple[str, ...]:
        """The fields it cannot do without."""
        return self.needs if isinstance(self.needs, tuple) else self.needs(facts, school)

    def beside(self, facts: Any, school: Any) -> tuple[str, ...]:
        """The fields that are asked with them."""
        return self.also if isinstance(self.also, tuple) else self.also(facts, school)

    def done(self, facts: Any, school: Any) -> bool:
        """Whether it is done."""
        if self.is_done is not None:
            return self.is_done(facts, school)
        wanted = self.wanted(facts, school)
        return bool(wanted) and not still_open(facts.record, *wanted)

    def in_order(self, needs: tuple[str, ...], facts: Any, school: Any) -> tuple[str, ...]:
        """What is asked: beside the needs what stands open, before them where the task's own fields have it first."""
        place = {field: i for i, field in enumerate(self.fields)}
        first = min((place[p] for p in map(paths.pattern_of, needs) if p in place), default=len(place))
        beside = still_open(facts.record, *self.beside(facts, school))
        ahead = tuple(b for b in beside if place.get(paths.pattern_of(b), first) < first)
        return (*ahead, *needs, *(b for b in beside if b not in ahead))

    def waits(self, school: Any) -> float:
        """Minutes that it takes without hands, by this school."""
        return self.waits_min(school) if callable(self.waits_min) else self.waits_min

    def advice(self, facts: Any, school: Any, now: datetime) -> Advice | None:
        """What is asked when it is next; None when it asks for nothing more."""
        if self.done(facts, school):
            return None
        record = facts.record
        wants = self.in_order(still_open(record, *self.wanted(facts, school)), facts, school)
        if not wants:
            return None
        amount, note = self.amount(facts, school)
        headline = says(self.asks, facts, school) or f"{self.title}."
        how = says(self.how, facts, school) or self.does
        return ask(headline, how, wants, self.hands_s, self.label or self.key, amount=amount, amount_note=note)

    def missing(self, facts: Any, school: Any) -> tuple[Missing, ...]:
        """What its value still waits for."""
        if not self.gives:
            return ()
        record = facts.record
        return tuple(
            Missing(name=self.gives, waits_for=f"the {title_at(record, path)}", at=path)
            for path in still_open(record, *self.wanted(facts, school))
        )


def title_at(record: RecordPart, path: str) -> str:
    """What the field at a path is called."""
    found = paths.field_of(type(record), path)
    return (found.title if found else None) or paths.field_name(path).replace("_", " ")


@dataclass(frozen=True, kw_only=True)
class Rows(Task):
    """The same readings again and again, until `least(school)` rows hold all of `reads`.

    A row that was left out counts for none; a row that was begun is finished first. `holds_row` names the reading that
    makes a row count where the others may stay open.
    """

    kind: ClassVar[str] = "rows"
    rows: str = ""
    reads: tuple[str, ...] | Callable[[Any], tuple[str, ...]] = ()
    noun: str = "reading"
    holds_row: str = ""
    least: Callable[[Any, Any], int] = field(default=lambda facts, school: 1, repr=False)

    def kept(self, facts: Any) -> list[tuple[int, Any]]:
        """The rows that are not left out."""
        found = paths.reading_at(facts.record, self.rows) or ()
        return [(i, row) for i, row in enumerate(found) if not getattr(row, "excluded_because", None)]

    def of_a_row(self, facts: Any) -> tuple[str, ...]:
        """What is read of each row."""
        return self.reads if isinstance(self.reads, tuple) else self.reads(facts)

    def full(self, facts: Any) -> list[int]:
        """The rows that hold everything."""
        wanted = (self.holds_row,) if self.holds_row else self.of_a_row(facts)
        return [i for i, row in self.kept(facts) if all(getattr(row, f) is not None for f in wanted)]

    def done(self, facts: Any, school: Any) -> bool:
        """Whether there are enough."""
        if self.is_done is not None:
            return self.is_done(facts, school)
        kept = self.kept(facts)
        return len(self.full(facts)) >= max(self.least(facts, school), len(kept))

    def advice(self, facts: Any, school: Any, now: datetime) -> Advice | None:
        """The next row's readings."""
        if self.done(facts, school):
            return None
        kept, full = self.kept(facts), set(self.full(facts))
        half = next(((i, row) for i, row in kept if i not in full), None)
        row = half[0] if half else len(paths.reading_at(facts.record, self.rows) or ())
        fields = [f for f in self.of_a_row(facts) if half is None or getattr(half[1], f) is None]
        wants = self.in_order(tuple(paths.at(self.rows, row, f) for f in fields), facts, school)
        amount, note = self.amount(facts, school)
        amount = amount or f"{len(full)} of {self.least(facts, school)}"
        headline = says(self.asks, facts, school) or f"{self.title}."
        how = says(self.how, facts, school) or self.does
        label = self.label or f"{self.noun} {row + 1}"
        return ask(headline, how, wants, self.hands_s, label, amount=amount, amount_note=note)

    def missing(self, facts: Any, school: Any) -> tuple[Missing, ...]:
        """How many rows its value still waits for."""
        short = self.least(facts, school) - len(self.full(facts))
        if not self.gives or short <= 0:
            return ()
        many = f"{short} more {self.noun}{'s' if short > 1 else ''}"
        return (Missing(name=self.gives, waits_for=many, at=self.rows),)


@dataclass(frozen=True, kw_only=True)
class Calls(Task):
    """Readings that something calls. `of(facts, school)` is what is called; `gauge` what is read at each call.

    What the clock calls is begun first, at its planned moment where there is one; a travel is begun with its first
    reading. `interval_s(school, row)` is the time from a call to the next at the right pace, `live(facts, school, now)`
    what is said of the readings while they come; `may_stop` whether they may end before the last call.
    """

    kind: ClassVar[str] = "calls"
    of: Callable[[Any, Any], Called | None] = field(default=lambda facts, school: None, repr=False)
    gauge: Says = "the gauge"
    begin: Says = "Gauges at zero: read them, start."
    interval_s: Callable[[Any, int], float] = field(default=lambda school, row: 0.0, repr=False)
    live: Callable[[Any, Any, datetime], str] = field(default=lambda facts, school, now: "", repr=False)
    may_stop: Callable[[Any, Any], bool] = field(default=lambda facts, school: False, repr=False)

    def done(self, facts: Any, school: Any) -> bool:
        """Whether it is over: read to its end, or stopped."""
        if self.is_done is not None:
            return self.is_done(facts, school)
        called = self.of(facts, school)
        return called is not None and (called.over or called.rows >= len(called.at) > 0)

    def advice(self, facts: Any, school: Any, now: datetime) -> Advice | None:
        """The start, or the next call."""
        called = self.of(facts, school)
        if called is None:
            return None
        if called.by == "clock":
            if called.began_at is None and called.taken:
                return None  # read elsewhere, with typed times: nothing falls due
            started = called.began_at is not None
            make = clock_advice(called, facts.record, now) if started else start_advice(called, facts.record, now)
            return make
        if self.done(facts, school):
            return None
        if called.by == "depth":
            return depth_advice(called, facts.record)
        gauge, begin = says(self.gauge, facts, school), says(self.begin, facts, school)
        made = travel_advice(called, gauge, begin, now, self.interval_s(school, called.next_row))
        if made is not None and called.stop_field and self.may_stop(facts, school):
            made = made.model_copy(update={"wants": (*made.wants, called.stop_field)})
        said = self.live(facts, school, now) if made is not None and called.rows else ""
        return made.model_copy(update={"detail": f"{said[0].upper()}{said[1:]}."}) if made and said else made


@dataclass(frozen=True, kw_only=True)
class Asks(Task):
    """A piece of work whose advice is thought: `think(facts, school, outcome, now)` gives it, None when it is done."""

    kind: ClassVar[str] = "asks"
    think: Callable[[Any, Any, Outcome, datetime], Advice | None] = field(
        default=lambda facts, school, outcome, now: None, repr=False
    )
