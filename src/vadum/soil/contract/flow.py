"""A flow of work led from its first task to its last: the one next action, what is missing, what does not hold."""

from datetime import datetime
from typing import Any

from vadum.soil.contract.outcome import Advice, Missing, Outcome
from vadum.soil.contract.task import Asks, Says, Task, says
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
