"""A table as it was typed or pasted, taken apart into its heads and cells; what they mean is not asked here."""

import csv
import hashlib
import io
import re
from collections.abc import Sequence
from typing import NamedTuple

from vadum.soil.contract.errors import VadumError
from vadum.soil.contract.fields import number

MOST_ROWS = 500  # one entry each; a list that takes blocks takes more
MOST_COLUMNS = 40
MOST_LINE = 4000
SEPARATORS = ("\t", ";", "|", ",")


class Cells(NamedTuple):
    """A table as it was typed: its heads (made up when it had none), and its rows with their line numbers."""

    heads: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    signature: str


class TableError(VadumError):
    """The table as a whole cannot be read."""

    def __init__(self, field: str, problem: str) -> None:
        self.field, self.problem = field, problem
        super().__init__(f"{field}: {problem}")


def _separator(lines: Sequence[str]) -> str | None:
    """The sign between cells; None for spaces. A comma is a decimal sign where another separator does the work."""
    for sign in SEPARATORS:
        counts = [line.count(sign) for line in lines]
        if min(counts) >= 1 and (sign != "," or max(counts) == min(counts)):
            return sign
    return None


def _numeric(cell: str) -> bool:
    try:
        number(cell)
    except ValueError:
        return False
    return True


def lines_of(text: str, most: int = MOST_ROWS) -> list[tuple[int, str]]:
    """The lines of a text that hold something, each with its number; raises TableError where there are none, or too
    many, or one that is too long."""
    text = text.replace("\ufeff", "").replace("\r\n", "\n").replace("\r", "\n")
    numbered = [(i, line) for i, line in enumerate(text.split("\n"), 1) if line.strip()]
    if not numbered:
        raise TableError("text", "there is no row in it")
    if len(numbered) > most + 1:
        raise TableError("text", f"has {len(numbered)} lines; at most {most} rows are taken at once")
    for number_, line in numbered:
        if len(line) > MOST_LINE:
            raise TableError("text", f"line {number_} is longer than {MOST_LINE} characters")
    return numbered


def cells_of(line: str, sign: str) -> tuple[str, ...]:
    """The cells of a line that a sign parts, quotes heeded; raises TableError."""
    if line.count(sign) >= MOST_COLUMNS:
        raise TableError("text", f"a line has more than {MOST_COLUMNS} columns")
    try:
        found = next(csv.reader(io.StringIO(line), delimiter=sign, skipinitialspace=True))
    except csv.Error:
        raise TableError("text", "a cell of it cannot be read: look at its quotes") from None
    return tuple(cell.strip() for cell in found)


def take_apart(text: str, most: int = MOST_ROWS) -> Cells:
    """The table's cells; raises TableError when there is none to see.

    Tab, semicolon, bar, comma or spaces separate; both decimal signs are read later. The first line is a head when
    none of its cells is a number.

    >>> take_apart("mm;g\\n4,75;12,3\\n").heads
    ('mm', 'g')
    """
    numbered = lines_of(text, most)
    sign = _separator([line for _, line in numbered])
    for number_, line in numbered:
        if line.count(sign or " ") >= MOST_COLUMNS:
            raise TableError("text", f"line {number_} has more than {MOST_COLUMNS} columns")

    def cells(line: str) -> tuple[str, ...]:
        return tuple(re.split(r"\s+", line.strip())) if sign is None else cells_of(line, sign)

    table = [(i, cells(line)) for i, line in numbered]
    width = max(len(row) for _, row in table)
    first = table[0][1]
    headed = not any(_numeric(cell) for cell in first if cell)
    heads = tuple((first[i] if headed and i < len(first) else "") or f"column {i + 1}" for i in range(width))
    rows = tuple(table[1:] if headed else table)
    digest = hashlib.sha256("\n".join([str(headed), *heads]).lower().encode()).hexdigest()[:32]
    return Cells(heads, rows, digest)
