"""Which lime is the demand: by the pH that it reaches, by a pH that no longer rises, or by two that come near."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Literal, NamedTuple

from vadum.soil.contract.compare import at_least, at_most

FINEST_PH = 0.01  # a meter's last digit: how finely the distance to another decision is looked for
FARTHEST = 60  # of them


class Point(NamedTuple):
    """A bottle that was read: its row, its lime in % of dry soil, its pH at 25 °C."""

    row: int
    lime_percent: float
    ph: float


class Limits(NamedTuple):
    """What decides: the pH to reach and the one that comes near, how far above the lime-only bottle is a rise, what a
    meter tells apart, and whether more than the first rule is used."""

    reaches: float
    near: float
    rises: float
    meter: float
    plateau: bool


Rule = Literal["reaches", "no longer rises", "two near", "still rises", "more lime"]


class Decision(NamedTuple):
    """The lime that the rule gives in %, None where it gives none; the row it stands in; what the first rule alone
    gives."""

    rule: Rule
    lime_percent: float | None
    row: int | None
    plain_percent: float | None


def decide(points: Sequence[Point], lime_only_ph: float, limits: Limits) -> Decision:
    """The demand by bottles of rising lime.

    Parameters: bottles in the order of their lime, pH at 25 °C; the lime-only bottle's pH at 25 °C.
    Returns: the decision; figures equal to a limit count as reaching it.
    Source: Eades and Grim, ASTM D6276.

    >>> limits = Limits(12.40, 12.30, 0.05, 0.02, True)
    >>> found = [Point(i, lime, ph) for i, (lime, ph) in enumerate([(2, 11.92), (3, 12.21), (4, 12.44), (5, 12.47)])]
    >>> decide(found, 12.46, limits)[:2]
    ('reaches', 4)
    """
    first = next((p for p in points if at_least(p.ph, limits.reaches)), None)
    if first is not None:
        highest = max(p.ph for p in points)
        rises = limits.plateau and not at_most(highest - lime_only_ph, limits.rises)
        if not rises:
            return Decision("reaches", first.lime_percent, first.row, first.lime_percent)
        for i, p in enumerate(points[:-1]):
            raised = max(q.ph for q in points[i + 1 :]) - p.ph
            if at_least(p.lime_percent, first.lime_percent) and at_most(raised, limits.meter):
                return Decision("no longer rises", p.lime_percent, p.row, first.lime_percent)
        return Decision("still rises", None, None, first.lime_percent)
    if limits.plateau:
        for low, high in pairwise(points):
            if at_least(low.ph, limits.near) and at_least(high.ph, limits.near):
                return Decision("two near", low.lime_percent, low.row, None)
    return Decision("more lime", None, None, None)


class Flip(NamedTuple):
    """How little another pH would have to be read for another lime: the change in pH, the row of the bottle it would
    be read in (None: in all of them alike), and the lime that would come out."""

    change_ph: float
    row: int | None
    lime_percent: float | None


def flip(points: Sequence[Point], lime_only_ph: float, limits: Limits) -> Flip | None:
    """The nearest other decision, by one bottle alone or by all together.

    Parameters: as `decide`.
    Returns: None where none lies within 0.6 pH.
    Source: the decision taken again with readings moved by a hundredth at a time.

    >>> limits = Limits(12.40, 12.30, 0.05, 0.02, True)
    >>> found = flip([Point(0, 3, 12.27), Point(1, 4, 12.38), Point(2, 5, 12.44)], 12.45, limits)
    >>> round(found.change_ph, 2), found.lime_percent
    (0.02, 4)
    """
    if not points:
        return None
    now = decide(points, lime_only_ph, limits).lime_percent
    for step in range(1, FARTHEST + 1):
        for sign in (1, -1):
            by = sign * step * FINEST_PH
            together = decide([p._replace(ph=p.ph + by) for p in points], lime_only_ph + by, limits).lime_percent
            if together != now:
                return Flip(by, None, together)
            for i, p in enumerate(points):
                moved = [*points[:i], p._replace(ph=p.ph + by), *points[i + 1 :]]
                other = decide(moved, lime_only_ph, limits).lime_percent
                if other != now:
                    return Flip(by, p.row, other)
    return None


def at_25(ph: float, temperature_c: float, per_c: float, at_c: float = 25.0) -> float:
    """A pH of a lime slurry referred to 25 °C.

    Parameters: pH as read; the slurry's temperature in °C; change for a degree.
    Returns: pH at 25 °C.
    Source: `pH25 = pHT + 0.03 (T - 25)`.

    >>> round(at_25(12.28, 29.0, 0.03), 6)
    12.4
    """
    return ph + per_c * (temperature_c - at_c)
