"""Readings that no one should be able to hurt the program with, and where a method can be given them."""

import itertools
import random
from collections.abc import Iterator
from typing import Any, get_args

from vadum.soil.contract.fields import RecordPart, kind_of
from vadum.soil.contract.method import Method, School

NUMBERS = (
    "0",
    "-1",
    "nan",
    "1e-300",
    "-1e-12",
    "123456789012345678",
    "1e15",
    "9e99",
    "-1e300",
    "999999",
    "0.000001",
    "100",
    "-100",
    "1e4",
)
COUNTS = ("0", "-1", "1", "123456789012", "1000000", "10000")
MOMENTS = (
    "0001-01-01T00:00:00+14:00",
    "9999-12-31T23:59:59-12:00",
    "1950-01-01T00:00",
    "2199-12-31T23:59:59+00:00",
    "1969-12-31T23:59:59Z",
)
DAYS = ("0001-01-01", "9999-12-31", "1950-01-01", "2199-12-31")
TEXTS = (
    "Test-pit wall is wet",
    "2026-13-45T99:99:99",
    "=1+1",
    "<script>alert(1)</script>",
    "{{ 7 * 7 }}",
    "\u202e\u0301 rtl",
    "x" * 400,
    "nan",
    "1e999",
    "-",
    "0 0; 0 0; 1e9 -1; nan nan",
    "0 0; 100 1e300",
    "5 5",
)
BY_KIND = {"number": NUMBERS, "count": COUNTS, "moment": MOMENTS, "day": DAYS, "text": TEXTS}
Poison = tuple[str, str]  # path, what is typed


def _fields(record: type[RecordPart], rows: dict[str, int], way: str = "") -> Iterator[tuple[str, Any]]:
    for name, field in record.model_fields.items():
        if field.default == ():
            row: type[RecordPart] = get_args(field.annotation)[0]
            for index in sorted({0, max(0, rows.get(name, 1) - 1)}):
                yield from _fields(row, {}, f"{way}{name}[{index}].")
        else:
            yield f"{way}{name}", field


def all_poisons(its: Method, rows: dict[str, int]) -> list[Poison]:
    """Every poison for every field of a method, for the first and the last of so many rows."""
    found = []
    for path, field in _fields(its.Record, rows):
        kind, options = kind_of(field)
        found += [(path, typed) for typed in (*BY_KIND.get(kind, ()), *options)]
    return found


def every_school() -> list[tuple[Method, School]]:
    """All methods with all their schools."""
    from vadum.soil.register import METHODS

    return list(itertools.chain.from_iterable(((m, s) for s in m.schools.values()) for m in METHODS.values()))


def sampled(poisons: list[Poison], most: int, seed: int) -> list[Poison]:
    """So many of them, the same for the same seed."""
    return random.Random(seed).sample(poisons, min(most, len(poisons)))
