"""A block: one entry that holds many rows at once, its columns as arrays with their units.

A logger's file or an instrument's series is read as one thing: kept, chained and folded as one. Its digits stay as they
came. A single row of it is left out by an entry of its own, with a reason; the block as a whole can be struck.
"""

from collections.abc import Iterator, Mapping
from typing import Annotated, Any, TypeGuard

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from vadum.soil.contract.fields import unit_of

MOST_BLOCK_ROWS = 20_000  # five hours of a sample each second
MOST_BLOCK_COLUMNS = 12
MOST_DIGITS = 40

Cell = str | int | float | None


def _same_length(columns: dict[str, list[Cell]]) -> dict[str, list[Cell]]:
    lengths = {len(cells) for cells in columns.values()}
    if not columns or len(columns) > MOST_BLOCK_COLUMNS:
        raise ValueError(f"has 1 to {MOST_BLOCK_COLUMNS} columns")
    if len(lengths) != 1 or not 1 <= max(lengths) <= MOST_BLOCK_ROWS:
        raise ValueError(f"its columns are of one length, 1 to {MOST_BLOCK_ROWS} rows")
    for cells in columns.values():
        for cell in cells:
            if isinstance(cell, str) and len(cell) > MOST_DIGITS:
                raise ValueError("holds a figure that is too long")
            if isinstance(cell, float) and (cell != cell or abs(cell) == float("inf")):
                raise ValueError("holds what is no number")
    return columns


class Block(BaseModel):
    """Rows as columns: field -> one figure for each row. `units` says what each column is in."""

    model_config = ConfigDict(extra="forbid")
    columns: Annotated[dict[str, list[Cell]], AfterValidator(_same_length)]
    units: dict[str, str] = Field(default_factory=dict, max_length=MOST_BLOCK_COLUMNS)


def block_of(columns: Mapping[str, list[Cell]]) -> dict[str, Any]:
    """The value of an entry that holds these columns, each with the unit its name ends in.

    >>> block_of({"force_n": ["1.0", "2.5"]})["units"]
    {'force_n': 'N'}
    """
    return {"columns": dict(columns), "units": {field: unit_of(field) for field in columns}}


def is_block(value: Any) -> TypeGuard[dict[str, Any]]:
    """Whether an entry's value is a block."""
    return isinstance(value, dict) and isinstance(value.get("columns"), dict)


def rows_in(value: Any) -> int:
    """How many rows an entry's value holds: those of its block, else one."""
    return len(next(iter(value["columns"].values()))) if is_block(value) else 1


def rows_of(value: Mapping[str, Any]) -> Iterator[dict[str, Any]]:
    """The block row by row: field -> figure, without the empty cells.

    >>> list(rows_of({"columns": {"a_mm": [1, 2], "b_mm": [None, 3]}}))
    [{'a_mm': 1}, {'a_mm': 2, 'b_mm': 3}]
    """
    names = tuple(value["columns"])
    for cells in zip(*value["columns"].values(), strict=True):
        yield {name: cell for name, cell in zip(names, cells, strict=True) if cell is not None and cell != ""}


def said(value: Mapping[str, Any]) -> str:
    """A block in one line.

    >>> said(block_of({"force_n": [1, 2], "travel_mm": [0, 1]}))
    'block of 2 rows: force_n, travel_mm'
    """
    return f"block of {rows_in(value)} rows: {', '.join(value['columns'])}"
