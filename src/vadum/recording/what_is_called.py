"""What a run calls of an instrument now: the travel or the load whose next reading the advice asks for."""

from typing import NamedTuple

from vadum.instruments.transport import Heard
from vadum.recording.sampling import Taker
from vadum.soil.contract import paths
from vadum.soil.contract.called import Called
from vadum.tape.runs import Read


class Series(NamedTuple):
    """The travel that is being read: what calls it, the taker that goes along, where the instrument's gauge had its
    zero (None: never said), and the last call's travel."""

    called: Called
    taker: Taker
    zero_mm: float | None
    last_mm: float

    @property
    def path(self) -> str:
        """The path of its rows."""
        return self.called.key


def called_now(read: Read, wants: tuple[str, ...]) -> Called | None:
    """The readings by travel that the advice asks the next one of; None when it asks for something else."""
    if not wants or not read.run.in_hand:
        return None
    path = paths.parse(wants[0])
    if not path.rows:
        return None
    calls = read.method.called(read.facts, read.school)
    return next((c for c in calls if c.by == "travel" and c.key == path.rows[-1][0] and path.name in c.reads), None)


def pushed_now(read: Read, wants: tuple[str, ...]) -> Called | None:
    """What a hand or a motor moves now: the travel whose next reading is asked for, or the load whose step is."""
    called = called_now(read, wants)
    if called is not None or not wants or not read.run.in_hand:
        return called
    calls = read.method.called(read.facts, read.school)
    return next((c for c in calls if c.by == "load" and not c.over and wants[0].startswith(f"{c.key}[")), None)


def travel_of(heard: Heard, called: Called | None) -> float | None:
    """The travel in a sample, by the channels that what is called accepts; None where it has none."""
    names = called.travel_channels if called else ()
    return next((heard.values[name] for name in names if name in heard.values), None)
