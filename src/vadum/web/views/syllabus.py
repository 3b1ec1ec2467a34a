"""Practice as a course: what a person has done of it, the mistakes that showed most often, and what to try next."""

from collections import Counter
from collections.abc import Iterable
from functools import cache
from typing import NamedTuple

from sqlalchemy import select
from sqlmodel import Session, col

from vadum.figures.register import figure
from vadum.figures.theme import svg
from vadum.soil import practice
from vadum.soil.contract.method import Method, Seen
from vadum.soil.contract.shown_units import Style
from vadum.soil.register import METHODS
from vadum.tape import practice_runs
from vadum.tape.entries import Taped
from vadum.tape.fence import BrokenRun, fenced
from vadum.tape.runs import PRACTICE_STATES, Read, Shelf
from vadum.tape.tables import Entry, Person, Run

MOST_LOOKED_AT = 40  # of a person's own practices, the newest
SHOWN_MISTAKES = 4
# What the hands learn, by what calls a method's readings; the order is that of the course.
STAGES = {
    "": "Weigh, dry, judge",
    "clock": "Read when the clock calls",
    "travel": "Call a push, and read it",
    "load": "Hold a load until it rests",
    "depth": "Go down, and read at a depth",
}


class Try(NamedTuple):
    """One practice: the run, what was found beside what was hidden, and the mistakes that showed."""

    run: Run
    compared: tuple[practice.Compared, ...]
    mistakes: tuple[Seen, ...]

    @property
    def finished(self) -> bool:
        """Whether its soil is shown."""
        return self.run.state == "revealed"

    @property
    def found(self) -> bool:
        """Whether the first parameter was found."""
        return bool(self.compared) and self.compared[0].within


class Lesson(NamedTuple):
    """A method of the course with what one has tried of it, newest first."""

    method: Method
    tries: tuple[Try, ...]

    @property
    def state(self) -> str:
        """new, begun, off or found: how far one has come with it."""
        if not self.tries:
            return "new"
        done = [t for t in self.tries if t.finished]
        if not done:
            return "begun"
        return "found" if done[0].found and not done[0].mistakes else "off"


class Stage(NamedTuple):
    """Some lessons that ask the same of the hands."""

    title: str
    lessons: tuple[Lesson, ...]


class Habit(NamedTuple):
    """A mistake that showed more than once, or lately: how often, and what would have been better."""

    name: str
    times: int
    better: str


class Course(NamedTuple):
    """The whole course of a person."""

    stages: tuple[Stage, ...]
    habits: tuple[Habit, ...]
    next: Lesson
    why: str
    done: int
    many: int


@cache
def called_by(name: str) -> str:
    """What calls a method's readings: the clock, a travel, a load or a depth; empty where nothing does."""
    its = METHODS[name]
    school = its.school()
    facts = its.read(its.virtual(1, school, None).record, school).facts
    kinds = [called.by for called in its.called(facts, school)]
    return next((kind for kind in ("load", "travel", "depth", "clock") if kind in kinds), "")


@cache
def drawing(name: str, style: Style) -> str:
    """The picture that a method draws, of a made-up soil, as SVG: by the school that has most to draw."""
    its, picture = METHODS[name], figure(name)
    read = [(school, its.read(its.virtual(7, school, None).record, school).outcome) for school in its.schools.values()]
    school, outcome = max(read, key=lambda one: sum(map(len, picture.data(one[1]).values())))
    return svg(picture, school, outcome, 460, style)


def own_tries(session: Session, shelf: Shelf, me: Person) -> list[Try]:
    """A person's own practices, newest first; one that cannot be read is left out."""
    begun = select(col(Entry.run_id)).where(col(Entry.seq) == 1, col(Entry.by) == me.initials)
    query = select(Run).where(col(Run.state).in_(PRACTICE_STATES), col(Run.id).in_(begun))
    found = []
    for run in session.execute(query.order_by(col(Run.id).desc()).limit(MOST_LOOKED_AT)).scalars():
        try:
            found.append(_tried(shelf.read(session, run)))
        except BrokenRun:
            continue
    return found


def _tried(read: Read) -> Try:
    if read.run.state != "revealed":
        return Try(read.run, (), ())

    def made(entries: tuple[Taped, ...]) -> Try:
        some = read.upto(entries)
        seed = practice_runs.practice_seed(some) or 0
        compared = practice.compared(some.method, some.school, seed, some.outcome)
        seen = practice.mistakes(some.method, some.school, seed, some.folded.record, some.outcome)
        return Try(read.run, tuple(compared), tuple(seen))

    return fenced(read.run, read.entries, "shown", made)


def _habits(tries: Iterable[Try]) -> tuple[Habit, ...]:
    times: Counter[str] = Counter()
    better: dict[str, str] = {}
    for one in tries:
        for mistake in one.mistakes:
            times[mistake.name] += 1
            better.setdefault(mistake.name, mistake.better)
    return tuple(Habit(name, many, better[name]) for name, many in times.most_common(SHOWN_MISTAKES))


def course(session: Session, shelf: Shelf, me: Person) -> Course:
    """The course as it stands for a person."""
    tries = own_tries(session, shelf, me)
    lessons = [Lesson(its, tuple(t for t in tries if t.run.method == its.name)) for its in METHODS.values()]
    stages = tuple(
        Stage(title, tuple(one for one in lessons if called_by(one.method.name) == kind))
        for kind, title in STAGES.items()
    )
    ordered = [lesson for stage in stages for lesson in stage.lessons]
    following, why = _next(ordered)
    done = sum(lesson.state == "found" for lesson in ordered)
    return Course(tuple(s for s in stages if s.lessons), _habits(tries), following, why, done, len(ordered))


def _next(ordered: list[Lesson]) -> tuple[Lesson, str]:
    """What to try next: what is begun, then what went wrong, then the first that is new."""
    reasons = {
        "begun": "it is begun: finish it and see the soil",
        "off": "the last one was off: the same again, with what showed in mind",
        "new": "not tried yet",
        "found": "all of the course is found: this one was longest ago",
    }
    for state in ("begun", "off", "new"):
        lesson = next((one for one in ordered if one.state == state), None)
        if lesson is not None:
            return lesson, reasons[state]
    oldest = min(ordered, key=lambda one: one.tries[0].run.id or 0)
    return oldest, reasons["found"]
