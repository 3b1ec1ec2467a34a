"""The first day of a laboratory: what has to be there before the first reading, and what is."""

from typing import Any, NamedTuple

from sqlalchemy import func, select
from sqlmodel import Session, col

from vadum.tape.ground import PRACTICE_JOB
from vadum.tape.identity import PREFIX
from vadum.tape.tables import Job, KitItem, LaboratorySetting, Person, Run, Sample


class FirstStep(NamedTuple):
    """One thing to be there: in what words, where it is made, and whether it is."""

    words: str
    why: str
    go: str
    done: bool


def _some(session: Session, query: Any) -> bool:
    return session.execute(query.limit(1)).first() is not None


def first_steps(session: Session) -> list[FirstStep]:
    """The steps of the first day, in their order."""
    many = session.execute(select(func.count()).select_from(Person)).scalar_one()
    named = session.get(LaboratorySetting, PREFIX + "name") is not None
    job = select(col(Job.id)).where(col(Job.code) != PRACTICE_JOB)
    sample = select(col(Sample.id)).where(col(Sample.kind) != "tub")

    def kit(kind: str) -> bool:
        return _some(session, select(col(KitItem.id)).where(col(KitItem.kind) == kind))

    return [
        FirstStep(
            "Say who the laboratory is", "name, address and clocks: they stand on every sheet", "/laboratory", named
        ),
        FirstStep("Add the people", "a second pair of eyes checks each sheet", "/people", many > 1),
        FirstStep("Register a balance", "its step goes onto each weighing", "/kit?new=balance", kit("balance")),
        FirstStep("Register the tins", "paste a table of numbers and masses", "/kit/tins", kit("tin")),
        FirstStep("Make a job", "a site, with its spots and samples", "/ground?new=", _some(session, job)),
        FirstStep("Take in a sample", "from a spot of the job", "/ground", _some(session, sample)),
        FirstStep("Start a run", "the bench says what to do from there", "/start", _some(session, _real_runs())),
    ]


def _real_runs() -> Any:
    return select(col(Run.id)).where(col(Run.number) > 0)


def is_new(steps: list[FirstStep]) -> bool:
    """Whether the laboratory is still at its first day: no run was ever begun."""
    return not steps[-1].done
