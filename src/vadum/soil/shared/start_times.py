"""Start times for work that comes back at fixed intervals, so that no two moments need the same hands.

Each task takes hands in blocks at fixed seconds from its own start. Given what already takes hands, the tasks are
placed on a grid so that no two blocks overlap and the sum of all delays is least. A constraint solver places them; it
is led by bounds that it proved itself on smaller placings of the same timetable, and is stopped after a fixed amount
of work, not of time, so that the same question has the same answer on every machine.
"""

import math
from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import pairwise
from typing import Any, NamedTuple

GRID_S = 15
HORIZON_S = 6 * 3600
PROVED_UP_TO = 6  # tasks of one timetable: their least sums lead the search for more
# Work of the solver, in its own deterministic unit: about 0.2 s for a dozen tasks, 1.5 s for twenty.
WORK, WORK_OF_MANY, MANY = 0.02, 0.15, 12


class Block(NamedTuple):
    """Hands taken from `begin_s` to `end_s`, seconds from the task's start; or from now, for what stands already."""

    begin_s: int
    end_s: int
    label: str = ""


class Plan(NamedTuple):
    """Start of each task in seconds from now, in the order given; and whether no better plan exists.

    `starts_s` is empty when no plan fits into the horizon.
    """

    starts_s: tuple[int, ...]
    proved: bool

    @property
    def total_delay_s(self) -> int:
        """Sum of all delays."""
        return sum(self.starts_s)


class Clash(NamedTuple):
    """Two blocks that need the same hands, at a start in seconds from now."""

    mine: Block
    other: Block


def overlap(a: Block, b: Block) -> bool:
    """Whether two blocks need hands at the same time; touching ends do not.

    >>> overlap(Block(0, 60), Block(60, 90)), overlap(Block(0, 61), Block(60, 90))
    (False, True)
    """
    return a.begin_s < b.end_s and b.begin_s < a.end_s


def clashes_at(start_s: int, blocks: Sequence[Block], busy: Sequence[Block]) -> list[Clash]:
    """What would clash if the task began at `start_s`: its block against what stands."""
    found = []
    for mine in blocks:
        moved = Block(mine.begin_s + start_s, mine.end_s + start_s, mine.label)
        found += [Clash(moved, other) for other in busy if overlap(moved, other)]
    return found


def next_start_s(blocks: Sequence[Block], busy: Sequence[Block], earliest_s: int = 0) -> int | None:
    """The earliest start, seconds from now, without a clash; None within the horizon.

    Parameters: `blocks` of hands that the new start needs and those already `busy`, s; `earliest_s` from now.
    Returns: s from now, `earliest_s` and a multiple of the grid; None within the horizon.

    >>> next_start_s([Block(-60, 60)], [Block(0, 90)]), next_start_s([Block(0, 60)], [Block(60, 90)])
    (150, 0)
    """
    # A block of mine and one that stands overlap for every start strictly between these two.
    shut = sorted((b.begin_s - a.end_s, b.end_s - a.begin_s) for a in blocks for b in busy)
    start = earliest_s
    for low, high in shut:
        if low < start < high:
            start = earliest_s + GRID_S * math.ceil((high - earliest_s) / GRID_S)
    return start if start < earliest_s + HORIZON_S else None


def merged(blocks: Iterable[Block]) -> tuple[Block, ...]:
    """Blocks that overlap or touch as one each, in the order of time, with the label of the first.

    >>> merged([Block(50, 90), Block(0, 60), Block(100, 110)])
    (Block(begin_s=0, end_s=90, label=''), Block(begin_s=100, end_s=110, label=''))
    """
    found: list[Block] = []
    for block in sorted(blocks):
        if found and block.begin_s <= found[-1].end_s:
            found[-1] = found[-1]._replace(end_s=max(block.end_s, found[-1].end_s))
        else:
            found.append(block)
    return tuple(found)


class _Placing:
    """Tasks of some timetables as a model of the solver: a start each, blocks that do not overlap."""

    def __init__(
        self, many_of: Sequence[tuple[tuple[Block, ...], int]], busy: Sequence[Block], earliest_s: int
    ) -> None:
        from ortools.sat.python import cp_model  # half a second to import, and few ask for it

        self.model = cp_model.CpModel()
        self.starts: list[list[Any]] = []
        figures = [GRID_S, *(s for blocks, _ in many_of for b in blocks for s in b[:2])]
        figures += [s - earliest_s for b in busy for s in b[:2]]
        unit = math.gcd(*figures)
        intervals = []
        slots = HORIZON_S // GRID_S
        for blocks, many in many_of:
            starts = [self.model.new_int_var(0, slots - 1, "") for _ in range(many)]
            for start in starts:
                for b in blocks:
                    at = (GRID_S // unit) * start + b.begin_s // unit
                    intervals.append(self.model.new_fixed_size_interval_var(at, (b.end_s - b.begin_s) // unit, ""))
            for first, second in pairwise(starts):
                self.model.add(second > first)  # tasks of one timetable are interchangeable
            self.starts.append(starts)
        for b in merged(busy):
            begin, size = (b.begin_s - earliest_s) // unit, (b.end_s - b.begin_s) // unit
            intervals.append(self.model.new_fixed_size_interval_var(begin, size, ""))
        self.model.add_no_overlap(intervals)
        self.model.minimize(sum(start for starts in self.starts for start in starts))

    def led_by(self, kind: int, sums: Sequence[int]) -> None:
        """No run of tasks of a timetable can lie closer than the least sums of so many."""
        starts = self.starts[kind]
        for many in range(2, min(len(starts), len(sums) - 1) + 1):
            for i in range(len(starts) - many + 1):
                after = sum(starts[i + 1 : i + many])
                self.model.add(after - (many - 1) * starts[i] >= sums[many])

    def solved(self, work: float) -> tuple[list[list[int]] | None, bool]:
        """Starts in slots, None where none is found; whether that is proved."""
        from ortools.sat.python import cp_model

        solver = cp_model.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.linearization_level = 1
        solver.parameters.max_deterministic_time = work
        status = solver.solve(self.model)
        if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return [[solver.value(s) for s in starts] for starts in self.starts], status == cp_model.OPTIMAL
        return None, status == cp_model.INFEASIBLE


@lru_cache(maxsize=64)
def _least_sums(blocks: tuple[Block, ...]) -> tuple[int, ...]:
    """For k tasks of a timetable, the least sum of starts, in slots, whose first is 0; index k, as far as proved.

    They hold wherever the first of them stands: tasks of one timetable move together in time.
    """
    sums = [0, 0]
    for many in range(2, PROVED_UP_TO + 1):
        placing = _Placing([(blocks, many)], (), 0)
        placing.led_by(0, sums)
        placing.model.add(placing.starts[0][0] == 0)
        found, proved = placing.solved(WORK)
        if found is None or not proved:
            break
        sums.append(sum(found[0]))
    return tuple(sums)


def stagger(tasks: Sequence[Sequence[Block]], busy: Sequence[Block] = (), earliest_s: int = 0) -> Plan:
    """Starts of all tasks without a clash and with the least total delay.

    Parameters: the blocks of each task, apart from each other; `busy` in seconds from now; no start before
        `earliest_s`.
    Returns: the plan; unproved where the solver was stopped before it knew of no better one.
    Source: constraint programming with intervals that do not overlap, over a grid of 15 s.

    >>> brief = (Block(-60, 60),)
    >>> stagger([brief, brief, brief]).starts_s
    (0, 120, 240)
    """
    if not tasks:
        return Plan((), True)
    of_kind: dict[tuple[Block, ...], list[int]] = {}
    for i, task in enumerate(tasks):
        of_kind.setdefault(tuple(Block(b.begin_s, b.end_s) for b in task), []).append(i)
    placing = _Placing([(blocks, len(members)) for blocks, members in of_kind.items()], busy, earliest_s)
    for kind, (blocks, members) in enumerate(of_kind.items()):
        if len(members) > 1:
            placing.led_by(kind, _least_sums(blocks))
    found, proved = placing.solved(WORK if len(tasks) <= MANY else WORK_OF_MANY)
    if found is None:
        return Plan((), proved)
    starts = [0] * len(tasks)
    for slots, members in zip(found, of_kind.values(), strict=True):
        for slot, i in zip(slots, members, strict=True):
            starts[i] = earliest_s + slot * GRID_S
    return Plan(tuple(starts), proved)
