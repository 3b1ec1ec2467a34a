"""The contract that every method fulfils."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from vadum.soil.contract.errors import UnknownName
from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.outcome import Advice, Frozen, Outcome
from vadum.soil.contract.physical_range import RULE, checked, with_stops


class School(Frozen):
    """A named set of accepted rules for one method. `name` is the key, `title` what a person reads."""

    name: str
    title: str
    standard: str
    about: str


@dataclass(frozen=True)
class Step:
    """One step of the work in its order. `fields` are the record's paths it fills, `[]` for every row."""

    key: str
    title: str
    does: str
    fields: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    hands_min: float = 1.0
    waits_min: float = 0.0
    done: Callable[[Any], bool] = field(default=lambda record: False, repr=False)
    note: Callable[[Any], str] = field(default=lambda record: "", repr=False)
    applies: Callable[[Any], bool] = field(default=lambda school: True, repr=False)


@dataclass(frozen=True)
class Trial:
    """What a virtual soil answered: a full record and the truth behind it."""

    record: RecordPart
    truth: Mapping[str, float]
    tolerance: Mapping[str, float]
    mistake: str | None = None


@dataclass(frozen=True)
class Taken:
    """A reading that comes from another test of the same sample: that method's value, and what is noted with it."""

    method: str
    key: str
    also: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Method:
    """A test: what is measured, by which schools, and how it is reduced, advised and practised.

    `reduce(record, school)` accepts a record at any stage. `advise(record, school, outcome, now)` says what now.
    `virtual(seed, school, mistake)` answers the test from a made-up soil; `mistakes` names the ones it can make.
    `columns` are the reading columns of the printed sheet, by row list. `takes` names the fields that another test
    of the sample can fill when the run begins; `rows` says what one row of a list is called; `begins_with(school)`
    gives the readings that the school sets when a run begins. In practice `answers(seed, school, record, path)` is
    what the virtual soil shows where that depends on what the person chose (None: what `virtual` has), and `decides`
    names the fields that are such a choice. Where a plunger is pushed, `under(seed, school, end)` is the hidden ratio
    in percent and the ground beneath it, and `wound_by_hand` says that a hand has to find the pace.
    """

    name: str
    code: str
    title: str
    version: str
    standards: tuple[str, ...]
    Record: type[RecordPart]
    schools: Mapping[str, School]
    reduce: Callable[[Any, Any], Outcome]
    advise: Callable[[Any, Any, Outcome, datetime], Advice]
    steps: tuple[Step, ...]
    virtual: Callable[[int, Any, str | None], Trial]
    mistakes: Mapping[str, str]
    limits_of_use: str
    columns: Mapping[str, tuple[str, ...]]
    takes: Mapping[str, Taken] = field(default_factory=dict)
    rows: Mapping[str, str] = field(default_factory=dict)
    answers: Callable[[int, Any, Any, str], Any] = field(default=lambda seed, school, record, path: None)
    decides: tuple[str, ...] = ()
    under: Callable[[int, Any, str], tuple[float, Any] | None] = field(default=lambda seed, school, end: None)
    wound_by_hand: bool = False
    begins_with: Callable[[Any], tuple[tuple[str, str], ...]] = field(default=lambda school: ())

    def school(self, name: str | None = None) -> School:
        """The school of that name, or the first; raises UnknownName."""
        if name is None:
            return next(iter(self.schools.values()))
        if name not in self.schools:
            raise UnknownName("school", name, tuple(self.schools))
        return self.schools[name]

    def outcome(self, record: RecordPart, school: School) -> Outcome:
        """The record reduced and judged, without advice; a reading that cannot be is stopped and not reduced."""
        clean, stops = checked(record)
        return with_stops(self.reduce(clean, school), stops)

    def advised(self, record: RecordPart, school: School, outcome: Outcome, now: datetime) -> Advice:
        """What now. A reading that cannot be and is asked for again is to be struck first."""
        advice = self.advise(checked(record).record, school, outcome, now)
        stops = (v for v in outcome.verdicts if v.rule == RULE)
        first = next((stop for stop in stops if stop.at[0] in advice.wants or advice.finished), None)
        if first is None:
            return advice
        return advice.model_copy(update={"headline": first.remedy, "detail": "", "amount": "", "finished": False})

    def judge(self, record: RecordPart, school: School, now: datetime) -> Outcome:
        """The record reduced, judged, and advised on at that moment."""
        outcome = self.outcome(record, school)
        return outcome.model_copy(update={"advice": self.advised(record, school, outcome, now)})
