"""A flow of work led from its first task to its last: the one next action, what is missing, what does not hold."""

from collections.abc import Iterator
from datetime import datetime
from typing import Any, NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.outcome import Advice, Missing, Outcome
from vadum.soil.contract.task import Asks, Rows, Says, Task, says, still_open
from vadum.soil.contract.waits import Oven


def fault(outcome: Outcome, wants: tuple[str, ...] = ()) -> Advice | None:
    """What to do about the gravest stop or redo; None when every rule holds well enough to sign."""
    found = next((v for v in outcome.verdicts if v.level in ("stop", "redo")), None)
    return Advice(headline=found.remedy or found.found, detail=found.found, wants=wants) if found else None


def done(detail: str, wants: tuple[str, ...] = ()) -> Advice:
    """Finished; the sheet can be signed."""
    return Advice(headline="Done. The sheet can be signed.", detail=detail, wants=wants, finished=True)


Flow = tuple[Task, ...]


def missing(flow: Flow, facts: Any, school: Any) -> tuple[Missing, ...]:
    """What every value still waits for."""
    return tuple(m for task in flow if task.applies(school) for m in task.missing(facts, school))


class Group(NamedTuple):
    """Readings that belong to one piece of work, in the order in which they are taken."""

    task: Task
    paths: tuple[str, ...]


def step_of(flow: Flow, path: str, school: Any) -> Task | None:
    """The step of the column that a reading belongs to; None for one that no step names."""
    pattern = paths.pattern_of(path)
    return next((t for t in flow if t.in_column and pattern in t.fields and t.applies(school)), None)


def required(flow: Flow, facts: Any, school: Any, wants: tuple[str, ...]) -> frozenset[str]:
    """Those of the wanted readings that some piece of work cannot do without."""
    found: set[str] = set()
    beside: set[str] = set()
    for task in flow:
        if not task.applies(school) or task.optional:
            continue
        if isinstance(task, Rows):
            reads = set(task.of_a_row(facts))
            found |= {w for w in wants if paths.field_name(w) in reads and w.startswith(f"{task.rows}[")}
        else:
            found |= set(wants).intersection(task.wanted(facts, school))
        beside |= set(wants).intersection(task.beside(facts, school))
    if found:
        return frozenset(found)
    # Advice that is thought names what it needs first, and may name what it can do without behind it; how a series ends
    # is a decision, never owed.
    owed = (w for w in wants if w not in beside and not paths.field_name(w).endswith(("stopped", "ended")))
    return frozenset(list(owed)[:1])


def ahead(flow: Flow, facts: Any, school: Any, wants: tuple[str, ...], most: int = 24) -> tuple[Group, ...]:
    """What will be asked after these readings, as far as the declared order alone says it.

    It ends where the next reading depends on a value, a clock or a call, and after `most` readings.
    """
    if not wants:
        return ()
    found: list[Group] = []
    many = 0
    for group in _following(flow, facts, school, wants):
        many += len(group.paths)
        if many > most:
            break
        found.append(group)
    return tuple(found)


def _following(flow: Flow, facts: Any, school: Any, wants: tuple[str, ...]) -> Iterator[Group]:
    here = next((i for i, task in enumerate(flow) if _asks_for(task, facts, school, wants)), None)
    if here is None:
        return
    task = flow[here]
    if isinstance(task, Rows):
        place = next((p for p in map(paths.parse, wants) if p.rows), None)
        row = place.rows[-1][1] if place is not None else 0
        for later in range(row + 1, task.least(facts, school)):
            yield Group(task, tuple(paths.at(task.rows, later, f) for f in task.of_a_row(facts)))
    elif type(task) is not Task:
        return  # what follows advice that is thought, a wait or a call, depends on what is read
    for task in flow[here + 1 :]:
        if not task.applies(school) or task.optional or task.done(facts, school):
            continue
        if type(task) is Rows:
            for row in range(len(paths.reading_at(facts.record, task.rows) or ()), task.least(facts, school)):
                yield Group(task, tuple(paths.at(task.rows, row, f) for f in task.of_a_row(facts)))
        elif type(task) is Task:
            asked = task.in_order(still_open(facts.record, *task.wanted(facts, school)), facts, school)
            if asked:
                yield Group(task, tuple(p for p in asked if p not in wants))
        else:
            return


def _asks_for(task: Task, facts: Any, school: Any, wants: tuple[str, ...]) -> bool:
    """Whether these readings are what that task asks for: several tasks may name one field."""
    if not task.applies(school) or task.optional:
        return False
    if isinstance(task, Rows):
        return any(p.rows and p.rows[-1][0] == task.rows for p in map(paths.parse, wants))
    return bool(set(wants) & set(task.wanted(facts, school))) or paths.pattern_of(wants[0]) in task.fields


def _with_aside(main: Advice, aside: Advice | None, now: datetime) -> Advice:
    """What is next, with what dries beside it: of two waits the one that asks first leads."""
    if aside is None or not aside.due:
        return main

    def at(advice: Advice) -> datetime:
        return next((d.at for d in advice.due if d.at), now)

    waits = bool(main.due and main.due[0].at) and main.due[0].kind == "wait"
    leading = aside if waits and at(aside) < at(main) else main
    return leading.model_copy(update={"due": (*main.due, *aside.due)})


def advise(flow: Flow, facts: Any, school: Any, outcome: Outcome, now: datetime, finish: Says = "") -> Advice:
    """The one next action: the first task that asks for something; what does not hold; the optional rest; done.

    It never says that it is done while a rule does not hold: it names the worst one and what to do.
    """
    optional: list[Task] = []
    aside: Advice | None = None
    for task in flow:
        if not task.applies(school) or not task.due_now(facts, school):
            continue
        if task.optional:
            optional.append(task)
            continue
        asks = isinstance(task, Asks)
        made = task.think(facts, school, outcome, now) if asks else task.advice(facts, school, now)  # type: ignore[attr-defined]
        if made is not None and isinstance(task, Oven) and task.runs_beside:
            aside = made
        elif made is not None:
            return _with_aside(made, aside, now)
    wrong = aside or fault(outcome)
    if wrong is not None:
        return wrong
    for task in optional:
        made = task.advice(facts, school, now)
        if made is not None:
            return made.model_copy(update={"finished": True, "due": ()})
    return done(says(finish, facts, school) or "Every rule holds.")
