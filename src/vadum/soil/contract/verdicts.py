"""Verdicts in one line each: a rule that held, or what to do because it did not."""

import math
from collections.abc import Callable, Iterable, Iterator
from functools import cache
from typing import Any

from vadum.soil.contract.fields import RecordPart, known, unit_of
from vadum.soil.contract.outcome import Level, Verdict

SINGLE = "a reading is a number that can be"


def ruling(
    rule: str,
    held: bool,
    found: str,
    limit: str,
    source: str,
    remedy: str,
    at: tuple[str, ...] = (),
    *,
    otherwise: Level = "redo",
    affects: tuple[str, ...] = (),
) -> Verdict:
    """*Fine* when the rule held, else `otherwise` with its remedy."""
    return Verdict(
        rule=rule,
        level="fine" if held else otherwise,
        found=found,
        limit=limit,
        source=source,
        remedy="" if held else remedy,
        at=at,
        affects=affects,
    )


def possible(
    readings: Iterable[tuple[str, str, float | int | None]],
    *,
    low: float = 0.0,
    high: float = float("inf"),
    strictly: bool = False,
    unit: str = "",
    affects: tuple[str, ...] = (),
) -> Iterator[Verdict]:
    """A stop for each reading (path, words, value) that lies outside what can be; nothing for those that can."""
    for path, words, value in readings:
        if value is None:
            continue
        if known(value) and (low < value if strictly else low <= value) and value <= high:
            continue
        top = "" if high == float("inf") else f", at most {high:g}"
        found = f"{words} reads {value:g} {unit}".rstrip()
        yield Verdict(
            rule=SINGLE,
            level="stop",
            found=found,
            limit=f"{'above' if strictly else 'from'} {low:g}{top}{' ' + unit if unit else ''}",
            source="physics",
            remedy=f"Look again and strike it: {found}.",
            at=(path,),
            affects=affects,
        )


def single_readings(record: RecordPart, row_words: Callable[[str], str]) -> Iterator[Verdict]:
    """A stop for each reading that lies outside what its own field says it may be; rows that were left out are passed
    over. `row_words` says a row by its path."""
    yield from _of_part(record, "", row_words)


def _of_part(part: RecordPart, prefix: str, row_words: Callable[[str], str]) -> Iterator[Verdict]:
    values = part.__dict__
    for name, title, low, high, strictly, affects in _bounded(type(part)):
        value = values[name]
        # Thousands of rows of a series pass here: words are made for the rare one alone.
        if value is None or ((low < value if strictly else low <= value) and value <= high and value != math.inf):
            continue
        path = f"{prefix}{name}"
        row = row_words(path)
        words = f"{row}: {title}" if row else title
        yield from possible(
            [(path, words, value)], low=low, high=high, strictly=strictly, unit=unit_of(name), affects=affects
        )
    for name in _lists(type(part)):
        for i, row_part in enumerate(values[name]):
            if not row_part.__dict__.get("excluded_because"):
                yield from _of_part(row_part, f"{prefix}{name}[{i}].", row_words)


def without_zero_divisors(part: RecordPart) -> RecordPart:
    """The record without the readings of zero or less that must be more: sizes, masses and volumes that something is
    divided by. Each is stopped by `single_readings`; never raises."""
    out: dict[str, Any] = {
        name: None
        for name, _, low, _, strictly, _ in _bounded(type(part))
        if (value := part.__dict__[name]) is not None and value <= 0 and (low > 0 or (strictly and value <= low))
    }
    for name in _lists(type(part)):
        rows = part.__dict__[name]
        sound = tuple(without_zero_divisors(row) for row in rows)
        if any(one is not row for one, row in zip(sound, rows, strict=True)):
            out[name] = sound
    return part.model_copy(update=out) if out else part


@cache
def _bounded(model: type[RecordPart]) -> tuple[tuple[str, str, float, float, bool, tuple[str, ...]], ...]:
    found = []
    for name, field in model.model_fields.items():
        extra: Any = field.json_schema_extra
        if isinstance(extra, dict) and "may_be" in extra:
            found.append((name, field.title or name, *extra["may_be"], tuple(extra["affects"])))
    return tuple(found)


@cache
def _lists(model: type[RecordPart]) -> tuple[str, ...]:
    return tuple(name for name, field in model.model_fields.items() if field.default == ())
