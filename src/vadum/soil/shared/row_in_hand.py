"""The row to work at, where a run goes through one row after the other: a stage, a specimen."""

from collections.abc import Callable, Sequence
from typing import Any

from vadum.soil.contract import paths

Wanted = Callable[[Any, Any], tuple[str, ...]]


def row_in_hand(done: Sequence[bool], left_out: Sequence[bool], enough: bool, least: int) -> int | None:
    """The row to work at: the first that is not done, or the next; None when there are enough.

    Parameters: for each row whether it is `done` and whether it was `left_out`; `enough`: a hand has said so; `least`
        how many a result needs.
    Returns: its index; the number of rows for one that is to be begun.

    >>> row_in_hand([True, False], [False, False], False, 3), row_in_hand([True], [False], False, 3)
    (1, 1)
    >>> row_in_hand([True, True, True], [False, True, False], False, 2)
    """
    for i, (over, out) in enumerate(zip(done, left_out, strict=True)):
        if not over and not out:
            return i
    return None if enough or sum(not out for out in left_out) >= least else len(done)


def wants(rows: str, *fields: str) -> Wanted:
    """The paths of these fields of the row in hand (`facts.hand`); none when there is none."""

    def wanted(f: Any, s: Any) -> tuple[str, ...]:
        return () if f.hand is None else tuple(paths.at(rows, f.hand, name) for name in fields)

    return wanted


def holds(rows: str, *fields: str) -> Callable[[Any, Any], bool]:
    """Whether the row in hand, where there is one, holds these fields; one that is to be begun does not."""

    def held(f: Any, s: Any) -> bool:
        if f.hand is None:
            return True
        made = getattr(f.record, rows)
        return f.hand < len(made) and all(getattr(made[f.hand], name) is not None for name in fields)

    return held
