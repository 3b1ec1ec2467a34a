"""What a path is: the place of one reading in a record, such as `stages[2].readings[14].force_n`.

No other module takes a path apart. A path without its row, `readings[].force_n`, is a pattern: it names that field of
every row; in a new entry it means the next row.
"""

import re
from collections.abc import Iterator
from functools import lru_cache
from typing import Any, NamedTuple, get_args

from pydantic.fields import FieldInfo

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import RecordPart

NEXT = -1  # the row of `readings[]`: the one after the last
_STEP = re.compile(r"([a-z][a-z0-9_]*)(\[(\d{0,6})\])?")
DEEPEST = 3  # rows of rows of rows: nothing that is measured nests deeper


class Step(NamedTuple):
    """One name on the way, and the row taken of it (None: it is no list, or the list itself is meant)."""

    name: str
    row: int | None = None

    def __str__(self) -> str:
        return self.name if self.row is None else f"{self.name}[{'' if self.row == NEXT else self.row}]"


class Path(NamedTuple):
    """The steps from a record to a place."""

    steps: tuple[Step, ...]

    def __str__(self) -> str:
        return ".".join(map(str, self.steps))

    @property
    def name(self) -> str:
        """The last name: of the field, or of the list."""
        return self.steps[-1].name

    @property
    def rows(self) -> tuple[tuple[str, int], ...]:
        """Each list on the way, as its own path, with the row that is taken of it; outermost first."""
        found = []
        for i, step in enumerate(self.steps):
            if step.row is not None:
                found.append((str(Path((*self.steps[:i], Step(step.name)))), step.row))
        return tuple(found)

    @property
    def row(self) -> int | None:
        """The row of the innermost list on the way; None where there is no list."""
        return next((step.row for step in reversed(self.steps) if step.row is not None), None)

    @property
    def is_row(self) -> bool:
        """Whether it names a whole row."""
        return self.steps[-1].row is not None

    @property
    def parent(self) -> str:
        """The path of the row that holds this field; empty for a field of the record itself."""
        return str(Path(self.steps[:-1])) if len(self.steps) > 1 else ""


@lru_cache(maxsize=20_000)
def parse(text: str) -> Path:
    """The path that a text writes; raises FieldError where it writes none.

    >>> parse("stages[2].readings[14].force_n").rows
    (('stages', 2), ('stages[2].readings', 14))
    """
    steps = []
    for piece in text.split("."):
        match = _STEP.fullmatch(piece)
        if not match:
            raise FieldError(text[:60], "there is no such field")
        row = None if match[2] is None else int(match[3]) if match[3] else NEXT
        steps.append(Step(match[1], row))
    if len(steps) > DEEPEST + 1:
        raise FieldError(text[:60], "there is no such field")
    return Path(tuple(steps))


@lru_cache(maxsize=20_000)
def rows_of(text: str) -> tuple[tuple[str, int], ...]:
    """Each list on the way, with the row that is taken of it: what a long tape is asked for each of its entries.

    >>> rows_of("stages[2].readings[14].force_n")
    (('stages', 2), ('stages[2].readings', 14))
    """
    return parse(text).rows


def field_name(text: str) -> str:
    """The name of the field, without the way to it.

    >>> field_name("trials[2].mass_wet_g"), field_name("remarks")
    ('mass_wet_g', 'remarks')
    """
    return parse(text).name


@lru_cache(maxsize=20_000)
def pattern_of(text: str) -> str:
    """The path with its rows left open.

    >>> pattern_of("stages[2].readings[14].force_n")
    'stages[].readings[].force_n'
    """
    return str(Path(tuple(Step(s.name, None if s.row is None else NEXT) for s in parse(text).steps)))


def at(list_path: str, row: int, field: str = "") -> str:
    """The path of a row, or of a field of it.

    >>> at("stages[1].readings", 4, "force_n"), at("tins", 0)
    ('stages[1].readings[4].force_n', 'tins[0]')
    """
    return f"{list_path}[{row}].{field}" if field else f"{list_path}[{row}]"


def of(row_path: str, field: str) -> str:
    """The path of a field of a row; of the record where the row's path is empty.

    >>> of("tins[0]", "tin"), of("", "tin")
    ('tins[0].tin', 'tin')
    """
    return f"{row_path}.{field}" if row_path else field


def inside(text: str, row_path: str) -> bool:
    """Whether a path is that row's, or one of its fields.

    >>> inside("tins[1].tin", "tins[1]"), inside("tins[10].tin", "tins[1]")
    (True, False)
    """
    return text == row_path or text.startswith(f"{row_path}.")


@lru_cache(maxsize=4096)
def rows_model(record: type[RecordPart], name: str) -> type[RecordPart] | None:
    """What one row of that list holds, a list within a row too; None where the field is no list of rows."""
    if "." in name:
        found_in = holder_of(record, name)
        return rows_model(found_in[0], found_in[1].name) if found_in else None
    field = record.model_fields.get(name)
    if field is None or field.default != ():
        return None
    found = get_args(field.annotation)[0]
    return found if isinstance(found, type) and issubclass(found, RecordPart) else None


def holder_of(record: type[RecordPart], text: str) -> tuple[type[RecordPart], Step] | None:
    """The model that holds the path's last step, and that step; None where the record has no such place."""
    try:
        path = parse(text)
    except FieldError:
        return None
    holder: type[RecordPart] = record
    for step in path.steps[:-1]:
        model = rows_model(holder, step.name)
        if model is None or step.row is None:
            return None
        holder = model
    return (holder, path.steps[-1]) if path.name in holder.model_fields else None


@lru_cache(maxsize=20_000)
def as_named_now(record: type[RecordPart], text: str) -> str:
    """A path as a former version wrote it, by its names of today; empty where nothing takes a name's place any more.

    A name that no version had is left as it is: what reads it says so.
    """
    holder: type[RecordPart] | None = record
    steps = []
    for step in parse(text).steps:
        name = step.name
        if holder is not None and name not in holder.model_fields and name in holder.RETIRED:
            name = holder.RETIRED[name]
        if not name:
            return ""
        steps.append(Step(name, step.row))
        holder = rows_model(holder, name) if holder is not None else None
    return str(Path(tuple(steps)))


def not_a_list(record: type[RecordPart], text: str) -> str:
    """What is wrong with a path that takes a row of a single reading; empty where that is not its fault."""
    try:
        first = parse(text).steps[0]
    except FieldError:
        return ""
    single = first.name in record.model_fields and rows_model(record, first.name) is None and first.row is not None
    return "this is not a list of rows" if single else ""


def field_of(record: type[RecordPart], text: str) -> FieldInfo | None:
    """The field behind a path, or None."""
    found = holder_of(record, text)
    return found[0].model_fields[found[1].name] if found else None


def reading_at(record: RecordPart, text: str) -> Any:
    """The reading at a path of a record; None where there is none, a row or a list where the path names one."""
    part: Any = record
    for step in parse(text).steps:
        part = getattr(part, step.name, None)
        if step.row is not None:
            if not isinstance(part, tuple) or not 0 <= step.row < len(part):
                return None
            part = part[step.row]
        if part is None:
            return None
    return part


def patterns(record: type[RecordPart], prefix: str = "") -> Iterator[tuple[str, FieldInfo]]:
    """Every field of a record as a pattern, rows in rows too, in their order."""
    for name, field in record.model_fields.items():
        model = rows_model(record, name)
        if model is None:
            yield f"{prefix}{name}", field
        else:
            yield from patterns(model, f"{prefix}{name}[].")


def lists(record: type[RecordPart], prefix: str = "") -> Iterator[tuple[str, type[RecordPart]]]:
    """Every list of rows as a pattern, outer before inner, with what a row holds."""
    for name in record.model_fields:
        model = rows_model(record, name)
        if model is not None:
            yield f"{prefix}{name}", model
            yield from lists(model, f"{prefix}{name}[].")


def readings_of(part: RecordPart, prefix: str = "") -> Iterator[tuple[str, Any]]:
    """Every reading that is there, with its path, rows in rows too."""
    for name in type(part).model_fields:
        value = getattr(part, name)
        if isinstance(value, tuple):
            for i, row in enumerate(value):
                yield from readings_of(row, f"{prefix}{name}[{i}].")
        elif value is not None:
            yield f"{prefix}{name}", value


def expanded(record: RecordPart, pattern: str, further: int = 0) -> list[str]:
    """The paths that a pattern means in this record: one for each row there is, and `further` rows beyond the last."""
    found = [""]
    for step in parse(pattern).steps:
        nested = []
        for before in found:
            here = of(before, step.name)
            if step.row is None:
                nested.append(here)
                continue
            rows = reading_at(record, here)
            nested += [at(here, i) for i in range((len(rows) if isinstance(rows, tuple) else 0) + further)]
        found = nested
    return found
