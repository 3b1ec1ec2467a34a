"""A specimen's series of readings, taken while its travel grows: its calls so far, and the rules that any such series
keeps."""

from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from typing import Any

from vadum.soil.contract import paths
from vadum.soil.contract.called import Taken
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import Seen

EPOCH = datetime(2000, 1, 1, tzinfo=UTC)  # from where an instrument's own seconds are counted
MOST_NAMED = 5  # readings that one rule names one by one


def taken_by_travel(
    rows: Sequence[Any], calls: int, travel_mm: Callable[[int], float | None], shows: Callable[[int], str]
) -> tuple[Taken, ...]:
    """What the calls of a series have taken so far; nothing of a logger's block, which is no sequence of calls.

    Parameters: `rows` the readings; `calls` how many are called in all; `travel_mm` and `shows` give a row's place in
        mm and what the strip shows of it.
    Returns: one for each row.
    """
    if len(rows) > 2 * calls:
        return ()
    found = []
    for i, row in enumerate(rows):
        moment = EPOCH + timedelta(seconds=row.elapsed_s) if known(row.elapsed_s) else row.read_at
        found.append(Taken(i, travel_mm(i), moment, row.missed is not None, shows(i)))
    return tuple(found)


def _said(words: str, i: int) -> str:
    return f"{words}, reading {i + 1}" if words else f"reading {i + 1}"


def runs_backwards(
    rows: Sequence[Any], at: str, field: str, slack_mm: float, words: str = "", way: int = 1
) -> Iterator[Seen]:
    """A travel that runs back is a slip, or a gauge that was moved: one for each such reading, the first few.

    Parameters: `rows` the readings at the path `at`; `field` their travel in mm; `slack_mm` what a gauge may fall back;
        `words` the specimen; `way` -1 where the travel grows below zero.
    """
    read = [(i, v) for i, r in enumerate(rows) if known(v := getattr(r, field)) and not r.excluded_because]
    back = [(i, a, b) for (_, a), (i, b) in pairwise(read) if way * b < way * a - slack_mm]
    for i, a, b in back[:MOST_NAMED]:
        found = f"{_said(words, i)}: {plain(b)} mm after {plain(a)} mm"
        yield Seen(False, found, "each further than the one before", (paths.at(at, i, field),))


def within_range(
    rows: Sequence[Any], at: str, field: str, most: float | None, unit: str, words: str = ""
) -> Iterator[Seen]:
    """Readings against the range of what reads them: one for each beyond it, the first few; else the greatest.

    Parameters: `rows` the readings at the path `at`; `field` and its `most`, in `unit`; `words` the specimen.
    """
    read = [(i, v) for i, r in enumerate(rows) if known(v := getattr(r, field))]
    if not known(most) or not read:
        return
    beyond = [(i, v) for i, v in read if abs(v) > most]
    for i, v in beyond[:MOST_NAMED]:
        found = f"{_said(words, i)}: {plain(v)} {unit}"
        yield Seen(False, found, f"up to {plain(most)} {unit}", (paths.at(at, i, field),))
    if not beyond:
        found = f"up to {plain(max(abs(v) for _, v in read))} {unit}"
        yield Seen(True, f"{words}: {found}" if words else found, f"{plain(most)} {unit}")
