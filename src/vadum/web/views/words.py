"""Every sentence that the program can say of a method, gathered from its tables, to be read through by a person."""

from collections.abc import Iterator
from functools import cache
from typing import Any, NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.method import Method
from vadum.soil.contract.outcome import Outcome
from vadum.soil.register import METHODS


class Said(NamedTuple):
    """Where something is said, and the sentence."""

    where: str
    text: str


class Part(NamedTuple):
    """Sentences of one kind."""

    title: str
    said: tuple[Said, ...]


def _unique(found: Iterator[Said]) -> tuple[Said, ...]:
    return tuple(dict.fromkeys(one for one in found if one.text))


def _flow(its: Method) -> Iterator[Said]:
    for task in its.flow:
        yield from (Said(task.title, text) for text in (task.title, task.does))
        for name in ("asks", "how", "before", "waiting", "begin"):
            said = getattr(task, name, "")
            if isinstance(said, str) and said:
                said = said.replace("{}", "14:05")
                yield Said(task.title, said)


def _cautions(its: Method) -> Iterator[Said]:
    for task in its.flow:
        yield from (Said(task.title, caution) for caution in task.cautions)


def _fields(its: Method) -> Iterator[Said]:
    parts: list[tuple[str, type[RecordPart]]] = [("", its.Record)]
    while parts:
        where, part = parts.pop(0)
        for name, field in part.model_fields.items():
            yield Said(where or "of the run", field.title or "")
            rows = paths.rows_model(part, name)
            if rows is not None:
                parts.append((its.rows.get(name, name), rows))
    for said in its.hints.values():
        yield Said("hint at a field", said)


def _read(its: Method) -> Iterator[tuple[str, Outcome]]:
    """The method's outcomes over its made-up soils: clean, and with each mistake that can be made."""
    school = its.school()
    for mistake in (None, *its.mistakes):
        trial = its.virtual(3, school, mistake)
        outcome = its.read(trial.record, school).outcome
        yield mistake or "", outcome
    for count in range(1, 4):
        yield "", its.read(_half(its, school, count), school).outcome


def _half(its: Method, school: Any, share: int) -> Any:
    """A record that is only begun: a part of its readings."""
    whole = its.virtual(3, school, None).record
    kept = {name: getattr(whole, name) for name in list(type(whole).model_fields)[:: share + 1]}
    return its.Record.model_validate({name: value for name, value in kept.items() if value is not None})


def _verdicts(its: Method) -> Iterator[Said]:
    for _, outcome in _read(its):
        for v in outcome.verdicts:
            yield Said(v.level, f"{v.rule}: {v.found} ({v.limit}). {v.remedy}".strip())
    for name, words in its.mistakes.items():
        yield Said("a mistake that can be practised", f"{name.replace('_', ' ')}: {words}")


def _results(its: Method) -> Iterator[Said]:
    for _, outcome in _read(its):
        yield from (Said("a value", v.name) for v in outcome.values)
        yield from (Said("what it holds", v.uncertainty_holds) for v in outcome.values)
        yield from (Said("still missing", f"{m.name}: {m.waits_for}") for m in outcome.missing)
        yield from (Said("a note of the working", line.note) for line in outcome.working)


def _schools(its: Method) -> Iterator[Said]:
    for school in its.schools.values():
        yield Said(school.title, school.about)
    yield Said("limits of use", its.limits_of_use)


@cache
def words_of(name: str) -> tuple[Part, ...]:
    """The sentences of a method, by kind."""
    its = METHODS[name]
    kinds = (
        ("What the steps say", _flow),
        ("Cautions, each at its step", _cautions),
        ("What the fields are called", _fields),
        ("What the rules find, and what to do", _verdicts),
        ("Results, and what is still missing", _results),
        ("Schools, and limits of use", _schools),
    )
    return tuple(Part(title, _unique(gather(its))) for title, gather in kinds)
