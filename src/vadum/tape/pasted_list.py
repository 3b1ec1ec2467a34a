"""A list that came from a sheet or a mail, taken apart the same way whatever it lists.

Tab, semicolon, bar, comma or spaces separate; both decimal signs are read; a first line of heads names the columns and
their units. What cannot be read is said at its line, so that nothing is made before a person has seen all of it.
"""

import re
from collections.abc import Mapping, Sequence
from datetime import date
from typing import NamedTuple

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.fields import plain_number
from vadum.soil.contract.head_units import Conversion, conversion
from vadum.tape.find import plain_words
from vadum.tape.typed_table import TableError, cells_of, lines_of

MOST_LINES = 500
STRONG = ("\t", ";", "|")
_BRACKETS = re.compile(r"[(\[].*?[)\]]|,.*$")


class Column(NamedTuple):
    """A column that a list may have: what it is called, words of foreign heads for it, its unit, and what it holds."""

    key: str
    label: str
    words: tuple[str, ...] = ()
    unit: str = ""
    kind: str = "text"
    required: bool = False


class Line(NamedTuple):
    """One line as it was read: its number, its cells by column, and why it cannot be taken; empty where it can."""

    number: int
    values: dict[str, str]
    problem: str = ""


class Listed(NamedTuple):
    """A list that was read: the columns found, in their order, with how their figures are converted; its lines; heads
    that name no column, which are shown and not read."""

    columns: tuple[tuple[Column, Conversion], ...]
    lines: tuple[Line, ...]
    unused: tuple[str, ...] = ()

    @property
    def problems(self) -> tuple[Line, ...]:
        """The lines that cannot be taken."""
        return tuple(line for line in self.lines if line.problem)

    @property
    def asks(self) -> tuple[tuple[Column, str], ...]:
        """The columns whose unit has to be asked for, each with the question."""
        return tuple((c, how.asks) for c, how in self.columns if c.kind == "number" and how.asks)

    def refuse(self) -> None:
        """Raise FieldError with the first of what cannot be taken, its line named."""
        for column, question in self.asks:
            raise FieldError("pasted", f"{column.label}: {question}")
        for line in self.problems:
            raise FieldError("pasted", f"line {line.number}: {line.problem}")


def day_of(text: str) -> date:
    """A day as 2026-05-19 or 19.05.2026; raises ValueError."""
    for pattern, order in ((r"(\d{4})-(\d\d?)-(\d\d?)", (0, 1, 2)), (r"(\d\d?)\.(\d\d?)\.(\d{4})", (2, 1, 0))):
        found = re.fullmatch(pattern, text.strip())
        if found:
            parts = [int(found.group(i + 1)) for i in order]
            try:
                return date(*parts)
            except ValueError:
                break
    raise ValueError(f"{text[:20]!r} is not a day such as 2026-05-19")


def _column_called(columns: Sequence[Column], head: str) -> Column | None:
    """The column that a head names, with or without its unit."""
    bare, whole = plain_words(_BRACKETS.sub("", head)), plain_words(head)
    for column in columns:
        known = {plain_words(w) for w in (column.key, column.label, *column.words)}
        if bare in known or whole in known:
            return column
        *words, last = whole.split() or [""]
        if column.unit and " ".join(words) in known and not conversion(last, column.unit).asks:
            return column  # "mass kg"
    return None


def _heads(columns: Sequence[Column], cells: Sequence[str]) -> list[Column | None] | None:
    """The columns that a first line names; None where it is a line like the others."""
    found = [_column_called(columns, cell) for cell in cells]
    named = sum(1 for column in found if column is not None)
    filled = [cell for cell in cells if cell]
    return found if filled and named * 2 >= len(filled) and not _is_figure(filled[0]) else None


def _is_figure(text: str) -> bool:
    return bool(re.fullmatch(r"[-+\d.,]+", text))


def _read(columns: Sequence[Column], rows: list[tuple[int, tuple[str, ...]]], units: Mapping[str, str]) -> Listed:
    heads = _heads(columns, rows[0][1])
    if heads is not None:
        written = zip(heads, rows[0][1], strict=True)
        order = [(c, conversion(_head(c, h, units), c.unit) if c else Conversion("")) for c, h in written]
        body = rows[1:]
        unused = tuple(h for c, h in zip(heads, rows[0][1], strict=True) if c is None and h)
    else:
        unused = ()
        order, body = [(c, Conversion(c.unit)) for c in columns], rows
    lines = tuple(_line(columns, order, number, cells) for number, cells in body)
    width = max((len(cells) for _, cells in body), default=0)
    shown = tuple((c, how) for c, how in order[: max(width, 1)] if c is not None)
    return Listed(shown, lines, unused)


def _head(column: Column, head: str, units: Mapping[str, str]) -> str:
    """The head of a column, with the unit that a person gave where it names none."""
    return f"{head} ({units[column.key]})" if column.key in units else head


def _line(
    columns: Sequence[Column], order: list[tuple[Column | None, Conversion]], number: int, cells: tuple[str, ...]
) -> Line:
    values: dict[str, str] = {}
    for (column, how), cell in zip(order, cells, strict=False):
        if column is None or not cell:
            continue
        values[column.key] = cell
        try:
            if column.kind == "number":
                values[column.key] = how.of(f"{plain_number(cell):.12g}" if not how.changes else cell)
                plain_number(values[column.key])
            elif column.kind == "day":
                values[column.key] = day_of(cell).isoformat()
        except ValueError as error:
            return Line(number, values, f"{column.label}: {error}")
    if len(cells) > len(order):
        return Line(number, values, f"{len(cells)} columns where {len(order)} are expected")
    missing = next((c for c in columns if c.required and c.key not in values), None)
    return Line(number, values, f"{missing.label} missing" if missing else "")


def read_list(columns: Sequence[Column], text: str, units: Mapping[str, str] | None = None) -> Listed:
    """The list that a text holds; of the separators that may part it, the one with the fewest lines that fail.

    `units` are those that a person gave for heads without one, by column. Raises FieldError when there is no line in
    it, or more than can be taken at once.
    """
    best: Listed | None = None
    for rows in partings(text, len(columns)):
        listed = _read(columns, rows, units or {})
        if best is None or len(listed.problems) < len(best.problems):
            best = listed
        if not listed.problems:
            break
    assert best is not None
    if not best.lines:
        raise FieldError("pasted", "has headings but no lines")
    return best


def partings(text: str, most: int) -> list[list[tuple[int, tuple[str, ...]]]]:
    """The ways in which the lines of a text may be parted into cells; by spaces into so many at most.

    A tab, semicolon or bar that stands in a line is no part of a cell: where there is one, commas and spaces part
    nothing. Raises FieldError where there is no line, or more than can be taken at once.
    """
    if not text.strip():
        raise FieldError("pasted", "is empty")
    try:
        numbered = lines_of(text, MOST_LINES)
        strong = [sign for sign in STRONG if any(sign in line for _, line in numbered)]
        # The sign that stands in most lines comes first: "43" below "42;20,98" is a line that ends early.
        strong.sort(key=lambda sign: -sum(sign in line for _, line in numbered))
        signs = strong or [sign for sign in (",",) if all(sign in line for _, line in numbered)]
        found = [[(number, cells_of(line, sign)) for number, line in numbered] for sign in signs]
    except TableError as error:
        raise FieldError("pasted", error.problem) from None
    by_spaces = [(number, tuple(line.split(None, most - 1))) for number, line in numbered]
    return found if strong else [*found, by_spaces]
