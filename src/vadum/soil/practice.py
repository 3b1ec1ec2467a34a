"""Practice on a virtual soil: what it answers when it is read, and, once revealed, what was missed."""

from datetime import datetime
from typing import Any, NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.fields import RecordPart, unit_of
from vadum.soil.contract.method import Method, Trial
from vadum.soil.contract.method import Seen as Mistake
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Outcome, Table
from vadum.soil.contract.school import School

# What the technician judges, and no soil answers: it stays for the person to decide.
DECIDED = ("stopped", "excluded_because", "remarks")
# Laboratory settings: from where on a difference is named.
READ_APART = 1e-6


class Answer(NamedTuple):
    """What the apparatus shows for a field of this moment."""

    path: str
    title: str
    value: str
    unit: str


class Compared(NamedTuple):
    """A true parameter and the one that was found; `found` None where the run did not come so far."""

    key: str
    name: str
    unit: str
    truth: float
    found: float | None
    tolerance: float
    reported: str

    @property
    def within(self) -> bool:
        """Whether it was found."""
        return self.found is not None and abs(self.found - self.truth) <= self.tolerance


def read_by_calls(method: Method, school: School, record: RecordPart) -> set[str]:
    """Patterns of the fields that are read at calls: off dials while something moves, not off the virtual soil."""
    facts = method.read(record, school).facts
    found = set()
    calls = method.called(facts, school)
    loaded = any(called.by == "load" for called in calls)  # then its gauges creep while they are read by the clock
    for called in calls:
        if called.by == "travel" or loaded:
            fields = (*called.reads, *called.channels.values(), called.time_field, called.travel_field)
            found |= {paths.pattern_of(paths.at(called.key, 0, field)) for field in fields if field}
    return found


def decided(path: str, method: Method | None = None) -> bool:
    """Whether a field is the technician's own judgement.

    >>> decided("remarks"), decided("trials[0].mass_wet_g")
    (True, False)
    """
    field = paths.field_name(path)
    return field.endswith(DECIDED) or (method is not None and field in method.practice.decides)


def shown_at(method: Method, school: School, seed: int, record: RecordPart, path: str, trial: Trial) -> Any:
    """What the apparatus shows at a path: by what the person chose where that counts, else as `virtual` has it."""
    own = method.practice.answers(seed, school, record, path)
    return paths.reading_at(trial.record, path) if own is None else own


def answers(
    method: Method, school: School, seed: int, record: RecordPart, wants: tuple[str, ...]
) -> tuple[Answer, ...]:
    """What the virtual soil of that seed answers for the fields that are wanted now.

    Called readings have no answer here: they are read off the dials while the plunger goes in.
    """
    trial = method.virtual(seed, school, None)
    called = read_by_calls(method, school, record)
    found = []
    for path in wants:
        field = paths.field_of(method.Record, path)
        if field is None or decided(path, method) or paths.pattern_of(path) in called:
            continue
        value = shown_at(method, school, seed, record, path, trial)
        if value is None or isinstance(value, datetime):
            continue
        found.append(Answer(path, field.title or path, _as_shown(value), unit_of(paths.field_name(path))))
    return tuple(found)


def _as_shown(value: Any) -> str:
    """The text that stands on the apparatus: long figures to two decimals."""
    if not isinstance(value, float):
        return str(value)
    text = f"{value:.6g}"
    return text if len(text.replace(".", "")) <= 5 or value == round(value) else f"{value:.2f}"


def compared(method: Method, school: School, seed: int, outcome: Outcome) -> tuple[Compared, ...]:
    """Each true parameter beside the one that was found."""
    trial = method.virtual(seed, school, None)
    rows = []
    for key, truth in trial.truth.items():
        value = outcome.value(key)
        sample = method.outcome(trial.record, school).value(key)
        name, unit = (sample.name, sample.unit) if sample else (key, "")
        found = value.value if value else None
        rows.append(
            Compared(key, name, unit, truth, found, trial.tolerance[key], value.reported if value else "not reached")
        )
    return tuple(rows)


def truth_series(method: Method, school: School, seed: int, record: RecordPart) -> dict[str, Table]:
    """The hidden soil's own curve, where a method has one to show beside the readings."""
    rows = method.practice.truth(seed, school, method.read(record, school).facts)
    return {"truth": rows} if rows else {}


def mistakes(method: Method, school: School, seed: int, record: RecordPart, outcome: Outcome) -> tuple[Mistake, ...]:
    """The mistakes that show: rules that did not hold, readings that differ from what was shown, and what only the
    truth tells."""
    told = [v for v in outcome.verdicts if v.rule not in method.practice.told_by_truth]
    found = [Mistake(v.rule, v.found, v.remedy) for v in told if v.level in ("stop", "redo")]
    found += [Mistake(v.rule, v.found, v.remedy) for v in told if v.level == "watch"]
    found += _misread(method, school, seed, record)
    found += method.practice.seen(seed, school, method.read(record, school).facts)
    return tuple(found)


def _misread(method: Method, school: School, seed: int, record: RecordPart) -> list[Mistake]:
    """Numbers that were written otherwise than they were shown."""
    trial = method.virtual(seed, school, None)
    found = []
    called = read_by_calls(method, school, record)
    for path, value in paths.readings_of(record):
        if not isinstance(value, int | float) or decided(path, method) or paths.pattern_of(path) in called:
            continue
        answer = shown_at(method, school, seed, record, path, trial)
        field = paths.field_of(method.Record, path)
        if not isinstance(answer, int | float):
            continue
        # A figure may be written to all its digits or as it was shown.
        if min(abs(answer - value), abs(float(_as_shown(answer)) - value)) > READ_APART:
            row = paths.parse(path).row
            where = "" if row is None else f" {row + 1}"
            title = f"{field.title if field else path}{where}"
            found.append(
                Mistake("misread", f"{title}: {plain(value, 6)} written, {plain(answer, 6)} shown", "Read it twice.")
            )
    return found
