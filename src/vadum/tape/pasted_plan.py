"""What a list or many ticks come to, planned before the lock is held and written in one go: rows with the ids they will
have, changes of rows that are there, and what came of each line."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from functools import cached_property
from typing import Any, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field
from sqlmodel import Session, SQLModel

from vadum.soil.contract.fields import PlainNumber
from vadum.tape import ground, kit, ledger, many, schedule
from vadum.tape.codes import looks_like, refuse_alike
from vadum.tape.dialect import lock_named
from vadum.tape.ground import Place
from vadum.tape.tables import Job, Owed, Person, Spot


class Made(BaseModel):
    """One thing that was just made or changed, and what it was before: a tin's mass in g, a test's day and why it stood
    withdrawn. Empty: it was not there."""

    model_config = ConfigDict(extra="forbid")
    what: Literal["tin", "tare", "location", "sample", "test", "specimen"]
    id: int = Field(ge=1, le=2**31 - 1)
    former_g: PlainNumber | None = None
    former_due_on: date | None = None
    withdrawn_because: str = Field("", max_length=schedule.MOST_REASON)


@dataclass
class Doer:
    """For whom a list is made: the session, the job it belongs to, who, when; the day for lines without one."""

    session: Session
    job: Job | None
    by: Person
    now: datetime
    due_on: date | None = None
    taken: dict[str, dict[str, str]] = field(default_factory=dict)
    new: list[SQLModel] = field(default_factory=list)  # rows to be written together
    later: list[Callable[[Session], object]] = field(default_factory=list)  # what is done to rows that are there
    changes: dict[int, tuple[Owed, Mapping[str, Any]]] = field(default_factory=dict)  # by the row's id, the last wins
    reached: dict[str, int] = field(default_factory=dict)  # the last id that is foreseen of each table

    def foresee(self) -> list[many.Batch]:
        """The rows that were gathered so far, as they will be written."""
        rows, self.new = self.new, []
        return many.foreseen(self.session, rows, self.reached)

    def refuse_taken(self, key: str, code: str, others: Callable[[], list[str]], words: str) -> None:
        """Raise FieldError for a code that looks like one that is there, or like one of an earlier line."""
        taken = self.taken.get(key)
        if taken is None:
            taken = self.taken[key] = {looks_like(other): other for other in others()}
        look = looks_like(code)
        if look in taken:
            refuse_alike(code, [taken[look]], words)
        taken[look] = code

    @cached_property
    def asked(self) -> dict[tuple[int, str], Owed]:
        """What the schedule of the job says of each test, by sample and method."""
        return schedule.asked_of(self.session, [p.sample.id or 0 for p in self.places])

    @property
    def job_id(self) -> int:
        """Of the job that the list belongs to; 0 for tins."""
        return (self.job.id or 0) if self.job else 0

    @cached_property
    def places(self) -> list[Place]:
        """The samples of the job."""
        return ground.places(self.session, self.job.id or 0) if self.job else []

    @cached_property
    def named(self) -> schedule.SamplesByName:
        """The samples of the job by their names."""
        return schedule.SamplesByName(self.places)

    @cached_property
    def spots(self) -> dict[str, Spot]:
        """The locations of the job by their code, whichever way it is written."""
        return {s.code.casefold(): s for s in ground.spots_of(self.session, self.job)} if self.job else {}

    @cached_property
    def tins(self) -> dict[str, kit.State]:
        """Every tin that was ever registered, by its number."""
        today = self.now.date()
        both = (*kit.states(self.session, today), *kit.states(self.session, today, retired=True))
        return {state.item.code: state for state in both if state.item.kind == "tin"}


# What a line does, in words, and the act itself: who only looks does not act, and holds up nobody's readings. An act
# hands its rows to whoever acts; once these have their ids it is known what comes of it.
Receipt = Callable[[], Made | None]
Act = Callable[[Doer], Receipt]
Planned = tuple[str, Act]


class Plan(NamedTuple):
    """What was possible when the ledger had reached a line: new rows, what is done to others, what comes of it."""

    reached: int
    batches: list[many.Batch]
    later: list[Callable[[Session], object]]
    made: tuple[Made, ...]


def planned(doer: Doer, acts: Iterable[Act]) -> Plan:
    """What acts that were found possible come to; nothing is written."""
    reached = ledger.head(doer.session.connection()).seq
    receipts = [act(doer) for act in acts]
    batches = doer.foresee()
    made = tuple(one for receipt in receipts if (one := receipt()) is not None)
    batches += [*doer.foresee(), *many.foreseen_changes(list(doer.changes.values()))]
    return Plan(reached, batches, doer.later, made)


def carry_out(before: Plan, session: Session, locks: Iterable[str], again: Callable[[], Plan]) -> tuple[Made, ...]:
    """Write what was planned before the lock was held; planned `again` where anything but readings was written since.

    The caller's transaction decides: all of it, or nothing.
    """
    connection = session.connection()
    for name in locks:
        lock_named(connection, name)
    many.hold(session, before.batches)
    as_it_was = ledger.only_readings_since(connection, before.reached) and many.still_free(session, before.batches)
    plan_ = before if as_it_was else again()
    many.write(session, plan_.batches)
    for act in plan_.later:
        act(session)
    session.flush()
    return plan_.made
