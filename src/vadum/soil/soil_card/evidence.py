"""What is known of one soil: the newest good figure of each test, and the run that gave it."""

import math
from collections.abc import Sequence
from typing import Any, NamedTuple

from vadum.soil.classify.path import Figure
from vadum.soil.contract.outcome import Outcome, Value
from vadum.soil.shared.grading import GradePoint, finer_percent, ordered
from vadum.soil.soil_card.bands import Bands

LIMITS = ("liquid_limit", "plastic_limit")
OVEN_DRIED = "oven-dried"


class Told(NamedTuple):
    """One run's say: its code, its outcome, and the record and school behind it."""

    code: str
    outcome: Outcome
    school: Any
    record: Any


class Known(NamedTuple):
    """A figure with the run that gave it."""

    value: float
    uncertainty: float | None
    code: str
    provisional: bool
    reported: str
    unit: str
    name: str
    symbol: str

    def figure(self) -> Figure:
        """For a classification."""
        return Figure(self.value, self.uncertainty, self.unit)


class Evidence:
    """The runs of one sample, newest first. Estimates and withheld values are not evidence."""

    def __init__(self, told: Sequence[Told], bands: Bands | None = None) -> None:
        self.told = tuple(told)
        self.bands = bands or Bands()

    def of(self, method: str) -> list[Told]:
        """The runs of a method, newest first. Limits of oven-dried soil tell whether it is organic; they are no limits
        of the soil."""
        return [
            t
            for t in self.told
            if t.outcome.method == method and not (method in LIMITS and t.record.soil_state == OVEN_DRIED)
        ]

    def oven_dried_ratio(self) -> tuple[float, str] | None:
        """Liquid limit of the oven-dried soil over that of the soil not dried, and the two runs; None without both."""
        own = self.known("liquid_limit", "liquid_limit_percent")
        for told in self.told:
            if told.outcome.method == "liquid_limit" and told.record.soil_state == OVEN_DRIED:
                value = told.outcome.value("liquid_limit_percent")
                if own and own.value > 0 and value and value.value is not None and usable(value):
                    return value.value / own.value, f"{told.code} / {own.code}"
        return None

    def said(self, field: str) -> str:
        """What the newest record says that says it: a word of the head of every record; empty where none does."""
        return next((word for t in self.told if (word := getattr(t.record, field, None))), "")

    def known(self, method: str, key: str) -> Known | None:
        """The newest figure of that name: a reportable one before a provisional one."""
        return self._known(method, key, False) or self._known(method, key, True)

    def _known(self, method: str, key: str, provisional: bool) -> Known | None:
        for told in self.of(method):
            value = told.outcome.value(key)
            if value and value.value is not None and usable(value) and value.provisional == provisional:
                return Known(
                    value.value,
                    value.uncertainty,
                    told.code,
                    value.provisional,
                    value.reported,
                    value.unit,
                    value.name,
                    value.symbol,
                )
        return None

    def words(self, method: str, key: str) -> Known | None:
        """What the newest run says where it has no one figure: a bound such as `> 35 %`, or ends that disagree."""
        for told in self.of(method):
            value = told.outcome.value(key)
            if value and value.value is None and usable(value):
                return Known(math.nan, None, told.code, value.provisional, value.reported, "", value.name, value.symbol)
        return None

    def curve(self, method: str) -> tuple[list[GradePoint], Told] | None:
        """The newest grading curve of a method whose run has no stop verdict."""
        for told in self.of(method):
            rows = told.outcome.series.get("curve", ())
            if rows and told.outcome.worst() != "stop":
                share = self._share(told)
                if share is None:
                    continue  # of its specimen alone: it says nothing of the whole soil yet
                points = [
                    GradePoint(float(r["size_mm"] or 0), share * float(r["finer_percent"] or 0), method) for r in rows
                ]
                return ordered(points), told
        return None

    def _share(self, told: Told) -> float | None:
        """What the run's percentages are of the whole soil: 1 for most; for a hydrometer whose specimen came through a
        sieve and whose share was not entered, what the sample's sieves say passed it."""
        came = getattr(told.record, "came_through_mm", None)
        if told.outcome.method != "hydrometer" or came is None or told.record.passing_percent is not None:
            return 1.0
        sieved = self.curve("sieve")
        passing = finer_percent(sieved[0], came) if sieved else None
        if passing is None:
            # Without a sieve run nothing of the sample is coarser than what was tested, as far as the card knows.
            return None if sieved else 1.0
        return passing / 100


def usable(value: Value) -> bool:
    """Whether a value may be set beside others."""
    return not (value.estimate or value.withheld)
