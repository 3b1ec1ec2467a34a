"""What the advice, the rules and the ladder of every plate test ask of its facts."""

from collections.abc import Sequence
from typing import Any, Protocol

from vadum.soil.contract.called import Called
from vadum.soil.shared.plate.plan import Plan
from vadum.soil.shared.plate.steps import Loaded, Rest, Target


class PlateFacts(Protocol):
    """A plate test as it stands: its steps, what is still ahead, the step in hand with its rest, what is called.

    `per_unit` kPa make one of `unit`, in which the method says its stresses; `lever` turns a gauge's travel into the
    plate's. `next_words` is said of the step to come where that depends on what was read.
    """

    @property
    def record(self) -> Any:
        """What was read."""
        ...

    @property
    def plate_mm2(self) -> float:
        """The plate's area, mm²."""
        ...

    @property
    def width_mm(self) -> float:
        """Its diameter or side, mm."""
        ...

    @property
    def square(self) -> bool:
        """Whether it is square."""
        ...

    @property
    def unit(self) -> str:
        """The unit that its stresses are said in."""
        ...

    @property
    def per_unit(self) -> float:
        """kPa in one of it."""
        ...

    @property
    def lever(self) -> float:
        """What a gauge's travel is multiplied by to be the plate's."""
        ...

    @property
    def steps(self) -> Sequence[Loaded]:
        """Its load steps."""
        ...

    @property
    def ahead(self) -> Sequence[Target]:
        """The steps still to come."""
        ...

    @property
    def plan(self) -> Plan:
        """What it wants before it starts."""
        ...

    @property
    def hand(self) -> Loaded | None:
        """The step that is held now."""
        ...

    @property
    def rest(self) -> Rest | None:
        """Whether that may be left."""
        ...

    @property
    def over(self) -> bool:
        """Whether no step is to come and none is held."""
        ...

    @property
    def ladder(self) -> Called:
        """The steps as the load calls them."""
        ...

    @property
    def holding(self) -> Called | None:
        """The gauge readings of the step in hand."""
        ...

    @property
    def next_words(self) -> str:
        """What is said of the next step."""
        ...
