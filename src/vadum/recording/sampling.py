"""From an instrument's samples to the called readings: taken, missed, or spoilt; nothing is made up."""

from typing import Literal, NamedTuple

from vadum.soil.contract.called import Called
from vadum.soil.contract.travel import Sample, sample_at

# Laboratory settings: what counts as a jump, as a gap, and as a gauge that stands still.
MOST_BACK_MM = 0.05
MOST_STEP_MM = 0.1
MOST_GAP_S = 3.0
STUCK_S = 12.0
STUCK_MM = 0.004
STUCK_RISE = 0.01
LEAST_LOAD = 20.0  # divisions or newtons: below, a rise is noise
ZERO_MM = 0.02
BEHIND_MM, AHEAD_MM = 0.1, 1.0  # of the last call: how far off a gauge may stand that takes a series over


def stands_as_called(gauge_mm: float, last_mm: float) -> bool:
    """Whether a gauge stands where a series read by hand has come to: else its travel counts from another zero.

    >>> stands_as_called(3.1, 3.0), stands_as_called(0.0, 3.0), stands_as_called(8.3, 3.0)
    (True, False, False)
    """
    return last_mm - BEHIND_MM <= gauge_mm <= last_mm + AHEAD_MM


class Event(NamedTuple):
    """What became of a row: `taken` with its sample, `missed`, or a note on the last row."""

    what: Literal["taken", "missed", "noted"]
    row: int
    sample: Sample | None
    note: str = ""


class Taker:
    """Goes along with the samples and says what became of each call of a travel.

    Nothing is taken across more than `most_gap_s`: an instrument that speaks seldom says so in its profile.
    """

    def __init__(self, called: Called, row: int = 0, most_gap_s: float = MOST_GAP_S) -> None:
        self.called, self.row, self.most_gap_s = called, row, most_gap_s
        self._before: Sample | None = None
        self._still: Sample | None = None
        self._noted_still = False

    def hear(self, sample: Sample) -> list[Event]:
        """The events of one more sample."""
        before, self._before = self._before, sample
        events: list[Event] = []
        if before is None:
            return self._first(sample)
        if sample.travel < before.travel - MOST_BACK_MM:
            self._still = sample
            return [Event("noted", max(self.row - 1, 0), None, "datum jumped")]
        events += self._stuck(sample)
        gap = sample.seconds - before.seconds > self.most_gap_s
        leap = sample.travel - before.travel > MOST_STEP_MM
        while self.row < len(self.called.at) and self.called.at[self.row] <= sample.travel:
            called = self.called.at[self.row]
            if called < before.travel or gap or leap:
                note = "line lost" if gap else "gauge stuck" if leap else ""
                events.append(Event("missed", self.row, None, note))
            else:
                events.append(Event("taken", self.row, sample_at(called, before, sample, self.called.interpolates)))
            self.row += 1
        return events

    def _first(self, sample: Sample) -> list[Event]:
        """The first sample: the zero is taken there; calls that lie behind it were never seen."""
        events = []
        while self.row < len(self.called.at) and self.called.at[self.row] <= sample.travel + ZERO_MM:
            called = self.called.at[self.row]
            if abs(sample.travel - called) <= ZERO_MM and called == 0:
                at_zero = sample._replace(travel=called) if abs(sample.travel) < 0.001 else sample
                events.append(Event("taken", self.row, at_zero))
            elif called <= sample.travel:
                events.append(Event("missed", self.row, None, "line lost"))
            else:
                break
            self.row += 1
        return events

    def _stuck(self, sample: Sample) -> list[Event]:
        """A gauge that stands while the force rises."""
        still = self._still
        if still is None or sample.travel - still.travel > STUCK_MM:
            self._still, self._noted_still = sample, False
            return []
        rises = any(
            sample.figures[name] - first > STUCK_RISE * max(first, LEAST_LOAD)
            for name, first in still.figures.items()
            if name in sample.figures
        )
        if self._noted_still or not rises or sample.seconds - still.seconds < STUCK_S:
            return []
        self._noted_still = True
        return [Event("noted", max(self.row - 1, 0), None, "gauge stuck")]
