"""Start times for work that comes back at fixed intervals, so that no two moments need the same hands.

Each task takes hands in blocks at fixed seconds from its own start. Given what already takes hands, the tasks are
placed on a grid so that no two blocks overlap and the sum of all delays is least. The search is exact: it goes through
the starts in the order of time and leaves a branch only when a bound says that it cannot be better: the free starts a
gap apart, and the least sums of the smaller placings solved before. A candidate is one
bit of a whole number, so that a clash is one shift and one AND.
"""

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

GRID_S = 15
HORIZON_S = 6 * 3600
MOST_NODES = 200_000


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


def _forbidden(mine: Sequence[Block], placed: Sequence[Block], slots: int, offset_s: int) -> int:
    """Bits of the starts, `offset_s + bit * GRID_S`, at which a block of `mine` overlaps one that is placed."""
    bits = 0
    full = (1 << slots) - 1
    for a in mine:
        for b in placed:
            # Overlap for every start strictly between these two.
            low = b.begin_s - a.end_s - offset_s
            high = b.end_s - a.begin_s - offset_s
            first = max(low // GRID_S + 1, 0)
            last = min(-(-high // GRID_S) - 1, slots - 1)
            if first <= last:
                bits |= ((1 << (last - first + 1)) - 1) << first
    return bits & full


def next_start_s(blocks: Sequence[Block], busy: Sequence[Block], earliest_s: int = 0) -> int | None:
    """The earliest start, seconds from now, without a clash; None within the horizon.

    Parameters: `blocks` of hands that the new start needs and those already `busy`, s; `earliest_s` from now.
    Returns: s from now, a multiple of the grid; None within the horizon.
    """
    slots = HORIZON_S // GRID_S
    free = ((1 << slots) - 1) & ~_forbidden(blocks, busy, slots, earliest_s)
    return None if free == 0 else earliest_s + GRID_S * ((free & -free).bit_length() - 1)


def stagger(tasks: Sequence[Sequence[Block]], busy: Sequence[Block] = (), earliest_s: int = 0) -> Plan:
    """Starts of all tasks without a clash and with the least total delay.

    Parameters: the blocks of each task; `busy` in seconds from now; no start before `earliest_s`.
    Source: branch and bound over a grid of 15 s; tasks of one timetable are interchangeable.

    Returns: what is named above.

    >>> brief = (Block(-60, 60),)
    >>> stagger([brief, brief, brief]).starts_s
    (0, 120, 240)
    """
    if not tasks:
        return Plan((), True)
    slots = HORIZON_S // GRID_S
    full = (1 << slots) - 1
    kinds: dict[tuple[Block, ...], int] = {}
    of_kind: list[list[int]] = []
    for i, task in enumerate(tasks):
        key = tuple(Block(b.begin_s, b.end_s) for b in task)
        if key not in kinds:
            kinds[key] = len(of_kind)
            of_kind.append([])
        of_kind[kinds[key]].append(i)
    patterns = list(kinds)
    free = tuple(full & ~_forbidden(p, busy, slots, earliest_s) for p in patterns)
    against = tuple(_forbidden(b, a, slots, 0) for a in patterns for b in patterns)
    relaxed = against[0]
    for other in against[1:]:
        relaxed &= other
    sums = _least_sums(relaxed, len(tasks), slots)
    if len(patterns) == 1:
        found, proved = _place_alike(against[0], free[0], len(tasks), sums)
        return Plan(tuple(earliest_s + bit * GRID_S for bit in found), proved)
    search = _Search(against, sums)
    search.run(free, tuple(len(members) for members in of_kind))
    if search.best is None:
        return Plan((), not search.cut_short)
    starts = [0] * len(tasks)
    left = [list(members) for members in of_kind]
    for kind, bit in search.best:
        starts[left[kind].pop(0)] = earliest_s + bit * GRID_S
    return Plan(tuple(starts), not search.cut_short)


def _first(bits: int) -> int:
    """Place of the lowest set bit."""
    return (bits & -bits).bit_length() - 1


@lru_cache(maxsize=64)
def _least_sums(forbidden: int, most: int, slots: int) -> tuple[int, ...]:
    """For k tasks, the least sum of starts that any placing can have whose first start is 0; index k, in slots.

    Each search leans on the ones before it: what is left after a start is itself a smaller placing. Tasks of one
    timetable move together in time, so the sums hold wherever the first of them stands.
    """
    sums = [0, 0]
    free = ((1 << slots) - 1) & ~forbidden
    for many in range(2, most + 1):
        found, proved = _place_alike(forbidden, free, many - 1, sums)
        # Without room for so many, or without proof, the sum of one fewer is still a bound.
        sums.append(sum(found) if found and proved else sums[-1])
    return tuple(sums)


def _place_alike(forbidden: int, free: int, many: int, sums: Sequence[int]) -> tuple[tuple[int, ...], bool]:
    """The best starts of `many` tasks of one timetable among the free ones; empty when there is no room for them."""
    gap = _first(~forbidden)
    chosen: list[int] = []
    rest = free
    while len(chosen) < many and rest:
        bit = _first(rest)
        chosen.append(bit)
        rest = (rest & ~(forbidden << bit)) >> bit << bit
    best = tuple(chosen) if len(chosen) == many else ()
    best_sum = sum(best) if best else 1 << 60
    nodes = 0

    def down(free: int, many: int, total: int, chosen: tuple[int, ...]) -> None:
        nonlocal best, best_sum, nodes
        nodes += 1
        # With the last one placed, what is left is a placing of one more whose first start is known.
        if chosen and many + 1 < len(sums) and total + many * chosen[-1] + sums[many + 1] >= best_sum:
            return
        while free and nodes <= MOST_NODES:
            bit = _first(free)
            if total + many * bit + sums[many] >= best_sum:
                return
            if many == 1:
                best, best_sum = (*chosen, bit), total + bit
                return
            after = (free & ~(forbidden << bit)) >> bit << bit
            # Each of what is left begins at a free start, and a gap after the one before it.
            least, candidates = total + bit, after
            for still in range(many - 1, 0, -1):
                if not candidates:
                    least = best_sum
                    break
                at = _first(candidates)
                least += at
                if least + (still - 1) * (at + gap) >= best_sum:
                    least = best_sum
                    break
                candidates = candidates >> (at + gap) << (at + gap)
            if least < best_sum:
                down(after, many - 1, total + bit, (*chosen, bit))
            free &= free - 1

    down(free, many, 0, ())
    return best, nodes <= MOST_NODES


class _Search:
    """Placing tasks of several timetables: depth first over the starts in the order of time.

    `against[a * kinds + b]` holds the starts of kind b, counted from one of kind a before it, at which they clash.
    """

    def __init__(self, against: tuple[int, ...], sums: Sequence[int]) -> None:
        self.against, self.sums = against, sums
        self.kinds = round(len(against) ** 0.5)
        self.gap = min(_first(~f) for f in against)
        self.best: tuple[tuple[int, int], ...] | None = None
        self.best_sum = 1 << 60
        self.nodes = 0

    @property
    def cut_short(self) -> bool:
        """Whether the search was ended before its end."""
        return self.nodes > MOST_NODES // 10

    def run(self, free: tuple[int, ...], left: tuple[int, ...]) -> None:
        """Find the best placing; the first to beat takes always the earliest start."""
        self._greedy(free, left)
        self._down(free, left, sum(left), 0, ())

    def _greedy(self, free: tuple[int, ...], left: tuple[int, ...]) -> None:
        chosen: list[tuple[int, int]] = []
        while any(left):
            firsts = [(_first(f), kind) for kind, f in enumerate(free) if left[kind] and f]
            if not firsts:
                return
            bit, kind = min(firsts)
            chosen.append((kind, bit))
            left = tuple(n - (k == kind) for k, n in enumerate(left))
            free = self._after(free, kind, bit)
        self.best, self.best_sum = tuple(chosen), sum(bit for _, bit in chosen)

    def _after(self, free: tuple[int, ...], kind: int, bit: int) -> tuple[int, ...]:
        """Free starts after this one, once a task of that kind stands at `bit`."""
        row = kind * self.kinds
        return tuple((f & ~(self.against[row + other] << bit)) >> bit << bit for other, f in enumerate(free))

    def _room(self, free: tuple[int, ...], left: tuple[int, ...], total: int, many: int) -> bool:
        """Whether what is left could still fit so that the plan is better: by its free starts, a gap apart."""
        union = 0
        for f, n in zip(free, left, strict=True):
            if n:
                union |= f
        for still in range(many, 0, -1):
            if not union:
                return False
            bit = _first(union)
            total += bit
            if total + (still - 1) * (bit + self.gap) >= self.best_sum:
                return False
            union = union >> (bit + self.gap) << (bit + self.gap)
        return True

    def _down(
        self, free: tuple[int, ...], left: tuple[int, ...], many: int, total: int, chosen: tuple[tuple[int, int], ...]
    ) -> None:
        if many == 0:
            if total < self.best_sum:
                self.best, self.best_sum = chosen, total
            return
        self.nodes += 1
        while not self.cut_short:
            firsts = [(_first(f), kind) for kind, f in enumerate(free) if left[kind] and f]
            if not firsts:
                return
            bit, kind = min(firsts)
            if total + many * bit + self.sums[many] >= self.best_sum:
                return
            after = self._after(free, kind, bit)
            rest = tuple(n - (k == kind) for k, n in enumerate(left))
            if many == 1 or self._room(after, rest, total + bit, many - 1):
                self._down(after, rest, many - 1, total + bit, (*chosen, (kind, bit)))
            free = tuple(f & ~(1 << bit) if k == kind else f for k, f in enumerate(free))
