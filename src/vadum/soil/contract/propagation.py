"""What the last digits of the readings alone do to a result: shown in the working, and no uncertainty of it."""

import math
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping
from decimal import Decimal
from typing import Any, NamedTuple

from vadum.soil.contract import paths
from vadum.soil.contract.errors import VadumError
from vadum.soil.contract.fields import RecordPart, unit_of

LONG, MOST_FIGURES = 12, 9


class Digit(NamedTuple):
    """Readings that are moved together, and by how much: `paths`, and `error` in their unit."""

    paths: tuple[str, ...]
    error: float


def decimals(value: float) -> int:
    """The decimals that a number was read to, as far as it still shows them; no gauge shows more than nine figures.

    >>> decimals(37.56), decimals(5312.0), decimals(0.001), decimals(38.00000000000001)
    (2, 0, 3, 0)
    """
    exponent = Decimal(f"{value:.{MOST_FIGURES}g}").normalize().as_tuple().exponent
    return max(0, -exponent) if isinstance(exponent, int) else 0


def digits(record: RecordPart) -> Iterator[Digit]:
    """The readings with the standard uncertainty of their last digit, `10^-d / sqrt(12)`.

    A pure number, such as a lever's ratio, is no gauge's reading. The digit is the finest that readings of the same
    unit and size in the record show: 37.5 g among 23.44 g and 32.83 g was read to 0.01 g. A list of more than twelve
    rows is moved a column at a time: its gauge errs in common.
    Source: GUM, rectangular distribution.
    """
    read = [
        (path, value, unit_of(paths.field_name(path)))
        for path, value in paths.readings_of(record)
        if isinstance(value, float) and math.isfinite(value) and value != 0 and unit_of(paths.field_name(path))
    ]
    finest: Mapping[tuple[str, int], list[int]] = defaultdict(list)
    for _, value, unit in read:
        for size in (-1, 0, 1):
            finest[unit, math.floor(math.log10(abs(value))) + size].append(decimals(value))
    columns: dict[str, list[str]] = defaultdict(list)
    errors: dict[str, float] = {}
    for path, value, unit in read:
        columns[paths.pattern_of(path)].append(path)
        errors[path] = 10.0 ** -max(finest[unit, math.floor(math.log10(abs(value)))]) / math.sqrt(12)
    for together in columns.values():
        if len(together) > LONG:
            yield Digit(tuple(together), max(errors[p] for p in together))
        else:
            yield from (Digit((path,), errors[path]) for path in together)


def moved(record: RecordPart, digit: Digit, by: float) -> RecordPart:
    """The record with these readings larger by so much."""
    for path in digit.paths:
        record = _with(record, paths.parse(path).steps, by)
    return record


def _with(part: Any, steps: tuple[paths.Step, ...], by: float) -> Any:
    step, *rest = steps
    value = getattr(part, step.name)
    if step.row is None:
        return part.model_copy(update={step.name: value + by})
    rows = (*value[: step.row], _with(value[step.row], tuple(rest), by), *value[step.row + 1 :])
    return part.model_copy(update={step.name: rows})


def propagated(record: RecordPart, numbers: Callable[[RecordPart], Mapping[str, float]]) -> dict[str, float]:
    """Standard uncertainty of every number that a record gives, by moving each reading by its last digit's error.

    Parameters: `record` as read; `numbers(record)` the values by key, each in its unit.
    Returns: key to uncertainty in the value's unit, `sqrt(sum of (half of f(x + u) - f(x - u))^2)`; a digit that makes
    or unmakes a number tells nothing of it.
    Source: GUM, numerical propagation of independent readings.
    """
    squares = dict.fromkeys(numbers(record), 0.0)
    for digit in digits(record):
        try:
            up, down = (numbers(moved(record, digit, by)) for by in (digit.error, -digit.error))
        except (VadumError, ValueError, ArithmeticError):
            # Beside the edge of what can be: this digit tells nothing here.
            continue
        for key in list(squares):
            if key in up and key in down:
                squares[key] += ((up[key] - down[key]) / 2) ** 2
    return {key: math.sqrt(square) for key, square in squares.items()}
