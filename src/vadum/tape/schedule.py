"""The tests that a job asks for: put on its schedule, pasted from a sheet, withdrawn with a reason; owed and done."""

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from datetime import date
from functools import lru_cache
from typing import Any, NamedTuple

from sqlalchemy import select
from sqlmodel import Session, col

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.method import Method
from vadum.soil.register import METHODS, method
from vadum.tape.find import plain_words
from vadum.tape.ground import Place
from vadum.tape.pasted_list import Line, Listed, day_of, partings
from vadum.tape.runs import STATES
from vadum.tape.tables import Job, Owed, Person, Run, Sample, Spot

FOR_REPEATS = 1.5  # of the least soil of a test: one of them may have to be made again
MOST_REASON = 200


class Cell(NamedTuple):
    """One test of one sample: what was asked for, and the runs that were begun."""

    owed: Owed | None
    runs: tuple[Run, ...]

    @property
    def state(self) -> str:
        """nothing, owed, withdrawn, running or done."""
        if self.runs:
            return "done" if any(r.state in ("signed", "checked") for r in self.runs) else "running"
        if self.owed is None:
            return "nothing"
        return "withdrawn" if self.owed.withdrawn_because else "owed"


class Soil(NamedTuple):
    """What the tests asked of a sample take, beside what came in, both in g."""

    wanted_g: float
    received_g: float | None

    @property
    def short_g(self) -> float:
        """What is missing, 0 where it suffices or nothing is known of it."""
        return max(0.0, self.wanted_g - self.received_g) if self.received_g is not None else 0.0


def _begun() -> Any:
    """The runs that stand for a test on the schedule: whatever was begun and not set aside."""
    return select(col(Run.id)).where(
        col(Run.sample_id) == col(Owed.sample_id),
        col(Run.method) == col(Owed.method),
        col(Run.state).in_(STATES),
    )


def owed(session: Session, job_id: int | None = None, most: int = 50) -> list[tuple[Owed, Place]]:
    """Tests on the schedule that no run has begun and nobody has withdrawn, soonest first."""
    query = (
        select(Owed, Sample, Spot, Job)
        .join(Sample, col(Owed.sample_id) == col(Sample.id))
        .join(Spot, col(Sample.spot_id) == col(Spot.id))
        .join(Job, col(Spot.job_id) == col(Job.id))
        .where(~_begun().exists(), col(Owed.withdrawn_because) == "", col(Job.closed_at).is_(None))
        .order_by(col(Owed.due_on), col(Owed.id))
        .limit(most)
    )
    if job_id is not None:
        query = query.where(col(Job.id) == job_id)
    return [(row[0], Place(row[1], row[2], row[3])) for row in session.execute(query)]


def on_sample(session: Session, sample_id: int, method_name: str) -> Owed | None:
    """What the schedule says of one test of one sample."""
    query = select(Owed).where(col(Owed.sample_id) == sample_id, col(Owed.method) == method_name)
    return session.execute(query.order_by(col(Owed.id))).scalars().first()


def ask(session: Session, sample: Sample, method_name: str, due_on: date, wanted_g: float | None = None) -> Owed:
    """Put a test on the schedule, or change its day; what was withdrawn is asked for again. Raises UnknownName."""
    its = method(method_name)
    row = on_sample(session, sample.id or 0, its.name)
    row = row or Owed(sample_id=sample.id or 0, method=its.name, due_on=due_on)
    for name, value in asked_by(due_on).items():
        setattr(row, name, value)
    if wanted_g is not None:
        row.wanted_g = wanted_g
    session.add(row)
    session.flush()
    return row


def asked_by(due_on: date) -> dict[str, Any]:
    """What the schedule says of a test that is asked for by a day: whether it was withdrawn before counts no more."""
    return {"due_on": due_on, "withdrawn_because": "", "withdrawn_by": ""}


def asked_of(session: Session, sample_ids: list[int]) -> dict[tuple[int, str], Owed]:
    """What the schedule says of every test of these samples, by sample and method."""
    query = select(Owed).where(col(Owed.sample_id).in_(sample_ids)).order_by(col(Owed.id).desc())
    return {(row.sample_id, row.method): row for row in session.execute(query).scalars()}


def withdraw(session: Session, row: Owed, by: Person, reason: str) -> None:
    """Take a test off the schedule, with a reason that stays there; raises FieldError."""
    if not reason.strip():
        raise FieldError("reason", "say why the test is withdrawn")
    if len(reason.strip()) > MOST_REASON:
        raise FieldError("reason", f"is longer than {MOST_REASON} characters")
    row.withdrawn_because, row.withdrawn_by = reason.strip(), by.initials
    session.add(row)
    session.flush()


def grid(session: Session, places: list[Place]) -> dict[tuple[int, str], Cell]:
    """Every test of these samples that is asked for or begun, by sample and method."""
    ids = [p.sample.id for p in places]
    asked = asked_of(session, [i or 0 for i in ids])
    begun: dict[tuple[int, str], list[Run]] = {}
    query = select(Run).where(col(Run.sample_id).in_(ids), col(Run.state).in_(STATES))
    for run in session.execute(query.order_by(col(Run.id))).scalars():
        begun.setdefault((run.sample_id, run.method), []).append(run)
    return {key: Cell(asked.get(key), tuple(begun.get(key, ()))) for key in {*asked, *begun}}


def soil_asked(sample: Sample, cells: Iterable[Cell]) -> Soil:
    """The soil that the tests of a sample take, those that are withdrawn aside, beside what came in."""
    wanted = 0.0
    for cell in cells:
        if cell.owed is None or cell.state == "withdrawn":
            continue
        least = METHODS[cell.owed.method].least_soil_g if cell.owed.method in METHODS else 0.0
        wanted += cell.owed.wanted_g if cell.owed.wanted_g is not None else FOR_REPEATS * least
    return Soil(wanted, sample.mass_g)


MARKED = ("x", "1", "yes", "✓", "y")
UNMARKED = ("-", "0", "no", "n")


@lru_cache(maxsize=1000)
def _method_called(text: str) -> Method | None:
    """The method that a word of a pasted sheet means: its code, its name or the beginning of its title."""
    asked = plain_words(text)
    if not asked:
        return None
    for its in METHODS.values():
        if asked in (its.code.lower(), plain_words(its.name), plain_words(its.title)):
            return its
    near = [m for m in METHODS.values() if plain_words(m.title).startswith(asked)]
    return near[0] if len(near) == 1 else None


class SamplesByName:
    """The samples of a job by all that a pasted sheet may call them: `TP4 T1`, `TP4 1.6 T1`, or a sample's own code
    where only one has it."""

    def __init__(self, places: Sequence[Place]) -> None:
        told = {f"{p.spot.code} {p.sample.code}": p for p in places} | {p.words: p for p in places}
        own = Counter(plain_words(p.sample.code) for p in places)
        # The surer name is put in last and so stands over the others.
        self._called = {name: p for p in places if own[name := plain_words(p.sample.code)] == 1}
        for plainly in (plain_words, lambda words: plain_words(words).replace(" m ", " ")):
            self._called |= {plainly(words): p for words, p in reversed(told.items())}

    def called(self, text: str) -> Place | None:
        """The sample of that name."""
        return self._called.get(plain_words(text))


def line_means(samples: SamplesByName, values: dict[str, str]) -> tuple[Place, Method]:
    """The sample and the test that a line names; raises FieldError."""
    where, asked = values["sample"], values["test"]
    place = samples.called(where)
    if place is None:
        raise FieldError("sample", f"{where[:30]!r} is not a sample of this job, or matches more than one")
    its = _method_called(asked)
    if its is None:
        raise FieldError("test", f"Test not recognised: {asked[:30]!r}")
    return place, its


def read_grid(text: str, samples: SamplesByName) -> Listed | None:
    """A grid with the tests on top and an x, or a day, where one is asked for; None where the text is no such grid."""
    for rows in partings(text, 40):
        corner, *heads = rows[0][1]
        named = bool(heads) and all(_method_called(head) for head in heads)
        if len(rows) > 1 and named and samples.called(corner) is None:
            return Listed((), tuple(_grid_lines(rows)))
    return None


def _grid_lines(rows: list[tuple[int, tuple[str, ...]]]) -> Iterator[Line]:
    heads = rows[0][1][1:]
    for number, cells in rows[1:]:
        for head, cell in zip(heads, cells[1:], strict=False):
            if not cell or cell.lower() in UNMARKED:
                continue
            values = {"sample": cells[0], "test": head}
            try:
                day = {} if cell.lower() in MARKED else {"due_on": day_of(cell).isoformat()}
                yield Line(number, values | day)
            except ValueError as error:
                yield Line(number, values, f"{head}: {error}")


def take_back(session: Session, row: Owed, former_due_on: date | None, by: Person, reason: str) -> None:
    """Undo that a test was asked for: its former day where it had one; withdrawn again where a reason is given."""
    if former_due_on is not None:
        row.due_on = former_due_on
    if reason:
        withdraw(session, row, by, reason)
    session.add(row)
    session.flush()
