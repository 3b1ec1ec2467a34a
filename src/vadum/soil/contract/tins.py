"""Soil in vessels, as every record tells it: which of its parts name one, and whether a tin is still wet."""

from collections.abc import Iterator
from functools import cache
from typing import Any

from vadum.soil.contract import paths
from vadum.soil.contract.fields import RecordPart

WET, DRY = "mass_wet_g", "mass_dry_g"
WEIGHINGS = "weighings"  # a tin that is weighed dry more than once has a row for each


def naming(record: RecordPart, fields: frozenset[str], prefix: str = "") -> Iterator[tuple[str, RecordPart]]:
    """A record and those of its rows, rows in rows too, that have one of the fields; with the path of each."""
    yield prefix, record
    for name in _lists_with(type(record), fields):
        for i, row in enumerate(getattr(record, name)):
            yield from naming(row, fields, paths.at(inside(prefix, name), i))


@cache
def _lists_with(model: type[RecordPart], fields: frozenset[str]) -> tuple[str, ...]:
    """The lists whose rows, or rows within them, have one: a logger's thousands of readings have none."""
    found = []
    for name in model.model_fields:
        rows = paths.rows_model(model, name)
        if rows is not None and (fields & set(rows.model_fields) or _lists_with(rows, fields)):
            found.append(name)
    return tuple(found)


def inside(prefix: str, name: str) -> str:
    """The path of a field within a part of the record; the record itself has no path."""
    return paths.of(prefix, name) if prefix else name


def is_weighed_wet(part: Any) -> bool:
    """Whether a tin was weighed with its wet soil, and counts."""
    return getattr(part, WET, None) is not None and not getattr(part, "excluded_because", None)


def dry_weighings(part: Any) -> int:
    """How often a tin was weighed dry."""
    rows = getattr(part, WEIGHINGS, None)
    if rows is None:
        return int(getattr(part, DRY, None) is not None)
    return sum(getattr(row, DRY) is not None for row in rows)


def next_dry(part: Any, prefix: str) -> str:
    """The path that the next dry weighing of a tin is written to."""
    if getattr(part, WEIGHINGS, None) is None:
        return inside(prefix, DRY)
    return inside(paths.at(inside(prefix, WEIGHINGS), dry_weighings(part)), DRY)


def is_only_drying(kind: str, path: str) -> bool:
    """Whether what falls due is a tin in the oven: the vessel that the soil came from is free again."""
    return kind == "wait" and paths.field_name(path) == DRY
