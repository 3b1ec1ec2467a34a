"""The contract that every method fulfils: record -> facts -> values, rules, flow, calls."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, NamedTuple

from vadum.soil.contract import flow as flows
from vadum.soil.contract import paths, rules
from vadum.soil.contract.called import Called
from vadum.soil.contract.fields import RecordPart, unit_of
from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import half_to_even
from vadum.soil.contract.outcome import Advice, Cell, Outcome, Table
from vadum.soil.contract.physical_range import RULE, checked, with_stops
from vadum.soil.contract.propagation import propagated
from vadum.soil.contract.rules import Judge
from vadum.soil.contract.school import School, Schools, school_named
from vadum.soil.contract.task import Says, Task
from vadum.soil.contract.verdicts import SINGLE, single_readings, without_zero_divisors


@dataclass(frozen=True)
class Trial:
    """What a virtual soil answered: a full record and the truth behind it."""

    record: RecordPart
    truth: Mapping[str, float]
    tolerance: Mapping[str, float]
    mistake: str | None = None


@dataclass(frozen=True)
class FromTest:
    """A reading that comes from another test of the same sample: that method's value, and what is noted with it."""

    method: str
    key: str
    also: Mapping[str, str] = field(default_factory=dict)


class Seen(NamedTuple):
    """Something that practice saw in a run, and what to do about it next time."""

    name: str
    seen: str
    better: str


class Board(NamedTuple):
    """What stands in the middle of a desk for any method: rows of readings under their heads, each a path.

    `named` are single readings above the table. A cell is the path of its reading; an empty one is blank.
    """

    heads: tuple[str, ...]
    rows: tuple[tuple[str, tuple[str, ...]], ...]
    named: tuple[str, ...] = ()


class Derived(NamedTuple):
    """What a reduction gives for each row of a list, printed beside its readings: the series of the outcome, the column
    that numbers the list's rows, the number of its first, and the columns as (name, head, significant digits).

    `orders`: the rows are printed in the order of the series.
    """

    series: str
    row: str
    first: int
    columns: tuple[tuple[str, str, int], ...]
    orders: bool = False


class Dial(NamedTuple):
    """A dial of the practice apparatus: which channel moves it, its words, how much one turn is, where it stands."""

    channel: str
    title: str
    words: str
    a_turn: float
    at: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Practice:
    """How a method is practised on a virtual soil, beyond what `virtual` answers.

    `answers(seed, school, record, path)` is what the apparatus shows where that depends on what the person chose;
    `decides` names the fields that are such a choice. `address(seed, school, facts, called, rate, speed)` is the
    simulated instrument that pushes, shears or presses the hidden soil, `rates` what its gears offer, in the call's
    unit a minute; `by_hand`: a hand has to find the pace; `dials(facts, called)` is what it reads.
    `seen(seed, school, facts)` names what only the truth shows, and takes the place of the rules in `told_by_truth`;
    `truth(seed, school, facts)` is the hidden curve.
    """

    answers: Callable[[int, Any, Any, str], Any] = field(default=lambda seed, school, record, path: None)
    decides: tuple[str, ...] = ()
    address: Callable[[int, Any, Any, Called, float, float], str | None] | None = None
    rates: tuple[float, ...] = ()
    by_hand: bool = False
    dials: Callable[[Any, Called], tuple[Dial, ...]] = field(default=lambda facts, called: ())
    seen: Callable[[int, Any, Any], tuple[Seen, ...]] = field(default=lambda seed, school, facts: ())
    told_by_truth: tuple[str, ...] = ()
    truth: Callable[[int, Any, Any], Table] = field(default=lambda seed, school, facts: ())


@dataclass(frozen=True, kw_only=True)
class Judgement:
    """A record read once: without the readings that cannot be, its facts, and what follows from them."""

    record: RecordPart
    facts: Any
    outcome: Outcome


@dataclass(frozen=True, kw_only=True)
class Method:
    """A test: what is measured, by which schools, and how it is reduced, judged, led and practised.

    `facts(record, school)` works out once what values, rules, flow and calls share. `reduce(facts, school)` gives the
    values with their working. `rules` is the table that judges them, `flow` the order of work, `called(facts, school)`
    the readings that something calls. `virtual(seed, school, mistake)` answers the test from a made-up soil;
    `mistakes` names the ones it can make.

    `leads` are the values that matter first. `columns` are the reading columns of the printed sheet, by row list;
    `derived` adds what each row came to. `rows` says what one row of a list is called, `row_named_by` the field of a
    row that names it better than a number, `blocks` the lists that a logger's file or an instrument's series fills as
    one entry.
    `takes` names the fields that another test of the sample can fill; `begins_with(school)` the readings that the
    school sets when a run begins; `spends(record)` whether its specimen can serve no other test. `uncertainties_hold`
    says what the uncertainties that its reduction works out hold. `board(facts, school, outcome, now)` adds what a
    hand-drawn board needs. `synonyms` are words of foreign tables for its fields, `last_rows` words that are no row's
    key but the single field they fill; `hints` and `reasons` are said at a field.

    `targets(facts, school)` are figures that a person was told to reach, by the place of their reading. `alternatives`
    are ways of giving the same figure, each by the patterns of its readings: one way entered, the others are not asked.
    `unused(school)` are the patterns of readings that belong to the apparatus of other schools.

    `by_clock`: its readings are called by the clock, on the rack. `slip`: it is printed on the spot, on narrow paper.
    `lasts(school)` says how long its usual course takes; `least_soil_g` how much fine soil it takes at the least, for
    planning alone (0: nothing is taken from a sample).

    `practice` is how it is practised beyond that.
    """

    name: str
    code: str
    title: str
    version: str
    standards: tuple[str, ...]
    Record: type[RecordPart]
    schools: Schools[Any]
    facts: Callable[[Any, Any], Any]
    reduce: Callable[[Any, Any], Outcome]
    rules: tuple[Judge, ...]
    flow: Flow
    virtual: Callable[[int, Any, str | None], Trial]
    mistakes: Mapping[str, str]
    limits_of_use: str
    uncertainties_hold: str = ""
    slip: bool = False
    by_clock: bool = False
    finish: Says = ""
    columns: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    derived: Mapping[str, Derived] = field(default_factory=dict)
    leads: tuple[str, ...] = ()
    called: Callable[[Any, Any], tuple[Called, ...]] = field(default=lambda facts, school: ())
    takes: Mapping[str, FromTest] = field(default_factory=dict)
    rows: Mapping[str, str] = field(default_factory=dict)
    blocks: tuple[str, ...] = ()
    row_named_by: Mapping[str, str] = field(default_factory=dict)
    begins_with: Callable[[Any], tuple[tuple[str, str], ...]] = field(default=lambda school: ())
    spends: Callable[[Any], bool] = field(default=lambda record: False)
    board: Callable[[Any, Any, Outcome, datetime], Mapping[str, Any]] = field(
        default=lambda facts, school, outcome, now: {}
    )
    synonyms: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    last_rows: Mapping[str, tuple[str, tuple[str, ...]]] = field(default_factory=dict)
    hints: Mapping[str, str] = field(default_factory=dict)
    targets: Callable[[Any, Any], Mapping[str, float]] = field(default=lambda facts, school: {})
    alternatives: tuple[tuple[tuple[str, ...], ...], ...] = ()
    unused: Callable[[Any], frozenset[str]] = field(default=lambda school: frozenset())
    lasts: Callable[[Any], str] = field(default=lambda school: "")
    least_soil_g: float = 0.0
    practice: Practice = Practice()

    def others_of(self, path: str) -> tuple[tuple[str, ...], ...]:
        """The other ways of giving the figure of a reading, each by the readings it takes in the same row."""
        pattern, row = paths.pattern_of(path), paths.parse(path).parent
        found = [ways for ways in self.alternatives if any(pattern in way for way in ways)]
        return tuple(
            tuple(paths.of(row, paths.field_name(other)) for other in way)
            for ways in found
            for way in ways
            if pattern not in way
        )

    def school(self, name: str | None = None) -> School:
        """The school of that name, or the first; raises UnknownName."""
        found: School = school_named(self.schools, name)
        return found

    def read(self, record: RecordPart, school: School) -> Judgement:
        """The record reduced and judged, without advice; a reading that cannot be is stopped and not reduced."""
        clean, stops = checked(record)
        slips = tuple(single_readings(clean, lambda path: self.row_words(path, clean)))
        facts = self.facts(without_zero_divisors(clean) if slips else clean, school)
        with half_to_even(school.half_to_even):
            made = self.reduce(facts, school)
        outcome = made.model_copy(
            update={
                "missing": (*made.missing, *flows.missing(self.flow, facts, school)),
                "verdicts": (
                    *made.verdicts,
                    *slips,
                    *rules.judge(self.rules, facts, school),
                ),
            }
        )
        return Judgement(record=clean, facts=facts, outcome=with_stops(outcome, stops))

    def outcome(self, record: RecordPart, school: School) -> Outcome:
        """The record reduced and judged, without advice."""
        return self.read(record, school).outcome

    def with_uncertainties(self, record: RecordPart, school: School, outcome: Outcome) -> Outcome:
        """The outcome with what each uncertainty holds; in the working, what the readings' last digits alone do, which
        is no uncertainty of a result.

        It reduces the record twice for every reading: for paper and files, not for the desk.
        """

        def numbers(changed: RecordPart) -> dict[str, float]:
            made = self.reduce(self.facts(changed, school), school)
            return {v.key: v.value for v in made.values if v.value is not None}

        bare = {v.key for v in outcome.values if v.uncertainty is None and v.value is not None and not v.estimate}
        found = propagated(without_zero_divisors(checked(record).record), numbers) if bare else {}
        values = [
            v.model_copy(update={"uncertainty_holds": self.uncertainties_hold})
            if v.value is not None and v.uncertainty is not None
            else v
            for v in outcome.values
        ]
        working = [
            line.model_copy(update={"last_digits": found[line.gives]})
            if line.gives in bare and found.get(line.gives)
            else line
            for line in outcome.working
        ]
        return outcome.model_copy(update={"values": tuple(values), "working": tuple(working)})

    def advised(self, facts: Any, school: School, outcome: Outcome, now: datetime) -> Advice:
        """What now. A reading that cannot be and is asked for again is to be struck first."""
        advice = flows.advise(self.flow, facts, school, outcome, now, self.finish)
        said, grave = rules.alarm(self.rules, facts, school)
        if said and not advice.finished:
            advice = advice.model_copy(update={"alarm": said, "grave": grave})
        remark = next((v for v in outcome.verdicts if v.level == "watch"), None)
        if advice.finished and remark is not None:
            # Signed it may be; that nothing is amiss it may not say.
            words = f"The sheet will say: {remark.found}. {remark.remedy}".rstrip()
            advice = advice.model_copy(update={"detail": words})
        stops = (v for v in outcome.verdicts if v.rule in (RULE, SINGLE))
        first = next((stop for stop in stops if stop.at[0] in advice.wants or advice.finished), None)
        if first is None:
            return advice
        return advice.model_copy(update={"headline": first.remedy, "detail": "", "amount": "", "finished": False})

    def judge(self, record: RecordPart, school: School, now: datetime) -> Outcome:
        """The record reduced, judged, and advised on at that moment."""
        read = self.read(record, school)
        advice = self.advised(read.facts, school, read.outcome, now)
        return read.outcome.model_copy(update={"advice": advice})

    @property
    def steps(self) -> Flow:
        """The tasks of its flow that are steps of the column, in their order."""
        return tuple(task for task in self.flow if task.in_column)

    def row_words(self, path: str, record: RecordPart | None = None) -> str:
        """The row that a path names, as it is said: `trial 3`; by what names it best, `sieve 4.75 mm`, where the record
        holds that; empty where it names none."""
        words = []
        for name, row in paths.parse(path).rows:
            noun, best = self.rows.get(paths.pattern_of(name), name), self.row_named_by.get(paths.pattern_of(name))
            value = paths.reading_at(record, paths.at(name, row, best)) if best and record is not None else None
            number = f"{value:g} {unit_of(best)}".strip() if best and isinstance(value, float) else str(row + 1)
            words.append(f"{noun} {number}")
        return " ".join(words)

    def place_words(self, path: str, record: RecordPart | None = None) -> str:
        """A place of the record as a person calls it: the row, and what is read there."""
        row, field = self.row_words(path, record), paths.field_of(self.Record, path)
        title = (field.title if field else None) or paths.field_name(path).replace("_", " ")
        return f"{row}: {title}" if row else title


__all__ = [
    "Board",
    "Cell",
    "Derived",
    "Dial",
    "FromTest",
    "Judgement",
    "Method",
    "Practice",
    "School",
    "Seen",
    "Task",
    "Trial",
]
